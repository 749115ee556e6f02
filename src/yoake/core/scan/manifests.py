"""Findings and checks that come from manifests and settings: toolchain pins, settings, old syntax."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, Final

from yoake.core.scan.judge import Verdict, syntax_verdict
from yoake.core.scan.usages import Hit
from yoake.core.values.coordinates import NO_LINE, Coordinate, Line, line_key

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.knowledge.models import Rule, RuleFile
    from yoake.core.scan.findings import Builder
    from yoake.core.values.facts import FileFacts
    from yoake.core.values.findings import Checks, Finding
    from yoake.core.values.journeys import Span
    from yoake.core.values.modules import Module, Pin
    from yoake.core.values.words import VerdictState

_SIGNS: Final = 2  # settings of a framework that a file sets at least, to be a settings file


def syntax_hits(
    file: str, facts: FileFacts, knowledge: Knowledge, spans: Mapping[Coordinate, Span], guarded: str = ""
) -> Iterator[Hit]:
    """Old syntax that the destination's runtime no longer reads."""
    for index, ask in enumerate(facts.asks):
        verdict = syntax_verdict(ask.path, facts.language, knowledge, spans) if ask.form == "syntax" else None
        if verdict is not None:
            yield Hit(file, facts, index, verdict, guarded, "certain")


def pins_to_tell(modules: Sequence[Module], owner_of: Callable[[str], str]) -> dict[str, list[Pin]]:
    """Path of a module → the pins it tells of. One that holds for several is told once, by the module that its file lies in, else
    by the first. ``owner_of``: file → path of its module."""
    told: dict[str, list[Pin]] = {module.path: [] for module in modules}
    holders: dict[Pin, list[str]] = {}
    for module in modules:
        for pin in dict.fromkeys(module.pins):
            holders.setdefault(pin, []).append(module.path)
    for pin, paths in holders.items():
        owner = owner_of(pin.file)
        told[owner if owner in paths else paths[0]].append(pin)
    return told


def toolchain_findings(
    module: Module, pins: Sequence[Pin], builder: Builder, knowledge: Knowledge, checks: Checks
) -> Iterator[Finding]:
    """Those of ``pins`` that name a runtime older than the destination's, or a range that leaves it out."""
    for runtime in knowledge.ecosystems.runtimes:
        span = builder.spans.get(runtime)
        if span is not None and span.goal > span.today:
            held = [pin for pin in pins if pin.coordinate == runtime]
            yield from _stale_pins(held, span, module, builder, knowledge, checks)


def _stale_pins(
    pins: Sequence[Pin], span: Span, module: Module, builder: Builder, knowledge: Knowledge, checks: Checks
) -> Iterator[Finding]:
    groups: dict[str, list[Pin]] = {}
    for pin in pins:
        runtime = pin.coordinate
        if pin.how == "range":
            stale = not knowledge.ecosystems.admits(runtime, pin.version, span.goal)
        else:
            stale = not _names_goal(pins, pin, span.goal, knowledge)
        if pin.how == "classifier" and stale:
            continue  # a classifier promises; it stops nothing
        weight = knowledge.effort.weights.toolchain
        checks.add("toolchain", "fails" if stale else "holds", weight, pin.file, module.path)
        if stale:
            groups.setdefault(pin.file, []).append(pin)
    for file, stale_pins in groups.items():
        runtime = stale_pins[0].coordinate
        shown = knowledge.spoken(runtime)
        blocks = any(pin.how != "ci" for pin in stale_pins)
        yield builder.single(
            runtime,
            "toolchain",
            f"pin {file}",
            f"{file} names {shown} {_versions(stale_pins)}",
            span.goal,
            [(p.file, p.line, p.text or p.version) for p in stale_pins],
            level="error" if blocks else "warning",
            remedy=f"Let it name {shown} {span.goal} when the application moves there.",
            evidence=("read from the file itself",),
        )


def _names_goal(pins: Sequence[Pin], pin: Pin, goal: Line, knowledge: Knowledge) -> bool:
    """Whether a pin names the destination; a file that lists several lines is fine when it is among them."""
    return any(
        other.file == pin.file and other.how == pin.how and knowledge.line_of(pin.coordinate, other.version) == goal
        for other in pins
    )


def _versions(pins: list[Pin]) -> str:
    return ", ".join(dict.fromkeys(pin.version for pin in pins))


def setting_findings(
    files: Mapping[str, FileFacts], builder: Builder, knowledge: Knowledge, checks: Checks
) -> Iterator[Finding]:
    """Curated rules about settings against the settings files of a module."""
    frameworks = [each for each in knowledge.ecosystems.frameworks if each.settings_signs]
    signs = [each.settings_signs for each in frameworks]
    settings = {p: f for p, f in files.items() if any(len(s & set(f.assigned)) >= _SIGNS for s in signs)}
    named = {p: f for p, f in files.items() if any(each.settings_files.search(p) for each in frameworks)}
    if not settings and not named:
        return
    weight = knowledge.effort.weights.setting
    for coordinate, span in builder.spans.items():
        for rule, source in knowledge.setting_rules(coordinate):
            found = _set_places(rule, settings, {**named, **settings})
            state = _setting_state(rule, span)
            if not found or state is None:
                continue
            checks.add("setting", "fails" if state == "fails" else "holds", weight, found[0][0], builder.module)
            yield _setting_finding(
                rule=rule,
                source=source,
                state=state,
                found=found,
                coordinate=coordinate,
                builder=builder,
                knowledge=knowledge,
            )


