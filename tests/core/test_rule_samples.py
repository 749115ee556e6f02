"""Every rule about a use or a text, on its own samples: it speaks on each faulty one, and on no fine one."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from yoake.core.knowledge.models import Rule, RuleFile, laid_out
from yoake.core.registered import ECOSYSTEMS
from yoake.core.scan.run import ScanInput, run_scan
from yoake.core.values.coordinates import Coordinate, Line, Target, line_key
from yoake.core.values.findings import Finding
from yoake.core.values.modules import Module
from yoake.shipped import KIT

KNOWLEDGE = KIT.knowledge()
_NAMES = {"pypi": "sample.py", "npm": "sample.tsx", "generic": "sample.py", "maven": "Sample.java"}


def samples() -> Iterator[tuple[RuleFile, Rule, str, bool, str]]:
    """(file, rule, sample, whether it is faulty, name) of every rule that has samples."""
    for file in KNOWLEDGE.rule_files.values():
        for rule in file.rules:
            for n, text in enumerate(rule.faulty):
                yield file, rule, text, True, f"{rule.id}-faulty-{n}"
            for n, text in enumerate(rule.fine):
                yield file, rule, text, False, f"{rule.id}-fine-{n}"


def found_in(file: RuleFile, rule: Rule, text: str) -> set[str]:
    """Subjects of what a scan finds in a sample between the line before the rule's and its own."""
    return {f.symbol for f in findings_in(file, rule, text)}


def findings_in(file: RuleFile, rule: Rule, text: str) -> list[Finding]:
    """What a scan finds in a sample between the line before the rule's and its own."""
    coordinate = Coordinate(file.coordinate)
    at = rule.at or rule.deprecated
    known = KNOWLEDGE.lines(coordinate)
    lines = [line for line in known if at is None or line_key(line) < line_key(at)]
    today, goal = (lines[-1] if lines else Line("0")), at or known[-1]
    if (
        at is None
    ):  # a name, whose line the surfaces tell: over all lines but the first, which may be another language nearly
        today = known[1]
    texts = sample_files(file, rule, text)
    sources = {
        path: ECOSYSTEMS.read_source(path, body.encode())
        for path, body in texts.items()
        if ECOSYSTEMS.language_of_file(path) is not None
    }
    module = Module(path="", name="sample")
    given = ScanInput(
        facts=sources,
        files=[],
        modules=[module],
        destination=(Target(coordinate, Line(goal)),),
        said=(Target(coordinate, today),),
        texts=texts if rule.text is not None else {},
    )
    return run_scan(given, KNOWLEDGE).findings


def sample_files(file: RuleFile, rule: Rule, text: str) -> dict[str, str]:
    """Path → text of a sample, which may name its files."""
    if rule.files:
        path = rule.files[0].replace("*", "a")
    else:
        path = "sample.js" if file.coordinate == "pkg:generic/node" else _NAMES[Coordinate(file.coordinate).type]
    return laid_out(text) or {path: text}


CASES = list(samples())


@pytest.mark.parametrize(("file", "rule", "text", "faulty"), [c[:4] for c in CASES], ids=[c[4] for c in CASES])
def test_a_rule_speaks_on_its_faulty_samples_and_on_no_fine_one(
    file: RuleFile, rule: Rule, text: str, faulty: bool
) -> None:
    found = found_in(file, rule, text)
    shown = {symbol.partition("(")[0] for symbol in found if symbol.endswith("=)")}  # a parameter that a surface shows
    spoken = rule.id in found or bool(set(rule.symbols) & (shown if rule.written is not None else found))
    assert spoken is faulty, found


def test_every_rule_about_a_use_or_a_text_has_samples() -> None:
    without = [r.id for r, _ in KNOWLEDGE.rules_by_id.values() if not r.faulty or not r.fine]
    assert without == []


def test_a_rule_speaks_of_names_of_its_own_language_only() -> None:
    assert KNOWLEDGE.rule_for(Coordinate("pkg:generic/node"), "sys") is not None
    assert KNOWLEDGE.rule_for(Coordinate("pkg:generic/python"), "sys.py3kwarning") is None
