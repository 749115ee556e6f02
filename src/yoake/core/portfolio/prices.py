"""How good a plan could be at most: every stretch of a team's time gets a price, and each path begins its stages where they are cheapest.

At prices that are not negative no plan costs less than that, less what all the time of the team is worth (Lagrangian relaxation of
who can do how much at once; Fisher, 1981). Prices rise where more is begun than can be worked on, and fall elsewhere, by the step of
Polyak (1969). The stretches are those of the work that one person of the team has done: inside of one a stage may begin at any
moment, so that the figure holds for all plans and not only for those that begin with a stretch.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from yoake.core.portfolio.capacity import NEVER, Numbers
from yoake.core.portfolio.stages import Problem

SHARES: Final = (0.1, 0.25, 0.4, 0.5, 0.6, 0.75, 0.9)
"""Shares of the rounds by which a stage had begun, after which orders are tried."""

_ROUNDS: Final = ((300, 100), (1_000, 160))
"""Stretches of time and rounds: first few and coarse, then from their prices many and fine."""

_MOST_NUMBERS: Final = 400_000  # stages times stretches: what a round looks at in a few milliseconds
_LEAST_STRETCHES: Final = 60
_KEEPS: Final = 0.6  # of the direction before: prices swing less
_STALLS: Final = 12  # rounds without a gain after which steps get smaller
_SMALLER: Final = 0.6
_REMEMBERED: Final = 60  # rounds whose begins tell a good order
_FAR: Final = 5_200.0  # weeks
_ROUNDED: Final = 1e-9

_Indices = NDArray[np.int64]
_Reals = NDArray[np.floating[Any]]
Running = Callable[[], bool]
"""Whether there is time left."""


@dataclass(frozen=True, slots=True)
class TeamBound:
    """What the stages of one team cost at least, and by when these shares (``SHARES``) of the rounds had begun each, in weeks."""

    cost: float
    begins: dict[int, list[float]]


def team_bound(
    problem: Problem, team: int, earliest: Sequence[float], until: float, known: float, running: Running
) -> TeamBound:
    """The bound of one team. ``until``: when the last of its stages begins in a plan that is known, and ``known`` what they cost there.

    ``earliest``: when each stage of the problem is live at the earliest. Stages that are never live are left out.
    """
    held = [i for i, t in enumerate(problem.team) if t == team and earliest[i] < NEVER]
    if not held:
        return TeamBound(0.0, {})
    prices: Numbers = np.zeros(1)
    best, begins = -NEVER, np.zeros((0, len(held)))
    for wanted, rounds in _ROUNDS:
        count = max(_LEAST_STRETCHES, min(wanted, _MOST_NUMBERS // len(held)))
        stages = _TeamStages(problem, team, held, earliest, until, count)
        ascent = _Ascent(stages, np.interp(np.linspace(0, 1, count), np.linspace(0, 1, len(prices)), prices))
        ascent.climb(known, rounds, running)
        prices, best = ascent.best_prices, max(best, ascent.best)
        begins = np.asarray(ascent.begins[-_REMEMBERED:])
        if not running():
            break
    curve = problem.curves[team]
    times = np.where(np.isfinite(begins), curve.when_all(np.where(np.isfinite(begins), begins, 0.0)), NEVER)
    marks = np.quantile(times, SHARES, axis=0, method="inverted_cdf")
    return TeamBound(float(best) - _ROUNDED * abs(float(best)), {i: marks[:, n].tolist() for n, i in enumerate(held)})


class _TeamStages:
    """The stages of a team over stretches of equal work: rows are stages, columns the stretches and what lies beyond them.

    ``at_first``, ``at_turn``, ``at_last``: what a stage costs that begins with a stretch, where it comes to end with another one, and
    just before the next; never more than it does in between. ``then``: the stretch in which what waits for it can begin.
    """

    def __init__(
        self, problem: Problem, team: int, held: list[int], earliest: Sequence[float], until: float, count: int
    ) -> None:
        self.problem, self.curve, self.held, self.count = problem, problem.curves[team], held, count
        self.effort = np.array([problem.effort[i] for i in held])
        first = self.curve.worked(problem.axis.now)
        last = self.curve.worked(until) + float(self.effort.max()) + 1.0
        self.width = (last - first) / count
        self.borders = first + self.width * np.arange(count + 1)
        self.whole: _Indices = np.minimum((self.effort / self.width).astype(np.int64), count)
        self.rest = np.minimum(self.effort - self.whole * self.width, self.width)
        self.release = [
            self.curve.worked(
                max([problem.release[i], problem.fixed[i] or 0.0, *(earliest[j] for j in problem.before[i])])
            )
            for i in held
        ]
        self.at_first, self.at_turn, self.at_last = (np.empty((len(held), count + 1)) for _ in range(3))
        self.then: _Indices = np.empty((len(held), count + 1), dtype=np.int64)
        for n in range(len(held)):
            self._price_alone(n)
        self.parent = self._parents(earliest)
        depth = [self._depth(n) for n in range(len(held))]
        self.levels = [np.flatnonzero(np.array(depth) == level) for level in range(max(depth) + 1)]

    def _price_alone(self, n: int) -> None:
        """What the stage costs by where it begins, from the day on which it can."""
        turn, end = self.borders + (self.width - self.rest[n]), self.borders + self.width
        (first, live), (at_turn, _), (last, _) = (self._cost(n, at) for at in (self.borders, turn, end))
        self.at_first[n] = first
        self.at_turn[n] = np.where(self._bent(n, self.borders, turn, first, at_turn), first, at_turn)
        self.at_last[n] = np.where(self._bent(n, turn, end, at_turn, last), at_turn, last)
        before = int((self.release[n] - self.borders[0]) / self.width)
        for costs in (self.at_first, self.at_turn, self.at_last):
            costs[n, :before] = NEVER
        reached = (self.curve.worked_all(live) - self.borders[0]) / self.width - _ROUNDED
        self.then[n] = np.clip(reached.astype(np.int64), 0, self.count)

    def _cost(self, n: int, begin: _Reals) -> tuple[Numbers, Numbers]:
        """(cost, when it is live) of the stage where it begins after so much work."""
        problem, i = self.problem, self.held[n]
        live = problem.live_all(i, self.curve.when_all(np.maximum(begin, self.release[n]) + self.effort[n]))
        live = np.minimum(live, _FAR)  # a time that the curve has work for
        return problem.cost_all(i, live), live

    def _bent(self, n: int, left: _Reals, right: _Reals, low: _Reals, high: _Reals) -> NDArray[np.bool_]:
        """Where the cost between two moments is no straight line: it is then taken for what it is at the first."""
        found = np.zeros(len(left), dtype=np.bool_)
        for part in (1 / 3, 2 / 3):
            cost, _ = self._cost(n, left + (right - left) * part)
            found |= np.abs(cost - (low + (high - low) * part)) > _ROUNDED * (1.0 + np.abs(high))
        return found

    def _parents(self, earliest: Sequence[float]) -> _Indices:
        """For each stage the one of this team that it waits for, −1 for none: of several the one that is live last at the earliest."""
        place = {i: n for n, i in enumerate(self.held)}
        found = []
        for i in self.held:
            own = [j for j in self.problem.before[i] if j in place]
            found.append(place[max(own, key=lambda j: earliest[j])] if own else -1)
        return np.array(found, dtype=np.int64)

    def _depth(self, n: int) -> int:
        depth = 0
        while self.parent[n] >= 0:
            n, depth = int(self.parent[n]), depth + 1
        return depth

    def at(self, prices: Numbers) -> tuple[float, Numbers, Numbers]:
        """At these prices (stretches,) of a day of work: (what no plan costs less than, days that are worked on too much in each
        stretch, where each stage begins; NEVER beyond the last)."""
        worth = np.concatenate([[0.0], np.cumsum(prices) * self.width])
        open_end = np.append(prices, 0.0)
        ends = np.minimum(np.arange(self.count + 1)[None, :] + self.whole[:, None], self.count)
        first = worth[ends] + self.rest[:, None] * open_end[ends] - worth
        turned = worth[np.minimum(ends + 1, self.count)] - (worth + (self.width - self.rest[:, None]) * open_end)
        choices = (
            self.at_first + first,
            self.at_turn + turned,
            self.at_last + np.append(first[:, 1:], np.zeros((len(first), 1)), axis=1),
        )
        total = np.minimum(np.minimum(choices[0], choices[1]), choices[2])
        for level in reversed(self.levels[1:]):  # what waits for a stage is cheapest somewhere from its end on
            cheapest = np.minimum.accumulate(total[level][:, ::-1], axis=1)[:, ::-1]
            above = self.parent[level]
            np.add.at(total, above, np.take_along_axis(cheapest, self.then[above], axis=1))
        value, chosen = self._choose(total)
        rows = np.arange(len(self.held))
        which = np.argmin([choice[rows, chosen] for choice in choices], axis=0)
        offsets = np.choose(which, [np.zeros(len(rows)), self.width - self.rest, np.full(len(rows), self.width)])
        begins = np.where(chosen == self.count, NEVER, self.borders[chosen] + offsets)
        return value - self.curve.lanes * worth[-1], self._excess(begins), begins

    def _choose(self, total: Numbers) -> tuple[float, _Indices]:
        """The cheapest stretch of each stage, no earlier than what it waits for allows, and what that comes to."""
        value = 0.0
        chosen: _Indices = np.zeros(len(self.held), dtype=np.int64)
        for n in (n for level in self.levels for n in level):
            above = self.parent[n]
            since = self.then[above, chosen[above]] if above >= 0 else 0
            chosen[n] = since + int(np.argmin(total[n, since:]))
            if above < 0:
                value += float(total[n, chosen[n]])
        return value, chosen

    def _excess(self, begins: Numbers) -> Numbers:
        """Days of work in each stretch beyond what the team has there."""
        left = self.borders[:-1]
        held = np.minimum((begins + self.effort)[:, None], left + self.width) - np.maximum(begins[:, None], left)
        return np.asarray(np.clip(held, 0.0, None).sum(axis=0) - self.curve.lanes * self.width)


class _Ascent:
    """Prices that say more and more. ``begins``: where the stages began in each round."""

    def __init__(self, stages: _TeamStages, prices: Numbers) -> None:
        self.stages = stages
        self.prices = self.best_prices = prices
        self.best = -NEVER
        self.begins: list[Numbers] = []

    def climb(self, known: float, rounds: int, running: Running) -> None:
        """Some rounds, towards what a known plan costs."""
        size, stalled = 1.0, 0
        direction = np.zeros_like(self.prices)
        for _ in range(rounds):
            value, excess, begins = self.stages.at(self.prices)
            self.begins.append(begins)
            stalled = 0 if value > self.best + 1e-5 * abs(self.best) else stalled + 1
            if value > self.best:
                self.best, self.best_prices = value, self.prices
            if value >= known or not running():
                return
            if stalled >= _STALLS:
                size, stalled = size * _SMALLER, 0
                self.prices, direction = self.best_prices, np.zeros_like(direction)
                continue
            direction = excess + _KEEPS * direction
            direction[(self.prices <= 0) & (direction < 0)] = 0.0
            long = float((direction**2).sum())
            if long <= 0:
                return
            self.prices = np.maximum(0.0, self.prices + size * (known - value) / long * direction)
