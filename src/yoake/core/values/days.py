"""Days as people write them."""

from __future__ import annotations

import re
from datetime import date
from typing import Final

from yoake.core.values.errors import BadInput

_DAY: Final = re.compile(r"\d{4}-\d{2}-\d{2}")


def read_day(text: str | None) -> date | None:
    """A day as ``2027-03-12``; None for no text. Raises BadInput."""
    if not text:
        return None
    try:
        # weeks and ordinals are dates in the standard too, but nobody means them
        found = date.fromisoformat(text) if _DAY.fullmatch(text) else None
    except ValueError:
        found = None
    if found is None:
        raise BadInput(f"“{text}” is no date: write it as 2027-03-12.")
    return found
