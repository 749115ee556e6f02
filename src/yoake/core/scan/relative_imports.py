"""Imports that only lead to a file because it lies beside, and from some line on have to say so."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING, Final

from yoake.core.scan.judge import syntax_verdict
from yoake.core.scan.usages import Hit

if TYPE_CHECKING:
    from yoake.core.contract.locality import Locality
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.values.coordinates import Coordinate
    from yoake.core.values.facts import FileFacts
    from yoake.core.values.journeys import Span

_SYMBOL: Final = "syntax.implicit_relative_import"


def relative_hits(
    file: str,
    facts: FileFacts,
    localities: tuple[Locality, Locality],
    knowledge: Knowledge,
    spans: Mapping[Coordinate, Span],
) -> Iterator[Hit]:
    """One hit for each statement that names a file beside without saying so. ``localities``: as imports are read on old lines, and on
    new ones. What is caught or asked for on some lines only is left alone: it has another way already. So is a script: what lies
    beside it is found as before."""
    verdict = syntax_verdict(_SYMBOL, facts.language, knowledge, spans)
    old, new = localities
    if verdict is None or _is_script(file, facts, old, knowledge):
        return
    told: set[int] = set()
    for index, ask in enumerate(facts.asks):
        if ask.form != "import" or ask.guards or ask.path.startswith("."):
            continue
        target = old.target_of(ask.path, file)
        if target is None or target == new.target_of(ask.path, file):
            continue
        line = next((use.line for use in facts.uses_of(index)), 0)
        if line not in told:
            told.add(line)
            yield Hit(file, facts, index, verdict, "", "certain")


def _is_script(file: str, facts: FileFacts, locality: Locality, knowledge: Knowledge) -> bool:
    """Whether a file is only ever run: it asks how it is run, or is known to be, and no other file imports it. Tests ask as well, and
    are imported by what runs them."""
    marks = knowledge.ecosystems.entry_marks
    if knowledge.ecosystems.role_of(file) == "test":
        return False
    if not file.rpartition("/")[2].startswith("setup.") and marks.isdisjoint(ask.path for ask in facts.asks):
        return False
    return not any(
        ask.form == "import" and locality.target_of(ask.path, other) == file
        for other, each in locality.facts.items()
        if other != file
        for ask in each.asks
    )
