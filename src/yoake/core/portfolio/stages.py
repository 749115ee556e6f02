"""What is put into weeks: stages of paths with their effort, what they wait for, and the support ends that they answer."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Final

import networkx as nx
import numpy as np

from yoake.core.portfolio.axis import Axis
from yoake.core.portfolio.capacity import NEVER, Curve, Freeze, Numbers, Team, weekly
from yoake.core.values.coordinates import Coordinate, Line

LATE_DAY: Final = 1.0
"""What a day costs on which one line stands without support, unless an application says otherwise."""

WAITING_DAY: Final = 0.02
"""What a day costs until a stage is done: of two plans that are as late, the one that is done sooner is better."""

_HUNDRED_YEARS: Final = 5_200.0  # weeks


@dataclass(frozen=True, slots=True, kw_only=True)
class Due:
    """A line that a stage leaves, and the day its support ends."""

    coordinate: Coordinate
    line: Line
    end: date


@dataclass(frozen=True, slots=True, kw_only=True)
class WaveStage:
    """One stage of one path. ``days50``, ``days80``: of work. ``after``: keys of stages that have to be done before.

    ``set_name``: the modules that travel. ``number`` 0: work before any move. ``fixed``: the day a person wants it begun.
    ``late``: what a late day costs, 1 unless the application says otherwise. ``features``: share of the days that features
    of this application take while it is worked on. ``state``: the lines that it reaches. ``taken``: of a path that was adopted.
    ``waits``: a day before which it cannot begin, with whom it waits for; ``date.max``: they promised none.
    """

    key: str
    application: str
    name: str
    set_name: str = ""
    number: int
    title: str
    team: str
    days50: float
    days80: float
    after: tuple[str, ...] = ()
    dues: tuple[Due, ...] = ()
    fixed: date | None = None
    late: float = LATE_DAY
    features: float = 0.0
    state: tuple[tuple[Coordinate, Line], ...] = ()
    taken: bool = False
    waits: tuple[date, str] | None = None


@dataclass(frozen=True, slots=True)
class Circle:
    """Stages that wait for one another, so that none could begin: they are worked on as if they did not."""

    keys: tuple[str, ...]


class Problem:
    """Stages and teams as numbers, ready to be placed. Indices run over ``stages``; times are weeks of the axis.

    ``circles``: stages that wait for one another; what they want of one another is left out.
    """

    def __init__(
        self,
        stages: Sequence[WaveStage],
        teams: Sequence[Team],
        axis: Axis,
        freezes: Mapping[str, Sequence[Freeze]] | None = None,
    ) -> None:
        """``freezes``: by application, and for all under the empty name. A team that is not among ``teams`` has no capacity."""
        self.stages = tuple(stages)
        self.axis = axis
        self.index = {stage.key: i for i, stage in enumerate(self.stages)}
        self.teams = list(teams)
        where = {(team.name.lower(), team.application): i for i, team in enumerate(self.teams)}
        for stage in self.stages:
            key = (stage.team.lower(), "")
            if key not in where and (key[0], stage.application) not in where:
                where[key] = len(self.teams)
                self.teams.append(Team(name=stage.team))
        self.team = [
            where.get((s.team.lower(), s.application), where.get((s.team.lower(), ""), 0)) for s in self.stages
        ]
        self.weekly: list[Numbers] = [weekly(team, axis) for team in self.teams]
        self.curves = [Curve(days, team.lanes, axis) for days, team in zip(self.weekly, self.teams, strict=True)]
        self.effort = [max(stage.days50, 0.0) / (1.0 - stage.features) for stage in self.stages]
        self.before, self.circles = self._waiting()
        self.after: list[list[int]] = [[] for _ in self.stages]
        for i, held in enumerate(self.before):
            for j in held:
                self.after[j].append(i)
        self.fixed = [axis.at(s.fixed) if s.fixed is not None else None for s in self.stages]
        self.release = [self._waits(s) for s in self.stages]
        # a line is supported for all of its last day
        self.ends = [[max(axis.at(due.end + timedelta(days=1)), axis.now) for due in s.dues] for s in self.stages]
        self.frozen = [self._frozen(stage, freezes or {}) for stage in self.stages]

    def _waiting(self) -> tuple[list[list[int]], list[Circle]]:
        graph: nx.DiGraph[int] = nx.DiGraph()
        graph.add_nodes_from(range(len(self.stages)))
        for i, stage in enumerate(self.stages):
            graph.add_edges_from((self.index[key], i) for key in stage.after if key in self.index)
        circles = []
        for part in list(nx.strongly_connected_components(graph)):
            inside = [(a, b) for a in part for b in graph.successors(a) if b in part]
            if inside:
                circles.append(Circle(tuple(sorted(self.stages[i].key for i in part))))
                graph.remove_edges_from(self._let_go(inside))
        return [sorted(graph.predecessors(i)) for i in range(len(self.stages))], circles

    def _let_go(self, edges: list[tuple[int, int]]) -> list[tuple[int, int]]:
        """Of a circle: what one application wants of another; inside of one, what does not go from one stage to a later one."""
        stages = self.stages
        return [
            (a, b)
            for a, b in edges
            if (stages[a].application, stages[a].set_name) != (stages[b].application, stages[b].set_name)
            or stages[a].number >= stages[b].number
        ]

    def _waits(self, stage: WaveStage) -> float:
        """When what others promised is there: now where nothing is waited for, NEVER where no day was promised."""
        if stage.waits is None:
            return self.axis.now
        return NEVER if stage.waits[0] == date.max else max(self.axis.now, self.axis.at(stage.waits[0]))

    def _frozen(self, stage: WaveStage, freezes: Mapping[str, Sequence[Freeze]]) -> list[tuple[float, float]]:
        """Stretches in which this stage cannot go live, those that touch joined, in order."""
        spans = sorted(
            (self.axis.at(f.first), self.axis.at(f.last + timedelta(days=1)))
            for n in ("", stage.application)
            for f in freezes.get(n, ())
        )
        joined: list[tuple[float, float]] = []
        for first, last in spans:
            if joined and first <= joined[-1][1] + 1e-9:
                joined[-1] = (joined[-1][0], max(joined[-1][1], last))
            else:
                joined.append((first, last))
        return joined

    def live(self, i: int, ready: float) -> float:
        """When a stage that is ready goes live: at once, or after the freeze that it gets ready in."""
        for first, last in self.frozen[i]:
            if first + 1e-9 < ready < last - 1e-9:
                return last
        return ready

    def cost(self, i: int, live: float) -> float:
        """What it costs that a stage is live only then: late days of each line it leaves, and a little for waiting.

        A stage that never gets there costs what it would after a hundred years.
        """
        time = min(live, _HUNDRED_YEARS)
        late = sum(max(0.0, time - end) for end in self.ends[i])
        return 7.0 * (self.stages[i].late * late + WAITING_DAY * (time - self.axis.now))

    def live_all(self, i: int, ready: Numbers) -> Numbers:
        """``live`` of many moments at once."""
        for first, last in self.frozen[i]:
            ready = np.where((ready > first + 1e-9) & (ready < last - 1e-9), last, ready)
        return ready

    def cost_all(self, i: int, live: Numbers) -> Numbers:
        """``cost`` of many moments at once."""
        time = np.minimum(live, _HUNDRED_YEARS)
        late = sum((np.maximum(0.0, time - end) for end in self.ends[i]), np.zeros_like(time))
        return np.asarray(7.0 * (self.stages[i].late * late + WAITING_DAY * (time - self.axis.now)))

    def parts(self) -> list[list[int]]:
        """Stages that bear on one another, by a team or by waiting: each part is placed by itself."""
        graph: nx.Graph[int] = nx.Graph()
        graph.add_nodes_from(range(len(self.teams)))
        for i, held in enumerate(self.before):
            graph.add_edges_from((self.team[i], self.team[j]) for j in held)
        part = {team: n for n, found in enumerate(nx.connected_components(graph)) for team in found}
        parts: dict[int, list[int]] = {}
        for i, team in enumerate(self.team):
            parts.setdefault(part[team], []).append(i)
        return list(parts.values())
