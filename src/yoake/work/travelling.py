"""From what a scan kept to journeys: which sets of modules travel, with which packages and open findings."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict
from datetime import date
from typing import Any

from yoake.core.knowledge.base import Knowledge
from yoake.core.path.model import Plan
from yoake.core.path.plan import combined
from yoake.core.path.sets import ModuleSet
from yoake.core.path.setting import Journey, Shape
from yoake.core.path.strategies import Surroundings
from yoake.core.path.ways import least_work
from yoake.core.readiness.effort import Effort, needs_work
from yoake.core.scan.judge import Span
from yoake.core.scan.model import Finding, PackageState

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


def packages_of(detail: Mapping[str, Any], modules: Sequence[str]) -> list[PackageState]:
    """Packages of some modules, as a scan kept them."""
    found = []
    for row in detail["packages"]:
        if row["module"] in modules:
            breaks = tuple((line, symbol) for line, symbol in row["breaks"])
            found.append(PackageState(**{**row, "clean": tuple(row["clean"]), "breaks": breaks}))
    return found


def journeys_in(
    detail: Mapping[str, Any],
    findings: Sequence[Finding],
    today: date,
    days_per_week: float,
    shape: Shape | None = None,
) -> list[tuple[ModuleSet, Journey]]:
    """One journey for each set. ``findings``: those of the scan that are not waived."""
    found = []
    for made in sets_from_json(detail.get("sets", ())):
        own = [f for f in findings if f.module in made.modules and needs_work(f)]
        packages = packages_of(detail, made.modules)
        found.append((made, Journey(made.name, made.spans, packages, own, today, days_per_week, shape or Shape())))
    return found


def plan_in(
    detail: Mapping[str, Any], findings: Sequence[Finding], knowledge: Knowledge, today: date, days_per_week: float
) -> Plan:
    """The plan of least work over all sets of a scan."""
    plans = [
        (made.name, least_work(journey, knowledge, _TRIES))
        for made, journey in journeys_in(detail, findings, today, days_per_week)
    ]
    return combined(plans) if plans else Plan((), (), Effort(0, 0), (), Effort(0, 0))
