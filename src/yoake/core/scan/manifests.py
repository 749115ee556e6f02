"""Findings and checks that come from manifests: toolchain pins, package requirements, settings, old syntax."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace

from packaging.specifiers import InvalidSpecifier, SpecifierSet
from packaging.utils import canonicalize_name
from packaging.version import Version

from yoake.core.coordinates import DJANGO, PYTHON, Coordinate, line_key, line_of, pypi
from yoake.core.inventory.model import Module, Pin, Requirement, Stated
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.models import Rule, RuleFile
from yoake.core.scan.findings import Builder, finding_key, place_key
from yoake.core.scan.judge import Span, Verdict
from yoake.core.scan.model import Checks, Finding, PackageState, Place
from yoake.core.scan.usages import Hit
from yoake.core.scan.windows import window_of
from yoake.core.syntax.facts import FileFacts

_SETTINGS_SIGNS = frozenset(
    ("INSTALLED_APPS", "MIDDLEWARE", "MIDDLEWARE_CLASSES", "ROOT_URLCONF", "SECRET_KEY", "DATABASES")
)


def admits(specifier: str, line: str) -> bool:
    """Whether a version range admits some release of a line."""
    try:
        allowed = SpecifierSet(specifier)
    except InvalidSpecifier:
        return True
    return any(allowed.contains(Version(f"{line}{patch}"), prereleases=True) for patch in ("", ".0", ".1", ".99"))


def syntax_hits(
    file: str, facts: FileFacts, knowledge: Knowledge, spans: Mapping[str, Span], guarded: str = ""
) -> Iterator[Hit]:
    """Old syntax that the destination's Python no longer reads."""
    span = spans.get(PYTHON.purl)
    for index, ask in enumerate(facts.asks) if span is not None else ():
        found = knowledge.symbol_rules.get(ask.path) if ask.form == "syntax" else None
        if found is None or span is None or found[0].at is None:
            continue
        at = found[0].at
        if line_key(at) <= line_key(span.goal):
            already = line_key(at) <= line_key(span.today)
            timeline = knowledge.timelines[PYTHON.purl]
            first = next((n for n in timeline.names if line_key(n) >= line_key(at)), at)
            verdict = Verdict("fails", PYTHON.purl, ask.path, ask.path, first, None, "removed", already)
            yield Hit(file, facts, index, verdict, guarded, "certain")


def _single(
    builder: Builder,
    knowledge: Knowledge,
    purl: str,
    kind: str,
    subject: str,
    title: str,
    bites_at: str | None,
    places: list[tuple[str, int, str]],
    *,
    level: str = "error",
    remedy: str = "",
    replacement: str | None = None,
    rule: Rule | None = None,
    evidence: tuple[str, ...] = (),
    confidence: str = "certain",
) -> Finding:
    key = finding_key(builder.module, purl, kind, subject)
    made = tuple(
        Place(place_key(key, file, "", i), file, line, 0, 0, text, kind, "", "", level)
        for i, (file, line, text) in enumerate(places)
    )
    window = window_of(knowledge, builder.spans, purl, subject, replacement, bites_at)
    return Finding(
        key,
        builder.module,
        purl,
        kind,
        subject,
        title,
        bites_at,
        None,
        level,
        confidence,
        replacement,
        remedy,
        bool(rule and rule.mechanical),
        builder.effort(kind, rule),
        window,
        evidence,
        made,
    )


def toolchain_findings(module: Module, builder: Builder, knowledge: Knowledge, checks: Checks) -> Iterator[Finding]:
    """Pins that name a Python older than the destination, or a range that leaves it out."""
    span = builder.spans.get(PYTHON.purl)
    if span is None or line_key(span.goal) <= line_key(span.today):
        return
    groups: dict[str, list[Pin]] = {}
    for pin in module.pins:
        if pin.how == "range":
            stale = not admits(pin.version, span.goal)
        else:
            stale = line_of(PYTHON, pin.version) != span.goal and not _names_goal(module, pin, span.goal)
        if pin.how == "classifier" and stale:
            continue  # a classifier promises; it stops nothing
        weight = knowledge.effort.weights.toolchain
        checks.add("toolchain", "fails" if stale else "holds", weight, pin.file, module.path)
        if stale:
            groups.setdefault(pin.file, []).append(pin)
    for file, pins in groups.items():
        blocks = any(pin.how != "ci" for pin in pins)
        yield _single(
            builder,
            knowledge,
            PYTHON.purl,
            "toolchain",
            f"pin {file}",
            f"{file} names Python {_versions(pins)}",
            span.goal,
            [(p.file, p.line, p.text or p.version) for p in pins],
            level="error" if blocks else "warning",
            remedy=f"Let it name Python {span.goal} when the application moves there.",
            evidence=("read from the file itself",),
        )


