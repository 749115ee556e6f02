"""What keeps a use from breaking in JavaScript: a caught require, a test of the very member, a test of the version."""

from __future__ import annotations

import re
from typing import Final

from tree_sitter import Node

from yoake.core.syntax.tree import text

_TESTED: Final = frozenset(("identifier", "member_expression", "subscript_expression"))
_VERSION_SIGNS: Final = re.compile(rb"process\.version|versions\.node|NODE_VERSION|nodeVersion|node_version")
_LONGEST: Final = 200  # bytes of a test of a member; a larger one is a whole program in parentheses
_LONGEST_CONDITION: Final = 4_000
Paths = frozenset[str]
_LOADS: Final = re.compile(rb"\b(?:require|import)\s*\(")


def catches(handler: Node) -> bool:
    """Whether a catch clause goes on: one that throws again or ends the process keeps nothing from breaking."""
    body = handler.child_by_field_name("body")
    held = [c for c in body.named_children if c.type != "comment"] if body is not None else []
    if not held:
        return True
    return held[-1].type != "throw_statement" and not text(held[-1]).startswith("process.exit(")


def may_fail_to_load(body: Node) -> bool:
    """Whether a ``try`` is about something that may be missing: it loads a module, or tries one single thing."""
    held = [c for c in body.named_children if c.type != "comment"]
    return len(held) <= 1 or _LOADS.search(body.text or b"") is not None


def mentions_version(condition: Node) -> bool:
    """Whether a condition speaks of the running version."""
    if condition.end_byte - condition.start_byte > _LONGEST_CONDITION:
        return False
    return _VERSION_SIGNS.search(condition.text or b"") is not None


def tested_text(node: Node) -> str | None:
    """The text of a name or member whose existence is asked for; None for every other expression."""
    if node.type not in _TESTED or node.end_byte - node.start_byte > _LONGEST:
        return None
    return text(node).replace("?.", ".")


def feature_paths(condition: Node) -> tuple[Paths, Paths]:
    """Texts of members that a condition tests: (those that exist where it holds, those that exist where it does not)."""
    positive: set[str] = set()
    negative: set[str] = set()
    waiting = [(condition, True)]
    while waiting:
        node, holds = waiting.pop()
        kind = node.type
        if kind in _TESTED:
            tested = tested_text(node)
            if tested is not None:
                (positive if holds else negative).add(tested)
        elif kind == "parenthesized_expression":
            waiting.extend((child, holds) for child in node.named_children)
        elif kind == "unary_expression":
            _unary(node, holds, waiting)
        elif kind == "binary_expression":
            _binary(node, holds, waiting, positive, negative)
    return frozenset(positive), frozenset(negative)


def _sign(node: Node) -> str:
    found = node.child_by_field_name("operator")
    return found.type if found is not None else ""


def _unary(node: Node, holds: bool, waiting: list[tuple[Node, bool]]) -> None:
    argument = node.child_by_field_name("argument")
    if argument is not None:
        operator = _sign(node)
        waiting.append((argument, not holds if operator == "!" else holds))


def _binary(node: Node, holds: bool, waiting: list[tuple[Node, bool]], positive: set[str], negative: set[str]) -> None:
    left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
    operator = _sign(node)
    if left is None or right is None:
        return
    if operator in ("&&", "||", "??"):
        waiting.extend(((left, holds), (right, holds)))
    elif operator == "in" and left.type == "string":
        name = "".join(text(c) for c in left.named_children)
        (positive if holds else negative).add(f"{text(right)}.{name}")
    elif operator in ("===", "==", "!==", "!="):
        against_nothing = "undefined" in (text(left).strip("'\""), text(right).strip("'\"")) or "null" in (
            text(left),
            text(right),
        )
        exists = (holds == operator.startswith("=")) != against_nothing
        waiting.extend((side, exists) for side in (left, right) if side.type != "string")
