"""Findings of one application as Evidence shows them: a window of a list, one in full, by file, and the map."""

from __future__ import annotations

from collections.abc import Container
from dataclasses import dataclass

from yoake.context.context import Context
from yoake.core.values.errors import NotFound
from yoake.core.values.words import Confidence, FileRole, FileState, Kind, Level, WindowState
from yoake.formats.records import FINDING
from yoake.formats.sarif import bites_at, message
from yoake.store.applications import Application, get_application
from yoake.store.database import Row
from yoake.store.finding_windows import (
    Wanted,
    causes,
    file_results,
    file_window,
    finding_window,
    lines_in,
    mapped_files,
    offset_of,
    one_finding,
    places_of,
)
from yoake.store.scans import latest_mark
from yoake.store.steps import step_of
from yoake.store.waivers import live_waivers, waivers_of
from yoake.views.waivers import WaiverView, waiver_view

_MOST_PLACES = 500  # of one finding; the rest is counted, and reached by folder
_MOST_LINES = 50  # of one finding in one file
_MOST_IN_FILE = 400  # places of one file, on average
_MOST_MAPPED = 3_000  # files drawn; smaller ones would be less than a point


@dataclass(frozen=True, slots=True)
class Query:
    """Which findings: ``show`` (all, now, hop, switch, new, notes), ``where`` (anywhere, source, test, other), a folder, words."""

    show: str = "all"
    where: str = "anywhere"
    within: str = ""
    text: str = ""


@dataclass(frozen=True, slots=True)
class CauseView:
    """A group of findings with one cause."""

    title: str
    findings: int
    places: int


@dataclass(frozen=True, slots=True, kw_only=True)
class FindingRow:
    """A finding as a line of a list. ``change`` against the scan before: new, still or first. ``copies_only``: it breaks, and only in
    code that is not written here."""

    key: str
    kind: Kind
    title: str
    cause: str
    level: Level
    confidence: Confidence
    bites_line: str | None
    window: WindowState
    replacement: str | None
    remedy: str
    places: int
    change: str
    waived: bool
    copies_only: bool


@dataclass(frozen=True, slots=True)
class FindingWindow:
    """A window of the findings that fit, all of them counted by cause. ``offset``: findings before the window."""

    total: int
    places: int
    causes: list[CauseView]
    offset: int
    rows: list[FindingRow]


@dataclass(frozen=True, slots=True, kw_only=True)
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
    level: Level
    role: FileRole


@dataclass(frozen=True, slots=True, kw_only=True)
class WindowView:
    """The window bar: lines of one coordinate, and which way each offers."""

    state: WindowState
    coordinate: str
    axis: list[str]
    old: list[str]
    new: list[str]
    both: list[str]
    here: str
    goal: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FindingView:
    """A finding in full, with the first of its places; ``place_count`` and ``file_count`` count all that fit."""

    key: str
    module: str
    coordinate: str
    name: str
    kind: Kind
    symbol: str
    title: str
    bites_at: str | None
    bites_line: str | None
    after: str | None
    level: Level
    confidence: Confidence
    replacement: str | None
    remedy: str
    message: str
    mechanical: bool
    minutes_likely: float
    minutes_high: float
    window: WindowView
    evidence: list[str]
    places: list[PlaceView]
    place_count: int
    file_count: int
    stage: int
    change: str
    waiver: WaiverView | None
    step: int | None
    copies_only: bool


@dataclass(frozen=True, slots=True)
class FindingInFile:
    """A finding in one file with its first lines."""

    key: str
    title: str
    kind: Kind
    level: Level
    lines: list[int]


@dataclass(frozen=True, slots=True)
class FilePlaces:
    """What stands in one file; ``places``: those to change."""

    file: str
    places: int
    findings: list[FindingInFile]


@dataclass(frozen=True, slots=True)
class PlaceWindow:
    """A window of the files in which findings stand, those with the most to do first."""

    total: int
    offset: int
    rows: list[FilePlaces]


@dataclass(frozen=True, slots=True, kw_only=True)
class FileView:
    """What happened to a file, and its checks in minutes."""

    path: str
    state: FileState
    reason: str
    language: str
    lines: int
    holds: float
    fails: float
    unknown: float
    role: FileRole


@dataclass(frozen=True, slots=True)
class FileWindow:
    """A window of the files that were looked at."""

    total: int
    offset: int
    rows: list[FileView]


@dataclass(frozen=True, slots=True)
class MappedFile:
    """A file on the map: area is lines, ink is places to change."""

    path: str
    lines: int
    work: int
    role: FileRole


def _scanned(context: Context, slug: str) -> tuple[Application, int]:
    """An application and the number of its newest scan, 0 before the first. Nothing else of the scan is read: lists are asked often."""
    application = get_application(context.db, slug)
    return application, latest_mark(context.db, application.id, application.destination.id)[0]


def _wanted(scan: int, query: Query) -> Wanted:
    return Wanted(scan, query.show, query.where, query.within, query.text)


