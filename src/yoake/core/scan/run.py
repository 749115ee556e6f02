"""One scan, from facts to findings: pure, and the same for the same input."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterable, Mapping, Sequence, Set
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Final

from yoake.core.inventory.assemble import stated_lines
from yoake.core.scan.brought_back import stated_of, with_dependencies
from yoake.core.scan.companions import Company
from yoake.core.scan.findings import Builder, order
from yoake.core.scan.foreign_code import ForeignChecks, ForeignCode, foreign_code
from yoake.core.scan.infer import infer_line, infer_runtime
from yoake.core.scan.judge import Judge
from yoake.core.scan.leftovers import leftover_findings
from yoake.core.scan.manifests import (
    pins_to_tell,
    rule_hits,
    setting_findings,
    syntax_hits,
    toolchain_findings,
)
from yoake.core.scan.packages import CleanLines, clean_lines, package_findings
from yoake.core.scan.references import file_references
from yoake.core.scan.relative_imports import RelativeImports
from yoake.core.scan.text_rules import text_findings
from yoake.core.scan.usages import Hit, Joiner
from yoake.core.scan.use_rules import UseRules
from yoake.core.values.findings import NO_READER, Checks, FileResult
from yoake.core.values.journeys import Span, spans_of
from yoake.core.values.modules import Mention, Module, Pin, Stated
from yoake.core.values.results import ScanResult

if TYPE_CHECKING:
    from yoake.core.contract.locality import Locality
    from yoake.core.contract.registry import Registry
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.values.coordinates import Coordinate, Target
    from yoake.core.values.facts import FileFacts
    from yoake.core.values.words import CheckState


@dataclass(frozen=True, kw_only=True)
class ScanInput:
    """What a scan looks at. ``said`` are today's lines a person gave; they win over everything read. ``texts``: those files that
    rules about texts ask for."""

    facts: Mapping[str, FileFacts]
    files: Sequence[FileResult]
    modules: Sequence[Module]
    destination: Sequence[Target]
    said: Sequence[Target] = field(default_factory=tuple)
    mentions: Sequence[Mention] = field(default_factory=tuple)
    texts: Mapping[str, str] = field(default_factory=dict)


class _Localities:
    """The project's own files as each language sees them, put together once for all modules."""

    def __init__(self, given: ScanInput, ecosystems: Registry) -> None:
        self._ecosystems = ecosystems
        self._by_language: dict[str, dict[str, FileFacts]] = {e.language: {} for e in ecosystems.ecosystems}
        for path, facts in given.facts.items():
            self._by_language[facts.language][path] = facts
        self._modules = given.modules
        self._made: dict[tuple[str, bool], Locality] = {}
        self._beside: dict[str, RelativeImports] = {}

    def get(self, language: str, *, legacy: bool = False) -> Locality:
        """The locality of a language; ``legacy`` for lines whose imports may be relative without saying so.

        Raises KeyError for a language that no ecosystem has.
        """
        key = (language, legacy)
        if key not in self._made:
            owner = self._ecosystems.of_language(language)
            if owner is None:
                raise KeyError(language)
            self._made[key] = owner.locality(self._by_language[language], self._modules, legacy)
        return self._made[key]

    def beside(self, language: str) -> RelativeImports:
        """What the files of a language take from beside, for a way on which that has to be said from some line on."""
        if language not in self._beside:
            old, new = self.get(language, legacy=True), self.get(language)
            self._beside[language] = RelativeImports(old, new, self._ecosystems)
        return self._beside[language]


