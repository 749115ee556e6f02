"""Every sample says above a line what must be found there; every other line must stay silent."""

from __future__ import annotations

from pathlib import Path

import pytest

from yoake.core.knowledge.base import Knowledge
from yoake.core.registered import ECOSYSTEMS
from yoake.core.scan.run import ScanInput, run_scan
from yoake.core.values.coordinates import parse_target
from yoake.core.values.findings import FileResult
from yoake.core.values.modules import Module

SAMPLES = sorted(p for p in (Path(__file__).parent.parent / "samples").iterdir() if p.suffix != ".md")


def expected(text: str) -> set[tuple[int, str, str]]:
    found = set()
    waiting: list[tuple[str, str]] = []
    for number, line in enumerate(text.splitlines(), 1):
        if line.strip().startswith(("#: ", "//: ")):
            kind, symbol = line.strip().split(": ", 1)[1].split(" ", 1)
            waiting.append((kind, symbol))
            continue
        found |= {(number, kind, symbol) for kind, symbol in waiting}
        waiting = []
    return found


@pytest.mark.parametrize("path", SAMPLES, ids=lambda p: p.stem)
def test_a_sample_gives_exactly_the_findings_written_in_it(path: Path, knowledge: Knowledge) -> None:
    text = path.read_text("utf-8")
    start, _, goal = text.splitlines()[0].lstrip("#/:! ").partition("->")
    facts = {path.name: ECOSYSTEMS.read_source(path.name, text.encode())}
    given = ScanInput(
        facts=facts,
        files=[FileResult(path=path.name, state="scanned")],
        modules=[Module(path="", name="sample")],
        destination=[parse_target(t) for t in goal.split()],
        said=[parse_target(t) for t in start.split()],
    )
    result = run_scan(given, knowledge)
    found = {
        (place.line, "guarded" if place.guarded else finding.kind, shown(place.symbol))
        for finding in result.findings
        for place in finding.places
    }
    assert found == {(line, kind, shown(symbol)) for line, kind, symbol in expected(text)}


def shown(symbol: str) -> str:
    """Inherited members are named by the class the code derives from; samples name them by their home."""
    for alias, home in (
        ("unittest.case.TestCase", "TestCase"),
        ("unittest.TestCase", "TestCase"),
        ("django.test.testcases.TransactionTestCase", "TestCase"),
        ("django.test.TestCase", "TestCase"),
        ("builtins.", ""),
    ):
        symbol = symbol.replace(alias, home)
    return symbol
