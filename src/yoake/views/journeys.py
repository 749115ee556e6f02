"""From what a scan kept to journeys: which sets of modules travel, with which packages and open findings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date

from yoake.core.knowledge.base import Knowledge
from yoake.core.planning.adopted_plan import follow
from yoake.core.planning.compare import find_ways, least_work
from yoake.core.planning.plan import combined
from yoake.core.planning.problem import Journey, pose_problem
from yoake.core.planning.sets import journeys_in
from yoake.core.values.findings import Finding, PackageState
from yoake.core.values.journeys import STAYING, ModuleSet
from yoake.core.values.plans import Plan
from yoake.store.adopted_paths import AdoptedPath

_TRIES = 6_000  # a scan keeps a plan at once; the Path screen searches with patience


def plan_in(
    sets: Sequence[ModuleSet],
    packages: Sequence[PackageState],
    findings: Sequence[Finding],
    knowledge: Knowledge,
    today: date,
    days_per_week: float,
    adopted: Mapping[str, AdoptedPath] | None = None,
) -> Plan:
    """The plan over all sets of a scan: what was adopted as far as it can still be walked, else the one of least work."""
    plans = []
    for made, journey in journeys_in(sets, packages, findings, today, days_per_week):
        path = (adopted or {}).get(made.name)
        kept = _kept(made, journey, path, knowledge) if path is not None and path.choice not in STAYING else None
        plans.append((made.name, kept or least_work(journey, knowledge, _TRIES)))
    return combined(plans) if plans else Plan()


def _kept(made: ModuleSet, journey: Journey, path: AdoptedPath, knowledge: Knowledge) -> Plan | None:
    """What is left of an adopted path; None when it cannot be walked any more."""
    shaped = replace(journey, shape=path.shape)
    if not any(stage.title for stage in path.plan.stages):
        return follow(pose_problem(shaped, knowledge), path.plan).plan
    ways = find_ways(shaped, knowledge, made.around, _TRIES)
    way = ways.way(path.choice)
    return follow(ways.problem, path.plan, titled=way.plan if way is not None else None).plan
