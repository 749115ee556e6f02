"""What if: another capacity, date, order, strategy, destination; an application dropped or bought. Beside the plan there is, and kept."""

from __future__ import annotations

import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Final

from yoake.context.context import Context
from yoake.core.contract.registry import Registry
from yoake.core.portfolio.axis import Axis
from yoake.core.portfolio.capacity import Freeze, Person, Team
from yoake.core.portfolio.forecast import Simulated, simulate
from yoake.core.portfolio.from_plans import Mover, with_assumed
from yoake.core.portfolio.stages import Due, Problem, WaveStage
from yoake.core.portfolio.timetable import Timetable, place, sequence
from yoake.core.portfolio.waves import Waves
from yoake.core.values.coordinates import Coordinate, Line, parse_coordinate
from yoake.core.values.errors import BadInput
from yoake.core.values.journeys import Shape
from yoake.core.values.plans import Plan
from yoake.formats.what_ifs import DestinationChange, FixedChange, StrategyChange, WhatIf
from yoake.store.applications import get_application, list_destinations
from yoake.store.database import Connection
from yoake.store.events import Event, add_event
from yoake.store.scans import latest_scan
from yoake.store.waves import StoredWhatIf, drop_what_if, keep_what_if, what_if_by_id
from yoake.views.alternatives import look_at
from yoake.views.phrases import day_text
from yoake.views.portfolio_stages import NO_TEAM, PortfolioInputs, PortfolioProblem, read_inputs, staged_inputs
from yoake.views.wave_bars import AT_RISK, Arrival, arrival_of
from yoake.views.wave_plans import Planned, indices, plan_at_once, planned
from yoake.views.wave_stories import SlipView, slip_views

_MOVED: Final = 0.01  # of a chance, from which it is told


@dataclass(frozen=True, slots=True, kw_only=True)
class Side:
    """One of the two plans: when everything arrives, support ends that are at risk and those missed in the middle, and what it costs."""

    arrival: Arrival
    at_risk: int
    ends: int
    late_days: int
    cost: float
    stages: int
    days: float


@dataclass(frozen=True, slots=True, kw_only=True)
class EndChange:
    """A support end whose chance of being missed is another: before and after, None where it is not there."""

    team: str
    name: str
    line: str
    end: date
    before: float | None
    after: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """The plan there is beside what would be. ``told``: the changes in words."""

    told: list[str]
    present: Side
    what_if: Side
    ends: list[EndChange]
    slips: list[SlipView]


@dataclass(frozen=True, slots=True)
class WhatIfPlan:
    """The changed portfolio with its plan and forecast; ``told``: the changes in words."""

    plan: Planned
    told: tuple[str, ...]


def plan_what_if(context: Context, changes: WhatIf) -> WhatIfPlan:
    """The plan with these changes. Raises BadInput with all faults."""
    inputs = read_inputs(context)
    faults: list[str] = []
    told: list[str] = []
    inputs = _Applications(context, inputs, faults, told).changed(changes)
    inputs = _with_people(inputs, changes, faults, told)
    inputs = _with_days(inputs, changes, faults, told)
    if faults:
        raise BadInput(faults[0], tuple(faults))
    made = staged_inputs(context, inputs)
    stages = [*_with_ends(made.stages, changes, told, context.ecosystems), *_bought(changes, told)]
    extra = {b.team: 1.0 for b in changes.bought}
    teams = with_assumed(inputs.teams, inputs.movers)
    named = {t.name.lower() for t in teams}
    teams += [
        Team(name=name, people=(Person(name=name, days=context.knowledge.effort.days_per_week),), assumed=True)
        for name in extra
        if name.lower() not in named
    ]
    problem = Problem(stages, teams, Axis(inputs.today), inputs.freezes)
    plan = planned(context)
    known = indices(problem, [plan.portfolio.problem.stages[i].key for i in plan.waves.order])
    waves = _first(problem, known, changes, told) if changes.first else plan_at_once(problem, known)
    began = time.perf_counter()
    simulated = simulate(problem, waves.table, plan.lessons.learnt)
    portfolio = PortfolioProblem(
        inputs=inputs,
        problem=problem,
        bridging=made.bridging,
        unserved=made.unserved,
        mark="what if",
        ecosystems=context.ecosystems,
    )
    seconds = time.perf_counter() - began
    return WhatIfPlan(
        Planned(
            portfolio=portfolio, waves=waves, simulated=simulated, seconds=seconds, lessons=plan.lessons, final=True
        ),
        tuple(told),
    )


