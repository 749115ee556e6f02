"""Forecast: the waves simulated many times, with efforts, teams and absences as uncertain as they are.

Every run draws an effort for each stage, a factor for each application and each team, and the days that people are away. Stages
begin in the order of the plan, one for each person of a team, none before one that stands ahead of it: so the dates can only get
better with more capacity (a queue served in order by several; Kiefer and Wolfowitz, 1955).
"""

from __future__ import annotations

import heapq
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Final

import numpy as np
from numpy.typing import NDArray

from yoake.core.portfolio.capacity import NEVER, Numbers
from yoake.core.portfolio.stages import Problem
from yoake.core.portfolio.timetable import Timetable

RUNS: Final = 5_000
"""Runs of a forecast: the 95 % date then moves by less than a day or two from seed to seed."""

Z80: Final = 0.8416
"""Standard deviations of the 80 % quantile of a normal variable."""

ALIKE: Final = 0.8
"""Share of the variance of a stage that it has in common with the others of its application: what was not seen there."""

AWAY_MEAN: Final = 0.04
AWAY_SPREAD: Final = 0.02
"""Share of days on which people are away without that having been planned, and how it differs from run to run."""

PARTS: Final = (0.5, 0.8, 0.95)
"""Shares of the runs at which dates are told."""

_WIDEST: Final = 50.0
"""Times as long at 80 % as at 50 %: an estimate that is wider says nothing, and its runs would end in other ages."""

_FAR: Final = 5_200.0
Singles = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Factor:
    """How much more than estimated something takes: the mean of the logarithm, and how sure that is."""

    mean: float = 0.0
    deviation: float = 0.0


@dataclass(frozen=True, slots=True)
class Learnt:
    """What closed steps say: a factor by team, and one for what nobody has a record of."""

    teams: Mapping[str, Factor] = field(default_factory=dict)
    whole: Factor = field(default_factory=Factor)

    def of(self, team: str) -> Factor:
        """The factor of a team."""
        return self.teams.get(team, self.whole)


@dataclass(frozen=True)
class Simulated:
    """Runs of a forecast: when each stage was live (stages, runs), in weeks of the axis; NEVER where it does not come to that."""

    live: Singles

    @cached_property
    def by_stage(self) -> Singles:
        """When each stage is live at 50, 80 and 95 % of the runs (stages, 3)."""
        count = self.live.shape[1]
        kth = [min(count - 1, math.ceil(part * count) - 1) for part in PARTS]
        return np.partition(self.live, kth, axis=1)[:, kth] if len(self.live) else np.zeros((0, 3), dtype=np.float32)

    def quantiles(self, rows: Sequence[int], parts: Sequence[float] = PARTS) -> list[float]:
        """When the last of these stages is live, at these shares of the runs."""
        if not len(rows):
            return []
        if len(rows) == 1 and tuple(parts) == PARTS:
            return [float(t) for t in self.by_stage[rows[0]]]
        last = self.live[list(rows)].max(axis=0)
        kth = [min(len(last) - 1, math.ceil(part * len(last)) - 1) for part in parts]
        return [float(t) for t in np.partition(last, kth)[kth]]

    @cached_property
    def arriving(self) -> list[int]:
        """Stages that come about in nearly every run: those that wait for what nobody promised do not."""
        return [int(i) for i in np.flatnonzero(self.by_stage[:, -1] < NEVER)]

    def missed(self, row: int, end: float) -> float:
        """Share of the runs in which a stage was live only after ``end``."""
        return float((self.live[row] > end + 1e-9).mean())


