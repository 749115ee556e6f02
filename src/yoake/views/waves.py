"""Waves: which stage each team works on in which week, what that misses with which chance, and why each stage is where it is."""

from __future__ import annotations

import gzip
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Final

import numpy as np
from pydantic import TypeAdapter

from yoake.context.context import Context
from yoake.core.portfolio.axis import Axis
from yoake.core.portfolio.capacity import NEVER, Freeze, Numbers, Team
from yoake.core.portfolio.explanation import held_by
from yoake.core.portfolio.forecast import Simulated
from yoake.core.portfolio.stages import Problem, WaveStage
from yoake.core.portfolio.timetable import Timetable
from yoake.core.portfolio.waves import Waves, used
from yoake.core.values.coordinates import Coordinate, Line, line_key
from yoake.views.bridge_lanes import BridgeLane, bridge_lanes
from yoake.views.phrases import day_text, listed
from yoake.views.portfolio_stages import PortfolioProblem, Unplanned
from yoake.views.wave_bars import _LEVEL, AT_RISK, Arrival, WaveBar, arrival_of, wave_bars
from yoake.views.wave_plans import Planned, is_renewed, planned

_MORE_WEEKS: Final = 4  # after the last date that is shown
_LEAST_WEEKS: Final = 12
_MOST_WEEKS: Final = 156  # three years; what lies beyond is said, not drawn
_MOST_NAMED: Final = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Wall:
    """A support end that a team's stages run up to. ``chance``: that one of them is live only after it. ``keys``: those stages."""

    coordinate: str
    short: str
    name: str
    line: str
    end: date
    chance: float
    past: bool
    applications: list[str]
    keys: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class TeamWaves:
    """A team: its people (names with days a week), days it has and uses by week, its stages and the ends they run up to.

    ``vendor``: somebody else, whose releases are waited for.
    """

    name: str
    people: list[str]
    days: float
    assumed: bool
    vendor: bool
    features: float
    capacity: list[float]
    used: list[float]
    stages: list[WaveBar]
    walls: list[Wall]


@dataclass(frozen=True, slots=True, kw_only=True)
class FreezeView:
    """Days on which nothing goes live: for everybody, or for the applications named."""

    first: date
    last: date
    title: str
    applications: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class WavesView:
    """The Waves screen. ``gap``: by how much the plan may cost more than the best, None while that is not known; ``working``: a
    better plan is being looked for."""

    heading: str
    subheading: str
    today: date
    weeks: list[date]
    teams: list[TeamWaves]
    freezes: list[FreezeView]
    bridges: list[BridgeLane]
    arrival: Arrival
    gap: float | None
    best: bool
    working: bool
    stages: int
    late: int
    arrived: int
    unplanned: list[Unplanned]
    notes: list[str]
    mark: str


_VIEW: Final = TypeAdapter(WavesView)


def packed_waves(context: Context) -> tuple[bytes, bool]:
    """The view as JSON, packed with gzip, with whether a better plan is worth looking for."""
    plan = planned(context)
    behind = is_renewed(context)
    key = ("waves", plan.identity, behind)
    packed: bytes = context.windows.get(
        key, lambda: gzip.compress(_VIEW.dump_json(waves_view(plan, behind=behind)), _LEVEL)
    )
    return packed, not plan.final and not behind