def planned_what_if(context: Context, changes: WhatIf) -> Planned:
    """The plan with these changes. Raises BadInput with all faults."""
    return plan_what_if(context, changes).plan


def compare(context: Context, changes: WhatIf) -> Comparison:
    """The plan there is beside what would be. Raises BadInput with all faults."""
    now, made = planned(context), plan_what_if(context, changes)
    then = made.plan
    here, there = now.portfolio.problem, then.portfolio.problem
    before, after = _ends(here, now.simulated), _ends(there, then.simulated)
    rows = [
        EndChange(
            team=key[0],
            name=context.ecosystems.spoken(key[1]),
            line=key[2],
            end=(after.get(key) or before[key])[0],
            before=before[key][1] if key in before else None,
            after=after[key][1] if key in after else None,
        )
        for key in {**before, **after}
    ]
    rows = [r for r in rows if r.before is None or r.after is None or abs(r.before - r.after) >= _MOVED]
    shared = [key for key in here.index if key in there.index]
    return Comparison(
        told=list(made.told),
        present=_side(here, now.waves.table, now.simulated, before),
        what_if=_side(there, then.waves.table, then.simulated, after),
        ends=sorted(rows, key=lambda r: -abs((r.after or 0.0) - (r.before or 0.0))),
        slips=slip_views(here, now.waves.table, _on(here, then, shared, now.waves.table)),
    )


def _on(here: Problem, then: Planned, shared: Sequence[str], now: Timetable) -> Timetable:
    """The other plan's days for the stages there are; those that are not in it stay as they are."""
    table = Timetable(list(now.start), list(now.ready), list(now.live))
    for key in shared:
        i, j = here.index[key], then.portfolio.problem.index[key]
        table.start[i], table.ready[i], table.live[i] = (
            then.waves.table.start[j],
            then.waves.table.ready[j],
            then.waves.table.live[j],
        )
    return table


_End = tuple[str, Coordinate, Line]
"""Team, coordinate and line."""


def _ends(problem: Problem, simulated: Simulated) -> dict[_End, tuple[date, float]]:
    """The day of each support end that lies ahead, by team, and the chance of missing it."""
    found: dict[_End, tuple[date, float]] = {}
    for i, stage in enumerate(problem.stages):
        for due, end in zip(stage.dues, problem.ends[i], strict=True):
            if due.end >= problem.axis.today:
                key = (stage.team, due.coordinate, due.line)
                day, chance = found.get(key, (due.end, 0.0))
                found[key] = (min(day, due.end), max(chance, simulated.missed(i, end)))
    return found


def _side(problem: Problem, table: Timetable, simulated: Simulated, ends: Mapping[_End, tuple[date, float]]) -> Side:
    late = sum(
        7 * max(0.0, min(table.live[i], 5_200.0) - end) for i in range(len(problem.stages)) for end in problem.ends[i]
    )
    return Side(
        arrival=arrival_of(problem, simulated),
        at_risk=sum(1 for _, chance in ends.values() if chance >= AT_RISK),
        ends=len(ends),
        late_days=round(late),
        cost=round(table.cost, 2),
        stages=len(problem.stages),
        days=round(sum(s.days50 for s in problem.stages), 1),
    )


