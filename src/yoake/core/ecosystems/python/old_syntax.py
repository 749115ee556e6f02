"""Syntax that newer Python lines no longer read, seen in the tree or in what the tree calls broken."""

from __future__ import annotations

import re
from typing import Final

from tree_sitter import Node

from yoake.core.syntax.tree import text

_OLD_OCTAL: Final = re.compile(r"0[0-9]*[1-7][0-9]*[lL]?$")
_LONG: Final = re.compile(r"(0[xX][0-9a-fA-F]+|\d+)[lL]$")
_UR: Final = re.compile(r"(?i)ur['\"]")
_EXCEPT_COMMA: Final = re.compile(r"except\s+[\w.()\s,]+?,\s*\w+\s*:")


def old_syntax(node: Node) -> str | None:
    """The name of the old form that this node is, or None."""
    reader = _READERS.get(node.type)
    return reader(node) if reader else None


def _integer(node: Node) -> str | None:
    shown = text(node)
    if len(shown) == 1:
        return None
    if _LONG.match(shown):
        return "long_integer"
    return "old_octal" if _OLD_OCTAL.match(shown) else None


def _string(node: Node) -> str | None:
    shown = text(node)
    if shown.startswith("`"):
        return "backticks"
    return "ur_string" if _UR.match(shown[:4]) else None


def _comparison(node: Node) -> str | None:
    return "not_equal_sign" if any(child.type == "<>" for child in node.children) else None


def _except(node: Node) -> str | None:
    body_start = next((c.start_byte for c in node.named_children if c.type == "block"), node.end_byte)
    head = text(node)[: body_start - node.start_byte]
    inner = head.split("(", 1)
    if _EXCEPT_COMMA.match(head) and ("(" not in head or (")" in inner[-1] and "," in inner[-1].rsplit(")", 1)[-1])):
        return "except_comma"
    return None


def _raise(node: Node) -> str | None:
    return "raise_comma" if node.named_children and node.named_children[0].type == "expression_list" else None


def _error(node: Node) -> str | None:
    shown = text(node)
    if "`" in shown:
        return "backticks"
    if re.match(r"\s*,\s*\w+\s*:?$", shown) and node.parent is not None and node.parent.type == "except_clause":
        return "except_comma"
    return None


_READERS: Final = {
    "print_statement": lambda _node: "print_statement",
    "exec_statement": lambda _node: "exec_statement",
    "integer": _integer,
    "string": _string,
    "comparison_operator": _comparison,
    "except_clause": _except,
    "raise_statement": _raise,
    "ERROR": _error,
}

OLD_FORMS: Final = frozenset(_READERS) - {"string", "ERROR"}
"""Node types that may be an old form and have no handler of their own."""
