"""Weighing slips."""


def slip(name, load):
    return u"%s\t%d kg" % (name, load)
