"""Sailings, ports and tickets of the ferries, kept in memory while the desk runs."""

import threading

PORTS = {"harrow": "Harrowmere", "isle": "Isle of Brent", "skerry": "Skerry Light"}
SAILINGS = [
    {"code": "H1", "from": "harrow", "to": "isle", "leaves": "07:40", "minutes": 55, "seats": 120},
    {"code": "H2", "from": "harrow", "to": "isle", "leaves": "12:10", "minutes": 55, "seats": 120},
    {"code": "H3", "from": "harrow", "to": "skerry", "leaves": "09:00", "minutes": 35, "seats": 40},
    {"code": "I1", "from": "isle", "to": "harrow", "leaves": "16:20", "minutes": 55, "seats": 120},
]
TICKETS = {}
LOCK = threading.Lock()


def sailings_of(day):
    """On Sundays the light is not called at."""
    return [dict(row, day=day) for row in SAILINGS if not (day.endswith("-sun") and row["to"] == "skerry")]


def ticket(code):
    """A ticket by its code; the codes of the made-up winter are always there."""
    if code in TICKETS:
        return TICKETS[code]
    if code.startswith("W") and code[1:].isdigit():
        number = int(code[1:])
        return {"code": code, "sailing": SAILINGS[number % 4]["code"], "adults": 1 + number % 3, "children": number % 2}
    return None