def find_findings(
    context: Context, slug: str, query: Query, offset: int, limit: int, around: str = ""
) -> FindingWindow:
    """A window of the findings that fit; ``around`` moves it to where a finding stands. Raises NotFound."""
    application, scan = _scanned(context, slug)
    if not scan:
        return FindingWindow(0, 0, [], 0, [])
    wanted = _wanted(scan, query)
    if around and (at := offset_of(context.db, wanted, around)) is not None and not offset <= at < offset + limit:
        offset = max(at - limit // 2, 0)
    groups = context.counted.get(wanted, lambda: _causes(context, wanted))  # a scan never changes
    waived = live_waivers(context.db, application.id, context.today)
    rows = [_row(row, waived) for row in finding_window(context.db, wanted, offset, limit)]
    total, places = sum(g.findings for g in groups), sum(g.places for g in groups)
    return FindingWindow(total, places, groups, offset, rows)


def _causes(context: Context, wanted: Wanted) -> list[CauseView]:
    return [CauseView(row["cause"], row["findings"], row["places"]) for row in causes(context.db, wanted)]


def _row(row: Row, waived: Container[str]) -> FindingRow:
    return FindingRow(
        key=row["key"],
        kind=row["kind"],
        title=row["title"],
        cause=row["cause"],
        level=row["level"],
        confidence=row["confidence"],
        bites_line=row["bites_at"],
        window=row["window_state"],
        replacement=row["replacement"],
        remedy=row["remedy"],
        places=row["held"],
        change=row["change"],
        waived=row["key"] in waived,
        copies_only=_copies_only(row),
    )


def _copies_only(row: Row) -> bool:
    """Whether a finding breaks and costs nothing: all its places are in code that is not written here."""
    return bool(row["level"] != "note" and row["minutes_likely"] == 0)


def read_finding(context: Context, slug: str, key: str, query: Query) -> FindingView:
    """One finding in full, with those of its places that fit. Raises NotFound."""
    application, scan = _scanned(context, slug)
    row = one_finding(context.db, scan, key)
    if row is None:
        raise NotFound("The newest scan has no such finding. It may be gone; the steps say so.")
    count, files, rows = places_of(context.db, _wanted(scan, query), row["position"], _MOST_PLACES)
    f = FINDING.read(row["body"])
    step = step_of(context.db, application.id, application.destination.id, key)
    w = f.window
    return FindingView(
        key=f.key,
        module=f.module,
        coordinate=f.coordinate,
        name=context.ecosystems.spoken(f.coordinate),
        kind=f.kind,
        symbol=f.symbol,
        title=f.title,
        bites_at=bites_at(f),
        bites_line=f.bites_at,
        after=f.after,
        level=f.level,
        confidence=f.confidence,
        replacement=f.replacement,
        remedy=f.remedy,
        message=message(f),
        mechanical=f.mechanical,
        minutes_likely=row["minutes_likely"],
        minutes_high=row["minutes_high"],
        window=WindowView(
            state=w.state,
            coordinate=w.coordinate,
            axis=list(w.axis),
            old=list(w.old),
            new=list(w.new),
            both=list(w.both),
            here=w.here,
            goal=w.goal,
        ),
        evidence=list(f.evidence),
        places=[_place(place) for place in rows],
        place_count=count,
        file_count=files,
        stage=step["stage"] if step is not None and step["state"] != "closed" else 0,
        change=row["change"],
        waiver=waiver_view(waivers_of(context.db, application.id).get(key), context.today),
        step=step["id"] if step is not None else None,
        copies_only=_copies_only(row),
    )


def _place(row: Row) -> PlaceView:
    return PlaceView(
        key=row["key"],
        file=row["file"],
        line=row["line"],
        column=row["column"],
        end_column=row["end_column"],
        symbol=row["symbol"],
        scope=row["scope"],
        guarded=row["guarded"],
        level=row["level"],
        role=row["role"],
    )


def find_places(context: Context, slug: str, query: Query, offset: int, limit: int) -> PlaceWindow:
    """A window of the files in which findings stand. Raises NotFound."""
    _, scan = _scanned(context, slug)
    if not scan:
        return PlaceWindow(0, 0, [])
    wanted = _wanted(scan, query)
    total, rows = file_window(context.db, wanted, offset, limit)
    found: dict[str, dict[str, FindingInFile]] = {row["file"]: {} for row in rows}
    for held in lines_in(context.db, wanted, found, _MOST_IN_FILE * max(len(rows), 1)):
        inside = found[held["file"]]
        made = inside.setdefault(
            held["key"], FindingInFile(held["key"], held["title"], held["kind"], held["level"], [])
        )
        if len(made.lines) < _MOST_LINES:
            made.lines.append(held["line"])
    return PlaceWindow(
        total, offset, [FilePlaces(row["file"], row["places"], list(found[row["file"]].values())) for row in rows]
    )


def find_files(context: Context, slug: str, text: str, offset: int, limit: int) -> FileWindow:
    """A window of the files that were looked at, by what a filter says. Raises NotFound."""
    _, scan = _scanned(context, slug)
    if not scan:
        return FileWindow(0, 0, [])
    total, rows = file_results(context.db, scan, text, offset, limit)
    return FileWindow(total, offset, [_file(row) for row in rows])


def _file(row: Row) -> FileView:
    return FileView(
        path=row["path"],
        state=row["state"],
        reason=row["reason"],
        language=row["language"],
        lines=row["lines"],
        holds=row["holds"],
        fails=row["fails"],
        unknown=row["unknown"],
        role=row["role"],
    )


def map_files(context: Context, slug: str, within: str) -> list[MappedFile]:
    """The largest files below a folder, for the map. Raises NotFound."""
    _, scan = _scanned(context, slug)
    if not scan:
        return []
    return [MappedFile(*row) for row in mapped_files(context.db, scan, within, _MOST_MAPPED)]
