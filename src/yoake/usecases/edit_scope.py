"""Which changes a person means: those that are safe now, those of one stage of the least-work path, or all to the destination."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from yoake.core.knowledge.base import Knowledge
from yoake.core.values.coordinates import Coordinate, Target
from yoake.core.values.errors import BadInput
from yoake.core.values.journeys import Shape
from yoake.core.values.plans import Plan
from yoake.core.values.results import ScanResult
from yoake.usecases.edit_tasks import taken_of
from yoake.views.alternatives import ways_of_result

NOW = "now"
ALL = "all"


def scope_of(
    when: str, result: ScanResult, targets: Sequence[Target], knowledge: Knowledge, day: date
) -> tuple[frozenset[str] | None, dict[Coordinate, str]]:
    """(keys of findings, None for what is safe now; what manifests are to name). Raises BadInput for a stage that there is not."""
    if when == NOW:
        return None, {}
    plans = [
        way.plan for _, ways in ways_of_result(result, targets, knowledge, day, Shape()) if (way := ways.way("work"))
    ]
    if when == ALL:
        taken = {
            coordinate: release
            for plan in plans
            for stage in plan.stages
            for coordinate, release in taken_of(stage, knowledge).items()
        }
        return frozenset(f.key for f in result.findings), taken
    stages = [stage for plan in plans for stage in plan.stages if str(stage.number) == when]
    if not stages:
        raise BadInput(f"“{when}” is none of now, all and {_numbers(plans)}: --when takes one of them.")
    keys = frozenset(key for stage in stages for key in stage.finding_keys)
    return keys, {coordinate: release for stage in stages for coordinate, release in taken_of(stage, knowledge).items()}


def _numbers(plans: Sequence[Plan]) -> str:
    most = max((len(plan.stages) for plan in plans), default=0)
    return f"the stages 1 to {most}" if most else "a stage, of which there is none here"
