"""One scan, from facts to findings: pure, and the same for the same input."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Final

from yoake.core.coordinates import PYTHON, Coordinate, Target, line_key
from yoake.core.inventory.assemble import stated_lines
from yoake.core.inventory.model import Module, Stated
from yoake.core.knowledge.base import Knowledge
from yoake.core.scan.findings import Builder, order
from yoake.core.scan.infer import infer_line, infer_python
from yoake.core.scan.judge import Judge, Span
from yoake.core.scan.manifests import package_findings, rule_hits, setting_findings, syntax_hits, toolchain_findings
from yoake.core.scan.model import NO_READER, Checks, FileResult, ScanResult
from yoake.core.scan.project import Project
from yoake.core.scan.usages import Hit, Joiner
from yoake.core.syntax.facts import FileFacts

ANALYSER: Final = "1"
"""Part of a scan's identity: raised when the same facts and knowledge give other findings."""


@dataclass(frozen=True)
class ScanInput:
    """What a scan looks at. ``said`` are today's lines a person gave; they win over everything read."""

    facts: Mapping[str, FileFacts]
    files: Sequence[FileResult]
    modules: Sequence[Module]
    destination: Sequence[Target]
    said: Sequence[Target] = field(default_factory=tuple)


def run_scan(given: ScanInput, knowledge: Knowledge) -> ScanResult:
    """Join everything. ``given.destination`` has been checked against the knowledge before."""
    checks = Checks()
    result = ScanResult([], checks, list(given.files), list(given.modules), {}, [], [])
    owned = _by_module(given.facts, given.modules)
    roots = [module.path for module in given.modules] or [""]
    for module in given.modules:
        _scan_module(module, owned[module.path], roots, given, knowledge, result)
    _count_unread(given, knowledge, checks)
    result.findings = order(result.findings)
    return result


def _by_module(facts: Mapping[str, FileFacts], modules: Sequence[Module]) -> dict[str, dict[str, FileFacts]]:
    owned: dict[str, dict[str, FileFacts]] = {module.path: {} for module in modules}
    for path in sorted(facts):
        owned[owner_of(path, modules)][path] = facts[path]
    return owned


def owner_of(path: str, modules: Sequence[Module]) -> str:
    """Path of the module a file belongs to: the nearest above it, else the first."""
    inside = [m.path for m in modules if m.path == "" or path.startswith(f"{m.path}/")]
    return max(inside, key=len, default=modules[0].path if modules else "")


def _scan_module(
    module: Module,
    files: Mapping[str, FileFacts],
    roots: list[str],
    given: ScanInput,
    knowledge: Knowledge,
    result: ScanResult,
) -> None:
    today = today_of(module, files, given, knowledge)
    result.today[module.path] = today
    spans = spans_of(today, given.destination)
    for target in given.destination:
        span = spans.get(target.coordinate.purl)
        if span is not None and line_key(span.goal) < line_key(span.today):
            result.notes.append(
                f"{module.name} is on {target.coordinate.short} {span.today} already, past {span.goal}."
            )
    reachable = {p: s for p, s in spans.items() if p in knowledge.timelines}
    legacy = line_key(spans[PYTHON.purl].today) < (3,) if PYTHON.purl in spans else False
    project = Project(given.facts, roots, implicit_relative=legacy)
    joiner = Joiner(project, Judge(knowledge, reachable), reachable)
    builder = Builder(knowledge, spans, module.path)
    hits: list[Hit] = []
    for path, facts in files.items():
        found = [
            *rule_hits(joiner.hits(path, facts), knowledge, reachable),
            *syntax_hits(path, facts, knowledge, reachable),
        ]
        _count_usages(path, module.path, found, result.checks, knowledge.effort.weights.usage)
        hits.extend(found)
    result.findings.extend(builder.from_hits(hits))
    result.findings.extend(toolchain_findings(module, builder, knowledge, result.checks))
    result.findings.extend(setting_findings(files, builder, knowledge, result.checks))
    for state, finding in package_findings(module, today, builder, knowledge, result.checks):
        result.packages.append(state)
        result.findings.extend([finding] if finding is not None else [])


def spans_of(today: Mapping[str, Stated], destination: Sequence[Target]) -> dict[str, Span]:
    """From where to where, for each coordinate of the destination that the module stands on."""
    return {
        t.coordinate.purl: Span(today[t.coordinate.purl].line, t.line)
        for t in destination
        if t.coordinate.purl in today
    }


def today_of(
    module: Module, files: Mapping[str, FileFacts], given: ScanInput, knowledge: Knowledge
) -> dict[str, Stated]:
    """Today's lines: said by a person, else stated by the module, else inferred from its code."""
    lines = {purl: knowledge.lines(Coordinate(purl)) for purl in {*knowledge.lifecycles, *knowledge.timelines}}
    today = stated_lines(module, lines)
    for target in given.destination:
        purl = target.coordinate.purl
        if purl not in today and purl != PYTHON.purl and _uses(purl, files, knowledge):
            inferred = infer_line(target.coordinate, files, given.facts, knowledge)
            if inferred:
                today[purl] = Stated(purl, inferred, "inferred")
    for said in given.said:
        if said.coordinate == PYTHON or said.coordinate.purl in today or _uses(said.coordinate.purl, files, knowledge):
            today[said.coordinate.purl] = Stated(said.coordinate.purl, said.line, "said")
    if PYTHON.purl not in today and files:
        inferred = infer_python(files, given.facts, today, knowledge)
        if inferred:
            today[PYTHON.purl] = Stated(PYTHON.purl, inferred, "inferred")
    return today


def _uses(purl: str, files: Mapping[str, FileFacts], knowledge: Knowledge) -> bool:
    timeline = knowledge.timelines.get(purl)
    if timeline is None:
        return False
    tops = timeline.top_levels
    return any(ask.form == "import" and ask.path.split(".", 1)[0] in tops for f in files.values() for ask in f.asks)


def _count_usages(path: str, module: str, hits: Sequence[Hit], checks: Checks, weight: float) -> None:
    """One check for a symbol and file, with its worst state; guarded and deprecated hold."""
    worst: dict[str, tuple[int, str]] = {}
    for hit in hits:
        state = hit.verdict.state
        rank = 0 if state in ("holds", "deprecated") or hit.guarded else 1 if state == "unknown" else 2
        known = worst.get(hit.verdict.symbol)
        if known is None or rank > known[0]:
            worst[hit.verdict.symbol] = (rank, hit.verdict.detail)
    for rank, detail in worst.values():
        checks.add("usage", ("holds", "unknown", "fails")[rank], weight, path, module, detail)


def _count_unread(given: ScanInput, knowledge: Knowledge, checks: Checks) -> None:
    weight = knowledge.effort.weights.unread_file
    for file in given.files:
        if file.state in ("unread", "failed"):
            why = f"{file.language} not read yet" if file.reason == NO_READER else "files that could not be read"
            checks.add("unread_file", "unknown", weight, file.path, owner_of(file.path, given.modules), why)
