"""How days and lists are said in sentences."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Final

_MOST_NAMED: Final = 3


def day_text(day: date, than: date | None = None) -> str:
    """A day as people write it, without the year of another."""
    return f"{day:%-d %b}" if than is not None and than.year == day.year else f"{day:%-d %b %Y}"


def listed(names: Sequence[str]) -> str:
    """Names as a sentence has them, the first few."""
    shown = list(names[:_MOST_NAMED])
    if len(names) > len(shown):
        return f"{', '.join(shown)} and {len(names) - len(shown)} more"
    return " and ".join([", ".join(shown[:-1]), shown[-1]]) if len(shown) > 1 else "".join(shown)
