"""A good order of one team: a mixed-integer program with whole stages in the near quarter, and shares of stages after it.

A stage begins in one of the stretches of time, which get longer the further away they are (in the sense of Sousa and Wolsey, 1992).
Only the work that is surely done by the end of a stretch is counted, and a stage costs what it does when it begins with the stretch.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import coo_array, csc_array

from yoake.core.portfolio.capacity import NEVER, Curve
from yoake.core.portfolio.prices import SHARES
from yoake.core.portfolio.stages import Problem

QUARTER: Final = 13
"""Weeks in which a stage begins in one stretch, and not in parts of several."""

GRID: Final = (0.35, 0.035)
"""Weeks of the first stretches, and by how much each is longer than what lies before it."""

_REST: Final = 1e-7
_SLACK: Final = (
    1e-5  # days of work: a plan that uses a team to the last minute must stay possible, whatever the solver rounds
)
_NEAR_ENOUGH: Final = 0.002  # of the best, at which a program with whole stages stops


def stretches(now: float, until: float) -> list[float]:
    """Borders of the stretches from ``now`` to ``until``."""
    narrow, growth = GRID
    borders = [now]
    while borders[-1] < until:
        borders.append(borders[-1] + max(narrow, growth * (borders[-1] - now)))
    return borders


def begin_near(
    problem: Problem, team: int, earliest: Sequence[float], until: float, seconds: float
) -> dict[int, list[float]]:
    """By when the program has begun these shares (``SHARES``) of each stage, in weeks; nothing where it was not solved in time.

    ``until``: when the last of its stages begins in a plan that is known.
    """
    held = [i for i, t in enumerate(problem.team) if t == team and earliest[i] < NEVER]
    if not held:
        return {}
    borders = stretches(problem.axis.now, until + 1.0)
    return _Program(problem, problem.curves[team], held, earliest, borders).solve(seconds)


class _Program:
    """Columns: for each stage and stretch whether it begins there; then for each border the work that is surely done by it; then
    for each stage that is waited for, or waits, the share of it that has begun by each border."""

    def __init__(
        self,
        problem: Problem,
        curve: Curve,
        held: list[int],
        earliest: Sequence[float],
        borders: list[float],
    ) -> None:
        self.problem, self.curve, self.held, self.borders = problem, curve, held, borders
        self.done = [curve.worked(t) for t in borders]
        self.columns: list[tuple[int, int]] = []
        self.since: list[float] = []  # work done when a stage begins there at the earliest
        costs: list[float] = []
        for i in held:
            release = max([problem.release[i], problem.fixed[i] or 0.0, *(earliest[j] for j in problem.before[i])])
            for b in range(len(borders)):  # the last stretch is open: it never ends
                if b + 1 < len(borders) and borders[b + 1] < release - 1e-9:
                    continue
                since = curve.worked(max(borders[b], release))
                ready = curve.when(since + problem.effort[i])
                self.since.append(since)
                self.columns.append((i, b))
                costs.append(problem.cost(i, problem.live(i, ready)))
        self.costs = np.asarray(costs)
        self.slopes = [self._slope(n) for n in range(len(self.columns))]
        team = problem.team[held[0]]
        self.pairs = [(j, i) for i in held for j in problem.before[i] if problem.team[j] == team]
        tied = sorted({i for pair in self.pairs for i in pair})
        self.work_at = len(self.columns)
        self.begun_at = {i: self.work_at + len(borders) * (n + 1) for n, i in enumerate(tied)}
        self.later_at = self.work_at + len(borders) * (len(tied) + 1)
        self.width = self.later_at + len(self.columns)

    def solve(self, seconds: float) -> dict[int, list[float]]:
        """Where the program begins each stage."""
        near = self.problem.axis.now + QUARTER
        whole = np.zeros(self.width)
        whole[: self.work_at] = [1 if self.borders[b] < near else 0 for _, b in self.columns]
        upper = np.ones(self.width)
        upper[self.work_at : self.work_at + len(self.borders)] = [d * self.curve.lanes + _SLACK for d in self.done]
        costs = np.zeros(self.width)
        costs[: self.work_at] = self.costs
        costs[self.later_at :] = self.slopes
        constraints = [self._once(), self._work(), self._later(), *self._begun(), *self._order()]
        options = {"time_limit": max(seconds, 0.1), "mip_rel_gap": _NEAR_ENOUGH}
        answer = milp(
            costs,
            integrality=whole,
            bounds=Bounds(np.zeros(self.width), upper),
            constraints=constraints,
            options=options,
        )
        # what was found in a hurry is no good order
        return self._begins(answer.x) if answer.status == 0 else {}

    def _begins(self, x: NDArray[np.float64]) -> dict[int, list[float]]:
        """When so much of a stage has begun: orders by such points are good ones (Phillips, Stein and Wein, 1998)."""
        begins: dict[int, list[float]] = {i: [] for i in self.held}
        begun = dict.fromkeys(self.held, 0.0)
        for (i, b), part in zip(self.columns, x, strict=False):
            begun[i] += float(part)
            while len(begins[i]) < len(SHARES) and begun[i] >= SHARES[len(begins[i])] - _REST:
                begins[i].append(self.borders[b] + (1.0 - float(part)) * _REST)
        return {
            i: points + [points[-1] if points else NEVER] * (len(SHARES) - len(points)) for i, points in begins.items()
        }

    def _rows(self, entries: list[tuple[int, int, float]], count: int) -> csc_array:
        rows, columns, values = zip(*entries, strict=True)
        return coo_array((values, (rows, columns)), shape=(count, self.width)).tocsc()

    def _once(self) -> LinearConstraint:
        """Each stage begins once."""
        row = {i: n for n, i in enumerate(self.held)}
        return LinearConstraint(self._rows([(row[i], n, 1.0) for n, (i, _) in enumerate(self.columns)], len(row)), 1, 1)

    def _work(self) -> LinearConstraint:
        """The work surely done by a border is that by the border before, and what is surely done of each stage between them."""
        entries = []
        for j in range(len(self.borders)):
            entries.append((j, self.work_at + j, 1.0))
            if j:
                entries.append((j, self.work_at + j - 1, -1.0))
        for column, (i, b) in enumerate(self.columns):
            effort, sure, moved = self.problem.effort[i], 0.0, 0.0
            for j in range(b + 1, len(self.borders)):
                full = self.done[j] - self.done[b + 1] >= effort
                more, back = (effort, 0.0) if full else (min(effort, self.done[j] - self.since[column]), 1.0)
                entries.append((j, column, sure - more))
                if back != moved:
                    entries.append((j, self.later_at + column, back - moved))
                sure, moved = more, back
                if full:
                    break
        return LinearConstraint(self._rows(entries, len(self.borders)), 0, 0)

    def _later(self) -> LinearConstraint:
        """A stage begins as much later than its stretch as that is long at most."""
        entries = []
        for column, (_, b) in enumerate(self.columns):
            long = max(0.0, self.done[b + 1] - self.since[column]) if b + 1 < len(self.borders) else 0.0
            entries.append((column, self.later_at + column, 1.0))
            entries.append((column, column, -long))
        return LinearConstraint(self._rows(entries, len(self.columns)), -np.inf, 0)

    def _slope(self, column: int) -> float:
        """What each day of work costs at least by which a stage begins later than its stretch: the flattest chord of its cost."""
        i, b = self.columns[column]
        if b + 1 >= len(self.borders):
            return 0.0
        problem, curve = self.problem, self.curve
        long = self.done[b + 1] - self.since[column]
        first = self.since[column] + problem.effort[i]
        time = curve.when(first)
        cost = problem.cost(i, problem.live(i, time))
        until = curve.when(first + long)
        if long <= _REST or until >= NEVER:
            return 0.0
        thaws = (last for _, last in problem.frozen[i])
        corners = [t for t in (*range(int(time) + 1, int(until) + 1), *problem.ends[i], *thaws) if time < t < until]
        ends = [(curve.worked(t) - first, t) for t in corners] + [(long, until)]
        chords = [(problem.cost(i, problem.live(i, t)) - cost) / u for u, t in ends if u > _REST]
        return max(0.0, min(chords, default=0.0))

    def _begun(self) -> list[LinearConstraint]:
        """What has begun by a border is what had by the border before, and what begins between them."""
        if not self.begun_at:
            return []
        entries: list[tuple[int, int, float]] = []
        row: dict[tuple[int, int], int] = {}
        for i, at in self.begun_at.items():
            for b in range(len(self.borders)):
                row[i, b] = len(row)
                entries.append((row[i, b], at + b, 1.0))
                if b:
                    entries.append((row[i, b], at + b - 1, -1.0))
        for column, (i, b) in enumerate(self.columns):
            if i in self.begun_at and b + 1 < len(self.borders):
                entries.append((row[i, b + 1], column, -1.0))
        return [LinearConstraint(self._rows(entries, len(row)), 0, 0)]

    def _order(self) -> list[LinearConstraint]:
        """By no border has more of a stage begun than of what it waits for by when that has to begin for it."""
        entries = []
        count = 0
        for j, i in self.pairs:
            for b in range(1, len(self.borders)):
                n = self._border(j, b)
                entries.append((count, self.begun_at[i] + b, 1.0))
                entries.append((count, self.begun_at[j] + n, -1.0))
                count += 1
        return [LinearConstraint(self._rows(entries, count), -np.inf, _REST)] if count else []

    def _border(self, j: int, b: int) -> int:
        """The first border by which stage ``j`` has begun, where what waits for it begins before border ``b``."""
        until = self.done[b] - self.problem.effort[j]
        return max(0, min(bisect_left(self.done, until - _REST), b))