class _Applications:
    """The applications of a portfolio as a what-if changes them; faults and changes are told to the lists given."""

    def __init__(self, context: Context, inputs: PortfolioInputs, faults: list[str], told: list[str]) -> None:
        self.context, self.inputs, self.faults, self.told = context, inputs, faults, told
        self.movers = {m.slug: m for m in inputs.movers}

    def changed(self, changes: WhatIf) -> PortfolioInputs:
        for slug in changes.drop:
            if (mover := self._known(slug)) is not None:
                self.told.append(f"without {mover.name}")
                del self.movers[slug]
        for way in changes.strategy:
            self._travel(way)
        for change in changes.destination:
            self._head_for(change)
        for fix in changes.fixed:
            self._fix(fix)
        for slug in changes.first:
            self._known(slug)
        return replace(self.inputs, movers=tuple(self.movers.values()))

    def _known(self, slug: str) -> Mover | None:
        if slug not in self.movers:
            self.faults.append(f"There is no application “{slug}” in the plan.")
        return self.movers.get(slug)

    def _travel(self, way: StrategyChange) -> None:
        mover = self._known(way.application)
        plan = _plan_of_choice(self.context, way, self.faults) if mover is not None else None
        if mover is not None and plan is not None:
            self.movers[mover.slug] = replace(mover, plan=plan)
            self.told.append(f"{mover.name} by “{way.choice}”")

    def _head_for(self, change: DestinationChange) -> None:
        mover = self._known(change.application)
        moved = _to_destination(self.context, mover, change.destination, self.faults) if mover is not None else None
        if moved is not None:
            self.movers[moved.slug] = moved
            self.told.append(f"{moved.name} to {change.destination}")

    def _fix(self, fix: FixedChange) -> None:
        mover = self._known(fix.application)
        if mover is None:
            return
        key = next((key for n, key in mover.stage_keys() if n == fix.stage), None)
        if key is None:
            self.faults.append(f"{mover.name} has no stage {fix.stage}.")
        elif fix.begins is not None and fix.begins < self.inputs.today:
            self.faults.append(f"{fix.begins} is past: a stage is put on a day from today on.")
        else:
            fixed = {k: d for k, d in mover.fixed.items() if k != key} | ({key: fix.begins} if fix.begins else {})
            self.movers[mover.slug] = replace(mover, fixed=fixed)
            self.told.append(f"{mover.name} {fix.stage} {'on ' + day_text(fix.begins) if fix.begins else 'let go'}")


def _plan_of_choice(context: Context, way: StrategyChange, faults: list[str]) -> Plan | None:
    application = get_application(context.db, way.application)
    scan = latest_scan(context.db, application.id, application.destination.id)
    look = look_at(context, application, scan, way.set, Shape()) if scan is not None else None
    if look is None:
        faults.append(f"{application.name} has no path yet.")
        return None
    if any(o.strategy == way.choice for o in look.ways.staying):
        return Plan()
    found = look.ways.way(way.choice)
    if found is None:
        faults.append(f"{application.name} has no way “{way.choice}”: Path lists those that there are.")
    return found.plan if found is not None else None


def _to_destination(context: Context, mover: Mover, name: str, faults: list[str]) -> Mover | None:
    destination = next((d for d, _ in list_destinations(context.db) if d.name.lower() == name.lower()), None)
    if destination is None:
        faults.append(f"There is no destination “{name}”.")
        return None
    application = get_application(context.db, mover.slug)
    scan = latest_scan(context.db, application.id, destination.id)
    if scan is None:
        faults.append(
            f"{mover.name} was never scanned against {destination.name}: set it as its destination and scan once."
        )
        return None
    return replace(mover, plan=scan.plan, named=frozenset(t.coordinate for t in destination.targets))


def _with_people(inputs: PortfolioInputs, changes: WhatIf, faults: list[str], told: list[str]) -> PortfolioInputs:
    teams = {t.name.lower(): t for t in inputs.teams}
    movers = inputs.movers
    assumed: dict[str, list[Person]] = {}
    for held in with_assumed(inputs.teams, movers):
        if held.assumed:
            assumed.setdefault(held.name.lower(), []).extend(held.people)
    for change in changes.capacity:
        key = change.team.lower()
        team = teams.get(key)
        if team is None or not key:
            faults.append(f"There is no team “{change.team}”.")
            continue
        if change.since is not None and change.until is not None and change.until < change.since:
            faults.append(f"{change.person} leaves before they come.")
            continue
        people = team.people or tuple(assumed.get(key, ()))
        others = tuple(p for p in people if p.name.lower() != change.person.lower())
        person = Person(name=change.person, days=change.days, since=change.since, until=change.until)
        teams[key] = replace(team, people=(*others, person) if change.days else others)
        since = f" from {day_text(change.since)}" if change.since else ""
        told.append(f"{change.person} with {change.days:g} days a week in {team.name}{since}")
    for features in changes.features:
        team = teams.get(features.team.lower())
        if team is None:
            faults.append(f"There is no team “{features.team}”.")
            continue
        teams[team.name.lower()] = replace(team, features=features.share)
        told.append(f"features take {features.share:.0%} in {team.name}")
    return replace(inputs, teams=tuple(teams.values()))


