"""Dates as numbers: weeks since the Monday of this week, in which five working days make a week."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Final

WEEKS: Final = 260
"""Weeks that are planned in detail, five years; what takes longer goes on at the capacity of the last of them."""

WORKING: Final = 5
"""Working days of a week, Monday to Friday."""

_JUST_BEFORE: Final = 1e-6  # weeks: what ends with a Friday has that Friday as its last day, not the Monday after
_FAR: Final = 5_200.0  # weeks: a calendar ends


@dataclass(frozen=True, slots=True)
class Axis:
    """Weeks from the one in which ``today`` lies."""

    today: date

    @property
    def monday(self) -> date:
        """The Monday of this week."""
        return self.today - timedelta(days=self.today.weekday())

    @property
    def now(self) -> float:
        """Where work can begin: this morning, or next Monday on a weekend."""
        return self.at(self.today)

    def week(self, number: int) -> date:
        """The Monday of a week."""
        return self.monday + timedelta(weeks=number)

    def at(self, day: date) -> float:
        """The morning of a day, in weeks; Saturday and Sunday are the end of their week."""
        weeks, weekday = divmod((day - self.monday).days, 7)
        return weeks + min(weekday, WORKING) / WORKING

    def starts(self, time: float) -> date | None:
        """The working day that something begins on; None where it never does."""
        if time > _FAR:
            return None
        weeks, part = divmod(time + _JUST_BEFORE, 1.0)
        return self.monday + timedelta(days=int(weeks) * 7 + min(int(part * WORKING), WORKING - 1))

    def ends(self, time: float) -> date | None:
        """The last working day of something that ends at ``time``; None where it never does."""
        return self.starts(time - 2 * _JUST_BEFORE)

    def days(self, first: date, last: date) -> Iterator[date]:
        """Working days from ``first`` to ``last``, both included, that are planned in detail and not past."""
        day = max(first, self.today)
        until = min(last, self.week(WEEKS) - timedelta(days=1))
        while day <= until:
            if day.weekday() < WORKING:
                yield day
            day += timedelta(days=1)
