"""From what a scan kept to journeys: which sets of modules travel, with which packages and open findings."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, replace
from datetime import date
from typing import Any, Final

from yoake.core.knowledge.base import Knowledge
from yoake.core.planning.adopted_plan import follow
from yoake.core.planning.alternatives import find_ways, least_work
from yoake.core.planning.plan import combined
from yoake.core.planning.problem import Journey, Shape, pose_problem
from yoake.core.planning.sets import ModuleSet
from yoake.core.planning.strategies import Surroundings
from yoake.core.readiness.estimate import needs_work
from yoake.core.scan.judge import Span
from yoake.core.values.coordinates import parse_target
from yoake.core.values.effort import Effort
from yoake.core.values.errors import TooLarge
from yoake.core.values.findings import Finding, PackageState
from yoake.core.values.plans import Plan, plan_from_json

STAYING: Final = ("hold", "retire", "rework-first")
"""Strategies that do not travel."""

_LEFT_OUT: Final = "packages that the destination does not name were left out of this plan: with them there are too many combinations to search"
_TRIES = 6_000  # a scan keeps a plan at once; the Path screen searches with patience


def sets_to_json(sets: Iterable[ModuleSet]) -> list[dict[str, Any]]:
    """What a scan keeps of its sets."""
    return [
        {
            "name": s.name,
            "modules": list(s.modules),
            "spans": {purl: [span.today, span.goal] for purl, span in s.spans.items()},
            "around": asdict(s.around),
        }
        for s in sets
    ]


def sets_from_json(rows: Iterable[Mapping[str, Any]]) -> list[ModuleSet]:
    """Read back what a scan kept."""
    return [
        ModuleSet(
            row["name"],
            tuple(row["modules"]),
            {purl: Span(*pair) for purl, pair in row["spans"].items()},
            _around(row["around"]),
        )
        for row in rows
    ]


def _around(row: Mapping[str, Any]) -> Surroundings:
    lists = (tuple(row[name]) for name in ("serves", "generated", "used_by"))
    return Surroundings(row["known"], row["tests"], *lists)


def packages_of(packages: Iterable[Mapping[str, Any]], modules: Sequence[str]) -> list[PackageState]:
    """Packages of some modules, as a scan kept them."""
    found = []
    for row in packages:
        if row["module"] in modules:
            breaks = tuple((line, symbol) for line, symbol in row["breaks"])
            found.append(PackageState(**{**row, "clean": tuple(row["clean"]), "breaks": breaks}))
    return found


def journeys_in(
    detail: Mapping[str, Any],
    packages: Sequence[Mapping[str, Any]],
    findings: Sequence[Finding],
    today: date,
    days_per_week: float,
    shape: Shape | None = None,
) -> list[tuple[ModuleSet, Journey]]:
    """One journey for each set. ``findings``: those of the scan that are not waived."""
    found = []
    for made in sets_from_json(detail.get("sets", ())):
        own = [f for f in findings if f.module in made.modules and needs_work(f)]
        held = packages_of(packages, made.modules)
        found.append((made, Journey(made.name, made.spans, held, own, today, days_per_week, shape or Shape())))
    return found


def shape_to_json(shape: Shape) -> dict[str, Any]:
    """The stored form of a shape."""
    return {
        "pins": [str(t) for t in shape.pins],
        "avoid": [str(t) for t in shape.avoid],
        "order": [list(pair) for pair in shape.order],
        "out": sorted(shape.out),
        "dropped": sorted(shape.dropped),
    }


def shape_from_json(body: Mapping[str, Any]) -> Shape:
    """Read back a stored shape."""
    return Shape(
        tuple(parse_target(t) for t in body["pins"]),
        tuple(parse_target(t) for t in body["avoid"]),
        tuple((a, b) for a, b in body["order"]),
        frozenset(body["out"]),
        frozenset(body["dropped"]),
    )


def plan_in(
    detail: Mapping[str, Any],
    packages: Sequence[Mapping[str, Any]],
    findings: Sequence[Finding],
    knowledge: Knowledge,
    today: date,
    days_per_week: float,
    adopted: Mapping[str, Mapping[str, Any]] | None = None,
) -> Plan:
    """The plan over all sets of a scan: what was adopted as far as it can still be walked, else the one of least work."""
    plans = []
    for made, journey in journeys_in(detail, packages, findings, today, days_per_week):
        row = (adopted or {}).get(made.name)
        kept = _kept(made, journey, row, knowledge) if row is not None and row["choice"] not in STAYING else None
        plans.append((made.name, kept or _least_work(journey, knowledge)))
    return combined(plans) if plans else Plan((), (), Effort(0, 0), (), Effort(0, 0))


def _least_work(journey: Journey, knowledge: Knowledge) -> Plan:
    """The plan of least work; where there are too many ways to search, one that leaves packages out and says so."""
    try:
        return least_work(journey, knowledge, _TRIES)
    except TooLarge:
        try:
            plan = least_work(replace(journey, packages=()), knowledge, _TRIES)
        except TooLarge as error:
            return Plan((), (), Effort(0, 0), (), Effort(0, 0), (str(error),))
    stages = tuple(replace(stage, notes=(*stage.notes, _LEFT_OUT)) for stage in plan.stages[:1])
    return replace(plan, stages=(*stages, *plan.stages[1:]))


def _kept(made: ModuleSet, journey: Journey, row: Mapping[str, Any], knowledge: Knowledge) -> Plan | None:
    """What is left of an adopted path; None when it cannot be walked any more."""
    stored = plan_from_json(json.loads(row["plan"]))
    shaped = replace(journey, shape=shape_from_json(json.loads(row["shape"])))
    if not any(stage.title for stage in stored.stages):
        return follow(pose_problem(shaped, knowledge), stored).plan
    ways = find_ways(shaped, knowledge, made.around, _TRIES)
    way = ways.way(row["choice"])
    return follow(ways.problem, stored, titled=way.plan if way is not None else None).plan
