"""Why a stage is where it is: what it waits for, who is busy, and what would slip if it came first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final, Literal

from yoake.core.portfolio.capacity import NEVER
from yoake.core.portfolio.stages import Problem
from yoake.core.portfolio.timetable import Timetable, place, sequence

Hold = Literal["today", "fixed", "before", "outside", "busy", "capacity"]
"""What holds a stage: nothing, a person's word, a stage before it, somebody else's release, a busy team, a team without days."""

_EPS: Final = 1e-6
_WORTH_SAYING: Final = 0.2  # weeks, a working day: a smaller slip is none


@dataclass(frozen=True, slots=True)
class Held:
    """What holds a stage where it is; ``stages``: those that it waits for, or that its team is busy with just before."""

    by: Hold
    stages: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class Slip:
    """A stage that would be live at another time: weeks of the axis before and after; ``late``: it would miss ends that it makes now."""

    stage: int
    before: float
    after: float
    late: bool


def held_by(problem: Problem, table: Timetable, i: int) -> Held:
    """What keeps a stage from beginning earlier."""
    start = table.start[i]
    if start >= NEVER:
        return _never(problem, table, i)
    waited = [j for j in problem.before[i] if table.live[j] >= start - _EPS]
    fixed = problem.fixed[i]
    if fixed is not None and start <= fixed + _EPS:
        return Held("fixed")
    if waited:
        return Held("before", tuple(waited))
    if start <= problem.release[i] + _EPS:
        return Held("outside" if problem.stages[i].waits is not None else "today")
    mates = (j for j, team in enumerate(problem.team) if team == problem.team[i] and j != i)
    busy = [j for j in mates if table.start[j] < start - _EPS and table.ready[j] >= start - _EPS]
    return Held("busy", tuple(sorted(busy, key=lambda j: table.ready[j])))


def _never(problem: Problem, table: Timetable, i: int) -> Held:
    waited = [j for j in problem.before[i] if table.live[j] >= NEVER]
    if waited:
        return Held("before", tuple(waited))
    return Held("outside" if problem.release[i] >= NEVER else "capacity")


def slips(problem: Problem, before: Timetable, after: Timetable) -> list[Slip]:
    """Stages that another timetable makes live at another time, the largest slip first."""
    found = []
    for i in range(len(problem.stages)):
        old, new = before.live[i], after.live[i]
        if old == new or abs(new - old) < _WORTH_SAYING:
            continue
        late = any(new > end + _EPS >= old for end in problem.ends[i])
        found.append(Slip(i, old, new, late))
    return sorted(found, key=lambda s: (not s.late, -(s.after - s.before) if s.after < NEVER else float("-inf")))


def if_first(problem: Problem, order: Sequence[int], i: int) -> Timetable:
    """The timetable with this stage, and what it waits for, before all others."""
    return place(problem, sequence(problem, [i, *order]))
