"""Packages against the stages of the path: which release of each to take where, as windows of rows."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Final

from yoake.context.context import Context
from yoake.context.kit import Kit
from yoake.core.contract.registry import Registry
from yoake.core.planning.choose_release import choose_release
from yoake.core.values.coordinates import Coordinate, Line, Lines, Target
from yoake.core.values.findings import PackageState
from yoake.core.values.plans import Plan, Settled
from yoake.core.values.words import CheckState, Grade
from yoake.store.scans import StoredScan, every_offered, latest_mark, packages_of_scan, sets_of_scan
from yoake.views.application_rows import read_scan

_MOST_NAMED: Final = 300  # packages that the path does not touch, by name; more are found by typing
_MOST_BREAKS: Final = 6


@dataclass(frozen=True, slots=True)
class StageHead:
    """A column of the packages: a stage and its lines."""

    number: int
    title: str
    lines: list[str]


@dataclass(frozen=True, slots=True)
class Cell:
    """The choice for one package at one stage; see ``core.planning.choose_release``."""

    state: str
    take: str
    clean: str
    why: str
    stated: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PackageRow:
    """One package against every stage. ``known``: whether its surfaces are known; ``recorded``: whether its releases are, or it is one of our
    own; ``breaks``: line and first lost symbol.

    ``state`` with its ``grade`` and ``note`` is that of ``release`` on the destination; ``try_on``: the line of its runtime on which that
    release could be tried, empty where it was or cannot be.
    """

    coordinate: str
    name: str
    module: str
    today: str
    wanted: str
    where: str
    direct: bool
    state: CheckState
    note: str
    known: bool
    makeable: bool
    breaks: list[str]
    cells: list[Cell]
    grade: Grade
    release: str
    try_on: str
    recorded: bool

    @property
    def is_apart(self) -> bool:
        """Whether no stage of this path touches it."""
        return bool(self.cells) and all(cell.state == "apart" for cell in self.cells)

    @property
    def speaks(self) -> bool:
        """Whether it asks for something: it fails, moves, or has no release that fits."""
        return self.state == "fails" or any(cell.state in ("none", "change") for cell in self.cells)


@dataclass(frozen=True, slots=True)
class PackageGrid:
    """Packages × stages, those that the manifests ask for first."""

    stages: list[StageHead]
    rows: list[PackageRow]


@dataclass(frozen=True, slots=True, kw_only=True)
class PackageWindow:
    """A window of the packages whose name fits. ``held``: how many the application has in all.

    ``total`` rows are listed, ``direct`` of them are asked for by manifests and stand first, the others stand in lock files only;
    ``quiet`` ones of lock files fit or are not known, and are not listed. Of ``unknown`` ones that manifests ask for no release record is
    known. ``apart``: those that the path does not touch and why,
    some of them by name.
    """

    stages: list[StageHead]
    held: int
    total: int
    direct: int
    quiet: int
    unknown: int
    apart: int
    apart_why: str
    apart_named: list[str]
    offset: int
    rows: list[PackageRow]


def package_window(context: Context, slug: str, text: str, offset: int, limit: int) -> PackageWindow:
    """A window of the packages. With words every package of the lock files is listed. Raises NotFound."""
    application, scan = read_scan(context, slug)
    mark = latest_mark(context.db, application.id, application.destination.id)
    key = (scan.id, mark, context.knowledge.digest, context.today)
    grid: PackageGrid = context.grids.get(key, lambda: package_grid(context, scan))
    shown = [row for row in grid.rows if text.lower() in row.name.lower()]
    touched, apart = ([row for row in shown if row.is_apart is apart] for apart in (False, True))
    direct = [row for row in touched if row.direct]
    locked = [row for row in touched if not row.direct]
    listed = [*direct, *(row for row in locked if text or row.speaks)]
    named = apart if text else [row for row in apart if row.direct]
    return PackageWindow(
        stages=grid.stages,
        held=len(grid.rows),
        total=len(listed),
        direct=len(direct),
        quiet=len(touched) - len(listed),
        unknown=sum(row.direct and not row.recorded for row in grid.rows),
        apart=len(apart),
        apart_why=apart[0].cells[0].why if apart else "",
        apart_named=[row.name for row in named[:_MOST_NAMED]],
        offset=offset,
        rows=listed[offset : offset + limit],
    )


def package_grid(context: Context, scan: StoredScan) -> PackageGrid:
    """Which release of each package to take at each stage of the path."""
    plan = scan.plan
    spans = {coordinate: span for made in sets_of_scan(context.db, scan.id) for coordinate, span in made.spans.items()}
    named = set(spans)
    goals = {coordinate: span.goal for coordinate, span in spans.items()}
    stages = [_head(plan, number, named, context.ecosystems) for number in range(1, len(plan.stages) + 1)]
    states = [{coordinate: line for coordinate, line in stage.state if coordinate in named} for stage in plan.stages]
    settled = [{p.coordinate: p for p in stage.packages} for stage in plan.stages]
    own = every_offered(context.db)
    held = packages_of_scan(context.db, scan.id)
    rows = [_package_row(context, package, goals, states, settled, own) for package in held]
    order = {"fails": 0, "unknown": 1, "holds": 2}
    return PackageGrid(stages, sorted(rows, key=lambda r: (not r.direct, order.get(r.state, 3), r.name)))


def _head(plan: Plan, number: int, named: set[Coordinate], ecosystems: Registry) -> StageHead:
    """A stage by the destination's coordinates; by its packages where only those move."""
    stage = plan.stages[number - 1]
    moved = [m for m in stage.moves if m.coordinate in named] or list(stage.moves)
    moves = [f"{ecosystems.spoken(m.coordinate)} {m.goal}" for m in moved]
    lines = [f"{coordinate.short} {line}" for coordinate, line in stage.state if coordinate in named]
    return StageHead(number, ", ".join(moves), lines)


