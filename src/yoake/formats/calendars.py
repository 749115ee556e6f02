"""iCalendar: days off and freezes in, dates of the plan out (RFC 5545)."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from typing import Any, Final

import icalendar
import recurring_ical_events

from yoake.core.values.errors import BadInput

MOST_TEXT: Final = 2_000_000
"""Characters of a calendar file that are read: some ten thousand entries."""

MOST_DAYS: Final = 2_000
"""Entries that are taken from one file, repeats counted: more is no calendar of holidays."""

_MOST_TITLE: Final = 120
_WORKDAY: Final = (time(9), time(17))
_HALF: Final = 4.0  # hours of a working day from which the day counts


@dataclass(frozen=True, slots=True)
class CalendarDays:
    """Days from ``first`` to ``last``, both included, with what the calendar calls them."""

    first: date
    last: date
    title: str


def read_calendar(text: str, since: date, until: date) -> list[CalendarDays]:
    """Entries between two days, repeats unfolded, in order. What takes less than half of a working day is left out.

    A time is taken in the zone that the calendar states, so that a day is the day of those who wrote it. Raises BadInput.
    """
    if len(text) > MOST_TEXT:
        raise BadInput(f"A calendar has at most {MOST_TEXT:,} characters. Export only the years that matter.")
    try:
        calendar = icalendar.Calendar.from_ical(text)
        events = recurring_ical_events.of(calendar, skip_bad_series=True).between(since, until + timedelta(days=1))
    except Exception as error:  # two libraries raise whatever they meet in a damaged file
        raise BadInput(
            f"This is no iCalendar file that can be read ({_short(error)}). Export it again as .ics."
        ) from error
    found: list[CalendarDays] = []
    for event in events:
        days = _days(event)
        if days is not None and days.last >= since and days.first <= until:
            found.append(days)
        if len(found) > MOST_DAYS:
            raise BadInput(
                f"This calendar has more than {MOST_DAYS:,} entries until {until:%-d %b %Y}. Export only days off."
            )
    return sorted(set(found), key=lambda d: (d.first, d.last, d.title))


def _short(error: Exception) -> str:
    return f"{type(error).__name__}: {error}"[:120]


def _days(event: Any) -> CalendarDays | None:
    start, end = event.start, event.end
    title = str(event.get("SUMMARY", ""))[:_MOST_TITLE]
    if not isinstance(start, datetime):
        return CalendarDays(start, max(start, end - timedelta(days=1)), title)
    if not isinstance(end, datetime):
        return None
    zone = start.tzinfo
    if zone is not None and end.tzinfo is not None:
        end = end.astimezone(zone)
    start, end = start.replace(tzinfo=None), end.replace(tzinfo=None)
    days = [
        day
        for n in range(min((end.date() - start.date()).days, 400) + 1)
        if _covers(day := start.date() + timedelta(days=n), start, end)
    ]
    return CalendarDays(days[0], days[-1], title) if days else None


def _covers(day: date, start: datetime, end: datetime) -> bool:
    first, last = (datetime.combine(day, hour) for hour in _WORKDAY)
    return (min(end, last) - max(start, first)).total_seconds() >= _HALF * 3600


@dataclass(frozen=True, slots=True)
class CalendarEntry:
    """A date to put into somebody's calendar: whole days from ``first`` to ``last``; ``uid`` stays the same from day to day."""

    uid: str
    first: date
    last: date
    title: str
    text: str = ""


def write_calendar(name: str, entries: Iterable[CalendarEntry], at: datetime) -> str:
    """A calendar of these dates."""
    calendar = icalendar.Calendar()
    calendar.add("prodid", "-//Yoake//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    for entry in entries:
        event = icalendar.Event()
        event.add("uid", f"{entry.uid}@yoake")
        event.add("dtstamp", at)
        event.add("dtstart", entry.first)
        event.add("dtend", entry.last + timedelta(days=1))
        event.add("summary", entry.title)
        if entry.text:
            event.add("description", entry.text)
        event.add("transp", "TRANSPARENT")
        calendar.add_component(event)
    return str(calendar.to_ical().decode())
