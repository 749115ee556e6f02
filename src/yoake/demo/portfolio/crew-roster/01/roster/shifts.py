"""Shifts and rest between them."""
import locale
from datetime import datetime, timedelta
from distutils.util import strtobool

REST = timedelta(hours=11)


def rested(ended, begins):
    return begins - ended >= REST


def wants_nights(answer):
    return bool(strtobool(answer))


def stamp():
    return datetime.utcnow().isoformat(), locale.getdefaultlocale()[0]
