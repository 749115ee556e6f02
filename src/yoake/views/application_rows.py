"""What the screens show, computed from the records: plain frozen data, ready to be sent."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Final

from yoake.context.context import Context
from yoake.core.knowledge.base import Knowledge
from yoake.core.planning.dates import standing
from yoake.core.values.coordinates import Coordinate, Line, Target, line_key
from yoake.core.values.errors import NotFound
from yoake.core.values.modules import ModuleLine
from yoake.core.values.plans import Plan, Stage, StageDates, Standing
from yoake.core.values.words import StatedHow
from yoake.store.applications import Application, get_application, list_applications
from yoake.store.database import Row
from yoake.store.jobs import last_job_of
from yoake.store.scans import (
    StoredScan,
    clearances,
    clearances_of,
    latest_marks,
    latest_scan,
    scan_outlines,
)

WORST_FIRST: Final = "Worst margin first. "


@dataclass(frozen=True, slots=True, kw_only=True)
class LineView:
    """One of today's lines and where it is said."""

    coordinate: Coordinate
    name: str
    line: Line
    how: StatedHow
    where: str
    module: str
    support_ends: date | None
    kind: str
    disagreements: list[str]


@dataclass(frozen=True, slots=True)
class LaneSegment:
    """A stretch of one lane on which one line is stood on; ``since`` None reaches back before today."""

    line: str
    since: date | None
    until: date | None
    support_ends: date | None
    known: bool


@dataclass(frozen=True, slots=True)
class Lane:
    """One coordinate of an application along time."""

    coordinate: str
    name: str
    segments: list[LaneSegment]


@dataclass(frozen=True, slots=True)
class StageSpan:
    """A planned stage on the time axis."""

    number: int
    label: str
    starts: date
    arrives50: date
    arrives80: date


@dataclass(frozen=True, slots=True, kw_only=True)
class ApplicationRow:
    """One application as the Horizon shows it. ``state``: never, waiting, running, failed, ready."""

    slug: str
    name: str
    owner: str
    team: str
    destination: str
    destination_lines: list[str]
    destination_coordinates: list[str]
    state: str
    problem: str
    scanned_at: str | None
    today: list[LineView]
    lanes: list[Lane]
    stages: list[StageSpan]
    arrival50: date | None
    arrival80: date | None
    margin: int | None
    runway: int | None
    unsupported_since: date | None
    dark_days: int
    clear: float | None
    known: float
    sure: float
    errors: int
    warnings: int
    notes: int
    safe_now: int
    effort50: float
    effort80: float
    days_per_week: float
    languages: list[str]
    trend: list[float]
    arrived: bool
    open_steps: int
    version: int


@dataclass(frozen=True, slots=True)
class Portfolio:
    """The Horizon: its heading and rows, worst margin first."""

    heading: str
    subheading: str
    today: date
    rows: list[ApplicationRow]


def portfolio(context: Context) -> Portfolio:
    """All applications, the smallest margin first, what is not known last."""
    rows = sorted(_rows(context), key=_margin_order)
    return Portfolio(_heading(rows), _subheading(rows), context.today, rows)


def _rows(context: Context) -> list[ApplicationRow]:
    """Every application's row; those on which nothing has changed since they were last asked for are at hand."""
    knowledge, today, held = context.knowledge, context.today, context.rows
    applications = list_applications(context.db)
    marks, jobs, trends = latest_marks(context.db), last_job_of(context.db), clearances(context.db)
    stamps: dict[int, tuple[object, ...]] = {}
    for a in applications:
        job = jobs.get(a.id)
        told = (job["id"], job["state"]) if job is not None else None
        stamps[a.id] = (
            a,
            marks.get(a.id),
            told,
            len(trends.get((a.id, a.destination.id), ())),
            today,
            knowledge.digest,
        )
    dates, mark = context.stage_dates
    for a in applications:
        stamps[a.id] = (*stamps[a.id], mark if a.slug in dates else "")
    stale = [a for a in applications if (known := held.get(a.id)) is None or known[0] != stamps[a.id]]
    scans = scan_outlines(context.db, [marks[a.id][0] for a in stale if a.id in marks])
    for a in stale:
        scan = scans.get(marks[a.id][0]) if a.id in marks else None
        trend = trends.get((a.id, a.destination.id), [])
        held[a.id] = (
            stamps[a.id],
            application_row(
                application=a,
                scan=scan,
                job=jobs.get(a.id),
                trend=trend,
                knowledge=knowledge,
                today=today,
                planned=dates.get(a.slug),
            ),
        )
    return [held[a.id][1] for a in applications]


