"""Hits → findings: several places of the same cause are one, with its window, replacement and effort."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Final

from yoake.core.scan.windows import NO_NEED, window_of
from yoake.core.values.coordinates import NO_LINE, Coordinate, Line, line_key
from yoake.core.values.findings import Finding, Place

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.knowledge.models import Rule, RuleFile
    from yoake.core.knowledge.timeline import Timeline
    from yoake.core.scan.judge import Verdict
    from yoake.core.scan.usages import Hit
    from yoake.core.values.journeys import Span
    from yoake.core.values.words import Confidence, Kind, Level, VerdictState

LEVELS: Final = ("error", "warning", "note")
_CONFIDENCES: Final[tuple[Confidence, ...]] = ("certain", "likely", "possible")


def finding_key(module: str, coordinate: Coordinate, kind: Kind, subject: str) -> str:
    """The key that steps, waivers and notes hang on: never a line number, scan or destination."""
    return hashlib.sha256("\0".join((module, coordinate, kind, subject)).encode()).hexdigest()[:20]


def place_key(finding: str, file: str, scope: str, ordinal: int) -> str:
    """The key of one place: its finding, file, enclosing definition and its ordinal in that."""
    return hashlib.sha256("\0".join((finding, file, scope, str(ordinal))).encode()).hexdigest()[:20]


def level_of(state: VerdictState, confidence: Confidence, guarded: str) -> Level:
    """error fails at or before the destination, warning may fail, note is deprecated or guarded."""
    if state == "deprecated" or guarded:
        return "note"
    return "warning" if confidence == "possible" else "error"


class Builder:
    """Builds the findings of one module."""

    def __init__(self, knowledge: Knowledge, spans: Mapping[Coordinate, Span], module: str) -> None:
        self.knowledge = knowledge
        self.spans = spans
        self.module = module

    def from_hits(self, hits: Iterable[Hit]) -> list[Finding]:
        """One finding for each cause, worst first."""
        groups: dict[tuple[Coordinate, Kind, str], list[Hit]] = {}
        for hit in hits:
            if hit.verdict.state in ("fails", "deprecated"):
                key = (hit.verdict.coordinate, hit.verdict.kind, self._subject(hit.verdict))
                groups.setdefault(key, []).append(hit)
        return [self._finding(coordinate, kind, subject, held) for (coordinate, kind, subject), held in groups.items()]

    def _subject(self, verdict: Verdict) -> str:
        """What is one finding: the symbol a rule speaks of, else the lost part. What one package brings back is one."""
        if verdict.cause in self.knowledge.rules_by_id:
            return verdict.cause
        found = self.knowledge.rule_for(verdict.coordinate, verdict.symbol)
        if found is not None and found[0].symbol is not None and found[0].provided_by and verdict.state == "fails":
            return self.knowledge.path_of(verdict.coordinate, found[0].symbol)
        if found is not None and found[0].symbol is not None and len(found[0].symbol) > len(verdict.cause):
            return found[0].symbol
        return verdict.cause or verdict.symbol

    def _finding(self, coordinate: Coordinate, kind: Kind, subject: str, hits: Sequence[Hit]) -> Finding:
        first = hits[0].verdict
        found = self.knowledge.rule_for(coordinate, subject)
        rule, file = found or (None, None)
        replacement = self._replacement(coordinate, subject, rule)
        key = finding_key(self.module, coordinate, kind, subject)
        places = self._places(key, hits)
        confidence = min((h.confidence for h in hits), key=_CONFIDENCES.index)
        brought = replacement is None and rule is not None and rule.provided_by
        instead = NO_NEED if brought else replacement  # what a package brings back can be there on every line
        since = rule.since if rule is not None else None
        window = window_of(
            knowledge=self.knowledge,
            spans=self.spans,
            coordinate=coordinate,
            cause=first.cause or subject,
            replacement=instead,
            bites_at=first.bites_at,
            since=since,
        )
        made = Finding(
            key=key,
            module=self.module,
            coordinate=coordinate,
            kind=kind,
            symbol=subject,
            title=(rule.title if rule else "") or subject,
            bites_at=first.bites_at,
            after=first.after,
            level=min((p.level for p in places), key=LEVELS.index),
            confidence=confidence,
            replacement=replacement,
            remedy=rule.remedy if rule else "",
            mechanical=bool(rule and rule.mechanical),
            effort=self.effort(kind, rule),
            window=window,
            evidence=self._evidence(first, rule, file),
            places=places,
        )
        owner = self.knowledge.ecosystems.of(coordinate)
        shown = owner.style.as_written if owner is not None else None
        return _as_written(made, shown) if shown is not None else made

    def single(
        self,
        coordinate: Coordinate,
        kind: Kind,
        subject: str,
        title: str,
        bites_at: Line | None,
        places: list[tuple[str, int, str]],
        *,
        level: Level = "error",
        remedy: str = "",
        replacement: str | None = None,
        rule: Rule | None = None,
        evidence: tuple[str, ...] = (),
        confidence: Confidence = "certain",
    ) -> Finding:
        """A finding that no usage stands behind: a manifest, a setting, a pin. ``places``: (file, line, text)."""
        key = finding_key(self.module, coordinate, kind, subject)
        made = tuple(
            Place(
                key=place_key(key, file, "", i),
                file=file,
                line=line,
                column=0,
                end_column=0,
                symbol=text,
                form=kind,
                scope="",
                guarded="",
                level=level,
            )
            for i, (file, line, text) in enumerate(places)
        )
        window = window_of(self.knowledge, self.spans, coordinate, subject, replacement, bites_at)
        return Finding(
            key=key,
            module=self.module,
            coordinate=coordinate,
            kind=kind,
            symbol=subject,
            title=title,
            bites_at=bites_at,
            after=None,
            level=level,
            confidence=confidence,
            replacement=replacement,
            remedy=remedy,
            mechanical=bool(rule and rule.mechanical),
            effort=self.effort(kind, rule),
            window=window,
            evidence=evidence,
            places=made,
        )

    def effort(self, kind: Kind, rule: Rule | None) -> tuple[float, float, float]:
        """Minutes of the first place: the rule's, else the kind's."""
        return rule.effort if rule is not None and rule.effort is not None else self.knowledge.effort.kinds[kind]

    @staticmethod
    def _places(key: str, hits: Sequence[Hit]) -> tuple[Place, ...]:
        ordinals: dict[tuple[str, str], int] = {}
        places: dict[tuple[str, int, int, str], Place] = {}  # ``import a.b`` binds and uses at once: one place
        spread = [(hit, use) for hit in hits for use in hit.uses]
        for hit, use in sorted(spread, key=lambda pair: (pair[0].file, pair[1].line, pair[1].column)):
            known = (hit.file, use.line, use.column, hit.verdict.symbol)
            if known in places:
                continue
            at = (hit.file, use.scope)
            ordinals[at] = ordinals.get(at, -1) + 1
            places[known] = Place(
                key=place_key(key, *at, ordinals[at]),
                file=hit.file,
                line=use.line,
                column=use.column,
                end_column=use.end_column,
                symbol=hit.verdict.symbol,
                form=use.form,
                scope=use.scope,
                guarded=hit.guarded,
                level=level_of(hit.verdict.state, hit.confidence, hit.guarded),
                first_line=use.first_line,
            )
        return tuple(places.values())

    def _replacement(self, coordinate: Coordinate, subject: str, rule: Rule | None) -> str | None:
        """What a rule says; else the home of today's alias, when the destination still offers that."""
        if rule is not None and rule.replacement is None and rule.safe:
            return NO_NEED
        if rule is not None and rule.replacement is not None:
            if rule.symbol is None or subject in (rule.symbol, rule.id) or rule.replacement == NO_NEED:
                return rule.replacement
            return (
                self._carried(rule.replacement + subject[len(rule.symbol) :], self.knowledge.language_of(coordinate))
                or rule.replacement
            )
        timeline = self.knowledge.timelines.get(coordinate)
        if timeline is None:
            return None
        position, goal = timeline.floor(self.spans[coordinate].today), timeline.floor(self.spans[coordinate].goal)
        home = timeline.home(subject, position) if position is not None else None
        if home is None or goal is None or any(part.startswith("_") for part in home.split(".")):
            return None
        return home if timeline.ask(home).offers >> goal & 1 else None

    def _carried(self, path: str, language: str) -> str | None:
        owner = self.knowledge.import_names(language).get(path.split(".", 1)[0])
        timeline = self.knowledge.timelines.get(owner) if owner is not None else None
        if timeline is None or owner is None or owner not in self.spans:
            return None
        goal = timeline.floor(self.spans[owner].goal)
        return path if goal is not None and timeline.ask(path).offers >> goal & 1 else None

    @staticmethod
    def _last_line(timeline: Timeline, verdict: Verdict) -> int:
        """Position of the last line that still has it: there the artefact says what is going to happen."""
        answer = timeline.ask(verdict.cause)
        held = [i for i in range(len(timeline.lines)) if answer.offers >> i & 1]
        return held[-1] if held else 0

    def _evidence(self, verdict: Verdict, rule: Rule | None, file: RuleFile | None) -> tuple[str, ...]:
        coordinate = verdict.coordinate
        timeline = self.knowledge.timelines.get(coordinate)
        short = coordinate.short
        lines: list[str] = []
        if timeline is not None and not verdict.cause.startswith("syntax."):
            captured = {line.line: line for line in timeline.lines}
            at = captured.get(verdict.bites_at or NO_LINE)
            if at is not None:
                before = timeline.lines[max(timeline.lines.index(at) - 1, 0)]
                lines.append(
                    f"surface of {short} {before.release} and {at.release}, read from {self.knowledge.ecosystems.how_read(at.how)}"
                )
            elif verdict.state == "deprecated":
                lines.append(f"surface of {short}, which marks it deprecated")
            said = timeline.note(verdict.cause, self._last_line(timeline, verdict))
            if said:
                lines.append(f"{short} itself says: {said}")
        if verdict.already:
            lines.append(f"{short} {self.spans[coordinate].today} lacks it too: is today’s line right?")
        if verdict.detail:
            lines.append(verdict.detail)
        if rule is not None and file is not None:
            lines.append(f"rule {rule.id}: {file.source}{', not verified' if file.recalled else ''}")
        return tuple(lines)


def _as_written(finding: Finding, shown: Callable[[str], str]) -> Finding:
    """Paths as people write them."""
    return replace(
        finding,
        symbol=shown(finding.symbol),
        title=shown(finding.title),
        replacement=shown(finding.replacement) if finding.replacement else finding.replacement,
        places=tuple(replace(place, symbol=shown(place.symbol)) for place in finding.places),
    )


def order(findings: Iterable[Finding]) -> list[Finding]:
    """What stops the application first comes first, what is nobody's work here after it; then by coordinate and name. Stable and total."""
    return sorted(
        findings,
        key=lambda f: (
            LEVELS.index(f.level),
            bool(f.places) and not any(place.is_work for place in f.places),
            f.coordinate,
            line_key(f.bites_at) if f.bites_at else (9999,),
            f.module,
            f.kind,
            f.symbol,
        ),
    )
