"""One application in depth: its evidence, its source, its history."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import date
from typing import Any

from yoake.core.coordinates import Coordinate
from yoake.core.errors import NotFound
from yoake.core.interchange.sarif import bites_at, message
from yoake.core.path.model import plan_from_json
from yoake.core.readiness.estimate import needs_work, three_point
from yoake.core.scan.model import Finding
from yoake.core.scan.report import finding_from_json
from yoake.core.syntax.languages import role_of
from yoake.runner.reading import normalise
from yoake.store.applications import Application, get_application
from yoake.store.database import Row
from yoake.store.jobs import last_job_of
from yoake.store.scans import files_of, finding_keys, findings_of, latest_scan, scan_history, text_of
from yoake.store.steps import steps_of, waivers_of
from yoake.work.office import Office
from yoake.work.views import ApplicationRow, application_row, spoken


@dataclass(frozen=True, slots=True)
class PlaceView:
    """One place of a finding."""

    key: str
    file: str
    line: int
    column: int
    end_column: int
    symbol: str
    scope: str
    guarded: str
    level: str
    role: str


@dataclass(frozen=True, slots=True)
class WindowView:
    """The window bar: lines of one coordinate, and which way each offers."""

    state: str
    coordinate: str
    axis: list[str]
    old: list[str]
    new: list[str]
    both: list[str]
    here: str
    goal: str


@dataclass(frozen=True, slots=True)
class WaiverView:
    """A finding accepted on purpose."""

    by: str
    why: str
    until: str | None
    expired: bool


@dataclass(frozen=True, slots=True)
class FindingView:
    """A finding as Evidence shows it. ``change`` against the scan before: new, still or first."""

    key: str
    module: str
    coordinate: str
    name: str
    kind: str
    symbol: str
    title: str
    bites_at: str | None
    bites_line: str | None
    after: str | None
    level: str
    confidence: str
    replacement: str | None
    remedy: str
    message: str
    mechanical: bool
    minutes_likely: float
    minutes_high: float
    window: WindowView
    evidence: list[str]
    places: list[PlaceView]
    stage: int
    change: str
    waiver: WaiverView | None
    step: int | None


@dataclass(frozen=True, slots=True)
class PackageView:
    """A package against the destination."""

    coordinate: str
    name: str
    module: str
    line: str
    how: str
    state: str
    note: str
    where: str
    suggestion: str


@dataclass(frozen=True, slots=True)
class FileView:
    """What happened to a file, and its checks in minutes."""

    path: str
    state: str
    reason: str
    language: str
    lines: int
    holds: float
    fails: float
    unknown: float
    role: str


@dataclass(frozen=True, slots=True)
class TallyView:
    """Checks of one sort, in minutes of weight."""

    sort: str
    holds: float
    fails: float
    unknown: float


@dataclass(frozen=True, slots=True)
class ScanView:
    """One scan in the history."""

    id: int
    label: str
    taken_at: str
    clear: float | None
    known: float
    errors: int
    warnings: int


@dataclass(frozen=True, slots=True)
class SourceView:
    """Where an application comes from."""

    kind: str
    location: str
    ref: str
    subfolder: str


@dataclass(frozen=True, slots=True)
class Evidence:
    """Everything the Evidence screen shows."""

    application: ApplicationRow
    source: SourceView
    heading: str
    emphasis: str
    label: str
    seconds: float
    findings: list[FindingView]
    gone: list[str]
    packages: list[PackageView]
    files: list[FileView]
    tallies: list[TallyView]
    unknowns: dict[str, int]
    scan_notes: list[str]
    faults: list[str]
    history: list[ScanView]


def read_application(office: Office, slug: str) -> tuple[Application, ApplicationRow, Row | None]:
    """An application, its row, and its newest scan. Raises NotFound."""
    application = get_application(office.db, slug)
    scan = latest_scan(office.db, application.id, application.destination.id)
    history = scan_history(office.db, application.id, application.destination.id)
    trend = [c for row in history if (c := json.loads(row["summary"])["clear"]) is not None]
    job = last_job_of(office.db).get(application.id)
    return application, application_row(application, scan, job, trend, office.knowledge, office.today), scan


def stored_findings(office: Office, scan: Row) -> list[Finding]:
    """The findings of a scan."""
    return [finding_from_json(body) for body in findings_of(office.db, scan["id"])]


def evidence(office: Office, slug: str) -> Evidence:
    """The Evidence screen of one application; without a scan it is empty and says so."""
    application, row, scan = read_application(office, slug)
    source = SourceView(
        application.source.kind, application.source.location, application.source.ref, application.source.subfolder
    )
    if scan is None:
        return Evidence(row, source, "Nothing was scanned yet.", "", "", 0.0, [], [], [], [], [], {}, [], [], [])
    summary, detail = json.loads(scan["summary"]), json.loads(scan["detail"])
    findings = stored_findings(office, scan)
    history = scan_history(office.db, application.id, application.destination.id)
    before = finding_keys(office.db, history[-2]["id"]) if len(history) > 1 else None
    views = _finding_views(office, application, findings, summary, before)
    gone = sorted(set(before or ()) - {f.key for f in findings})
    titles = {
        row["finding_key"]: row["title"] for row in steps_of(office.db, application.id, application.destination.id)
    }
    heading, emphasis = _heading(row, views)
    faults = [f"{f['file']}: {f['reason']}" for m in detail["modules"] for f in m["faults"]]
    return Evidence(
        row,
        source,
        heading,
        emphasis,
        scan["label"],
        scan["seconds"],
        views,
        [titles[k] for k in gone if k in titles],
        [_package(p) for p in detail["packages"]],
        [_file(f) for f in files_of(office.db, scan["id"])],
        [TallyView(sort, t["holds"], t["fails"], t["unknown"]) for sort, t in summary["tallies"].items()],
        summary["unknowns"],
        summary["notes"],
        faults,
        [_scan(r) for r in history],
    )


def _heading(row: ApplicationRow, views: list[FindingView]) -> tuple[str, str]:
    goal = (
        " on ".join(reversed(row.destination_lines))
        if len(row.destination_lines) == 2
        else ", ".join(row.destination_lines)
    )
    work = [v for v in views if v.level != "note" and v.waiver is None]
    if row.clear is None:
        return f"Not known how far {goal} is.", "Nothing here could be read."
    if not work:
        rest = "" if row.known >= 0.8 else f" Only {row.known:.0%} of the checks are known."
        return f"Nothing that is known stands between here and {goal}.", rest.strip()
    things = "one thing stands" if len(work) == 1 else f"{len(work)} things stand"
    now = sum(1 for v in work if v.stage == 0)
    return (
        f"{things[:1].upper()}{things[1:]} between here and {goal}.",
        f"{now} can be changed today, before any version moves." if now else "",
    )


def _finding_views(
    office: Office,
    application: Application,
    findings: list[Finding],
    summary: dict[str, Any],
    before: dict[str, str] | None,
) -> list[FindingView]:
    plan = plan_from_json(summary["plan"])
    stages = {key: stage.number for stage in plan.stages for key in stage.finding_keys}
    waivers = waivers_of(office.db, application.id)
    steps = {row["finding_key"]: row["id"] for row in steps_of(office.db, application.id, application.destination.id)}
    table = office.knowledge.effort
    views = []
    for f in findings:
        _, likely, high = three_point(f, table) if needs_work(f) else (0.0, 0.0, 0.0)
        w = f.window
        window = WindowView(w.state, w.coordinate, list(w.axis), list(w.old), list(w.new), list(w.both), w.here, w.goal)
        places = [
            PlaceView(
                p.key, p.file, p.line, p.column, p.end_column, p.symbol, p.scope, p.guarded, p.level, role_of(p.file)
            )
            for p in f.places
        ]
        change = "first" if before is None else "still" if f.key in before else "new"
        views.append(
            FindingView(
                f.key,
                f.module,
                f.coordinate,
                spoken(f.coordinate),
                f.kind,
                f.symbol,
                f.title,
                bites_at(f),
                f.bites_at,
                f.after,
                f.level,
                f.confidence,
                f.replacement,
                f.remedy,
                message(f),
                f.mechanical,
                likely,
                high,
                window,
                list(f.evidence),
                places,
                stages.get(f.key, 0),
                change,
                waiver_view(waivers.get(f.key), office.today),
                steps.get(f.key),
            )
        )
    return views


def waiver_view(row: Row | None, today: date) -> WaiverView | None:
    """A stored waiver; one that ran out is marked."""
    if row is None:
        return None
    return WaiverView(
        row["by_whom"], row["why"], row["until"], row["until"] is not None and row["until"] < today.isoformat()
    )


def _package(p: dict[str, Any]) -> PackageView:
    where = f"{p['file']}:{p['line_number']}" if p["file"] else ""
    return PackageView(
        p["coordinate"],
        Coordinate(p["coordinate"]).name,
        p["module"],
        p["line"],
        p["how"],
        p["state"],
        p["note"],
        where,
        p["suggestion"],
    )


def _file(row: Row) -> FileView:
    return FileView(
        row["path"],
        row["state"],
        row["reason"],
        row["language"],
        row["lines"],
        row["holds"],
        row["fails"],
        row["unknown"],
        row["role"],
    )


def _scan(row: Row) -> ScanView:
    summary = json.loads(row["summary"])
    levels = summary["levels"]
    return ScanView(
        row["id"], row["label"], row["taken_at"], summary["clear"], summary["known"], levels["error"], levels["warning"]
    )


@dataclass(frozen=True, slots=True)
class SourceText:
    """The text of one file as it was scanned."""

    path: str
    text: str
    note: str


def source_text(office: Office, slug: str, path: str) -> SourceText:
    """One file of the newest scan. Raises NotFound when it was not part of it."""
    _, _, scan = read_application(office, slug)
    data = text_of(office.db, scan["id"], path) if scan is not None else None
    if data is None:
        raise NotFound(f"“{path}” is not among the files that the last scan read.")
    try:
        shown, note = normalise(data)
    except ValueError as error:
        return SourceText(path, "", str(error))
    return SourceText(path, shown.decode("utf-8", "replace").removeprefix("\ufeff"), note)