def _with_days(inputs: PortfolioInputs, changes: WhatIf, faults: list[str], told: list[str]) -> PortfolioInputs:
    freezes = {slug: tuple(held) for slug, held in inputs.freezes.items()}
    slugs = {m.slug for m in inputs.movers}
    for change in changes.freezes:
        if change.last < change.first:
            faults.append(f"A freeze ends on {change.last} before it begins on {change.first}.")
        elif change.application and change.application not in slugs:
            faults.append(f"There is no application “{change.application}” in the plan.")
        else:
            freeze = Freeze(first=change.first, last=change.last, title=change.title)
            freezes[change.application] = (*freezes.get(change.application, ()), freeze)
            told.append(f"{change.title} from {day_text(change.first)} to {day_text(change.last)}")
    unknown = {d.application for d in changes.dates} - slugs - {""}
    faults.extend(f"There is no application “{slug}” in the plan." for slug in sorted(unknown))
    return replace(inputs, freezes=freezes)


def _with_ends(stages: Sequence[WaveStage], changes: WhatIf, told: list[str], ecosystems: Registry) -> list[WaveStage]:
    ends: dict[tuple[str, str, str], date] = {}
    for change in changes.dates:
        coordinate = ecosystems.canonical(parse_coordinate(change.coordinate))
        ends[change.application, coordinate, change.line] = change.end
        spoken = f"{ecosystems.spoken(coordinate)} {change.line}"
        if not any(_is_due(stage, change.application, coordinate, change.line) for stage in stages):
            raise BadInput(f"No stage of the plan leaves {spoken}: another end of it changes nothing.")
        told.append(f"{spoken} supported until {day_text(change.end)}")
    if not ends:
        return list(stages)

    def moved(stage: WaveStage, due: Due) -> Due:
        for slug in (stage.application, ""):
            if (slug, due.coordinate, due.line) in ends:
                return replace(due, end=ends[slug, due.coordinate, due.line])
        return due

    return [replace(s, dues=tuple(moved(s, due) for due in s.dues)) for s in stages]


def _is_due(stage: WaveStage, application: str, coordinate: Coordinate, line: str) -> bool:
    """Whether a stage ends an application's time on a line; every application where none is named."""
    return application in ("", stage.application) and any(
        d.coordinate == coordinate and d.line == line for d in stage.dues
    )


def _bought(changes: WhatIf, told: list[str]) -> list[WaveStage]:
    found = []
    for n, bought in enumerate(changes.bought):
        dues = (
            (Due(coordinate=Coordinate(f"pkg:generic/{bought.name.lower()}"), line=Line("today"), end=bought.end),)
            if bought.end
            else ()
        )
        found.append(
            WaveStage(
                key=f"bought:{n}|stage",
                application=f"bought:{n}",
                name=bought.name,
                number=1,
                title="bought in",
                team=bought.team or NO_TEAM,
                days50=bought.days,
                days80=bought.days80 or bought.days * 1.5,
                dues=dues,
            )
        )
        told.append(f"{bought.name} with {bought.days:g} days for {bought.team}")
    return found


def _first(problem: Problem, known: Sequence[int], changes: WhatIf, told: list[str]) -> Waves:
    rank = {slug: n for n, slug in enumerate(changes.first)}
    ahead = [i for i in known if problem.stages[i].application in rank]
    ahead.sort(key=lambda i: rank[problem.stages[i].application])
    order = sequence(problem, [*ahead, *known])
    told.append(f"{', '.join(changes.first[:3])} first")
    return Waves(tuple(order), place(problem, order), None, best=False)


def keep(context: Context, name: str, changes: WhatIf, who: str) -> StoredWhatIf:
    """Keep a what-if under a name. Raises BadInput for one that changes nothing or cannot be."""
    if changes.empty:
        raise BadInput("This what-if changes nothing: there is nothing to keep.")
    plan_what_if(context, changes)
    with context.db.write() as connection:
        number = keep_what_if(connection, name, changes.model_dump_json(exclude_defaults=True), who, context.stamp)
        _event(context, connection, who, name, "kept")
    return what_if_by_id(context.db, number)


def throw_away(context: Context, number: int, who: str) -> None:
    """Throw a what-if away. Raises NotFound."""
    with context.db.write() as connection:
        held = what_if_by_id(context.db, number)
        drop_what_if(connection, number)
        _event(context, connection, who, held.name, "thrown away")


def _event(context: Context, connection: Connection, who: str, name: str, what: str) -> None:
    add_event(connection, Event(at=context.stamp, who=who, subject=f"what if {name}", what=what))