def _set_places(
    rule: Rule, settings: Mapping[str, FileFacts], parts: Mapping[str, FileFacts]
) -> list[tuple[str, int, str]]:
    """``settings``: files that are settings by what they assign; ``parts``: also those that only their name makes so."""
    if rule.setting:
        return [
            (p, f.assigned[rule.setting], rule.setting) for p, f in sorted(parts.items()) if rule.setting in f.assigned
        ]
    name = rule.absent or ""
    if not settings or any(name in facts.assigned for facts in parts.values()):
        return []
    path, facts = min(settings.items(), key=lambda item: item[0])
    return [(path, min(facts.assigned.values(), default=1), f"{name} is not set")]


def _setting_state(rule: Rule, span: Span) -> VerdictState | None:
    """fails: it bites on the way; deprecated: it warns on the way; None: it does not matter here."""
    at = line_key(rule.at or NO_LINE)
    if at <= line_key(span.today):
        return None
    if at <= line_key(span.goal):
        return "fails"
    warned = rule.deprecated is not None and rule.deprecated <= span.goal
    return "deprecated" if warned else None


def _setting_finding(
    rule: Rule,
    source: RuleFile,
    state: VerdictState,
    found: list[tuple[str, int, str]],
    coordinate: Coordinate,
    builder: Builder,
    knowledge: Knowledge,
) -> Finding:
    name = rule.setting or rule.absent or ""
    kind = rule.kind or "setting"
    return builder.single(
        coordinate,
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


def rule_hits(hits: Iterable[Hit], knowledge: Knowledge, spans: Mapping[Coordinate, Span]) -> Iterator[Hit]:
    """Names that still resolve but that a rule calls gone from a line on (stubs kept for old migrations), or deprecated."""
    settings = {
        f"{each.settings_object}.{rule.setting}": (rule, each.coordinate)
        for each in knowledge.ecosystems.frameworks
        if each.settings_object and each.coordinate in spans
        for rule, _ in knowledge.setting_rules(each.coordinate)
        if rule.setting
    }
    for hit in hits:
        setting = _used_setting(hit, settings, spans) if settings else None
        if setting is not None:
            yield setting
            continue
        named = (hit.facts.language, hit.verdict.symbol)
        found = knowledge.symbol_rules.get(named) if hit.verdict.state == "holds" else None
        span = spans.get(hit.verdict.coordinate)
        migration = "/migrations/" in f"/{hit.file}"
        unlike = found is not None and found[0].form is not None and found[0].form != hit.ask.form
        if found is None or span is None or migration or unlike:
            yield hit
            continue
        yield _ruled(hit, found[0], span)


def _ruled(hit: Hit, rule: Rule, span: Span) -> Hit:
    """A hit on a name that still resolves, as a rule sees it."""
    symbol, coordinate = hit.verdict.symbol, hit.verdict.coordinate
    bites = rule.at is not None and span.today < rule.at <= span.goal
    if bites and rule.is_about_use:
        kind = rule.kind or "behaviour"
        verdict = Verdict(
            state="fails",
            coordinate=coordinate,
            symbol=symbol,
            cause=rule.id,
            bites_at=rule.at,
            after=None,
            kind=kind,
            detail=rule.title,
        )
        return hit._replace(verdict=verdict, confidence=rule.confidence)
    if bites:
        detail = "the name still resolves; only its use stopped working"
        verdict = Verdict(
            state="fails",
            coordinate=coordinate,
            symbol=symbol,
            cause=symbol,
            bites_at=rule.at,
            after=None,
            kind="behaviour",
            detail=detail,
        )
        return hit._replace(verdict=verdict, confidence="likely")
    if rule.at is None and rule.deprecated is not None and rule.deprecated <= span.goal:
        cause = rule.id if rule.is_about_use else symbol
        return hit._replace(
            verdict=Verdict(
                state="deprecated",
                coordinate=coordinate,
                symbol=symbol,
                cause=cause,
                bites_at=None,
                after=None,
                kind="deprecated",
            )
        )
    return hit


def _used_setting(
    hit: Hit, settings: Mapping[str, tuple[Rule, Coordinate]], spans: Mapping[Coordinate, Span]
) -> Hit | None:
    """A setting read in code that goes away on the way: reading it fails where nothing sets it."""
    path = hit.ask.path
    if path not in settings:
        return None
    rule, coordinate = settings[path]
    span = spans[coordinate]
    if rule.at is None or not span.today < rule.at <= span.goal:
        return None
    verdict = Verdict(
        state="fails",
        coordinate=coordinate,
        symbol=path,
        cause=path,
        bites_at=rule.at,
        after=None,
        kind="setting",
        detail=rule.remedy,
    )
    return hit._replace(verdict=verdict, confidence="likely")