def _margin_order(row: ApplicationRow) -> tuple[int, int, str]:
    group = 0 if row.margin is not None else 1 if row.state == "ready" and not row.arrived else 2 if row.arrived else 3
    return (group, row.margin if row.margin is not None else 0, row.name)


def application_row(
    application: Application,
    scan: StoredScan | None,
    job: Row | None,
    trend: list[float],
    knowledge: Knowledge,
    today: date,
    planned: Mapping[int, StageDates] | None = None,
) -> ApplicationRow:
    """One row, also for an application that was never scanned. ``planned``: dates of its stages, where its team was put into weeks."""
    plan = scan.outline if scan is not None else None
    days = application.days_per_week or knowledge.effort.days_per_week
    stood = _lines(scan.today if scan is not None else (), knowledge, application.destination.targets)
    held = standing(plan, _lines_today(stood), knowledge, today, days, planned) if plan is not None else None
    state, problem = _state(scan, job)
    moving = held is not None and plan is not None and bool(plan.stages)
    standing_on = {s.coordinate for s in stood}
    named = application.destination.targets
    targets = [t for t in named if t.coordinate in standing_on] or list(named)
    return ApplicationRow(
        slug=application.slug,
        name=application.name,
        owner=application.owner,
        team=application.team,
        destination=application.destination.name,
        destination_lines=[knowledge.ecosystems.spoken_target(t) for t in targets],
        destination_coordinates=[t.coordinate.short for t in targets],
        state=state,
        problem=problem,
        scanned_at=scan.taken_at if scan is not None else None,
        today=stood,
        lanes=_lanes(stood, held, knowledge),
        stages=_stages(plan, held, standing_on & {t.coordinate for t in named}),
        arrival50=held.arrival50 if held and moving else None,
        arrival80=held.arrival80 if held and moving else None,
        margin=held.margin if held else None,
        runway=held.runway if held else None,
        unsupported_since=held.unsupported_since if held else None,
        dark_days=held.dark_days if held else 0,
        clear=scan.clear if scan is not None else None,
        known=scan.known if scan is not None else 0.0,
        sure=(scan.clear or 0.0) * scan.known if scan is not None else 0.0,
        errors=scan.errors if scan is not None else 0,
        warnings=scan.warnings if scan is not None else 0,
        notes=scan.notes if scan is not None else 0,
        safe_now=scan.safe_now if scan is not None else 0,
        effort50=plan.total.p50 if plan else 0.0,
        effort80=plan.total.p80 if plan else 0.0,
        days_per_week=days,
        languages=list(scan.summary.languages) if scan is not None else [],
        trend=trend[-12:],
        arrived=_arrived(plan, scan),
        open_steps=application.open_steps,
        version=application.version,
    )


def _arrived(plan: Plan | None, scan: StoredScan | None) -> bool:
    """Whether it stands on its destination with nothing that fails there."""
    if plan is None or scan is None or plan.stages or plan.blocked:
        return False
    return bool(plan.today) and not scan.errors


def _state(scan: StoredScan | None, job: Row | None) -> tuple[str, str]:
    if job is not None and job["state"] in ("waiting", "running"):
        return job["state"], ""
    if job is not None and job["state"] in ("failed", "stopped"):
        return "failed", job["problem"]
    return ("ready", "") if scan is not None else ("never", "")


def _lines(today: Sequence[ModuleLine], knowledge: Knowledge, targets: tuple[Target, ...]) -> list[LineView]:
    wanted = {t.coordinate for t in targets} | set(knowledge.lifecycles)
    views = []
    for row in today:
        said = row.stated
        if said.coordinate not in wanted:
            continue
        facts = knowledge.line_facts(said.coordinate, said.line)
        views.append(
            LineView(
                coordinate=said.coordinate,
                name=knowledge.spoken(said.coordinate),
                line=said.line,
                how=said.how,
                where=f"{said.file}:{said.line_number}" if said.file else "",
                module=row.module,
                support_ends=facts.support_ends if facts else None,
                kind=facts.kind if facts else "",
                disagreements=list(said.disagreements),
            )
        )
    return sorted(
        views, key=lambda v: (not v.coordinate.startswith("pkg:generic/"), v.coordinate, line_key(v.line), v.module)
    )


def _lines_today(stood: list[LineView]) -> dict[Coordinate, Line]:
    """coordinate → the oldest of today's lines."""
    found: dict[Coordinate, Line] = {}
    for view in stood:
        found.setdefault(view.coordinate, view.line)
    return found