def waves_view(plan: Planned, *, behind: bool = False) -> WavesView:
    """The view of a plan. ``behind``: a newer one is being made."""
    portfolio, waves, simulated = plan.portfolio, plan.waves, plan.simulated
    problem = portfolio.problem
    axis = problem.axis
    bars = wave_bars(problem, waves.table, simulated)
    last = _last_day(axis, bars)
    weeks = [
        axis.week(n) for n in range(max(_LEAST_WEEKS, min(_MOST_WEEKS, (last - axis.monday).days // 7 + _MORE_WEEKS)))
    ]
    teams = _teams(portfolio, waves, simulated, bars, len(weeks))
    walls = [(team, wall) for team in teams for wall in team.walls]
    arrival = arrival_of(problem, simulated)
    return WavesView(
        heading=_heading(walls, portfolio),
        subheading=_subheading(problem, teams, arrival, waves, plan.final, len(portfolio.inputs.unplanned)),
        today=axis.today,
        weeks=weeks,
        teams=teams,
        freezes=_freezes(portfolio),
        bridges=bridge_lanes(portfolio, waves.table),
        arrival=arrival,
        gap=waves.gap,
        best=waves.best,
        working=behind or not plan.final,
        stages=len(problem.stages),
        late=sum(1 for _, wall in walls if not wall.past and wall.chance >= AT_RISK),
        arrived=len(portfolio.inputs.arrived),
        unplanned=list(portfolio.inputs.unplanned),
        notes=notes_of(portfolio, waves),
        mark=portfolio.mark,
    )


def _last_day(axis: Axis, bars: Sequence[WaveBar]) -> date:
    days = [d for bar in bars for d in (bar.live, bar.p80) if d is not None]
    return max(days, default=axis.today)


def _teams(
    portfolio: PortfolioProblem, waves: Waves, simulated: Simulated, bars: Sequence[WaveBar], weeks: int
) -> list[TeamWaves]:
    problem = portfolio.problem
    taken = used(problem, waves.table)
    rows: dict[str, list[int]] = {}
    for i, stage in enumerate(problem.stages):
        rows.setdefault(stage.team.lower(), []).append(i)
    crews: dict[str, list[int]] = {}
    for n, team in enumerate(problem.teams):
        crews.setdefault(team.name.lower(), []).append(n)
    found = []
    for key, numbers in crews.items():
        held, own = rows.get(key, []), [problem.teams[n] for n in numbers]
        if not held and (own[0].assumed or not own[0].people):
            continue
        found.append(
            TeamWaves(
                name=own[0].name,
                people=[line for team in own for line in _people(team)],
                days=round(sum(p.days * (1 - team.features) for team in own for p in team.people), 2),
                assumed=own[0].assumed,
                vendor=bool(held) and all(problem.stages[i].waits is not None for i in held),
                features=own[0].features,
                capacity=_summed([problem.weekly[n] for n in numbers], weeks),
                used=_summed([taken[n] for n in numbers], weeks),
                stages=sorted((bars[i] for i in held), key=lambda b: (b.starts or date.max, b.name, b.number)),
                walls=_walls(portfolio, simulated, held),
            )
        )
    return sorted(found, key=lambda t: (-max((w.chance for w in t.walls if not w.past), default=0.0), t.name))


def _summed(weekly: Sequence[Numbers], weeks: int) -> list[float]:
    return [round(float(days), 2) for days in np.sum(weekly, axis=0)[:weeks]]


def _people(team: Team) -> list[str]:
    return [f"{p.name} {p.days:g}" for p in team.people] if not team.assumed else []


def _walls(portfolio: PortfolioProblem, simulated: Simulated, rows: Sequence[int]) -> list[Wall]:
    """Support ends that a team's stages run up to, each once."""
    problem = portfolio.problem
    held: dict[tuple[Coordinate, Line, date], list[tuple[int, float]]] = {}
    for i in rows:
        for due, end in zip(problem.stages[i].dues, problem.ends[i], strict=True):
            held.setdefault((due.coordinate, due.line, due.end), []).append((i, end))
    walls = []
    for (coordinate, line, ends), found in held.items():
        missed = (simulated.live[[i for i, _ in found]] > found[0][1] + 1e-9).any(axis=0)
        stages = [problem.stages[i] for i, _ in found]
        walls.append(
            Wall(
                coordinate=coordinate,
                short=coordinate.short,
                name=portfolio.ecosystems.spoken(coordinate),
                line=line,
                end=ends,
                chance=round(float(missed.mean()), 4),
                past=ends < problem.axis.today,
                applications=sorted({s.name for s in stages}),
                keys=[s.key for s in stages],
            )
        )
    return sorted(walls, key=lambda w: (w.end, w.coordinate, line_key(w.line)))


def _freezes(portfolio: PortfolioProblem) -> list[FreezeView]:
    held: dict[Freeze, list[str]] = {}
    for slug, freezes in portfolio.inputs.freezes.items():
        for freeze in freezes:
            names = held.setdefault(freeze, [])
            if slug:
                names.append(slug)
    return [
        FreezeView(first=f.first, last=f.last, title=f.title or "freeze", applications=sorted(names))
        for f, names in sorted(held.items(), key=lambda item: item[0].first)
        if f.last >= portfolio.inputs.today
    ]


def notes_of(portfolio: PortfolioProblem, waves: Waves) -> list[str]:
    """What a plan cannot do, and why."""
    problem, notes = portfolio.problem, []
    for circle in problem.circles:
        names = sorted({problem.stages[problem.index[key]].name for key in circle.keys})
        notes.append(f"{listed(names)} wait for one another: their stages are planned as if they did not.")
    for i in waves.table.misplaced:
        stage = problem.stages[i]
        when = problem.axis.starts(waves.table.start[i])
        begins = f"begins {when:%-d %b %Y} at the earliest" if when else "cannot begin"
        notes.append(f"{stage.name} {stage.number} was put on {stage.fixed:%-d %b %Y} but {begins}.")
    never: dict[str, list[WaveStage]] = {}
    for i, stage in enumerate(problem.stages):
        if waves.table.live[i] >= NEVER:
            never.setdefault(_why_never(problem, waves.table, i), []).append(stage)
    for why, stages in never.items():
        names = sorted({s.name for s in stages})
        notes.append(f"{listed(names)} {'is' if len(names) == 1 else 'are'} never reached: {why}.")
    movers = {m.slug: m.name for m in portfolio.inputs.movers}
    for row in portfolio.unserved[:_MOST_NAMED]:
        spoken = f"{portfolio.ecosystems.spoken(row.coordinate)} {row.line}"
        notes.append(
            f"{movers[row.application]} goes to {spoken}, and {movers[row.library]}, which it requires, never does."
        )
    return notes


def _why_never(problem: Problem, table: Timetable, i: int) -> str:
    held = held_by(problem, table, i)
    if held.by == "before":
        return _why_never(problem, table, held.stages[0])
    stage = problem.stages[i]
    return f"{stage.team} promised no day" if held.by == "outside" else f"{stage.team} has no days for it"


def _heading(walls: Sequence[tuple[TeamWaves, Wall]], portfolio: PortfolioProblem) -> str:
    ahead = [(team, wall) for team, wall in walls if not wall.past]
    risky = sorted(((t, w) for t, w in ahead if w.chance >= AT_RISK), key=lambda row: -row[1].chance)
    dark = len({(w.coordinate, w.line) for _, w in walls if w.past})
    tail = (
        f" {_count(dark).capitalize()} {'line is' if dark == 1 else 'lines are'} without support already."
        if dark
        else ""
    )
    if not portfolio.problem.stages:
        return "Nothing is left to move." if portfolio.inputs.movers else "There is no path to put into weeks yet."
    if not ahead:
        return f"No support end lies ahead of these stages.{tail}"
    if not risky:
        return (
            f"Every support end ahead is met.{tail}" if len(ahead) > 1 else f"The one support end ahead is met.{tail}"
        )
    named = [f"{w.name} {w.line} in {t.name}" for t, w in risky[:_MOST_NAMED]]
    more = len(risky) - len(named)
    said = ", ".join(named) + (f" and {more} more" if more else "")
    if len(ahead) == 1:
        return f"The one support end ahead is at risk: {said}.{tail}"
    return f"{_count(len(risky)).capitalize()} of {_count(len(ahead))} support ends {'is' if len(risky) == 1 else 'are'} at risk: {said}.{tail}"


def _subheading(
    problem: Problem, teams: Sequence[TeamWaves], arrival: Arrival, waves: Waves, final: bool, unplanned: int
) -> str:
    if not problem.stages:
        return ""
    stages, groups = len(problem.stages), len({s.team for s in problem.stages})
    parts = [f"{stages} {'stage' if stages == 1 else 'stages'}, {groups} {'team' if groups == 1 else 'teams'}."]
    if arrival.never:
        parts.append(
            f"When {_count(arrival.never)} {'application arrives' if arrival.never == 1 else 'applications arrive'} is not known."
        )
    if arrival.p50 is not None:
        later = f", {day_text(arrival.p80, arrival.p50)} with 80 %" if arrival.p80 is not None else ""
        parts.append(f"All{' others' if arrival.never else ''} arrive by {day_text(arrival.p50)} with 50 %{later}.")
    if waves.best:
        parts.append("No plan is better.")
    elif waves.gap is not None:
        parts.append(f"At most {max(waves.gap * 100, 0.1):.1f} % from the best plan.")
    if unplanned:
        parts.append(
            f"{_count(unplanned).capitalize()} {'application is' if unplanned == 1 else 'applications are'} not in it."
        )
    if not final:
        parts.append("A better plan is being looked for.")
    if any(team.assumed for team in teams):
        parts.append("Where nobody said who is in a team, each application has its own days.")
    return " ".join(parts)


def _count(number: int) -> str:
    words = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
    return words[number] if number < len(words) else str(number)