def _names_goal(module: Module, pin: Pin, goal: str) -> bool:
    """A file that lists several lines is fine when the destination is among them."""
    return any(
        other.file == pin.file and other.how == pin.how and line_of(PYTHON, other.version) == goal
        for other in module.pins
    )


def _versions(pins: list[Pin]) -> str:
    return ", ".join(dict.fromkeys(pin.version for pin in pins))


def package_findings(
    module: Module, stated: Mapping[str, Stated], builder: Builder, knowledge: Knowledge, checks: Checks
) -> Iterator[tuple[PackageState, Finding | None]]:
    """Each package: does today's release run on the destination's Python; does its pin admit the destination's line?"""
    weight = knowledge.effort.weights.package
    direct = _direct(module)
    for purl in sorted({s for s in stated if s != PYTHON.purl} | {pypi(name).purl for name in direct}):
        wanted = direct.get(Coordinate(purl).name, [])
        said = stated.get(purl)
        state, finding = _package(purl, wanted, said, module, builder, knowledge)
        checks.add(
            "package", state.state, weight, state.file, module.path, f"no release record of {Coordinate(purl).short}"
        )
        yield state, finding


def _direct(module: Module) -> dict[str, list[Requirement]]:
    found: dict[str, list[Requirement]] = {}
    for requirement in module.requirements:
        found.setdefault(canonicalize_name(requirement.name), []).append(requirement)
    return found


def _package(
    purl: str, wanted: list[Requirement], said: Stated | None, module: Module, builder: Builder, knowledge: Knowledge
) -> tuple[PackageState, Finding | None]:
    file, number = (said.file, said.line_number) if said else (wanted[0].file, wanted[0].line) if wanted else ("", 0)
    line, how = (said.line, said.how) if said else ("", "not stated")
    coordinate = Coordinate(purl)
    span = builder.spans.get(purl)
    if span is not None and line_key(span.goal) != line_key(span.today):
        stale = [r for r in wanted if r.specifier and not admits(r.specifier, span.goal)]
        if not stale:
            return PackageState(purl, module.path, line, how, "holds", f"moves to {span.goal}", file, number), None
        finding = _single(
            builder,
            knowledge,
            purl,
            "package",
            f"requirement {coordinate.name}",
            f"{coordinate.name} {stale[0].specifier} keeps {span.goal} out",
            span.goal,
            [(r.file, r.line, f"{r.name}{r.specifier}") for r in stale],
            remedy=f"Let the requirement admit {coordinate.name} {span.goal} at that hop.",
            evidence=("read from the manifest",),
        )
        return PackageState(purl, module.path, line, how, "fails", finding.title, file, number), finding
    return _against_runtime(coordinate, wanted, (line, how, file, number), module, builder, knowledge)


def _against_runtime(
    coordinate: Coordinate,
    wanted: list[Requirement],
    at: tuple[str, str, str, int],
    module: Module,
    builder: Builder,
    knowledge: Knowledge,
) -> tuple[PackageState, Finding | None]:
    """A package the destination does not name: does a release its manifest admits run on the destination's Python?"""
    line, how, file, number = at
    runtime = builder.spans.get(PYTHON.purl)
    record = knowledge.catalogues.get(coordinate.purl)
    if record is None or runtime is None or runtime.goal not in record.fits:
        why = "no release record" if record is None else "no Python in the destination"
        known = "holds" if runtime is None else "unknown"
        return PackageState(coordinate.purl, module.path, line, how, known, why, file, number), None
    fits, built = record.fits[runtime.goal], record.built.get(runtime.goal, ())
    allowed = SpecifierSet(",".join(r.specifier for r in wanted[:1] if r.specifier))
    exact = next((x.release for x in module.locked if canonicalize_name(x.name) == coordinate.name), None)
    usable = [r for r in fits if (r == exact if exact else allowed.contains(Version(r), prereleases=True))]
    compiled = bool(record.releases) and any(record.built.values()) and not any(r in built for r in usable)
    if usable and not compiled:
        return PackageState(
            coordinate.purl, module.path, line, how, "holds", f"{usable[-1]} runs on it", file, number
        ), None
    newest = (built or fits)[-1] if (built or fits) else ""
    shown = exact or str(allowed) or "any release"
    why = "has no wheel for" if usable else "does not run on"
    title = f"{coordinate.name} {shown} {why} Python {runtime.goal}"
    remedy = (
        f"{newest} is the newest release for Python {runtime.goal}."
        if newest
        else "No release fits: replace or drop it."
    )
    finding = _single(
        builder,
        knowledge,
        PYTHON.purl,
        "package",
        f"release {coordinate.name}",
        title,
        _first_unfit(record.fits, runtime, allowed),
        [(file, number, f"{coordinate.name} {shown}")],
        remedy=remedy,
        level="warning" if usable else "error",
        evidence=(f"release record of {coordinate.short}: {record.how}, {record.as_of}",),
        confidence="likely" if usable else "certain",
    )
    return PackageState(coordinate.purl, module.path, line, how, "fails", title, file, number, newest), finding


