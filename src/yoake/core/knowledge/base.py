"""Everything that is known, ready to be looked up."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Final

from yoake.core.coordinates import Coordinate, Target, line_key, line_matches
from yoake.core.errors import BadCoordinate
from yoake.core.knowledge.models import Catalogue, EffortTable, Lifecycle, LineFacts, Rule, RuleFile
from yoake.core.knowledge.timeline import Head, Timeline

_LANGUAGES: Final = {
    "python": ("pkg:generic/python", "pkg:pypi/"),
    "javascript": ("pkg:generic/node", "pkg:npm/"),
}
"""Language → beginnings of the purls whose symbols its files use."""


def language_of(purl: str) -> str:
    """The language whose files use this coordinate."""
    return next((name for name, kinds in _LANGUAGES.items() if purl.startswith(kinds)), "python")


@dataclass(frozen=True)
class Knowledge:
    """Timelines, lifecycles, rules and the effort table; keys are purls. ``digests`` name each file consulted."""

    timelines: Mapping[str, Timeline]
    lifecycles: Mapping[str, Lifecycle]
    rule_files: Mapping[str, RuleFile]
    effort: EffortTable
    catalogues: Mapping[str, Catalogue] = field(default_factory=dict)
    digests: Mapping[str, str] = field(default_factory=dict)
    heads: Mapping[str, Head] = field(default_factory=dict)
    _import_names: dict[str, dict[str, str]] = field(default_factory=dict, compare=False, repr=False)

    @cached_property
    def digest(self) -> str:
        """One digest of all knowledge: part of a scan's identity."""
        joined = "\n".join(f"{name} {value}" for name, value in sorted(self.digests.items()))
        return hashlib.sha256(joined.encode()).hexdigest()[:16]

    def import_names(self, language: str) -> dict[str, str]:
        """First part of a path in that language → purl of the timeline that has it."""
        if language not in self._import_names:
            kinds = _LANGUAGES[language]
            found: dict[str, str] = {}
            for purl in sorted(self.timelines, key=lambda p: (not p.startswith("pkg:generic/"), p)):
                if purl.startswith(kinds):
                    for name in self.top_levels(purl):
                        found.setdefault(name, purl)
            self._import_names[language] = found
        return self._import_names[language]

    def top_levels(self, purl: str) -> Iterable[str]:
        """First parts of all paths of one timeline, known without reading the whole of it."""
        head = self.heads.get(purl)
        return head.tops if head is not None else self.timelines[purl].top_levels

    @cached_property
    def symbol_rules(self) -> dict[str, tuple[Rule, RuleFile]]:
        """Symbol → rule about it."""
        return {r.symbol: (r, file) for file in self.rule_files.values() for r in file.rules if r.symbol}

    def setting_rules(self, purl: str) -> list[tuple[Rule, RuleFile]]:
        """Rules about settings of one coordinate."""
        file = self.rule_files.get(purl)
        return [(r, file) for r in file.rules if r.setting or r.absent] if file else []

    def rule_for(self, symbol: str) -> tuple[Rule, RuleFile] | None:
        """The rule about this symbol or about the nearest thing that holds it."""
        parts = symbol.split(".")
        for length in range(len(parts), 0, -1):
            found = self.symbol_rules.get(".".join(parts[:length]))
            if found:
                return found
        return None

    def lines(self, coordinate: Coordinate) -> list[str]:
        """All lines known of a coordinate, oldest first."""
        known: set[str] = set()
        if coordinate.purl in self.heads:
            known.update(captured.line for captured in self.heads[coordinate.purl].lines)
        elif coordinate.purl in self.timelines:
            known.update(self.timelines[coordinate.purl].names)
        if coordinate.purl in self.lifecycles:
            known.update(facts.line for facts in self.lifecycles[coordinate.purl].lines)
        return sorted(known, key=line_key)

    def line_facts(self, purl: str, line: str) -> LineFacts | None:
        """Dates and kind of a line, when known."""
        lifecycle = self.lifecycles.get(purl)
        for facts in lifecycle.lines if lifecycle else ():
            if facts.line == line:
                return facts
        return None

    def check_target(self, target: Target) -> Target:
        """The target with its line as we name it. Raises BadCoordinate with the lines that are known."""
        lines = self.lines(target.coordinate)
        if not lines:
            known = ", ".join(sorted(Coordinate(p).short for p in {*self.timelines, *self.lifecycles}))
            raise BadCoordinate(
                f"Nothing is known of “{target.coordinate.short}”. Known: {known}. "
                f"“yoake knowledge build {target.coordinate.short}” makes a PyPI library known."
            )
        matching = [line for line in lines if line_matches(line, target.line)]
        if target.line in lines:
            return target
        if not matching:
            raise BadCoordinate(
                f"{target.coordinate.short} has no line {target.line}. Known lines: {', '.join(lines)}."
            )
        return Target(target.coordinate, matching[-1])