def simulate(
    problem: Problem, table: Timetable, learnt: Learnt | None = None, runs: int = RUNS, seed: int = 1
) -> Simulated:
    """Simulate a plan. The same seed gives the same runs, whatever the capacity of the teams."""
    efforts = _Efforts(problem, learnt or Learnt(), runs, seed)
    live = np.full((len(problem.stages), runs), NEVER, dtype=np.float32)
    levels: dict[
        int, Numbers
    ] = {}  # of work that a lane of its team has done when a stage is live, while it is waited for
    waiting = [len(held) for held in problem.after]
    free = [[np.zeros(runs) for _ in range(team.lanes)] for team in problem.teams]
    begun = [np.zeros(runs) for _ in problem.teams]
    for i in _as_planned(problem, table):
        team = problem.team[i]
        curve = problem.curves[team]
        first = curve.worked(min(max(problem.release[i], problem.fixed[i] or 0.0), _FAR))
        begin = np.maximum(begun[team], free[team][0])  # the lane that is free first
        np.maximum(begin, first, out=begin)
        blocked = np.full(runs, problem.release[i] >= NEVER)  # what nobody promised, and what waits for it
        for j in problem.before[i]:
            alike = problem.team[j] == team
            np.maximum(begin, levels[j] if alike else curve.worked_all(np.minimum(live[j], _FAR)), out=begin)
            blocked |= live[j] >= NEVER
            waiting[j] -= 1
            if not waiting[j]:
                del levels[j]
        effort = efforts(i)
        if blocked.all():
            levels[i] = begin
            continue
        np.copyto(begin, begun[team], where=blocked)  # it takes nobody's time
        begun[team] = begin
        ready = begin + effort
        _take(free[team], np.where(blocked, free[team][0], ready) if blocked.any() else ready)
        when = curve.when_all(ready)
        when[blocked] = NEVER
        live[i] = when
        levels[i] = ready
        if problem.frozen[i]:
            live[i] = problem.live_all(i, when)
            levels[i] = np.maximum(ready, curve.worked_all(np.minimum(live[i], _FAR)))
        if not waiting[i]:
            del levels[i]
    return Simulated(live)


def _as_planned(problem: Problem, table: Timetable) -> list[int]:
    """Stages by their planned begin, none before what it waits for."""
    place = {i: (table.start[i], table.ready[i], i) for i in range(len(problem.stages))}
    waiting = [len(held) for held in problem.before]
    ready = sorted((i for i, n in enumerate(waiting) if not n), key=place.__getitem__)
    heap = [(place[i], i) for i in ready]
    found = []
    while heap:
        _, i = heapq.heappop(heap)
        found.append(i)
        for j in problem.after[i]:
            waiting[j] -= 1
            if not waiting[j]:
                heapq.heappush(heap, (place[j], j))
    return found


def _take(free: list[Numbers], ready: Numbers) -> None:
    """The lane that was free first is free again when this is ready; lanes stay in the order in which they get free."""
    held = ready
    for n in range(1, len(free)):
        free[n - 1] = np.minimum(free[n], held)
        held = np.maximum(free[n], held)
    free[-1] = held


class _Efforts:
    """Draws the effort of a stage (runs,) in days of one lane, features and absences included."""

    def __init__(self, problem: Problem, learnt: Learnt, runs: int, seed: int) -> None:
        self.problem = problem
        self.draw = np.random.default_rng(seed)
        self.runs = runs
        self.names = {n: k for k, n in enumerate(dict.fromkeys(s.application for s in problem.stages))}
        self.common = self.draw.standard_normal((len(self.names), runs), dtype=np.float32)
        self.own = self.draw.standard_normal((len(problem.stages), runs), dtype=np.float32)
        teams = []
        for team in problem.teams:
            factor = learnt.of(team.name)
            away = np.clip(self.draw.normal(AWAY_MEAN, AWAY_SPREAD, runs), 0.0, 0.5)
            teams.append(np.exp(factor.mean + factor.deviation * self.draw.standard_normal(runs)) / (1.0 - away))
        self.teams = teams

    def __call__(self, i: int) -> Numbers:
        stage = self.problem.stages[i]
        effort = self.problem.effort[i]
        if effort <= 0:
            return np.zeros(self.runs)
        wider = math.log(max(stage.days80, stage.days50, 1e-9) / max(stage.days50, 1e-9))
        spread = min(wider, math.log(_WIDEST)) / Z80
        common, own = self.common[self.names[stage.application]], self.own[i]
        drawn = np.exp(np.float32(spread * math.sqrt(ALIKE)) * common + np.float32(spread * math.sqrt(1 - ALIKE)) * own)
        return np.asarray(effort * drawn * self.teams[self.problem.team[i]])