def run_scan(given: ScanInput, knowledge: Knowledge) -> ScanResult:
    """Join everything. ``given.destination`` has been checked against the knowledge before."""
    foreign = foreign_code(given.files)
    given = replace(given, modules=foreign.own_modules(given.modules))
    checks = Checks()
    result = ScanResult(
        findings=[],
        checks=checks,
        files=list(given.files),
        modules=list(given.modules),
        today={},
        packages=[],
        notes=[],
    )
    owners = Owners(given.modules)
    owned = _by_module(given.facts, given.modules, owners)
    localities = _Localities(given, knowledge.ecosystems)
    mentions: dict[str, list[Mention]] = {module.path: [] for module in given.modules}
    for mention in given.mentions:
        mentions[owners.of(mention.file)].append(mention)
    texts: dict[str, dict[str, str]] = {module.path: {} for module in given.modules}
    for path, text in given.texts.items():
        texts[owners.of(path)][path] = text
    pins = pins_to_tell(given.modules, owners.of)
    for module in given.modules:
        own = _Own(owned[module.path], mentions[module.path], texts[module.path], pins[module.path])
        _scan_module(
            module=module,
            own=own,
            foreign=foreign,
            localities=localities,
            given=given,
            knowledge=knowledge,
            result=result,
        )
    _count_unread(given, knowledge, checks, owners)
    plain = {e.language for e in knowledge.ecosystems.ecosystems if e.style.plain_names}
    targets = {
        path: _targets(path, facts, localities.get(facts.language), plain=facts.language in plain)
        for path, facts in given.facts.items()
    }
    result.references, result.lonely = file_references(given.facts, targets, knowledge.ecosystems)
    result.findings = order(result.findings)
    return result


def _targets(path: str, facts: FileFacts, locality: Locality, *, plain: bool) -> dict[str, str]:
    """Imported path → file of the project, for everything one file takes from its own project; ``plain``: names count too."""
    found = {}
    for ask in facts.asks:
        if ask.form == "import" or plain:
            target = locality.target_of(ask.path, path)
            if target is not None:
                found[ask.path] = target
    return found


def _by_module(
    facts: Mapping[str, FileFacts], modules: Sequence[Module], owners: Owners
) -> dict[str, dict[str, FileFacts]]:
    owned: dict[str, dict[str, FileFacts]] = {module.path: {} for module in modules}
    for path in sorted(facts):
        owned[owners.of(path)][path] = facts[path]
    return owned


@dataclass(frozen=True, slots=True)
class _Own:
    """What belongs to one module: facts of its files, versions named in texts, texts that rules ask for, and pins it tells of."""

    files: Mapping[str, FileFacts]
    mentions: Sequence[Mention]
    texts: Mapping[str, str]
    pins: Sequence[Pin]


class Owners:
    """Which module a file belongs to."""

    def __init__(self, modules: Sequence[Module]) -> None:
        self._known = frozenset(module.path for module in modules)
        self._first = modules[0].path if modules else ""

    def of(self, path: str) -> str:
        """Path of the module: the nearest above the file, else the first."""
        folder = path
        while folder:
            folder = folder.rpartition("/")[0]
            if folder in self._known:
                return folder
        return self._first


def _scan_module(
    module: Module,
    own: _Own,
    foreign: ForeignCode,
    localities: _Localities,
    given: ScanInput,
    knowledge: Knowledge,
    result: ScanResult,
) -> None:
    files = own.files
    written = {path: facts for path, facts in files.items() if path not in foreign.roles}
    today = today_of(module, written or files, localities, given, knowledge)
    result.today[module.path] = today
    spans = spans_of(today, given.destination)
    company = _company(module, today, spans, given, knowledge, result)
    reading = _Reading(module, files, spans, localities, given, knowledge)
    builder = Builder(knowledge, spans, module.path)
    hits: list[Hit] = []
    aside = ForeignChecks(foreign)
    for path, facts in files.items():
        found = reading.hits(path, facts)
        if found is None:
            continue
        if path in foreign.roles:
            aside.see(path, [_check_of(hit) for hit in found])
        else:
            _count_usages(path, module.path, found, result.checks, knowledge.effort.weights.usage)
        hits.extend(found)
    for coordinate in reading.reachable:
        known = {hit.verdict.cause or hit.verdict.symbol for hit in hits if hit.verdict.coordinate == coordinate}
        result.used[coordinate] = sorted(known | set(result.used.get(coordinate, ())))
    aside.add_to(result.checks, module.path, knowledge.effort.weights.usage)
    told = foreign.told_apart(builder.from_hits(hits))
    result.findings.extend(told)
    result.findings.extend(foreign.findings(told, builder, knowledge))
    result.findings.extend(toolchain_findings(module, own.pins, builder, knowledge, result.checks))
    result.findings.extend(text_findings(own.texts, builder, knowledge, result.checks))
    result.findings.extend(setting_findings(files, builder, knowledge, result.checks))
    result.findings.extend(leftover_findings(module, builder, knowledge, own.mentions))
    clean = _clean_lines(module, files, localities, today, knowledge)
    for state, finding in package_findings(
        module=module,
        stated=today,
        builder=builder,
        knowledge=knowledge,
        checks=result.checks,
        company=company,
        clean=clean,
    ):
        result.packages.append(state)
        result.findings.extend([finding] if finding is not None else [])


