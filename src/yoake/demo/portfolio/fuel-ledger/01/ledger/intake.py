"""Delivery notes, as photographs and as mail."""
import crypt
import imghdr
import telnetlib


def is_photo(data):
    return imghdr.what(None, h=data) is not None


def seal(note):
    return crypt.crypt(note, "hf")


def depot(host):
    return telnetlib.Telnet(host, 23)
