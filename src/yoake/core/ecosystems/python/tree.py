"""The syntax tree of Python text, and what its readers ask of a node."""

from __future__ import annotations

import re
from functools import cache
from typing import Final

import tree_sitter_python
from tree_sitter import Language, Node, Parser, Tree

from yoake.core.syntax.tree import text

_SHORT: Final = 80
_LONGEST_CHAIN: Final = 20  # members and calls in one expression that are followed
_CONSTANTS: Final = ("None", "True", "False")
_INTEGER: Final = re.compile(r"\d+$")


@cache
def python_parser() -> Parser:
    """The parser of Python text."""
    return Parser(Language(tree_sitter_python.language()))


def parse(source: bytes) -> Tree:
    """The syntax tree of Python text, also of text that is partly broken."""
    return python_parser().parse(source)


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


def called_chain(node: Node) -> tuple[Node, str, tuple[str, ...]] | None:
    """``a.b(…)[1].c`` as (node of ``a``, "a", ("b()", "[]()", "c")): members of what calls and elements give back. A call of the first
    name itself is the member ``()``. None where it does not begin at a plain name."""
    names: list[str] = []
    called = ""
    while True:
        kind = node.type
        if kind == "call":
            called = "()"
            inner = node.child_by_field_name("function")
        elif kind == "attribute":
            names.append(text(node.child_by_field_name("attribute")) + called)
            called = ""
            inner = node.child_by_field_name("object")
        elif kind == "subscript":
            names.append("[]()")
            inner = node.child_by_field_name("value")
        elif kind in ("await", "parenthesized_expression") and node.named_child_count == 1:
            inner = node.named_children[0]
        else:
            break
        if inner is None or len(names) > _LONGEST_CHAIN:
            return None
        node = inner
    if node.type != "identifier":
        return None
    if called:
        names.append(called)
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
