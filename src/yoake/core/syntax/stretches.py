"""Code written anew around what stays: stretches of the source with text between them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from tree_sitter import Node

from yoake.core.values.edits import Change


@dataclass(frozen=True, slots=True)
class Stretch:
    """A stretch of the source that stays as it is, bytes ``start`` to ``end``. ``loose``: it needs brackets where an operator stands beside it."""

    start: int
    end: int
    loose: bool = False


Part = str | Stretch


def changes_between(use: Node, parts: Sequence[Part]) -> Iterator[Change]:
    """Changes of what lies between the stretches that stay; of all of it where they do not stand in their order."""
    stretches = [part for part in parts if isinstance(part, Stretch)]
    source = use.text or b""
    ordered = all(a.end <= b.start for a, b in pairwise(stretches))
    written = ""
    at = use.start_byte
    for part in parts:
        if isinstance(part, str):
            written += part
        elif ordered:
            yield from _gap(source, use.start_byte, at, part.start, written)
            at, written = part.end, ""
        else:
            written += source[part.start - use.start_byte : part.end - use.start_byte].decode(
                "utf-8", "surrogateescape"
            )
    yield from _gap(source, use.start_byte, at, use.end_byte, written)


def _gap(source: bytes, base: int, start: int, end: int, written: str) -> Iterator[Change]:
    made = written.encode("utf-8", "surrogateescape")
    if source[start - base : end - base] != made:
        yield Change(start, end, made)


def comments(use: Node) -> Iterator[Node]:
    """All comments inside of a node."""
    waiting = [use]
    while waiting:
        node = waiting.pop()
        if node.type == "comment":
            yield node
        waiting.extend(node.children)


def loses_comment(use: Node, parts: Sequence[Part]) -> bool:
    """Whether a comment stands where text is taken out."""
    stretches = [part for part in parts if isinstance(part, Stretch)]
    return any(
        not any(s.start <= note.start_byte and note.end_byte <= s.end for s in stretches) for note in comments(use)
    )
