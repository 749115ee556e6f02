"""Minutes from the times of commits: who commits again within two hours was at it all along (a usual reading of commit histories)."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from itertools import pairwise
from typing import Final

GAP: Final = 120.0
"""Minutes between two commits from which they belong to two sessions."""

LEAD: Final = 30.0
"""Minutes before the first commit of a session that nobody sees."""


def session_minutes(times: Iterable[datetime]) -> float:
    """Minutes of all sessions; 0 for no commit. The order of the times does not matter."""
    ordered = sorted(times)
    minutes = LEAD if ordered else 0.0
    for before, after in pairwise(ordered):
        between = (after - before).total_seconds() / 60
        minutes += between if between <= GAP else LEAD
    return minutes
