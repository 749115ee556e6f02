"""More of one application's evidence: who uses whom, what else changes, and its inventory."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from yoake import __version__
from yoake.context.context import Context
from yoake.core.inventory.bills import Component
from yoake.core.knowledge.delta import delta
from yoake.core.scan.grouping import group
from yoake.core.values.coordinates import Coordinate, parse_coordinate
from yoake.core.values.errors import NotFound
from yoake.formats.cyclonedx import to_cyclonedx
from yoake.store.applications import list_applications
from yoake.store.scans import StoredScan, files_of, latest_scan, packages_of_scan, references_of, used_symbols
from yoake.views.application_rows import read_application, read_scan


@dataclass(frozen=True, slots=True)
class PartView:
    """A folder of the map: what it holds and how much of it fails, in minutes of weight."""

    path: str
    files: int
    lines: int
    cycle: int
    level: int
    fails: float
    holds: float


@dataclass(frozen=True, slots=True)
class EdgeView:
    """One direction of use between two folders."""

    source: str
    target: str
    count: int


@dataclass(frozen=True, slots=True)
class ModuleGraph:
    """Folders, who uses whom, and files that nothing in the project names."""

    parts: list[PartView]
    edges: list[EdgeView]
    lonely: list[str]


@dataclass(frozen=True, slots=True)
class ChangeView:
    """One symbol of a delta."""

    symbol: str
    kind: str
    at: str
    note: str
    used: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class DeltaWindow:
    """A window of what changes on the way, used here or not; ``total`` changes have a name that fits."""

    coordinate: str
    start: str
    goal: str
    removed: int
    deprecated: int
    new: int
    total: int
    offset: int
    rows: list[ChangeView]


@dataclass(frozen=True, slots=True)
class _Delta:
    start: str
    goal: str
    changes: list[ChangeView]


def module_graph(context: Context, slug: str) -> ModuleGraph:
    """Folders of the application (files of a small one) with direction and cycles of use."""
    _, scan = read_scan(context, slug)
    rows = [row for row in files_of(context.db, scan.id) if row["state"] == "scanned" and row["language"] != "manifest"]
    parts, references = group([(row["path"], row["lines"]) for row in rows], references_of(context.db, scan.id))
    names = {part.path for part in parts}
    sums: dict[str, list[float]] = {name: [0.0, 0.0] for name in names}
    for row in rows:
        folder = row["path"] if row["path"] in names else row["path"].rpartition("/")[0]
        while folder not in names and folder:
            folder = folder.rpartition("/")[0]
        if folder in sums:
            sums[folder][0] += row["fails"]
            sums[folder][1] += row["holds"]
    return ModuleGraph(
        [PartView(p.path, p.files, p.lines, p.cycle, p.level, *sums[p.path]) for p in parts],
        [EdgeView(r.source, r.target, r.count) for r in references],
        [row["path"] for row in rows if row["lonely"]],
    )


def delta_window(context: Context, slug: str, named: str, text: str, offset: int, limit: int) -> DeltaWindow:
    """What changes in one coordinate between today and the destination: what goes first, then what is new. Raises NotFound."""
    _, scan = read_scan(context, slug)
    asked = context.knowledge.ecosystems.canonical(parse_coordinate(named))
    key = (scan.id, scan.plan_version, asked, context.knowledge.digest)
    whole: _Delta = context.deltas.get(key, lambda: _delta(context, scan, asked))
    fitting = [change for change in whole.changes if text.lower() in change.symbol.lower()]
    gone, deprecated, new = (sum(c.kind == kind for c in whole.changes) for kind in ("removed", "deprecated", "new"))
    rows = fitting[offset : offset + limit]
    return DeltaWindow(
        coordinate=asked,
        start=whole.start,
        goal=whole.goal,
        removed=gone,
        deprecated=deprecated,
        new=new,
        total=len(fitting),
        offset=offset,
        rows=rows,
    )


def _delta(context: Context, scan: StoredScan, coordinate: Coordinate) -> _Delta:
    plan = scan.plan
    start = dict(plan.today).get(coordinate)
    goal = next((m.goal for s in reversed(plan.stages) for m in s.moves if m.coordinate == coordinate), None)
    timeline = context.knowledge.timelines.get(coordinate)
    if start is None or goal is None or timeline is None:
        raise NotFound(
            f"“{coordinate.short}” does not move on the path of this application, or its surfaces are not known."
        )
    used = used_symbols(context.db, scan.id, coordinate)
    owner = context.knowledge.ecosystems.of(coordinate)
    shown = owner.style.as_written if owner is not None else None
    changes = [ChangeView(c.symbol, c.kind, c.at, c.note, c.used) for c in delta(timeline, start, goal, used, shown)]
    return _Delta(start, goal, sorted(changes, key=lambda c: c.kind == "new"))


def portfolio_inventory(context: Context) -> dict[str, Any]:
    """The inventories of all newest scans as one CycloneDX document: each package and release once."""
    held: dict[tuple[str, str], Component] = {}
    for application in list_applications(context.db):
        scan = latest_scan(context.db, application.id, application.destination.id)
        for p in packages_of_scan(context.db, scan.id) if scan is not None else ():
            made = Component(p.coordinate, p.exact, p.direct, p.wanted, f"{application.slug}/{p.file}")
            known = held.get((made.coordinate, made.version))
            if known is None or (made.direct and not known.direct):
                held[made.coordinate, made.version] = made
    return to_cyclonedx("portfolio", context.stamp, list(held.values()), __version__)


def inventory_document(context: Context, slug: str) -> dict[str, Any]:
    """The inventory of the newest scan as CycloneDX."""
    application, _, scan = read_application(context, slug)
    if scan is None:
        raise NotFound(f"“{slug}” was not scanned yet.")
    packages = packages_of_scan(context.db, scan.id)
    components = [Component(p.coordinate, p.exact, p.direct, p.wanted, p.file) for p in packages]
    return to_cyclonedx(application.name, scan.label, components, __version__)