def _lanes(stood: list[LineView], held: Standing | None, knowledge: Knowledge) -> list[Lane]:
    lanes: list[Lane] = []
    for coordinate, line in _lines_today(stood).items():
        planned = [row for row in held.lines if row.coordinate == coordinate] if held else []
        if planned:
            segments = [
                LaneSegment(
                    r.line, r.since50, r.left50, r.support_ends, knowledge.line_facts(coordinate, r.line) is not None
                )
                for r in planned
            ]
        else:
            facts = knowledge.line_facts(coordinate, line)
            segments = [LaneSegment(line, None, None, facts.support_ends if facts else None, facts is not None)]
        lanes.append(Lane(coordinate, knowledge.spoken(coordinate), segments))
    return lanes


def _stages(plan: Plan | None, held: Standing | None, named: set[Coordinate]) -> list[StageSpan]:
    """The plan's stages with their dates, each by the lines of the destination that it moves."""
    if plan is None or held is None:
        return []
    return [
        StageSpan(
            stage.number,
            _label(stage, named),
            dates.starts50,
            dates.arrives50,
            dates.arrives80,
        )
        for stage, dates in zip(plan.stages, held.stages, strict=True)
    ]


def _label(stage: Stage, named: set[Coordinate]) -> str:
    goals = [move.goal for move in stage.moves if move.coordinate in named]
    return " · ".join(goals) or stage.title or "packages"


def _heading(rows: list[ApplicationRow]) -> str:
    """The answer in a sentence: who stands in the dark."""
    if not rows:
        return "No application is looked after here yet."
    known = [row for row in rows if row.margin is not None]
    dark = [row for row in known if row.unsupported_since is not None]
    late = [row for row in known if row.margin is not None and row.margin < 0]
    unknown = len([r for r in rows if r.margin is None and not r.arrived and not _stands_there(r)])
    tail = f"; {_count(unknown)} {'is' if unknown == 1 else 'are'} not known" if unknown else ""
    if dark:
        return f"{_share(len(dark), len(rows), 'stands', 'stand')} in the dark today{tail}."
    if late:
        pronoun = "it arrives" if len(late) == 1 else "they arrive"
        return f"{_share(len(late), len(rows), 'loses', 'lose')} support before {pronoun}{tail}."
    if unknown == len(rows):
        return f"{_share(unknown, len(rows), 'was', 'were')} taken in; nothing is known of {'it' if unknown == 1 else 'them'} yet."
    return f"Every application that is known of arrives in the light{tail}."


def _stands_there(row: ApplicationRow) -> bool:
    """On its destination's lines already, with something left to change: known, though no line is left any more."""
    return bool(row.lanes) and not row.stages and row.runway is not None


def _share(some: int, every: int, one: str, many: str) -> str:
    """``Two of nine applications stand``; ``All nine applications stand``; ``The one application stands``."""
    if every == 1:
        return f"The one application {one}"
    if some == every:
        return f"All {_count(every)} applications {many}"
    return f"{_count(some).capitalize()} of {_count(every)} applications {one if some == 1 else many}"


def _count(number: int) -> str:
    words = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
    return words[number] if number < len(words) else str(number)


def _subheading(rows: list[ApplicationRow]) -> str:
    names = sorted({row.destination for row in rows})
    if len(names) == 1:
        lines = dict.fromkeys(line for row in rows for line in row.destination_lines)
        return f"{WORST_FIRST}Destination {names[0]}: {', '.join(sorted(lines, reverse=True))}"
    return f"{WORST_FIRST}{len(names)} destinations" if names else ""


def read_application(context: Context, slug: str) -> tuple[Application, ApplicationRow, StoredScan | None]:
    """An application, its row, and its newest scan. Raises NotFound."""
    application = get_application(context.db, slug)
    scan = latest_scan(context.db, application.id, application.destination.id)
    trend = clearances_of(context.db, application.id, application.destination.id)
    job = last_job_of(context.db, application.id).get(application.id)
    planned = context.stage_dates[0].get(slug)
    row = application_row(
        application=application,
        scan=scan,
        job=job,
        trend=trend,
        knowledge=context.knowledge,
        today=context.today,
        planned=planned,
    )
    return application, row, scan


def read_scan(context: Context, slug: str) -> tuple[Application, StoredScan]:
    """An application and its newest scan with the plan on it. Raises NotFound, also where nothing was scanned."""
    application = get_application(context.db, slug)
    scan = latest_scan(context.db, application.id, application.destination.id)
    if scan is None:
        raise NotFound(f"“{slug}” was not scanned yet.")
    return application, scan
