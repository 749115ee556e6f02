"""What the last stage to some lines stands for, as the side of a run."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date

from yoake.core.knowledge.base import Knowledge
from yoake.core.values.coordinates import Coordinate, Target
from yoake.core.values.journeys import Shape
from yoake.core.values.modules import Stated
from yoake.core.values.results import ScanResult
from yoake.core.values.runs import Side
from yoake.usecases.run_sides import old_side, stage_side
from yoake.views.alternatives import ways_of_result


def goal_side(
    label: str,
    result: ScanResult,
    today: Mapping[Coordinate, Stated],
    targets: Sequence[Target],
    knowledge: Knowledge,
    day: date,
    ref: str = "",
    module: str = "",
) -> Side:
    """What the last stage to these lines takes in a module; where no path leads there, these lines alone."""
    named = old_side(label, today, targets, knowledge, ref)
    found = ways_of_result(result, targets, knowledge, day, Shape())
    own = [ways for made, ways in found if module in made.modules] or [ways for _, ways in found]
    ways = [way for one in own if (way := one.way("work"))]
    if not ways or not ways[0].plan.stages:
        return named
    made = stage_side(label, ways[0].plan.stages[-1], knowledge, ref)
    packages = {t.coordinate: t.line for t in targets if t.coordinate not in named.lines}
    return Side(label, {**named.lines, **made.lines}, {**packages, **made.releases}, locked=False, ref=ref)
