"""Stages of the portfolio as bars on the axis of weeks, and when they arrive."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Final

from yoake.core.portfolio.capacity import NEVER
from yoake.core.portfolio.forecast import Simulated
from yoake.core.portfolio.stages import Problem
from yoake.core.portfolio.timetable import Timetable

AT_RISK: Final = 0.2
"""Chance of missing a support end from which it is said in the heading: the 80 % date lies behind it."""


_LEVEL: Final = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class WaveBar:
    """One stage in its weeks. ``starts``, ``ends``: first and last day of work; ``live``: when it goes live, after a freeze perhaps.

    ``p50``, ``p80``, ``p95``: forecast of the day it is live; ``late``: the chance of missing the worst of its support ends, None
    where no end is known. ``lane``: which of the team's people. Days are None where the stage is never reached.
    """

    key: str
    application: str
    name: str
    set_name: str
    number: int
    title: str
    team: str
    lane: int
    days: float
    days80: float
    starts: date | None
    ends: date | None
    live: date | None
    p50: date | None
    p80: date | None
    p95: date | None
    late: float | None
    taken: bool
    fixed: date | None
    misplaced: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Arrival:
    """When everything has arrived that does, at 50, 80 and 95 %. ``never``: applications that do not, by what is known today."""

    p50: date | None
    p80: date | None
    p95: date | None
    never: int


def arrival_of(problem: Problem, simulated: Simulated) -> Arrival:
    """When the last of the stages that come about is live."""
    arriving = set(simulated.arriving)
    never = {s.application for i, s in enumerate(problem.stages) if i not in arriving}
    days = [problem.axis.ends(t) for t in simulated.quantiles(simulated.arriving)] or [None, None, None]
    return Arrival(p50=days[0], p80=days[1], p95=days[2], never=len(never))


def wave_bars(
    problem: Problem, table: Timetable, simulated: Simulated, rows: Sequence[int] | None = None
) -> list[WaveBar]:
    """Stages as bars: those of ``rows``, or all in the order of ``problem.stages``."""
    axis = problem.axis
    lanes = _lanes(problem, table)
    misplaced = set(table.misplaced)
    bars = []
    for i in range(len(problem.stages)) if rows is None else rows:
        stage = problem.stages[i]
        p50, p80, p95 = (axis.ends(t) for t in simulated.quantiles([i]))
        ahead = [end for end, due in zip(problem.ends[i], stage.dues, strict=True) if due.end >= axis.today]
        bars.append(
            WaveBar(
                key=stage.key,
                application=stage.application,
                name=stage.name,
                set_name=stage.set_name,
                number=stage.number,
                title=stage.title,
                team=stage.team,
                lane=lanes[i],
                days=round(stage.days50, 2),
                days80=round(stage.days80, 2),
                starts=axis.starts(table.start[i]),
                ends=axis.ends(table.ready[i]),
                live=axis.ends(table.live[i]),
                p50=p50,
                p80=p80,
                p95=p95,
                late=max((simulated.missed(i, end) for end in ahead), default=None),
                taken=stage.taken,
                fixed=stage.fixed,
                misplaced=i in misplaced,
            )
        )
    return bars


def _lanes(problem: Problem, table: Timetable) -> list[int]:
    """Which of a team's lanes holds each stage: the first that is free when it begins, so that a team that does one thing has one row.
    Stages that are never reached share one below the others."""
    lanes = [0] * len(problem.stages)
    free: dict[str, list[float]] = {}
    for i in sorted(range(len(lanes)), key=lambda i: (table.start[i], table.ready[i], i)):
        held = free.setdefault(problem.stages[i].team.lower(), [])
        if table.start[i] >= NEVER:
            lanes[i] = len(held)
            continue
        at = next((n for n, until in enumerate(held) if until <= table.start[i] + 1e-6), len(held))
        if at == len(held):
            held.append(0.0)
        held[at], lanes[i] = table.ready[i], at
    return lanes


def last_of(days: Iterable[date | None]) -> date | None:
    """The last of these days; None where one of them never comes, or there are none."""
    held = list(days)
    return max((d for d in held if d is not None), default=None) if None not in held else None
