"""An ecosystem is one folder: a made-up one is scanned and planned by the engine as it is, and the engine names none."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest

from tests import engine_words, made_up
from yoake.core.contract.registry import Registry
from yoake.core.inventory.assemble import assemble, is_inventory_file
from yoake.core.inventory.mentions import find_mentions
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.merge import merge
from yoake.core.knowledge.models import Catalogue, ReleaseFacts
from yoake.core.planning.compare import find_ways
from yoake.core.planning.problem import Journey
from yoake.core.planning.sets import sets_of
from yoake.core.scan.run import ScanInput, run_scan
from yoake.core.values.coordinates import Coordinate, Line, Target
from yoake.core.values.findings import Checks, FileResult
from yoake.core.values.results import ScanResult
from yoake.core.values.symbols import Surface, SurfaceSymbol

REGISTRY = Registry((made_up.ECOSYSTEM,))
OIL = Coordinate("pkg:lamp/oil")
FILES = {
    "pier.lanproj": b"runtime 1\nneeds oil 1.4\n",
    "Dockerfile": b"FROM harbour/lantern:1-slim\n",
    "pier.lan": b"use wick.trim\nwick.light()\nwick.snuff()\n",
}


@pytest.fixture
def lantern(knowledge: Knowledge) -> Knowledge:
    """Two lines of the runtime: the second has no ``wick.snuff`` any more; and an oil whose newer line runs on it."""

    def surface(line: Line, *names: str) -> Surface:
        symbols = {"wick": SurfaceSymbol(kind="m"), **{f"wick.{name}": SurfaceSymbol(kind="f") for name in names}}
        return Surface(line, f"{line}.0", "lamp", "", symbols)

    timeline = merge(
        made_up.LANTERN, [surface(Line("1"), "trim", "light", "snuff"), surface(Line("2"), "trim", "light")]
    )
    record = Catalogue(
        format=1,
        coordinate=OIL,
        as_of=date(2026, 11, 26),
        how="made up",
        releases=("1.4", "2.0"),
        details=(ReleaseFacts(release="1.4", runs="1"), ReleaseFacts(release="2.0", runs="1+")),
    )
    timelines = {made_up.LANTERN: timeline}
    records = {OIL: record}
    return replace(
        knowledge, ecosystems=REGISTRY, timelines=timelines, catalogues=records, lifecycles={}, heads={}, rule_files={}
    )


def scanned(knowledge: Knowledge, *texts: str) -> ScanResult:
    inventory = {path: data for path, data in FILES.items() if is_inventory_file(path, REGISTRY)}
    facts = {p: REGISTRY.read_source(p, data) for p, data in FILES.items() if REGISTRY.source_reader(p)}
    modules = assemble(inventory, "pier", REGISTRY, facts)
    mentions = [
        mention
        for path in texts or ("README.md",)
        for mention in find_mentions(path, "lit by Lantern 1\n", [made_up.LANTERN], REGISTRY)
    ]
    files = [FileResult(path=path, state="scanned", language="Lantern", lines=3) for path in facts]
    return run_scan(
        ScanInput(
            facts=facts,
            files=files,
            modules=modules,
            destination=(Target(made_up.LANTERN, Line("2")),),
            mentions=mentions,
        ),
        knowledge,
    )


def test_a_file_is_chosen_by_a_glob_that_no_list_of_names_holds() -> None:
    assert is_inventory_file("quay/pier.lanproj", REGISTRY)
    assert not is_inventory_file("quay/pyproject.toml", REGISTRY)


def test_what_the_next_line_lacks_is_found_and_what_it_has_holds(lantern: Knowledge) -> None:
    found = {(f.kind, f.symbol): f for f in scanned(lantern).findings}
    assert found["removed", "wick.snuff"].bites_at == "2"
    assert [(p.file, p.line) for p in found["removed", "wick.snuff"].places] == [("pier.lan", 3)]
    assert not [key for key in found if "trim" in key[1]]


def test_pins_containers_packages_and_prose_speak_for_it_too(lantern: Knowledge) -> None:
    result = scanned(lantern)
    found = {(f.kind, f.title) for f in result.findings}
    assert ("toolchain", "pier.lanproj names Lantern 1") in found
    assert ("toolchain", "Dockerfile names Lantern 1") in found
    assert ("leftover", "Lantern 1 is still named in 1 text") in found
    both = {f.title for f in scanned(lantern, "README.md", "HACKING.md").findings}
    assert "Lantern 1 is still named in 2 texts" in both
    assert [(p.coordinate, p.state, p.note) for p in result.packages] == [
        (OIL, "fails", "oil 1.4 does not run on Lantern 2")
    ]


def test_a_path_takes_the_package_along_when_the_runtime_moves(lantern: Knowledge) -> None:
    result = scanned(lantern)
    made = sets_of(result, (Target(made_up.LANTERN, Line("2")),), REGISTRY)[0]
    unchecked = sets_of(replace(result, checks=Checks()), (Target(made_up.LANTERN, Line("2")),), REGISTRY)[0]
    assert unchecked.around.known is None
    assert made.around.known is not None
    journey = Journey(
        name=made.name,
        spans=made.spans,
        packages=result.packages,
        findings=result.findings,
        today=date(2026, 11, 26),
        days_per_week=2.0,
    )
    way = find_ways(journey, lantern, made.around).ways[0]
    end = dict(way.plan.stages[-1].state)
    assert (end[made_up.LANTERN], end[OIL]) == ("2", "2.0")


def test_what_no_ecosystem_answers_for_is_not_known_and_never_taken_for_another(lantern: Knowledge) -> None:
    stranger = Coordinate("pkg:gem/rails")
    assert REGISTRY.language_of(stranger) == ""
    assert REGISTRY.runtime_of(stranger) is None
    assert REGISTRY.lowest_line(stranger, ">=1", [Line("1.0")]) is None
    with pytest.raises(ValueError, match="nothing here reads"):
        REGISTRY.read_source("a.py", b"import wick\n")


def test_the_engine_names_no_ecosystem_and_the_check_would_see_it() -> None:
    assert engine_words.places() == []
    assert list(engine_words.named(engine_words.CORE / "ecosystems" / "python" / "names.py"))
