"""The ways of an application: from a scan to journeys, searched and compared."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from yoake.core.coordinates import Target
from yoake.core.errors import BadInput
from yoake.core.knowledge.base import Knowledge
from yoake.core.path.sets import ModuleSet, sets_of
from yoake.core.path.setting import Journey, Shape
from yoake.core.path.ways import Ways, find_ways
from yoake.core.readiness.effort import needs_work
from yoake.core.scan.model import ScanResult


def ways_of_result(
    result: ScanResult, targets: Sequence[Target], knowledge: Knowledge, today: date, shape: Shape
) -> list[tuple[ModuleSet, Ways]]:
    """The ways of each set of a finished scan. Raises BadInput for a shape that names what is not there."""
    check_shape(shape, targets)
    found = []
    for made in sets_of(result, targets):
        packages = [p for p in result.packages if p.module in made.modules]
        findings = [f for f in result.findings if f.module in made.modules and needs_work(f)]
        week = knowledge.effort.days_per_week
        journey = Journey(made.name, made.spans, packages, findings, today, week, shape)
        found.append((made, find_ways(journey, knowledge, made.around)))
    return found


def check_shape(shape: Shape, targets: Sequence[Target]) -> None:
    """Raises BadInput for what cannot be asked for."""
    goals = {str(target) for target in targets}
    faults = [
        f"{t} is the destination itself: choose another destination instead." for t in shape.avoid if str(t) in goals
    ]
    faults += [f"{t} cannot be pinned and avoided." for t in shape.pins if t in shape.avoid]
    if faults:
        raise BadInput(faults[0], tuple(faults))
