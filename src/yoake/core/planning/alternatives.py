"""The ways of a set of modules, side by side, and which of them to take."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

from yoake.core.planning.dates import dark_days

if TYPE_CHECKING:
    from yoake.core.planning.conflict import Conflict
    from yoake.core.planning.problem import Problem
    from yoake.core.planning.search_space import State
    from yoake.core.planning.strategies import Offer
    from yoake.core.values.plans import Plan
    from yoake.core.values.words import Strategy

_NEARLY: Final = 1.25
"""Work, as a share of the least, that is still near it."""
_WORTH_MORE_WORK: Final = 14
"""Days without support that are worth more work."""
OBJECTIVES: Final = ("work", "stages", "danger")


@dataclass(frozen=True, slots=True)
class Way:
    """One way that can be taken. ``objectives``: those it is the best for; ``proven``: nothing better exists for them."""

    strategy: Strategy
    objectives: tuple[str, ...]
    plan: Plan
    proven: bool
    reasons: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Refused:
    """A strategy that cannot be taken here, and why."""

    strategy: Strategy
    reasons: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class Ways:
    """Everything about the ways of one set of modules. ``staying``: strategies that do not travel."""

    problem: Problem
    ways: tuple[Way, ...]
    refused: tuple[Refused, ...]
    staying: tuple[Offer, ...]
    conflict: Conflict | None
    states: dict[str, tuple[State, ...]]

    def way(self, choice: str) -> Way | None:
        """The way for an objective or a strategy."""
        return next((w for w in self.ways if choice in w.objectives or choice == w.strategy), None)


def recommended(ways: Ways) -> tuple[Way, str] | None:
    """The way to take and why, by a rule that is always the same; None where there is none.

    Least work in all; but of the ways that cost at most a quarter more, the one with the fewest days without support where that spares
    two weeks.
    """
    searched = [way for way in ways.ways if way.objectives]
    if not searched:
        return None
    journey, knowledge = ways.problem.journey, ways.problem.knowledge
    priced = [(dark_days(w.plan, knowledge, journey.today, journey.days_per_week), w) for w in searched]
    dark, least = min(priced, key=lambda one: (one[1].plan.total.p50, one[0]))
    near = [one for one in priced if one[1].plan.total.p50 <= least.plan.total.p50 * _NEARLY]
    less, lighter = min(near, key=lambda one: (one[0], one[1].plan.total.p50))
    saved = dark - less
    if saved >= _WORTH_MORE_WORK:
        more = lighter.plan.total.p50 - least.plan.total.p50
        return lighter, f"{saved} days less without support than with least work, for {more:.1f} days more of it"
    if len(searched) == 1:
        return least, "least work, and nothing else leads there with fewer days without support"
    return least, "least work, and no other way spares two weeks without support for a quarter more"
