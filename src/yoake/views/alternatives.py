"""The ways of an application: from a scan to journeys, searched and compared."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Final

from yoake.context.context import Context
from yoake.core.knowledge.base import Knowledge
from yoake.core.planning.alternatives import Ways
from yoake.core.planning.compare import find_ways
from yoake.core.planning.problem import Journey
from yoake.core.planning.sets import journeys_in, sets_of
from yoake.core.readiness.estimate import needs_work
from yoake.core.values.coordinates import Coordinate, Target, line_key
from yoake.core.values.errors import BadInput, NotFound
from yoake.core.values.findings import Finding
from yoake.core.values.journeys import BroughtSlice, ModuleSet, Shape, Span
from yoake.core.values.results import ScanResult
from yoake.store.applications import Application, list_applications
from yoake.store.scans import StoredScan, findings_of, offered_by, packages_of_scan, requirers, sets_of_scan
from yoake.store.waivers import live_waivers
from yoake.views.slices_left import slices_left

_KEPT: Final = 64  # searches kept at hand; one is a few hundred kilobytes


@dataclass(frozen=True)
class Look:
    """One set of an application with its ways. ``sets``: all sets, for choosing among them."""

    made: ModuleSet
    sets: tuple[ModuleSet, ...]
    ways: Ways


def ways_of_result(
    result: ScanResult,
    targets: Sequence[Target],
    knowledge: Knowledge,
    today: date,
    shape: Shape,
    slices: Mapping[str, Sequence[BroughtSlice]] | None = None,
) -> list[tuple[ModuleSet, Ways]]:
    """The ways of each set of a finished scan. Raises BadInput for a shape that cannot be."""
    check_shape(shape, targets, knowledge)
    found = []
    sets = sets_of(result, targets, knowledge.ecosystems, slices)
    check_stops(shape, [made.spans for made in sets])
    for made in sets:
        packages = [p for p in result.packages if p.module in made.modules]
        findings = [f for f in result.findings if f.module in made.modules and needs_work(f)]
        week = knowledge.effort.days_per_week
        journey = Journey(
            name=made.name,
            spans=made.spans,
            packages=packages,
            findings=findings,
            today=today,
            days_per_week=week,
            shape=shape,
            around=made.around,
            unplaced=made.unplaced,
        )
        found.append((made, find_ways(journey, knowledge, made.around)))
    return found


def check_shape(shape: Shape, targets: Sequence[Target], knowledge: Knowledge) -> None:
    """Raises BadInput for what cannot be asked for."""
    goals = {str(target) for target in targets}
    faults = [
        f"{t} is the destination itself: choose another destination instead." for t in shape.avoid if str(t) in goals
    ]
    faults += [f"{t} cannot be pinned and avoided." for t in shape.pins if t in shape.avoid]
    faults += ["An order names two different coordinates." for first, then in shape.order if first == then]
    faults += [fault for t in (*shape.pins, *shape.avoid) if (fault := _unknown(t, knowledge))]
    if faults:
        raise BadInput(faults[0], tuple(faults))


def check_stops(shape: Shape, spans: Sequence[Mapping[Coordinate, Span]]) -> None:
    """Raises BadInput for a line that is to be stopped at and lies ahead of nobody. ``spans``: those of each set that travels."""
    faults = []
    for target in shape.pins:
        held = [span for each in spans if (span := each.get(target.coordinate)) is not None]
        if held and not any(span.today <= target.line <= span.goal for span in held):
            ways = sorted({f"{span.today} to {span.goal}" for span in held})
            faults.append(f"{target} does not lie on the way, which goes from {' and from '.join(ways)}.")
    if faults:
        raise BadInput(faults[0], tuple(faults))


def _unknown(target: Target, knowledge: Knowledge) -> str:
    """That a line is not known, with the nearest that are; empty when it is."""
    record = knowledge.catalogues.get(target.coordinate)
    known = set(knowledge.lines(target.coordinate))
    known |= (
        {knowledge.line_of(target.coordinate, release) for release in record.releases} if record is not None else set()
    )
    if target.line in known:
        return ""
    if not known:
        return f"Nothing is known of {target.coordinate.short}, so it cannot be pinned or avoided."
    lines = sorted(known, key=line_key)
    return f"{target.coordinate.short} has no line {target.line}. Known lines: {', '.join(lines[-12:])}."


def look_at(
    context: Context, application: Application, scan: StoredScan, set_name: str | None, shape: Shape
) -> Look | None:
    """One set with its ways; None when the scan knows of nothing that travels. Raises NotFound and BadInput."""
    check_shape(shape, application.destination.targets, context.knowledge)
    findings = open_findings(context, application, scan)
    days = application.days_per_week or context.knowledge.effort.days_per_week
    journeys = journeys_in(
        sets_of_scan(context.db, scan.id), packages_of_scan(context.db, scan.id), findings, context.today, days, shape
    )
    if not journeys:
        return None
    chosen = [pair for pair in journeys if set_name is None or pair[0].name == set_name]
    if not chosen:
        raise NotFound(f"There is no set of modules “{set_name}” in {application.name}.")
    made, journey = chosen[0]
    sets = tuple(other for other, _ in journeys)
    around = replace(
        made.around,
        used_by=tuple(a.name for a in users_of(context, application, scan)),
        slices=slices_left(context, application.id, journey.findings) or made.around.slices,
    )
    held = frozenset(f.key for f in journey.findings)
    key = (scan.id, made.name, shape, context.today, days, held, context.knowledge.digest, around)
    if key not in context.searches:
        while len(context.searches) >= _KEPT:
            context.searches.pop(next(iter(context.searches)), None)
        context.searches[key] = find_ways(journey, context.knowledge, around)
    return Look(made, sets, context.searches[key])


def open_findings(context: Context, application: Application, scan: StoredScan) -> list[Finding]:
    """Findings of a scan that are not waived today."""
    live = live_waivers(context.db, application.id, context.today)
    return [f for f in findings_of(context.db, scan.id) if f.key not in live]


def users_of(context: Context, application: Application, scan: StoredScan) -> list[Application]:
    """Applications that require one of the modules of this one, by name."""
    wanted = offered_by(context.db, scan.id)
    found = requirers(context.db, wanted, application.id) if wanted else set()
    return [other for other in list_applications(context.db) if other.id in found] if found else []
