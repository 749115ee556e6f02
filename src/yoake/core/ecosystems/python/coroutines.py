"""Coroutines of the old style, a decorated generator, written as ``async def``."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from tree_sitter import Node

from yoake.core.values.edits import Change

SHAPE: Final = ("@coroutine", "async def")
"""How a rule says that a decorator becomes a keyword."""

_OTHERS: Final = ("function_definition", "lambda", "class_definition")
"""What has yields of its own."""
_CLOSED: Final = ("call", "identifier", "attribute", "subscript", "parenthesized_expression")
"""Expressions that ``await`` takes as ``yield from`` does; others it would only take a part of."""


def as_coroutine(decorator: Node) -> list[Change] | None:
    """The changes of a decorated generator, its decorator left out; None where it yields by itself or is no plain function."""
    parent = decorator.parent
    function = parent.child_by_field_name("definition") if parent is not None else None
    if function is None or function.type != "function_definition" or function.children[0].type != "def":
        return None
    body = function.child_by_field_name("body")
    made = [Change(function.start_byte, function.start_byte, b"async ")]
    for node in _yields(body) if body is not None else ():
        if len(node.children) < 3 or node.children[1].type != "from" or node.children[2].type not in _CLOSED:
            return None
        made.append(Change(node.start_byte, node.children[2].start_byte, b"await "))
    return made


def _yields(body: Node) -> Iterator[Node]:
    waiting = [body]
    while waiting:
        node = waiting.pop()
        if node.type == "yield":
            yield node
        if node.type not in _OTHERS:
            waiting.extend(node.named_children)
