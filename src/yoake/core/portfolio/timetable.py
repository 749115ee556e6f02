"""Placing stages: in a given order each begins as early as its team, what it waits for and the calendar allow.

Every person of a team is a lane that holds one stage at a time. A stage takes the first gap that is long enough, so that
among all orders there is one whose timetable is best (the serial scheme; Kolisch, 1996).
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Final

from yoake.core.portfolio.capacity import NEVER
from yoake.core.portfolio.stages import Problem

_EPS: Final = 1e-9
_Lane = list[tuple[float, float]]


@dataclass(slots=True)
class Timetable:
    """Begin, ready and live of each stage in weeks; ``misplaced``: fixed stages that could not begin on their day."""

    start: list[float]
    ready: list[float]
    live: list[float]
    cost: float = 0.0
    misplaced: list[int] = field(default_factory=list)


class Placing:
    """A timetable in the making: stages are put in one by one. With ``undo`` they can be taken out again in the opposite order;
    without it stretches of a lane that touch become one, so that a gap is found at once."""

    def __init__(self, problem: Problem, *, undo: bool = False, table: Timetable | None = None) -> None:
        self.problem = problem
        self._keeps = undo
        count = 0 if table is not None else len(problem.stages)
        self.table = table or Timetable([NEVER] * count, [NEVER] * count, [NEVER] * count)
        self.lanes: dict[int, list[_Lane]] = {}  # of the teams that something was placed in
        self.placed = [False] * count
        self._undo: list[tuple[int, _Lane | None, int, float]] = []

    @classmethod
    def on(
        cls,
        problem: Problem,
        lanes: Mapping[int, list[_Lane]],
        start: Sequence[float],
        live: Sequence[float],
        cost: float,
    ) -> Placing:
        """Go on from lanes as they were once, with the days of what was placed until then."""
        made = cls(problem, table=Timetable(list(start), [], list(live), cost))
        made.lanes = {team: [list(lane) for lane in held] for team, held in lanes.items()}
        return made

    def copied_lanes(self) -> dict[int, list[_Lane]]:
        """The lanes as they are now."""
        return {team: [list(lane) for lane in held] for team, held in self.lanes.items()}

    def earliest(self, i: int) -> float:
        """When all that a stage waits for is there."""
        live = self.table.live
        return max([self.problem.release[i], *(live[j] for j in self.problem.before[i])])

    def put(self, i: int) -> float:
        """Place a stage; returns what it costs."""
        problem, table = self.problem, self.table
        release = self.earliest(i)
        fixed = problem.fixed[i]
        begin = release if fixed is None else max(release, fixed)
        start, ready, lane, at = self._gap(i, begin)
        misplaced = fixed is not None and start > fixed + _EPS
        if misplaced:
            table.misplaced.append(i)
        if lane is not None and self._keeps:
            lane.insert(at, (start, ready))
        elif lane is not None:
            _join(lane, at, start, ready)
        table.start[i], table.live[i] = start, problem.live(i, ready)
        if table.ready:
            table.ready[i] = ready
        cost = problem.cost(i, table.live[i])
        table.cost += cost
        if self.placed:
            self.placed[i] = True
        if self._keeps:
            self._undo.append((i, lane, at, cost))
        return cost

    def take(self) -> None:
        """Take out what was placed last."""
        i, lane, at, cost = self._undo.pop()
        if lane is not None:
            del lane[at]
        if self.table.misplaced and self.table.misplaced[-1] == i:
            self.table.misplaced.pop()
        self.table.start[i] = self.table.ready[i] = self.table.live[i] = NEVER
        self.table.cost -= cost
        self.placed[i] = False

    def _lanes_of(self, team: int) -> list[_Lane]:
        if team not in self.lanes:
            self.lanes[team] = [[] for _ in range(self.problem.teams[team].lanes)]
        return self.lanes[team]

    def _gap(self, i: int, begin: float) -> tuple[float, float, _Lane | None, int]:
        """The earliest stretch of a lane that is long enough: (start, ready, lane, place in it)."""
        problem = self.problem
        effort, curve = problem.effort[i], problem.curves[problem.team[i]]
        if begin >= NEVER or curve.when(curve.worked(begin) + effort) >= NEVER:
            return NEVER, NEVER, None, 0
        worked, when = curve.worked, curve.when
        need = worked(begin) + effort
        soonest = when(need)
        best: tuple[float, float, _Lane | None, int] = (NEVER, NEVER, None, 0)
        for lane in self._lanes_of(problem.team[i]):
            start, ready = begin, soonest
            at = bisect_right(lane, (start, NEVER))
            if at and lane[at - 1][1] > start + _EPS:
                start = lane[at - 1][1]
                ready = when(worked(start) + effort)
            while at < len(lane) and start < best[0] - _EPS and ready > lane[at][0] + _EPS:
                start = lane[at][1]
                ready = when(worked(start) + effort)
                at += 1
            if start < best[0] - _EPS:
                best = (start, ready, lane, at)
                if start <= begin:
                    break
        return best


def _join(lane: _Lane, at: int, start: float, ready: float) -> None:
    if at < len(lane) and lane[at][0] <= ready + _EPS:
        ready = lane.pop(at)[1]
    if at and lane[at - 1][1] >= start - _EPS:
        lane[at - 1] = (lane[at - 1][0], ready)
    else:
        lane.insert(at, (start, ready))


def place(problem: Problem, order: Sequence[int]) -> Timetable:
    """The timetable of an order: stages that a person fixed come first, with what they wait for."""
    placing = Placing(problem)
    for i in sequence(problem, order):
        placing.put(i)
    return placing.table


def sequence(problem: Problem, order: Sequence[int]) -> list[int]:
    """The same stages so that nothing stands before what it waits for, and fixed stages before all others."""
    found: list[int] = []
    seen = [False] * len(problem.stages)
    fixed = sorted((f, i) for i in order if (f := problem.fixed[i]) is not None)
    for first in [*(i for _, i in fixed), *order]:
        if seen[first]:
            continue
        stack = [first]
        while stack:
            i = stack[-1]
            missing = [] if seen[i] else [j for j in problem.before[i] if not seen[j]]
            if missing:
                stack.extend(reversed(missing))
                continue
            stack.pop()
            if not seen[i]:
                seen[i] = True
                found.append(i)
    return found


def earliest_live(problem: Problem) -> list[float]:
    """When each stage is live at the earliest, if its team did nothing else."""
    live = [0.0] * len(problem.stages)
    for i in sequence(problem, range(len(problem.stages))):
        curve = problem.curves[problem.team[i]]
        begin = max([problem.release[i], problem.fixed[i] or 0.0, *(live[j] for j in problem.before[i])])
        live[i] = problem.live(i, curve.when(curve.worked(begin) + problem.effort[i])) if begin < NEVER else NEVER
    return live
