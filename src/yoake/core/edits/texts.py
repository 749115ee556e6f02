"""Texts written otherwise as a rule says: templates, configuration, commands and code, comments left alone."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import TYPE_CHECKING, Final

from yoake.core.scan.text_rules import without_comments
from yoake.core.values.edits import Change

if TYPE_CHECKING:
    from yoake.core.knowledge.models import Rewrite

_ROUNDS: Final = 20  # a pattern that still finds something in what it wrote is no edit


def rewritten(path: str, text: str, rewrites: Iterable[Rewrite]) -> str:
    """The text with every pattern written otherwise, until none is found any more; as it was where that does not end."""
    made = text
    for rewrite in rewrites:
        if rewrite.unless is not None and re.search(rewrite.unless, without_comments(path, made), re.MULTILINE):
            continue
        pattern = re.compile(rewrite.was, re.MULTILINE)
        for _ in range(_ROUNDS):
            found = list(pattern.finditer(without_comments(path, made)))
            if not found:
                break
            parts, at = [], 0
            for match in found:
                here = pattern.match(made, match.start()) or match
                parts += [made[at : match.start()], here.expand(rewrite.now)]
                at = match.end()
            made = "".join([*parts, made[at:]])
        else:
            return text
    return made


def text_changes(path: str, source: bytes, rewrites: Iterable[Rewrite]) -> tuple[Change, ...]:
    """The changes that lead from a text to what a rule writes, row by row; none where it writes nothing otherwise."""
    old = source.decode("utf-8", "replace")
    new = rewritten(path, old, rewrites)
    if new == old or old.encode() != source:
        return ()
    before, after = old.splitlines(keepends=True), new.splitlines(keepends=True)
    head = next(
        (i for i, (a, b) in enumerate(zip(before, after, strict=False)) if a != b), min(len(before), len(after))
    )
    return tuple(_between(before, after, head))


def _between(before: list[str], after: list[str], head: int) -> Iterable[Change]:
    """One change a row where rows only change; else one from the first row that differs to the last."""
    starts = [0]
    for row in before:
        starts.append(starts[-1] + len(row.encode()))
    if len(before) == len(after):
        for i, (a, b) in enumerate(zip(before, after, strict=True)):
            if a != b:
                yield Change(starts[i], starts[i + 1], b.encode())
        return
    tail = 0
    while tail < min(len(before), len(after)) - head and before[-1 - tail] == after[-1 - tail]:
        tail += 1
    yield Change(starts[head], starts[len(before) - tail], "".join(after[head : len(after) - tail]).encode())
