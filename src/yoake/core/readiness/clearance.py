"""Clearance: share of the known checks that hold; and the share of all checks that are known (DESIGN 4.5)."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from yoake.core.values.findings import Tally


@dataclass(frozen=True, slots=True)
class Clearance:
    """``clear`` is Σ holds ÷ Σ (holds + fails), None when nothing is known; ``known`` is Σ (holds + fails) ÷ Σ all."""

    clear: float | None
    known: float
    holds: float
    fails: float
    unknown: float

    @property
    def sure(self) -> float:
        """Σ holds ÷ Σ all: the one figure that cannot look better than what is known."""
        every = self.holds + self.fails + self.unknown
        return self.holds / every if every else 0.0


def clearance(tallies: Iterable[Tally]) -> Clearance:
    """Clearance over any number of tallies (minutes)."""
    holds = fails = unknown = 0.0
    for tally in tallies:
        holds += tally.holds
        fails += tally.fails
        unknown += tally.unknown
    decided, every = holds + fails, holds + fails + unknown
    return Clearance(holds / decided if decided else None, decided / every if every else 0.0, holds, fails, unknown)
