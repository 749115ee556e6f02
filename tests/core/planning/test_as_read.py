"""Some made-up journeys, drawn by chance from a fixed seed, are planned as they were when somebody last read it (``make expected``)."""

from __future__ import annotations

from dataclasses import asdict
from random import Random
from typing import Any

import pytest

from tests.core.planning.world import (
    LAMP,
    NODE,
    PYTHONS,
    ROPE,
    SAIL,
    facts,
    finding,
    journey,
    lifecycle,
    package,
    record,
    world,
)
from tests.expected import differing
from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.models import LineFacts
from yoake.core.planning.alternatives import OBJECTIVES
from yoake.core.planning.compare import find_ways
from yoake.core.planning.problem import Journey
from yoake.core.values.coordinates import Coordinate, Line, Target
from yoake.core.values.findings import Finding
from yoake.core.values.journeys import BroughtSlice, Shape, Surroundings
from yoake.formats.plan_text import conflict_json, refused_json, ways_json

MAST = Coordinate("pkg:npm/mast")
_NAMES = {LAMP: "lamp", ROPE: "rope", SAIL: "sail", MAST: "mast"}
_RELEASES = ("1.0.0", "1.4.0", "2.0.0", "3.0.0", "3.1.0")


def drawn_world(chance: Random, base: Knowledge) -> Knowledge:
    """Packages that need one another and lines of their runtime, some with a policy and ends of support."""
    records, lifecycles = [], []
    for coordinate in _NAMES:
        others = [c for c in _NAMES if c != coordinate and c.type == coordinate.type]
        details = []
        for at, release in enumerate(_RELEASES):
            said: dict[str, Any] = {}
            if coordinate.type == "pypi" and chance.random() < 0.6:
                first = chance.randint(0, 3) + at // 3
                said["runs"] = " ".join(PYTHONS[first : first + chance.randint(2, 5)])
            if coordinate.type == "npm" and chance.random() < 0.4:
                said["runs"] = (
                    f">={chance.choice((14, 16, 18, 20))}" if at > 2 else f"<{chance.choice((18, 20, 22, 24))}"
                )
            if chance.random() < 0.5:
                wanted = {_NAMES[chance.choice(others)]: chance.choice(("<2", ">=2", ">=1.4,<3.1", ">=3"))}
                said["needs" if coordinate.type == "pypi" else "peers"] = wanted
            details.append(facts(release, **said))
        records.append(record(coordinate, details))
        if chance.random() < 0.4:
            ends = [chance.choice((None, "2026-02-01", "2027-06-30", "2029-01-31")) for _ in range(3)]
            kinds = [chance.choice(("current", "long-term")) for _ in range(3)]
            lines = [
                LineFacts(line=f"{n}", kind=k, support_ends=e) for n, k, e in zip((1, 2, 3), kinds, ends, strict=True)
            ]
            lifecycles.append(lifecycle(coordinate, lines, chance.choice(("any", "next-major", "long-term"))))
    return world(base, records, lifecycles)


def drawn_finding(chance: Random, number: int) -> Finding:
    coordinate, at = chance.choice(
        [(PYTHON, line) for line in PYTHONS[1:]] + [(NODE, line) for line in ("18", "20", "22")]
    )
    both = tuple(x for x in PYTHONS if chance.random() < 0.4) if coordinate == PYTHON else ()
    minutes = chance.choice((5, 60, 480, 4000))
    return finding(
        at, minutes, coordinate=coordinate, both=both, state=chance.choice(("now", "hop", "switch")), key=f"f{number}"
    )


def drawn_journey(chance: Random) -> Journey:
    """A trip of one or two runtimes with some packages, changed in one trip of two by what a reader asks for."""
    spans = {PYTHON: (chance.choice(PYTHONS[:3]), chance.choice(PYTHONS[3:]))}
    if chance.random() < 0.4:
        spans[NODE] = (chance.choice(("16", "18")), chance.choice(("20", "22", "24")))
    packages = [
        package(coordinate, chance.choice(_RELEASES[:3]), [("3", "gone")] if chance.random() < 0.2 else ())
        for coordinate in _NAMES
        if chance.random() < 0.7
    ]
    findings = [drawn_finding(chance, n) for n in range(chance.randint(0, 5))]
    shape = Shape()
    if chance.random() < 0.5:
        asked = [Target(PYTHON, Line(chance.choice(PYTHONS[2:5]))), Target(LAMP, Line(chance.choice(("1.0", "2.0"))))]
        pins = tuple(chance.sample(asked, chance.randint(0, 2)))
        avoid = (
            (Target(PYTHON, Line(chance.choice(PYTHONS[2:5]))), Target(LAMP, Line("2.0")))
            if chance.random() < 0.4
            else ()
        )
        order = ((PYTHON, NODE),) if NODE in spans and chance.random() < 0.6 else ()
        out = frozenset((NODE,)) if NODE in spans and not order and chance.random() < 0.4 else frozenset()
        dropped = frozenset((ROPE,)) if chance.random() < 0.2 else frozenset()
        shape = Shape(pins, avoid, order, out, dropped)
    return journey(spans, packages, findings, shape)


def drawn_surroundings(chance: Random) -> Surroundings:
    slices = tuple(
        BroughtSlice(name=f"slice {n}", routes=n + 1, lines=300 * n, findings=(f"f{n}",))
        for n in range(chance.choice((0, 2, 3)))
    )
    return Surroundings(
        known=chance.choice((0.4, 0.9)),
        tests=chance.choice((0, 4)),
        serves=(Coordinate("pkg:pypi/flask"),) if chance.random() < 0.7 else (),
        generated=(".cookiecutter.json",) if chance.random() < 0.3 else (),
        used_by=("quay",) if chance.random() < 0.2 else (),
        slices=slices,
    )


@pytest.mark.parametrize("tens", range(4))
def test_drawn_journeys_are_planned_as_they_were(tens: int, knowledge: Knowledge) -> None:
    said = {}
    for seed in range(10 * tens, 10 * tens + 10):
        chance = Random(seed)  # noqa: S311  a sample, no secret
        held, trip = drawn_world(chance, knowledge), drawn_journey(chance)
        ways = find_ways(trip, held, drawn_surroundings(chance))
        said[f"journey {seed}"] = {
            "packages": [f"{p.coordinate.short} {p.exact}" for p in trip.packages],
            "shape": {key: sorted(map(str, asked)) for key, asked in asdict(trip.shape).items()},
            "ways": ways_json("", ways, list(OBJECTIVES)),
            "refused": refused_json(ways),
            "staying": [str(one) for one in ways.staying],
            "conflict": conflict_json(ways),
        }
    wrong = differing(f"journeys/{10 * tens:02}", said)
    assert not wrong, wrong