def _company(
    module: Module,
    today: dict[Coordinate, Stated],
    spans: dict[Coordinate, Span],
    given: ScanInput,
    knowledge: Knowledge,
    result: ScanResult,
) -> Company:
    """What moves along with the destination, put into ``today`` and ``spans``; notes of that and of what is past it already."""
    for target in given.destination:
        span = spans.get(target.coordinate)
        if span is not None and span.goal < span.today:
            result.notes.append(
                f"{module.name} is on {target.coordinate.short} {span.today} already, past {span.goal}."
            )
    company = Company(spans, knowledge)
    for companion in company.gather(today, module.requirements).values():
        asked = next(r for r in module.requirements if r.coordinate == companion.coordinate)
        today.setdefault(
            companion.coordinate,
            Stated(
                coordinate=companion.coordinate,
                line=companion.today,
                how="range",
                file=asked.file,
                line_number=asked.line,
            ),
        )
        if companion.goal:
            spans[companion.coordinate] = Span(companion.today, companion.goal)
    result.notes.extend(_along_words(module, company, knowledge))
    return company


class _Reading:
    """What the files of one module hit on the way. ``reachable``: the coordinates that travel and whose names are known."""

    def __init__(
        self,
        module: Module,
        files: Mapping[str, FileFacts],
        spans: Mapping[Coordinate, Span],
        localities: _Localities,
        given: ScanInput,
        knowledge: Knowledge,
    ) -> None:
        self.knowledge = knowledge
        self.reachable = {p: s for p, s in spans.items() if p in knowledge.timelines}
        ruled = {p: s for p, s in spans.items() if p in knowledge.rule_files}
        self._joiners = _joiners(files, localities, knowledge, self.reachable, {*self.reachable, *ruled})
        self._rules = {language: UseRules(knowledge, ruled, language) for language in self._joiners}
        self._stated = stated_of(module, given.modules)
        self._changed = _changed_localities(self._joiners, localities, self.reachable, knowledge)

    def hits(self, path: str, facts: FileFacts) -> list[Hit] | None:
        """The hits of one file; None for a language in which nothing travels."""
        joiner, spans, knowledge = self._joiners.get(facts.language), self.reachable, self.knowledge
        if joiner is None:
            return None
        found = list(with_dependencies(rule_hits(joiner.hits(path, facts), knowledge, spans), self._stated, knowledge))
        found.extend(syntax_hits(path, facts, knowledge, spans))
        if facts.language in self._changed:
            found.extend(self._changed[facts.language].hits(path, facts, knowledge, spans))
        lost = {hit.position for hit in found if hit.verdict.state == "fails"}
        warned = {hit.position for hit in found if hit.verdict.state == "deprecated"}
        # what a surface shows needs no rule: the name is gone, or its parameter
        spoken = self._rules[facts.language].hits(path, facts, joiner)
        found.extend(
            h for h in spoken if h.position not in lost and (h.verdict.state == "fails" or h.position not in warned)
        )
        return found


