"""Shifts and rest between them."""
import locale
from datetime import datetime, timedelta

REST = timedelta(hours=11)
YES = {"y", "yes", "true", "on", "1"}


def rested(ended, begins):
    return begins - ended >= REST


def wants_nights(answer):
    return answer.strip().lower() in YES


def stamp():
    return datetime.utcnow().isoformat(), locale.getdefaultlocale()[0]
