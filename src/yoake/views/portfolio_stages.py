"""The portfolio as a problem of who does what when: read from the records, with the changes of a what-if laid over it."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date

from pydantic import TypeAdapter

from yoake.context.context import Context
from yoake.core.contract.registry import Registry
from yoake.core.portfolio.axis import Axis
from yoake.core.portfolio.capacity import Away, Freeze, Team
from yoake.core.portfolio.from_plans import Awaited, Bridging, Mover, Staged, staged, with_assumed
from yoake.core.portfolio.stages import Problem, WaveStage
from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.plans import Plan, Stage
from yoake.store.adopted_paths import every_adopted
from yoake.store.applications import Application, list_applications
from yoake.store.events import newest_of_all
from yoake.store.scans import latest_marks, scan_outlines
from yoake.store.teams import DaysOff, StoredTeam, list_days_off, list_teams, shares_of_teams
from yoake.store.waves import Weight, fixed_stages, outside_applications, required_libraries, weights_of

NO_TEAM = "no team"


@dataclass(frozen=True, slots=True)
class Unplanned:
    """An application that is not in the plan, and why."""

    slug: str
    name: str
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PortfolioInputs:
    """All that a plan of the portfolio depends on. ``freezes``: by application, for all under the empty name."""

    today: date
    movers: tuple[Mover, ...]
    uses: tuple[tuple[str, str], ...]
    teams: tuple[Team, ...]
    freezes: Mapping[str, tuple[Freeze, ...]]
    unplanned: tuple[Unplanned, ...]
    arrived: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PortfolioProblem:
    """The problem with what it was made from. ``mark``: names this state of things; ``ecosystems``: how people
    say what moves."""

    inputs: PortfolioInputs
    problem: Problem
    bridging: tuple[Bridging, ...]
    unserved: tuple[Bridging, ...]
    mark: str
    ecosystems: Registry


def read_inputs(context: Context) -> PortfolioInputs:
    """What the records say today."""
    db, knowledge = context.db, context.knowledge
    applications = list_applications(db)
    marks = latest_marks(db)
    plans = _plans(context, applications, marks)
    shares, weights, fixed = shares_of_teams(db), weights_of(db), fixed_stages(db)
    outside, adopted = outside_applications(db), every_adopted(db)
    begins: dict[int, dict[str, date]] = {}
    for (number, key), day in fixed.items():
        begins.setdefault(number, {})[key] = day.begins
    movers, unplanned, arrived = [], [], []
    for a in applications:
        plan = plans.get(a.id)
        away = outside.get(a.id)
        if away is not None and away.arrived is not None:
            away = None  # their release is here: what is left of the path is ours
        if plan is None:
            unplanned.append(Unplanned(a.slug, a.name, "it was never scanned"))
            continue
        if plan.blocked and not plan.stages and away is None:
            unplanned.append(Unplanned(a.slug, a.name, plan.blocked[0]))
            continue
        mover = Mover(
            slug=a.slug,
            name=a.name,
            plan=plan,
            teams=shares.get(a.id) or {a.team or NO_TEAM: 1.0},
            named=frozenset(t.coordinate for t in a.destination.targets),
            days=a.days_per_week or knowledge.effort.days_per_week,
            taken=(a.id, a.destination.id) in adopted,
            features=weights[a.id].features if a.id in weights else 0.0,
            late=weights.get(a.id, Weight(features=0.0, late=1.0)).late,
            fixed=begins.get(a.id, {}),
            outside=Awaited(vendor=away.vendor, promised=away.promised) if away is not None else None,
        )
        if not mover.moves and mover.outside is None:
            arrived.append(a.slug)
        movers.append(mover)
    slugs = {a.id: a.slug for a in applications}
    uses = [(slugs[lib], slugs[user]) for lib, user in uses_of(context) if lib in slugs and user in slugs]
    days = list_days_off(db)
    return PortfolioInputs(
        today=context.today,
        movers=tuple(movers),
        uses=tuple(uses),
        teams=tuple(_teams(list_teams(db), days, applications)),
        freezes=_freezes(days, applications),
        unplanned=tuple(unplanned),
        arrived=tuple(arrived),
    )


def _plans(
    context: Context, applications: Sequence[Application], marks: Mapping[int, tuple[int, int]]
) -> dict[int, Plan | None]:
    """The outline of the plan of each application; those that did not change are at hand."""
    held = context.outlines
    stale = [a.id for a in applications if a.id in marks and held.get(a.id, ((0, 0), None))[0] != marks[a.id]]
    scans = scan_outlines(context.db, [marks[number][0] for number in stale])
    for number in stale:
        scan = scans.get(marks[number][0])
        held[number] = (marks[number], scan.outline if scan is not None else None)
    return {a.id: held[a.id][1] for a in applications if a.id in marks}


def uses_of(context: Context) -> list[tuple[int, int]]:
    """(library, its user); looked for again only when something was scanned, or heads elsewhere."""
    marks = latest_marks(context.db)
    key = tuple(sorted((number, scan) for number, (scan, _) in marks.items()))
    return context.uses.get(key, lambda: required_libraries(context.db))


def _teams(stored: Sequence[StoredTeam], days: Sequence[DaysOff], applications: Sequence[Application]) -> list[Team]:
    """Teams as the plan takes them; those of whom nobody said who they are only bring their holidays, as does everybody's (“”)."""
    said = {team.name.lower(): team for team in stored}
    names = dict.fromkeys([*(t.name for t in stored), *(a.team or NO_TEAM for a in applications)])
    found = []
    for name in ("", *names):
        away = tuple(
            Away(first=d.first, last=d.last, person=d.person)
            for d in days
            if d.kind != "freeze" and d.team.lower() in ("", name.lower())
        )
        team = said.get(name.lower())
        people = team.people if team is not None else ()
        found.append(Team(name=name, people=people, away=away, features=team.features if team is not None else 0.0))
    return found


