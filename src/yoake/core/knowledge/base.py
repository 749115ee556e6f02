"""Everything that is known, ready to be looked up."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import TYPE_CHECKING

from yoake.core.contract.path_style import PathStyle
from yoake.core.knowledge.values import Values
from yoake.core.values.coordinates import Coordinate, Line, Target, line_key, line_matches
from yoake.core.values.errors import BadCoordinate

if TYPE_CHECKING:
    from yoake.core.contract.registry import Registry
    from yoake.core.knowledge.models import Catalogue, EffortTable, Lifecycle, LineFacts, Rule, RuleFile, TriedFact
    from yoake.core.knowledge.timeline import Head, Timeline

SYNTAX = "syntax."
"""Begins the names of forms of old syntax, which belong to no library."""


@dataclass(frozen=True, kw_only=True)
class Knowledge:
    """Timelines, lifecycles, rules and the effort table; keys are coordinates. ``digests`` name each file consulted."""

    timelines: Mapping[Coordinate, Timeline]
    lifecycles: Mapping[Coordinate, Lifecycle]
    rule_files: Mapping[Coordinate, RuleFile]
    effort: EffortTable
    ecosystems: Registry
    catalogues: Mapping[Coordinate, Catalogue] = field(default_factory=dict)
    digests: Mapping[str, str] = field(default_factory=dict)
    heads: Mapping[Coordinate, Head] = field(default_factory=dict)
    read_tried: Callable[[], Iterable[TriedFact]] = tuple
    _values: dict[str, Values] = field(default_factory=dict, compare=False, repr=False)
    _import_names: dict[str, dict[str, Coordinate]] = field(default_factory=dict, compare=False, repr=False)

    # what ecosystems say, for who has knowledge at hand

    def language_of(self, coordinate: Coordinate) -> str:
        """The language whose files use a coordinate; empty when no ecosystem answers for it."""
        return self.ecosystems.language_of(coordinate)

    def line_of(self, coordinate: Coordinate, release: str) -> Line:
        """The line a release belongs to, as long as the coordinate's own record says, else as its ecosystem does."""
        lifecycle = self.lifecycles.get(coordinate)
        return self.ecosystems.line_of(coordinate, release, lifecycle.line_length if lifecycle is not None else None)

    def spoken(self, coordinate: Coordinate) -> str:
        """How people write the name of a coordinate in a sentence."""
        return self.ecosystems.spoken(coordinate)

    def speaks_of(self, record: Catalogue, line: Line) -> bool:
        """Whether a release record can tell which releases run on a line of their runtime."""
        return line in record.fits if record.fits else bool(record.details)

    def fitting(self, record: Catalogue, line: Line) -> tuple[str, ...]:
        """Releases whose metadata admits a line of their runtime, oldest first."""
        if record.fits:
            return record.fits.get(line, ())
        runtime = self.ecosystems.runtime_of(record.coordinate)
        if runtime is None:
            return record.releases
        admits = self.ecosystems.admits
        return tuple(d.release for d in record.details if not d.runs or admits(runtime, d.runs, line))

    def runtime_lines(self, record: Catalogue) -> list[Line]:
        """Lines of its runtime of which a release record can tell something, oldest first."""
        if record.fits:
            return sorted(record.fits)
        runtime = self.ecosystems.runtime_of(record.coordinate)
        head = self.heads.get(runtime) if runtime is not None else None
        if head is not None:
            return [captured.line for captured in head.lines]
        return self.lines(runtime) if runtime is not None else []

    @cached_property
    def digest(self) -> str:
        """One digest of all knowledge: part of a scan's identity."""
        joined = "\n".join(f"{name} {value}" for name, value in sorted(self.digests.items()))
        return hashlib.sha256(joined.encode()).hexdigest()[:16]

    @cached_property
    def _tried(self) -> dict[tuple[Coordinate, str, Line], TriedFact]:
        return {(f.coordinate, f.release, f.on): f for f in self.read_tried()}

    def tried(self, coordinate: Coordinate, release: str, line: Line) -> TriedFact | None:
        """What came of it when a release was really installed and used on a line of its runtime; None when nobody tried."""
        return self._tried.get((coordinate, release, line))

    @cached_property
    def _ran(self) -> dict[tuple[Coordinate, str], tuple[Line, ...]]:
        found: dict[tuple[Coordinate, str], list[Line]] = {}
        for fact in self._tried.values():
            if fact.runs:
                found.setdefault((fact.coordinate, fact.release), []).append(fact.on)
        return {key: tuple(lines) for key, lines in found.items()}

    def ran(self, coordinate: Coordinate, release: str, line: Line) -> bool:
        """Whether a release was really run on a line of its runtime, or on a newer one: what runs there runs on the way there."""
        fact = self.tried(coordinate, release, line)
        if fact is not None:
            return fact.runs
        return any(on > line for on in self._ran.get((coordinate, release), ()))

    def first_known(self, coordinate: Coordinate, at: Line) -> Line:
        """The first captured line from ``at`` on: where what changed there is met; ``at`` itself where none is."""
        timeline = self.timelines.get(coordinate)
        return next((line for line in timeline.names if line >= at), at) if timeline is not None else at

    def import_names(self, language: str) -> dict[str, Coordinate]:
        """First part of a path in that language → coordinate of the timeline that has it."""
        if language not in self._import_names:
            found: dict[str, Coordinate] = {}
            for coordinate in sorted(self.timelines, key=lambda p: (not self.ecosystems.is_runtime(p), p)):
                if self.ecosystems.language_of(coordinate) == language:
                    for name in self.top_levels(coordinate):
                        found.setdefault(name, coordinate)
            self._import_names[language] = found
        return self._import_names[language]

    def top_levels(self, coordinate: Coordinate) -> Iterable[str]:
        """First parts of all paths of one timeline, known without reading the whole of it."""
        head = self.heads.get(coordinate)
        return head.tops if head is not None else self.timelines[coordinate].top_levels

    @cached_property
    def symbol_rules(self) -> dict[tuple[str, str], tuple[Rule, RuleFile]]:
        """(language, symbol) → rule about it: other languages have other things of the same name."""
        return {
            (self.language_of(file.coordinate), self.path_of(file.coordinate, symbol)): (
                r if r.symbol == symbol else r.model_copy(update={"symbol": symbol}),
                file,
            )
            for file in self.rule_files.values()
            for r in file.rules
            if r.written is None
            for symbol in r.symbols
        }

    @cached_property
    def rules_by_id(self) -> dict[str, tuple[Rule, RuleFile]]:
        """Rules about a use or a text, by their own name: it stands for the symbol in what is found."""
        return {
            r.id: (r, file)
            for file in self.rule_files.values()
            for r in file.rules
            if r.is_about_use or r.text is not None
        }

    def values(self, language: str) -> Values:
        """What functions of that language give back, as far as rule files say."""
        if language not in self._values:
            held = [
                f
                for coordinate, f in sorted(self.rule_files.items())
                if self.ecosystems.language_of(coordinate) == language
            ]
            owner = self.ecosystems.of_language(language)
            self._values[language] = Values(held, owner.style if owner is not None else PathStyle())
        return self._values[language]

    def path_of(self, coordinate: Coordinate, written: str) -> str:
        """A name of a coordinate, as people write it, as a path."""
        owner = self.ecosystems.of(coordinate)
        if owner is None or written.startswith(SYNTAX):
            return written
        path = owner.style.as_path(written)
        if owner.style.regrouped is None:
            return path
        return owner.style.regrouped(path, self.import_names(owner.language))

    def setting_rules(self, coordinate: Coordinate) -> list[tuple[Rule, RuleFile]]:
        """Rules about settings of one coordinate."""
        file = self.rule_files.get(coordinate)
        return [(r, file) for r in file.rules if r.setting or r.absent] if file else []

    def rule_for(self, coordinate: Coordinate, symbol: str) -> tuple[Rule, RuleFile] | None:
        """The rule about this symbol of a coordinate, or about the nearest thing that holds it."""
        if symbol in self.rules_by_id:
            return self.rules_by_id[symbol]
        owner = self.ecosystems.of(coordinate)
        style, language = (owner.style, owner.language) if owner is not None else (PathStyle(), "")
        rules = self.symbol_rules
        return next((found for path in style.wider(symbol) if (found := rules.get((language, path)))), None)

    def lines(self, coordinate: Coordinate) -> list[Line]:
        """All lines known of a coordinate, oldest first."""
        known: set[Line] = set()
        if coordinate in self.heads:
            known.update(captured.line for captured in self.heads[coordinate].lines)
        elif coordinate in self.timelines:
            known.update(self.timelines[coordinate].names)
        if coordinate in self.lifecycles:
            known.update(facts.line for facts in self.lifecycles[coordinate].lines)
        if not known and coordinate in self.catalogues:  # no surface is known, but what there is to move to
            known.update(self.line_of(coordinate, release) for release in self.catalogues[coordinate].releases)
        if not known and coordinate in self.rule_files:
            known.update(self.line_of(coordinate, r.at) for r in self.rule_files[coordinate].rules if r.at)
        return sorted(known)

    def policy_against(self, coordinate: Coordinate, start: Line, goal: Line) -> str | None:
        """The policy of a project that forbids a jump, in words; None when nothing does."""
        lifecycle = self.lifecycles.get(coordinate)
        if lifecycle is None or lifecycle.policy == "any":
            return None
        name = coordinate.name
        if lifecycle.policy == "next-major":
            skipped = line_key(goal)[0] - line_key(start)[0] > 1
            return f"{name} supports one major line at a time ({lifecycle.source})" if skipped else None
        kept = [f.line for f in lifecycle.lines if f.kind == "long-term"]
        skipped = any(start < x < goal for x in kept)
        return f"{name} goes from one long-term line to the next ({lifecycle.source})" if skipped else None

    def line_facts(self, coordinate: Coordinate, line: Line) -> LineFacts | None:
        """Dates and kind of a line, when known."""
        lifecycle = self.lifecycles.get(coordinate)
        for facts in lifecycle.lines if lifecycle else ():
            if facts.line == line:
                return facts
        return None

    def check_target(self, target: Target) -> Target:
        """The target with its name and line as we write them. Raises BadCoordinate with the lines that are known."""
        target = self.ecosystems.canonical_target(target)
        lines = self.lines(target.coordinate)
        if not lines:
            known = ", ".join(sorted(p.short for p in {*self.timelines, *self.lifecycles, *self.rule_files}))
            raise BadCoordinate(
                f"Nothing is known of “{target.coordinate.short}”. Known: {known}. "
                f"“yoake knowledge build {target.coordinate.short}” makes a library known."
            )
        matching = [line for line in lines if line_matches(line, target.line)]
        if target.line in lines:
            return target
        if not matching:
            raise BadCoordinate(
                f"{target.coordinate.short} has no line {target.line}. Known lines: {', '.join(lines)}."
            )
        return Target(target.coordinate, matching[-1])
