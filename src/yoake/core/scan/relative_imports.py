"""Imports that only lead to a file because it lies beside, and from some line on have to say so."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import TYPE_CHECKING, Final

from yoake.core.scan.judge import syntax_verdict
from yoake.core.scan.usages import Hit

if TYPE_CHECKING:
    from yoake.core.contract.locality import Locality
    from yoake.core.contract.registry import Registry
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.values.coordinates import Coordinate
    from yoake.core.values.facts import FileFacts
    from yoake.core.values.journeys import Span

_SYMBOL: Final = "syntax.implicit_relative_import"


class RelativeImports:
    """What a project's files take from beside: ``old`` and ``new`` are how imports are read on old lines, and on new ones."""

    def __init__(self, old: Locality, new: Locality, ecosystems: Registry) -> None:
        self.old = old
        self.new = new
        self._ecosystems = ecosystems

    def hits(
        self, file: str, facts: FileFacts, knowledge: Knowledge, spans: Mapping[Coordinate, Span]
    ) -> Iterator[Hit]:
        """One hit for each statement that names a file beside without saying so. What is caught or asked for on some lines only is
        left alone: it has another way already. So is a script: what lies beside it is found as before."""
        verdict = syntax_verdict(_SYMBOL, facts.language, knowledge, spans)
        if verdict is None or self._is_script(file, facts):
            return
        told: set[int] = set()
        for index, ask in enumerate(facts.asks):
            if ask.form != "import" or ask.guards or ask.path.startswith("."):
                continue
            target = self.old.target_of(ask.path, file)
            if target is None or target == self.new.target_of(ask.path, file):
                continue
            line = next((use.line for use in facts.uses_of(index)), 0)
            if line not in told:
                told.add(line)
                yield Hit(file, facts, index, verdict, "", "certain")

    def _is_script(self, file: str, facts: FileFacts) -> bool:
        """Whether a file is only ever run: it asks how it is run, or is known to be, and no other file imports it. Tests ask as well,
        and are imported by what runs them."""
        held = self._ecosystems
        if held.role_of(file) == "test":
            return False
        run = file.rpartition("/")[2] in held.scripts or not held.entry_marks.isdisjoint(a.path for a in facts.asks)
        return run and file not in self._imported

    @cached_property
    def _imported(self) -> frozenset[str]:
        """The files that others import."""
        return frozenset(
            target
            for file, facts in self.old.facts.items()
            for ask in facts.asks
            if ask.form == "import" and (target := self.old.target_of(ask.path, file)) not in (None, file)
        )