def _freezes(days: Sequence[DaysOff], applications: Sequence[Application]) -> dict[str, tuple[Freeze, ...]]:
    found: dict[str, list[Freeze]] = {}
    for d in days:
        if d.kind != "freeze":
            continue
        freeze = Freeze(first=d.first, last=d.last, title=d.title)
        if d.application:
            found.setdefault(d.application, []).append(freeze)
        elif d.team:
            for a in applications:
                if (a.team or NO_TEAM).lower() == d.team.lower():
                    found.setdefault(a.slug, []).append(freeze)
        else:
            found.setdefault("", []).append(freeze)
    return {slug: tuple(held) for slug, held in found.items()}


def staged_inputs(context: Context, inputs: PortfolioInputs) -> Staged:
    """The stages of these inputs, with what they want of libraries."""
    knowledge = context.knowledge

    def ends(coordinate: Coordinate, line: Line) -> date | None:
        facts = knowledge.line_facts(coordinate, line)
        return facts.support_ends if facts else None

    every = frozenset(coordinate for m in inputs.movers for coordinate in m.named)
    return staged(inputs.movers, inputs.uses, ends, lambda stage: stage_label(stage, every, context.ecosystems))


def pose(context: Context, inputs: PortfolioInputs) -> PortfolioProblem:
    """The problem of these inputs."""
    made = staged_inputs(context, inputs)
    teams = with_assumed(inputs.teams, inputs.movers)
    problem = Problem(made.stages, teams, Axis(inputs.today), inputs.freezes)
    return PortfolioProblem(
        inputs=inputs,
        problem=problem,
        bridging=made.bridging,
        unserved=made.unserved,
        mark=_mark(problem, teams, inputs),
        ecosystems=context.ecosystems,
    )


def stage_label(stage: Stage, named: frozenset[str], ecosystems: Registry) -> str:
    """``Python 3.13 · Django 5.2``: where a stage leads, by the lines of a destination."""
    goals = [f"{ecosystems.spoken(m.coordinate)} {m.goal}" for m in stage.moves if m.coordinate in named]
    return " · ".join(goals) or stage.title or "packages"


_TEAMS: TypeAdapter[list[Team]] = TypeAdapter(list[Team])
_STAGES: TypeAdapter[tuple[WaveStage, ...]] = TypeAdapter(tuple[WaveStage, ...])
_FREEZES: TypeAdapter[Mapping[str, tuple[Freeze, ...]]] = TypeAdapter(Mapping[str, tuple[Freeze, ...]])


def _mark(problem: Problem, teams: list[Team], inputs: PortfolioInputs) -> str:
    digest = hashlib.sha256(inputs.today.isoformat().encode())
    digest.update(_STAGES.dump_json(problem.stages))
    digest.update(_TEAMS.dump_json(teams))
    digest.update(_FREEZES.dump_json(inputs.freezes))
    return digest.hexdigest()[:24]


def portfolio_problem(context: Context) -> PortfolioProblem:
    """The portfolio of today; made again only when something happened, the day or the knowledge changed."""
    with context.planning:
        held: PortfolioProblem = context.waves.get(
            portfolio_stamp(context), lambda: pose(context, read_inputs(context))
        )
        return held


def portfolio_stamp(context: Context) -> tuple[object, ...]:
    """What the portfolio depends on: whatever bears on it is an event."""
    return (newest_of_all(context.db), context.today, context.knowledge.digest)


def with_fixed(inputs: PortfolioInputs, slug: str, stage: str, begins: date | None) -> PortfolioInputs:
    """The same with a stage of an application on a day, or with None let go."""

    def changed(mover: Mover) -> Mover:
        fixed = {key: day for key, day in mover.fixed.items() if key != stage}
        return replace(mover, fixed=fixed | ({stage: begins} if begins is not None else {}))

    return replace(inputs, movers=tuple(changed(m) if m.slug == slug else m for m in inputs.movers))