def _package_row(
    context: Context,
    package: PackageState,
    goals: Lines,
    states: list[dict[Coordinate, Line]],
    settled: list[dict[Coordinate, Settled]],
    own: frozenset[str],
) -> PackageRow:
    """``goals``: the destination's lines; ``states``: lines of its coordinates at each stage; ``settled``: what the path does there with
    what manifests ask for; ``own``: packages of this portfolio."""
    knowledge, coordinate = context.knowledge, package.coordinate
    record = knowledge.catalogues.get(coordinate)
    clean = frozenset(package.clean)
    cells = []
    for at, state in enumerate(states):
        made = choose_release(
            coordinate=coordinate,
            record=record,
            state=state,
            wanted=package.wanted,
            exact=package.exact,
            clean_lines=clean,
            today=context.today,
            knowledge=context.knowledge,
        )
        held = settled[at].get(coordinate)
        newest = f"; newest {made.take}" if made.take and made.take != (held.release if held else package.exact) else ""
        if package.direct and held is not None and held.state != "unknown" and made.state != "apart":
            made = replace(made, state=held.state, take=held.release, why=held.why)
        why = made.why + newest if made.state == "keeps" else made.why
        cells.append(Cell(made.state, made.take, made.clean, why, made.stated))
    return PackageRow(
        coordinate=coordinate,
        name=coordinate.name,
        module=package.module,
        today=package.exact or package.line,
        wanted=package.wanted,
        where=f"{package.file}:{package.line_number}" if package.file else "",
        direct=package.direct,
        state=package.state,
        note=package.note,
        known=coordinate in knowledge.timelines,
        makeable=context.knowledge.ecosystems.is_package(coordinate),
        breaks=[f"{line}: {symbol}" for line, symbol in package.breaks][:_MOST_BREAKS],
        cells=cells,
        grade=package.grade,
        release=package.release or package.exact,
        try_on=_try_on(package, goals, context.kit),
        recorded=record is not None or coordinate in own,
    )


def _try_on(package: PackageState, goals: Lines, kit: Kit) -> str:
    """The line on which a release could be tried whose word so far rests on nothing that was run."""
    coordinate = package.coordinate
    runtime = kit.ecosystems.runtime_of(coordinate)
    line = goals.get(runtime) if runtime is not None else None
    release = package.release or package.exact
    if runtime is None or line is None or not release or package.grade == "tried" or coordinate in goals:
        return ""
    return str(Target(runtime, line)) if kit.clients.of(coordinate).try_release is not None else ""
