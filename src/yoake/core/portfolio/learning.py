"""Learning: what closed steps took against what was estimated, by kind, ecosystem and team, shrunk to the whole where they are few.

The logarithm of actual ÷ estimated is taken for normal. A group's mean is drawn towards the mean of all by how few it has: with
n values of variance s² and groups that differ with variance t², it is (n ÷ s² · x̄ + 1 ÷ t² · m) ÷ (n ÷ s² + 1 ÷ t²), the closed form of
the normal-normal model (Gelman and others, Bayesian Data Analysis, 5.4).
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Final

from yoake.core.portfolio.forecast import Factor, Learnt

PRIOR: Final = Factor(0.0, 0.35)
"""Of the whole before anything is known: estimates are right in the middle, within a factor of 1.4 either way."""

BETWEEN: Final = 0.35
"""By how much groups differ, as a standard deviation of the logarithm: a factor of 1.4."""

WITHIN: Final = 0.7
"""By how much single steps differ, as a standard deviation of the logarithm: a factor of 2."""

_LEAST: Final = 0.25  # minutes: less is a slip of a finger
_FURTHEST: Final = math.log(50)  # a step that took fifty times as long tells of something else


@dataclass(frozen=True, slots=True, kw_only=True)
class Closed:
    """A closed step: minutes estimated and spent, with the groups it belongs to (empty: none)."""

    estimated: float
    spent: float
    kind: str = ""
    ecosystem: str = ""
    team: str = ""

    @property
    def ratio(self) -> float | None:
        """The logarithm of spent ÷ estimated; None where one of them says nothing."""
        if self.estimated < _LEAST or self.spent < _LEAST:
            return None
        return max(-_FURTHEST, min(_FURTHEST, math.log(self.spent / self.estimated)))


@dataclass(frozen=True, slots=True)
class Record:
    """What one group has shown: how many steps, their own mean, and the factor after shrinking."""

    count: int
    own: float
    factor: Factor


@dataclass(frozen=True, slots=True)
class Lessons:
    """All that was learnt. ``steps``: those that could be counted."""

    steps: int
    whole: Factor
    kinds: Mapping[str, Record] = field(default_factory=dict)
    ecosystems: Mapping[str, Record] = field(default_factory=dict)
    teams: Mapping[str, Record] = field(default_factory=dict)

    @property
    def learnt(self) -> Learnt:
        """What the forecast takes from it."""
        return Learnt({name: record.factor for name, record in self.teams.items()}, self.whole)


def learn(steps: Iterable[Closed]) -> Lessons:
    """Factors from closed steps. Without any the whole is the prior, and no group has a record."""
    held = [(step, ratio) for step in steps if (ratio := step.ratio) is not None]
    if not held:
        return Lessons(0, PRIOR)
    whole = _shrunk([ratio for _, ratio in held], PRIOR.mean, PRIOR.deviation)

    def groups(name: str) -> dict[str, Record]:
        found: dict[str, list[float]] = {}
        for step, ratio in held:
            if group := str(getattr(step, name)):
                found.setdefault(group, []).append(ratio)
        return {
            group: Record(len(ratios), sum(ratios) / len(ratios), _shrunk(ratios, whole.mean, BETWEEN, outliers=True))
            for group, ratios in sorted(found.items())
        }

    return Lessons(len(held), whole, groups("kind"), groups("ecosystem"), groups("team"))


def _shrunk(ratios: Sequence[float], mean: float, deviation: float, *, outliers: bool = False) -> Factor:
    """``outliers``: a group that surely lies further out than groups usually do is drawn in less (in the sense of the limited
    translation of Efron and Morris, 1971): its own distance then stands for how much groups differ."""
    count = len(ratios)
    own = sum(ratios) / count
    spread = WITHIN**2
    if count > 2:  # steps' own spread, drawn towards what is usual as if that had been seen ten times
        seen = sum((r - own) ** 2 for r in ratios)
        spread = (seen + 10 * WITHIN**2) / (count - 1 + 10)
    if outliers:
        deviation = math.sqrt(max(deviation**2, (own - mean) ** 2 - spread / count))
    sure, prior = count / spread, 1.0 / deviation**2
    return Factor((sure * own + prior * mean) / (sure + prior), math.sqrt(1.0 / (sure + prior)))


@dataclass(frozen=True, slots=True, kw_only=True)
class Kept:
    """A date that was forecast at 50 and 80 %, and how long it took in fact: days from the day of the forecast."""

    days50: float
    days80: float
    took: float


@dataclass(frozen=True, slots=True)
class Calibration:
    """How often forecasts came true: of ``count`` stages, how many were done by their 50 % and by their 80 % date."""

    count: int
    within50: int
    within80: int


def calibration(kept: Iterable[Kept]) -> Calibration:
    """How often what was forecast held."""
    rows = list(kept)
    return Calibration(
        len(rows), sum(1 for k in rows if k.took <= k.days50), sum(1 for k in rows if k.took <= k.days80)
    )
