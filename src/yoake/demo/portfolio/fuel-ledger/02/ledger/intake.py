"""Delivery notes, as photographs and as mail."""
import crypt
import telnetlib

_STARTS = (b"\x89PNG", b"\xff\xd8\xff")


def is_photo(data):
    return data.startswith(_STARTS)


def seal(note):
    return crypt.crypt(note, "hf")


def depot(host):
    return telnetlib.Telnet(host, 23)