def _along_words(module: Module, company: Company, knowledge: Knowledge) -> list[str]:
    """A note on the packages that move along, where some do."""
    moved = [f"{knowledge.spoken(c.coordinate)} from {c.today} to {c.goal}" for c in company.moving.values() if c.goal]
    return (
        [f"{module.name}: what moves along with the destination was looked at as well: {', '.join(moved)}."]
        if moved
        else []
    )


def _clean_lines(
    module: Module,
    files: Mapping[str, FileFacts],
    localities: _Localities,
    today: Mapping[Coordinate, Stated],
    knowledge: Knowledge,
) -> dict[Coordinate, CleanLines]:
    """For each direct package that Yoake knows: the lines on which this code finds everything it uses of it."""
    direct = {r.coordinate for r in module.requirements} & set(knowledge.timelines) & set(today)
    owners = {
        (knowledge.language_of(coordinate), top): coordinate
        for coordinate in sorted(direct, reverse=True)
        for top in knowledge.top_levels(coordinate)
    }
    if not owners:
        return {}
    used: dict[Coordinate, set[str]] = {coordinate: set() for coordinate in direct}
    for path, facts in files.items():
        locality = localities.get(facts.language)
        language = knowledge.ecosystems.of_language(facts.language)
        calls = language is not None and language.style.calls
        for ask in facts.asks:
            if ask.guards or ask.form in ("string", "builtin", "inherited", "syntax"):
                continue
            resolved = locality.resolve(ask.path, path)
            owner = owners.get((facts.language, resolved.path.split(".", 1)[0])) if resolved is not None else None
            if owner is not None and resolved is not None:
                plain = resolved.path if calls else resolved.path.replace("()", "")
                used[owner].add(plain)
    return {
        coordinate: clean_lines(knowledge.timelines[coordinate], paths, today[coordinate].line)
        for coordinate, paths in used.items()
        if paths
    }


def _joiners(
    files: Mapping[str, FileFacts],
    localities: _Localities,
    knowledge: Knowledge,
    reachable: Mapping[Coordinate, Span],
    asked: Collection[Coordinate],
) -> dict[str, Joiner]:
    """One joiner for each language of the module that some coordinate of the destination speaks. ``asked``: those coordinates."""
    spoken = {facts.language for facts in files.values()} & {knowledge.language_of(coordinate) for coordinate in asked}
    made = {}
    for language in spoken:
        owner = knowledge.ecosystems.of_language(language)
        runtime = reachable.get(owner.runtime) if owner is not None else None
        legacy = owner is not None and runtime is not None and owner.is_legacy(runtime.today)
        made[language] = Joiner(
            localities.get(language, legacy=legacy), Judge(knowledge, reachable, language), reachable
        )
    return made


def _changed_localities(
    languages: Iterable[str], localities: _Localities, reachable: Mapping[Coordinate, Span], knowledge: Knowledge
) -> dict[str, RelativeImports]:
    """Language → what its files take from beside, where imports are read otherwise at the destination than today."""
    found = {}
    for language in languages:
        owner = knowledge.ecosystems.of_language(language)
        span = reachable.get(owner.runtime) if owner is not None else None
        if owner is not None and span is not None and owner.is_legacy(span.today) and not owner.is_legacy(span.goal):
            found[language] = localities.beside(language)
    return found


