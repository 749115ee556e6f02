"""More of one application's evidence: packages against stages, who uses whom, what else changes, and its inventory."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from yoake import __version__
from yoake.core.coordinates import Coordinate, parse_coordinate
from yoake.core.errors import NotFound
from yoake.core.interchange.cyclonedx import Component, to_cyclonedx
from yoake.core.path.fitting import fit
from yoake.core.path.model import Plan
from yoake.core.scan.grouping import group
from yoake.core.surface.delta import delta
from yoake.store.applications import list_applications
from yoake.store.database import Row
from yoake.store.scans import files_of, latest_scan, packages_of_scan
from yoake.work.office import Office
from yoake.work.reading import read_application, stored_plan

_MOST_CHANGES = 2_000


@dataclass(frozen=True, slots=True)
class StageHead:
    """A column of the packages: a stage and its lines."""

    number: int
    title: str
    lines: list[str]


@dataclass(frozen=True, slots=True)
class Cell:
    """The choice for one package at one stage; see ``core.path.fitting``."""

    state: str
    take: str
    clean: str
    why: str
    stated: bool


@dataclass(frozen=True, slots=True)
class PackageRow:
    """One package against every stage. ``known``: whether its surfaces are known; ``breaks``: line and first lost symbol."""

    coordinate: str
    name: str
    module: str
    today: str
    wanted: str
    where: str
    direct: bool
    state: str
    note: str
    known: bool
    makeable: bool
    breaks: list[str]
    cells: list[Cell]


@dataclass(frozen=True, slots=True)
class PackageGrid:
    """Packages × stages."""

    stages: list[StageHead]
    rows: list[PackageRow]


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


@dataclass(frozen=True, slots=True)
class DeltaView:
    """What changes on the way, used here or not. ``total`` counts what was left out of ``changes`` too."""

    coordinate: str
    start: str
    goal: str
    total: int
    removed: int
    deprecated: int
    new: int
    changes: list[ChangeView]


def _scan_of(office: Office, slug: str) -> Row:
    _, _, scan = read_application(office, slug)
    if scan is None:
        raise NotFound(f"“{slug}” was not scanned yet.")
    return scan


def package_grid(office: Office, slug: str) -> PackageGrid:
    """Which release of each package to take at each stage of the path."""
    scan = _scan_of(office, slug)
    detail, plan = json.loads(scan["detail"]), stored_plan(scan)
    named = {purl for made in detail.get("sets", ()) for purl in made["spans"]}
    stages = [_head(plan, number, named) for number in range(1, len(plan.stages) + 1)]
    states = [{purl: line for purl, line in stage.state if purl in named} for stage in plan.stages]
    taken = [dict(stage.releases) for stage in plan.stages]
    lines = [dict(stage.state) for stage in plan.stages]
    rows = [_package_row(office, body, states, lines, taken) for body in packages_of_scan(office.db, scan["id"])]
    order = {"fails": 0, "unknown": 1, "holds": 2}
    return PackageGrid(stages, sorted(rows, key=lambda r: (not r.direct, order.get(r.state, 3), r.name)))


def _head(plan: Plan, number: int, named: set[str]) -> StageHead:
    """A stage by the destination's coordinates; by its packages where only those move."""
    stage = plan.stages[number - 1]
    moved = [m for m in stage.moves if m.coordinate in named] or list(stage.moves)
    moves = [f"{Coordinate(m.coordinate).spoken} {m.goal}" for m in moved]
    lines = [f"{Coordinate(purl).short} {line}" for purl, line in stage.state if purl in named]
    return StageHead(number, ", ".join(moves), lines)


