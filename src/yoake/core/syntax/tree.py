"""Thin helpers over tree-sitter that every reader of Python text shares."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import cache
from typing import Final

import tree_sitter_python
from tree_sitter import Language, Node, Parser, Tree

_SHORT: Final = 80
_LOOKS: Final = 5_000  # half a second of looks by the parser at whether to go on
_BYTES_A_LOOK: Final = 40  # four times as many looks as any file needed that people wrote
_PIECE: Final = 65_536
_CONSTANTS: Final = ("None", "True", "False")
_INTEGER: Final = re.compile(r"\d+$")


@cache
def python_parser() -> Parser:
    """The parser of Python text."""
    return Parser(Language(tree_sitter_python.language()))


def parse(source: bytes) -> Tree:
    """The syntax tree of Python text, also of text that is partly broken."""
    return python_parser().parse(source)


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


def chain(node: Node) -> tuple[Node, str, tuple[str, ...]] | None:
    """``a.b.c`` as (node that begins with ``a``, "a", ("b", "c")); None when it does not begin at a plain name."""
    if node.end_byte - node.start_byte <= _SHORT:  # most are; their text says it all, and faster than their nodes
        parts = text(node).split(".")
        if all(map(str.isidentifier, parts)):
            return None if parts[0] in _CONSTANTS else (node, parts[0], tuple(parts[1:]))
    names: list[str] = []
    while node.type == "attribute":
        names.append(text(node.child_by_field_name("attribute")))
        inner = node.child_by_field_name("object")
        if inner is None:
            return None
        node = inner
    if node.type != "identifier":
        return None
    return node, text(node), tuple(reversed(names))


def dotted(node: Node | None) -> str | None:
    """``a.b.c`` as text, or None."""
    found = chain(node) if node is not None else None
    return ".".join([found[1], *found[2]]) if found else None


def string_value(node: Node) -> str | None:
    """The value of a plain string literal; None for f-strings, bytes and anything with escapes."""
    if node.type != "string":
        return None
    parts = node.named_children
    if any(part.type == "interpolation" for part in parts):
        return None
    start = text(parts[0]).lower() if parts else ""
    if "b" in start or "f" in start:
        return None
    return "".join(text(part) for part in parts if part.type == "string_content")


def version_tuple(node: Node | None) -> tuple[int, ...] | None:
    """``(3, 10)`` or ``3`` as numbers; None when it is anything else."""
    if node is None:
        return None
    if node.type == "integer" and _INTEGER.match(text(node)):
        return (int(text(node)),)
    if node.type != "tuple":
        return None
    numbers: list[int] = []
    for child in node.named_children:
        if child.type != "integer" or not _INTEGER.match(text(child)):
            break
        numbers.append(int(text(child)))
    return tuple(numbers) or None


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