def _first_unfit(fits: Mapping[str, tuple[str, ...]], runtime: Span, allowed: SpecifierSet) -> str:
    """The first line on the way on which no admitted release fits; the goal when it is the pinned one only."""
    for line in sorted(fits, key=line_key):
        if line_key(runtime.today) < line_key(line) <= line_key(runtime.goal):
            admitted = [r for r in fits[line] if allowed.contains(Version(r), prereleases=True)]
            if not admitted:
                return line
    return runtime.goal


def setting_findings(
    files: Mapping[str, FileFacts], builder: Builder, knowledge: Knowledge, checks: Checks
) -> Iterator[Finding]:
    """Curated rules about settings against the settings files of a module."""
    settings = {p: f for p, f in files.items() if len(_SETTINGS_SIGNS & set(f.assigned)) >= 2}
    if not settings:
        return
    weight = knowledge.effort.weights.setting
    for purl, span in builder.spans.items():
        for rule, source in knowledge.setting_rules(purl):
            found = _set_places(rule, settings)
            state = _setting_state(rule, span)
            if not found or state is None:
                continue
            checks.add("setting", "fails" if state == "fails" else "holds", weight, found[0][0], builder.module)
            yield _setting_finding(rule, source, state, found, purl, builder, knowledge)


def _set_places(rule: Rule, settings: Mapping[str, FileFacts]) -> list[tuple[str, int, str]]:
    if rule.setting:
        return [
            (p, f.assigned[rule.setting], rule.setting)
            for p, f in sorted(settings.items())
            if rule.setting in f.assigned
        ]
    name = rule.absent or ""
    if any(name in facts.assigned for facts in settings.values()):
        return []
    path, facts = min(settings.items(), key=lambda item: item[0])
    return [(path, min(facts.assigned.values(), default=1), f"{name} is not set")]


def _setting_state(rule: Rule, span: Span) -> str | None:
    """fails: it bites on the way; deprecated: it warns on the way; None: it does not matter here."""
    at = line_key(rule.at or "")
    if at <= line_key(span.today):
        return None
    if at <= line_key(span.goal):
        return "fails"
    warned = rule.deprecated is not None and line_key(rule.deprecated) <= line_key(span.goal)
    return "deprecated" if warned else None


def _setting_finding(
    rule: Rule,
    source: RuleFile,
    state: str,
    found: list[tuple[str, int, str]],
    purl: str,
    builder: Builder,
    knowledge: Knowledge,
) -> Finding:
    name = rule.setting or rule.absent or ""
    kind = rule.kind or "setting"
    return _single(
        builder,
        knowledge,
        purl,
        kind,
        name,
        rule.title or name,
        rule.at,
        found,
        level="error" if state == "fails" and rule.setting else "warning" if state == "fails" else "note",
        remedy=rule.remedy,
        replacement=rule.replacement,
        rule=rule,
        evidence=(f"rule {rule.id}: {source.source}{', not verified' if source.recalled else ''}",),
    )


def rule_hits(hits: Iterable[Hit], knowledge: Knowledge, spans: Mapping[str, Span]) -> Iterator[Hit]:
    """Names that still resolve but that a rule calls gone from a line on (stubs kept for old migrations)."""
    settings = {r.setting: r for r, _ in knowledge.setting_rules(DJANGO.purl) if r.setting}
    for hit in hits:
        setting = _used_setting(hit, settings, spans)
        if setting is not None:
            yield setting
            continue
        found = knowledge.symbol_rules.get(hit.verdict.symbol) if hit.verdict.state == "holds" else None
        span = spans.get(hit.verdict.purl)
        migration = "/migrations/" in f"/{hit.file}"
        if found is None or span is None or found[0].at is None or migration:
            yield hit
            continue
        rule = found[0]
        if line_key(span.today) < line_key(rule.at or "") <= line_key(span.goal):
            symbol = hit.verdict.symbol
            detail = "the name still resolves; only its use stopped working"
            verdict = Verdict("fails", hit.verdict.purl, symbol, symbol, rule.at, None, "behaviour", detail=detail)
            yield replace(hit, verdict=verdict, confidence="likely")
        else:
            yield hit


def _used_setting(hit: Hit, settings: Mapping[str, Rule], spans: Mapping[str, Span]) -> Hit | None:
    """``settings.NAME`` of a setting that goes away on the way: reading it fails where nothing sets it."""
    head, _, name = hit.ask.path.rpartition(".")
    rule = settings.get(name) if head == "django.conf.settings" else None
    span = spans.get(DJANGO.purl)
    if rule is None or span is None or not line_key(span.today) < line_key(rule.at or "") <= line_key(span.goal):
        return None
    path = hit.ask.path
    verdict = Verdict("fails", DJANGO.purl, path, path, rule.at, None, "setting", detail=rule.remedy)
    return replace(hit, verdict=verdict, confidence="likely")
