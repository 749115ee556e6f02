"""Thin helpers over tree-sitter that every reader shares."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from tree_sitter import Node, Parser

_LOOKS: Final = 5_000  # half a second of looks by the parser at whether to go on
_BYTES_A_LOOK: Final = 40  # four times as many looks as any file needed that people wrote
_PIECE: Final = 65_536


def is_bounded(parser: Parser, source: bytes) -> bool:
    """Whether a text can be parsed without trying ways beyond measure; some thirty bytes keep a grammar busy without end.

    What is said here is read in the process that asks, where nothing else sets an end. The tree is not given: its nodes would
    have to ask for their text piece by piece, at fifty times the cost.
    """
    left = _LOOKS + len(source) // _BYTES_A_LOOK

    def ends(*_: object) -> bool:
        nonlocal left
        left -= 1
        return left < 0

    def read(offset: int, _point: object) -> bytes:
        return source[offset : offset + _PIECE]

    try:
        parser.parse(read, progress_callback=ends)
    except ValueError:
        return False
    return True


def text(node: Node | None) -> str:
    """The text of a node; empty for none."""
    if node is None:
        return ""
    found = node.text
    return found.decode("utf-8", "replace") if found is not None else ""


def statements(block: Node) -> Iterator[Node]:
    """The statements of a module or block, comments left out."""
    return (child for child in block.named_children if child.type != "comment")


def broken_lines(root: Node) -> tuple[int, ...]:
    """Lines (from 1) that the grammar could not read; only branches that hold an error are entered."""
    found: set[int] = set()
    waiting = [root] if root.has_error else []
    while waiting:
        node = waiting.pop()
        if node.is_error or node.is_missing:
            found.add(node.start_point.row + 1)
        waiting.extend(child for child in node.children if child.has_error)
    return tuple(sorted(found))
