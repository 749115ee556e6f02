"""One application in depth: what its evidence says in all, its source, its history."""

from __future__ import annotations

from dataclasses import dataclass

from yoake.context.context import Context
from yoake.core.values.errors import NotFound
from yoake.core.values.words import CheckSort, SourceKind
from yoake.runner.encodings import normalise
from yoake.store.applications import Application, get_application
from yoake.store.scans import StoredScan, checks_of, latest_scan, scan_history, text_of
from yoake.store.steps import count_open_waived, count_safe_now
from yoake.views.application_rows import ApplicationRow, read_application

_MOST_SCANS = 8


@dataclass(frozen=True, slots=True)
class TallyView:
    """Checks of one sort, in minutes of weight."""

    sort: CheckSort
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

    kind: SourceKind
    location: str
    ref: str
    subfolder: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Evidence:
    """What an application's evidence says in all. Findings, places, packages and files are asked for by themselves.

    ``scan`` numbers the scan it is of, 0 before the first. ``count``: findings; ``gone``: the first titles of ``gone_count``.
    """

    application: ApplicationRow
    source: SourceView
    scan: int
    heading: str
    emphasis: str
    label: str
    seconds: float
    count: int
    gone: list[str]
    gone_count: int
    file_count: int
    tallies: list[TallyView]
    unknowns: dict[str, int]
    scan_notes: list[str]
    faults: list[str]
    history: list[ScanView]


def evidence(context: Context, slug: str) -> Evidence:
    """What the Evidence screen says in all; without a scan it is empty and says so."""
    application, row, scan = read_application(context, slug)
    source = SourceView(
        application.source.kind, application.source.location, application.source.ref, application.source.subfolder
    )
    if scan is None:
        return Evidence(
            application=row,
            source=source,
            scan=0,
            heading="Nothing was scanned yet.",
            emphasis="",
            label="",
            seconds=0.0,
            count=0,
            gone=[],
            gone_count=0,
            file_count=0,
            tallies=[],
            unknowns={},
            scan_notes=[],
            faults=[],
            history=[],
        )
    summary = scan.summary
    heading, emphasis = _heading(context, application, row, scan)
    history = scan_history(context.db, application.id, application.destination.id, _MOST_SCANS)
    return Evidence(
        application=row,
        source=source,
        scan=scan.id,
        heading=heading,
        emphasis=emphasis,
        label=scan.label,
        seconds=scan.seconds,
        count=scan.errors + scan.warnings + scan.notes,
        gone=list(summary.gone),
        gone_count=summary.gone_count,
        file_count=sum(summary.files.values()),
        tallies=[TallyView(sort, t.holds, t.fails, t.unknown) for sort, t in checks_of(context.db, scan.id).items()],
        unknowns=dict(summary.unknowns),
        scan_notes=list(summary.notes),
        faults=list(summary.faults),
        history=[ScanView(*r) for r in history],
    )


def _heading(context: Context, application: Application, row: ApplicationRow, scan: StoredScan) -> tuple[str, str]:
    goal = (
        " on ".join(reversed(row.destination_lines))
        if len(row.destination_lines) == 2
        else ", ".join(row.destination_lines)
    )
    if row.clear is None:
        return f"Not known how far {goal} is.", "Nothing here could be read."
    waived = count_open_waived(context.db, application.id, application.destination.id, context.today)
    work = scan.errors + scan.warnings - waived
    if not work:
        rest = "" if row.known >= 0.8 else f" Only {row.known:.0%} of the checks are known."
        return f"Nothing that is known stands between here and {goal}.", rest.strip()
    things = "one thing stands" if work == 1 else f"{work:,} things stand"
    now = count_safe_now(context.db, application.id, application.destination.id, context.today)
    return (
        f"{things[:1].upper()}{things[1:]} between here and {goal}.",
        f"{now:,} can be changed today, before any version moves." if now else "",
    )


@dataclass(frozen=True, slots=True)
class SourceText:
    """The text of one file as it was scanned."""

    path: str
    text: str
    note: str


def source_text(context: Context, slug: str, path: str) -> SourceText:
    """One file of the newest scan. Raises NotFound when it was not part of it."""
    application = get_application(context.db, slug)
    scan = latest_scan(context.db, application.id, application.destination.id)
    data = text_of(context.db, scan.id, path) if scan is not None else None
    if data is None:
        raise NotFound(f"“{path}” is not among the files that the last scan read.")
    try:
        shown, note = normalise(data)
    except ValueError as error:
        return SourceText(path, "", str(error))
    return SourceText(path, shown.decode("utf-8", "replace").removeprefix("\ufeff"), note)