def _package_row(
    office: Office,
    body: Mapping[str, Any],
    states: list[dict[str, str]],
    lines: list[dict[str, str]],
    taken: list[dict[str, str]],
) -> PackageRow:
    """``states``: lines of the destination's coordinates at each stage; ``lines`` and ``taken``: what the path does with all."""
    knowledge, coordinate = office.knowledge, Coordinate(body["coordinate"])
    record = knowledge.catalogues.get(coordinate.purl)
    clean = frozenset(body.get("clean", ()))
    cells = []
    for at, state in enumerate(states):
        moved = lines[at].get(coordinate.purl, body["line"]) != body["line"]
        made = fit(coordinate, record, state, body.get("wanted", ""), body.get("exact", ""), clean, office.today)
        if moved and coordinate.purl not in state:
            why = f"the path takes it; newest that fits is {made.take}" if made.take else "the path takes it"
            made = replace(made, state="change", take=taken[at].get(coordinate.purl, made.take), why=why)
        cells.append(Cell(made.state, made.take, made.clean, made.why, made.stated))
    return PackageRow(
        coordinate.purl,
        coordinate.name,
        body["module"],
        body.get("exact") or body["line"],
        body.get("wanted", ""),
        f"{body['file']}:{body['line_number']}" if body["file"] else "",
        body.get("direct", True),
        body["state"],
        body["note"],
        coordinate.purl in knowledge.timelines,
        coordinate.ecosystem in ("pypi", "npm"),
        [f"{line}: {symbol}" for line, symbol in body.get("breaks", [])][:6],
        cells,
    )


def module_graph(office: Office, slug: str) -> ModuleGraph:
    """Folders of the application (files of a small one) with direction and cycles of use."""
    scan = _scan_of(office, slug)
    detail = json.loads(scan["detail"])
    rows = [
        row for row in files_of(office.db, scan["id"]) if row["state"] == "scanned" and row["language"] != "manifest"
    ]
    edges = {(source, target): count for source, target, count in detail.get("references", [])}
    parts, references = group([(row["path"], row["lines"]) for row in rows], edges)
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
        detail.get("lonely", []),
    )


def delta_of(office: Office, slug: str, coordinate: str) -> DeltaView:
    """What changes in one coordinate between today and the destination, and whether this code uses it."""
    scan = _scan_of(office, slug)
    purl = parse_coordinate(coordinate).purl
    plan = stored_plan(scan)
    start = dict(plan.today).get(purl)
    goal = next((m.goal for s in reversed(plan.stages) for m in s.moves if m.coordinate == purl), None)
    timeline = office.knowledge.timelines.get(purl)
    if start is None or goal is None or timeline is None:
        raise NotFound(f"“{coordinate}” does not move on the path of this application, or its surfaces are not known.")
    used = json.loads(scan["detail"]).get("used", {}).get(purl, ())
    found = delta(timeline, start, goal, used)
    removed, deprecated, new = (sum(1 for c in found if c.kind == kind) for kind in ("removed", "deprecated", "new"))
    shown = [ChangeView(c.symbol, c.kind, c.at, c.note, c.used) for c in found if c.kind != "new"]
    fresh = [ChangeView(c.symbol, c.kind, c.at, c.note, c.used) for c in found if c.kind == "new"]
    return DeltaView(purl, start, goal, len(found), removed, deprecated, new, [*shown, *fresh][:_MOST_CHANGES])


def portfolio_inventory(office: Office) -> dict[str, Any]:
    """The inventories of all newest scans as one CycloneDX document: each package and release once."""
    held: dict[tuple[str, str], Component] = {}
    for application in list_applications(office.db):
        scan = latest_scan(office.db, application.id, application.destination.id)
        for p in packages_of_scan(office.db, scan["id"]) if scan is not None else ():
            made = Component(
                p["coordinate"],
                p.get("exact", ""),
                p.get("direct", True),
                p.get("wanted", ""),
                f"{application.slug}/{p['file']}",
            )
            known = held.get((made.purl, made.version))
            if known is None or (made.direct and not known.direct):
                held[made.purl, made.version] = made
    return to_cyclonedx("portfolio", office.stamp, list(held.values()), __version__)


def inventory_document(office: Office, slug: str) -> dict[str, Any]:
    """The inventory of the newest scan as CycloneDX."""
    application, _, scan = read_application(office, slug)
    if scan is None:
        raise NotFound(f"“{slug}” was not scanned yet.")
    packages = packages_of_scan(office.db, scan["id"])
    components = [
        Component(p["coordinate"], p.get("exact", ""), p.get("direct", True), p.get("wanted", ""), p["file"])
        for p in packages
    ]
    return to_cyclonedx(application.name, scan["label"], components, __version__)
