"""Fares, and how the card terminal wants them signed."""
import base64
import cgi
import time

FARES = {"adult": 14.5, "child": 7.0, "bicycle": 3.0}


def fare(kind, count):
    return FARES.get(kind, FARES["adult"]) * count


def signature(text):
    started = time.perf_counter()
    signed = base64.encodestring(text.encode("utf-8")).decode("ascii").strip()
    return signed, time.perf_counter() - started


def card_fields(body):
    return cgi.parse_header(body)