def today_of(
    module: Module, files: Mapping[str, FileFacts], localities: _Localities, given: ScanInput, knowledge: Knowledge
) -> dict[Coordinate, Stated]:
    """Today's lines: said by a person, else stated by the module, else inferred from its code."""
    lines = {coordinate: knowledge.lines(coordinate) for coordinate in knowledge.lifecycles}
    goals = {t.coordinate: t.line for t in given.destination}
    wanted = set(goals)
    lines.update({coordinate: knowledge.lines(coordinate) for coordinate in wanted})
    ecosystems = knowledge.ecosystems
    today = stated_lines(module, lines, ecosystems)
    _under_former_names(module, wanted, today, knowledge)
    spoken = {facts.language for facts in files.values()}
    for target in given.destination:
        coordinate = target.coordinate
        if (
            coordinate in today
            or ecosystems.is_runtime(coordinate)
            or ecosystems.of(coordinate) is None
            or not _uses(coordinate, files, knowledge)
        ):
            continue
        inferred = infer_line(
            target.coordinate,
            files,
            localities.get(knowledge.language_of(coordinate)),
            goals.get(coordinate),
            knowledge,
        )
        if inferred:
            today[coordinate] = Stated(coordinate=coordinate, line=inferred, how="inferred")
    for said in given.said:
        coordinate = said.coordinate
        runs = ecosystems.is_runtime(coordinate) and (knowledge.language_of(coordinate) in spoken or not spoken)
        alone = len(given.modules) == 1 and (knowledge.language_of(coordinate) in spoken or not spoken)
        if runs or alone or coordinate in today or _uses(coordinate, files, knowledge):
            today[coordinate] = Stated(coordinate=coordinate, line=said.line, how="said")
    for owner in ecosystems.ecosystems:
        coordinate = owner.runtime
        own = {path: facts for path, facts in files.items() if facts.language == owner.language}
        if coordinate in today or not own or not (owner.always_inferred or coordinate in wanted):
            continue
        project = localities.get(owner.language, legacy=owner.legacy_before is not None)
        inferred = infer_runtime(owner.runtime, own, project, today, goals.get(coordinate), knowledge)
        if inferred:
            today[coordinate] = Stated(coordinate=coordinate, line=inferred, how="inferred")
    return today


def _under_former_names(
    module: Module, wanted: Set[Coordinate], today: dict[Coordinate, Stated], knowledge: Knowledge
) -> None:
    """Today's line of what the destination names and the module still requires under an older name."""
    for coordinate in wanted - today.keys():
        rules = knowledge.rule_files.get(coordinate)
        for former in rules.formerly if rules is not None else ():
            stated = stated_lines(module, {former: knowledge.lines(former)}, knowledge.ecosystems).get(former)
            if stated is not None:
                today.setdefault(coordinate, replace(stated, coordinate=coordinate))


def _uses(coordinate: Coordinate, files: Mapping[str, FileFacts], knowledge: Knowledge) -> bool:
    if coordinate not in knowledge.timelines:
        return False
    tops = frozenset(knowledge.top_levels(coordinate))
    return any(ask.form == "import" and ask.path.split(".", 1)[0] in tops for f in files.values() for ask in f.asks)


_RANKS: Final[tuple[CheckState, ...]] = ("holds", "unknown", "fails")


_RANK: Final[Mapping[CheckState, int]] = {state: rank for rank, state in enumerate(_RANKS)}


def _check_of(hit: Hit) -> CheckState:
    state = hit.verdict.state
    return "holds" if state in ("holds", "deprecated") or hit.guarded else "unknown" if state == "unknown" else "fails"


def _count_usages(path: str, module: str, hits: Sequence[Hit], checks: Checks, weight: float) -> None:
    """One check for a symbol and file, with its worst state; guarded and deprecated hold."""
    worst: dict[str, tuple[int, str]] = {}
    for hit in hits:
        rank = _RANK[_check_of(hit)]
        known = worst.get(hit.verdict.symbol)
        if known is None or rank > known[0]:
            worst[hit.verdict.symbol] = (rank, hit.verdict.detail)
    counted = Counter((rank, detail if rank == 1 else "") for rank, detail in worst.values())
    for (rank, why), times in counted.items():
        checks.add("usage", _RANKS[rank], weight, path, module, why, times=times)


def _count_unread(given: ScanInput, knowledge: Knowledge, checks: Checks, owners: Owners) -> None:
    weight = knowledge.effort.weights.unread_file
    for file in given.files:
        if file.state in ("unread", "failed"):
            why = f"{file.language} not read yet" if file.reason == NO_READER else "files that could not be read"
            checks.add("unread_file", "unknown", weight, file.path, owners.of(file.path), why)
