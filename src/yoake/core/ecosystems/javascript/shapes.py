"""Uses of a name that are more than a name: expressions matched against code with holes, and what is written instead.

In a shape, ``{a}`` is a hole for one expression, ``{a:number}`` for one of a kind, ``{*rest}`` for what is left of arguments, a list or an
object; the same hole twice has to hold the same text. ``module#name`` stands, in what is looked for, for the name at the spot however it
is reached there; in what is written, for a name that the file has to take from that module.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import lru_cache
from itertools import pairwise
from typing import TYPE_CHECKING, Final

from tree_sitter import Node

from yoake.core.ecosystems.javascript.references import NAMED
from yoake.core.ecosystems.javascript.tree import script_parser
from yoake.core.syntax.stretches import Part, Stretch, changes_between, loses_comment
from yoake.core.syntax.tree import text

if TYPE_CHECKING:
    from yoake.core.values.edits import Change

_HOLE: Final = re.compile(r"\{(\*?)(\w+)(?::(\w+))?\}")
_TOKEN: Final = re.compile(rf"{_HOLE.pattern}|(,\s+)|{NAMED.pattern}")
_PREFIX: Final = "hole_"
_REST: Final = "rest_"
_SPOT: Final = "spot_"
_DEFAULT: Final = "default"
_COMMA: Final = ", "
_KINDS: Final[Mapping[str, tuple[str, ...]]] = {
    "number": ("number",),
    "string": ("string",),
    "name": ("identifier",),
    "function": ("arrow_function", "function_expression"),
    "object": ("object",),
    "element": ("jsx_element", "jsx_self_closing_element"),
}
"""Kind of a hole → what may stand in it."""
_INDICES: Final = ("number", "string")
_PLAIN: Final = "plain"
"""The kind of what may be written twice, since looking at it changes nothing: names, members and elements of such."""
_LOOSE: Final = (
    "binary_expression",
    "unary_expression",
    "ternary_expression",
    "assignment_expression",
    "augmented_assignment_expression",
    "arrow_function",
    "await_expression",
    "yield_expression",
    "sequence_expression",
    "as_expression",
    "satisfies_expression",
    "new_expression",
)
"""Expressions that need brackets where an operator or a member stands beside them."""
_TIGHT: Final = (*_LOOSE, "member_expression", "subscript_expression", "call_expression")
"""What binds as tight as an operator, or tighter, around it."""
_JOINING: Final = ("&&", "||", "??")
_HEADS: Final[Mapping[str, str]] = {
    "call_expression": "function",
    "new_expression": "constructor",
    "member_expression": "object",
    "assignment_expression": "left",
}
"""Expression → its part that comes first, through which a spot belongs to it."""
_LISTS: Final = ("arguments", "array", "object")
_SKIPPED: Final = ("comment", ",", ";")

Held = dict[str, list[Node]]
Refer = Callable[[str, str], str]
"""(module, name) → how the name is written in this file, with what that needs."""


def reshaped(spot: Node, shapes: Sequence[tuple[str, str]], refer: Refer) -> list[Change] | None:
    """Changes that write a use otherwise; None where no shape fits, or a comment would be lost.

    ``spot``: the name as it stands there. The first shape that fits is taken, of the smallest expression that it fits.
    """
    for was, now in shapes:
        pattern = _read(was)
        for use in _uses_of(spot):
            held: Held = {}
            if _is_set(use) or not _fits(pattern, use, spot, held):
                continue
            parts = _around(use, list(_parts(now, held, refer)), now)
            if loses_comment(use, parts):
                return None
            return list(changes_between(use, parts))
    return None


@lru_cache(maxsize=1024)
def _read(was: str) -> Node:
    """A shape as a tree, its holes as names."""
    code = NAMED.sub(lambda m: f"{_SPOT}{m[2]}", was)
    code = _HOLE.sub(
        lambda m: f"...{_REST}{m[2]}" if m[1] else f"{_PREFIX}{m[2]}" + (f"__{m[3]}" if m[3] else ""), code
    )
    root = script_parser("javascript").parse(f"({code})".encode()).root_node
    if root.has_error:
        raise ValueError(f"“{was}” is no expression")
    return root.named_children[0].named_children[0].named_children[0]


def _uses_of(spot: Node) -> Iterator[Node]:
    """The expressions that begin with a spot, from the smallest to the largest."""
    node: Node | None = spot
    while node is not None:
        yield node
        parent = node.parent
        if parent is None:
            return
        head = _HEADS.get(parent.type)
        # a name taken from what a module exports, res.send, is reached from its last part too
        inside = node.is_named and head is not None and parent.child_by_field_name(head) == node
        last = node.type in ("property_identifier", "new") or not node.is_named
        node = parent if inside or (last and head is not None) else None


def _is_set(use: Node) -> bool:
    """Whether a use is given another value: what is written instead could not be."""
    parent = use.parent
    return (
        parent is not None
        and parent.type.endswith("assignment_expression")
        and parent.child_by_field_name("left") == use
    )


def _fits(pattern: Node, node: Node, spot: Node, held: Held) -> bool:
    """Whether a node is what a pattern asks for; what its holes take is added to ``held``."""
    written = text(pattern)
    if pattern.type == "identifier" and written.startswith(_SPOT):
        at_spot = (node.start_byte, node.end_byte) == (spot.start_byte, spot.end_byte)
        return at_spot and (text(node).rpartition(".")[2] == (name := written.removeprefix(_SPOT)) or name == _DEFAULT)
    if pattern.type == "identifier" and written.startswith(_PREFIX):
        name, _, kind = written.removeprefix(_PREFIX).partition("__")
        if kind and not (_is_plain(node) if kind == _PLAIN else node.type in _KINDS[kind]):
            return False
        return text(held.setdefault(name, [node])[0]) == text(node)
    if pattern.type == "string":
        return node.type == "string" and text(node)[1:-1] == written[1:-1]
    if pattern.type in _LISTS:
        inside = _listed_fit if pattern.type != "object" else _members_fit
        return node.type == pattern.type and inside(pattern, node, spot, held)
    if pattern.type == "arrow_function":
        return _functions_fit(pattern, node, spot, held)
    wanted, given = _inside(pattern), _inside(node)
    if pattern.type != node.type or len(wanted) != len(given):
        return False
    if not wanted:
        return text(node) == written
    return all(_fits(a, b, spot, held) for a, b in zip(wanted, given, strict=True))


def _is_plain(node: Node) -> bool:
    if node.type == "member_expression":
        return _is_plain(node.named_children[0])
    if node.type == "subscript_expression":
        index = node.child_by_field_name("index")
        return _is_plain(node.named_children[0]) and index is not None and (_is_plain(index) or index.type in _INDICES)
    return node.type in ("identifier", "this")


def _inside(node: Node) -> list[Node]:
    return [child for child in node.children if child.type not in _SKIPPED]


def _elements(node: Node) -> list[Node]:
    return [child for child in node.named_children if child.type != "comment"]


def _rest_of(nodes: Sequence[Node]) -> str:
    """The name of the hole that takes what is left; empty where there is none."""
    last = text(nodes[-1]) if nodes else ""
    return last.removeprefix(f"...{_REST}") if last.startswith(f"...{_REST}") else ""


def _listed_fit(pattern: Node, node: Node, spot: Node, held: Held) -> bool:
    wanted, given = _elements(pattern), _elements(node)
    rest = _rest_of(wanted)
    wanted = wanted[:-1] if rest else wanted
    if len(given) < len(wanted) or (len(given) > len(wanted) and not rest):
        return False
    if any(child.type == "spread_element" for child in given[: len(wanted)]):
        return False
    if rest:
        held[rest] = given[len(wanted) :]
    return all(_fits(a, b, spot, held) for a, b in zip(wanted, given, strict=False))


def _members_fit(pattern: Node, node: Node, spot: Node, held: Held) -> bool:
    """Whether the members of an object are those that are asked for, in whatever order."""
    wanted, given = _elements(pattern), _elements(node)
    rest = _rest_of(wanted)
    left = list(given)
    for member in wanted[:-1] if rest else wanted:
        name = _member_name(member)
        found = next((one for one in left if _member_name(one) == name), None)
        if found is None or not _member_fits(member, found, spot, held):
            return False
        left.remove(found)
    if rest:
        held[rest] = left
    return bool(rest) or not left


def _member_name(node: Node) -> str:
    key = node.child_by_field_name("key") or node.child_by_field_name("name")
    return text(key).strip("\"'") if key is not None else text(node)


def _member_fits(pattern: Node, node: Node, spot: Node, held: Held) -> bool:
    value = pattern.child_by_field_name("value")
    if value is None:  # a member in short: { router }
        return node.type == pattern.type
    if node.type == "shorthand_property_identifier":
        return _fits(value, node, spot, held)
    if node.type == "method_definition":
        return value.type == "arrow_function" and _functions_fit(value, node, spot, held)
    given = node.child_by_field_name("value")
    return given is not None and _fits(value, given, spot, held)


def _functions_fit(pattern: Node, node: Node, spot: Node, held: Held) -> bool:
    """Whether a function takes and gives back what an arrow of one expression does, however it is written."""
    if node.type not in ("arrow_function", "function_expression", "method_definition") or "async" in (
        child.type for child in node.children
    ):
        return False
    wanted, given = _parameters(pattern), _parameters(node)
    result, body = _given_back(pattern), _given_back(node)
    if len(wanted) != len(given) or result is None or body is None:
        return False
    return all(_fits(a, b, spot, held) for a, b in zip(wanted, given, strict=True)) and _fits(result, body, spot, held)


def _parameters(node: Node) -> list[Node]:
    alone = node.child_by_field_name("parameter")
    listed = node.child_by_field_name("parameters")
    return [alone] if alone is not None else _elements(listed) if listed is not None else []


def _given_back(node: Node) -> Node | None:
    """The one expression that a function gives back; None where it does anything else."""
    body = node.child_by_field_name("body")
    if body is None or body.type != "statement_block":
        return body
    statements = _elements(body)
    if len(statements) != 1 or statements[0].type != "return_statement":
        return None
    return next(iter(_elements(statements[0])), None)


def _parts(now: str, held: Held, refer: Refer) -> Iterator[Part]:
    """What is written, in order, without commas beside what is empty."""
    made = [part for part in _tokens(now, held, refer) if part != ""]
    for number, part in enumerate(made):
        before = made[number - 1] if number else ""
        after = made[number + 1] if number + 1 < len(made) else ""
        opens = isinstance(before, str) and before.rstrip().endswith(("(", "[", "{", ","))
        closes = isinstance(after, str) and after.lstrip().startswith((")", "]", "}"))
        if part != _COMMA or not (opens or closes):
            yield part


def _tokens(now: str, held: Held, refer: Refer) -> Iterator[Part]:
    at = 0
    for token in _TOKEN.finditer(now):
        yield now[at : token.start()]
        at = token.end()
        rest, hole, _, comma, module, name = token.groups()
        if module:
            yield refer(module, name)
        elif comma:
            yield _COMMA
        elif rest:
            for number, stretch in enumerate(_together(held[hole])):
                yield _COMMA if number else ""
                yield stretch
        else:
            yield from _bracketed(held[hole][0], now[: token.start()], now[token.end() :])
    yield now[at:]


def _together(nodes: Sequence[Node]) -> Iterator[Stretch]:
    """Neighbours in one stretch, with what is between them."""
    if not nodes:
        return
    start = nodes[0]
    for node, after in pairwise([*nodes, None]):
        if node is not None and (after is None or _next_element(node) != after):
            yield Stretch(start.start_byte, node.end_byte)
            start = after or start


def _next_element(node: Node) -> Node | None:
    after = node.next_named_sibling
    while after is not None and after.type == "comment":
        after = after.next_named_sibling
    return after


def _bracketed(node: Node, before: str, after: str) -> Iterator[Part]:
    """What a hole holds, in brackets where an operator or a member stands beside it."""
    loose = node.type in _LOOSE
    alone = before.rstrip()[-1:] in ("", "(", ",", ":", "[", "{") and after.lstrip()[:1] in ("", ")", ",", "]", "}")
    stretch = Stretch(node.start_byte, node.end_byte, loose)
    yield "(" if loose and not alone else ""
    yield stretch
    yield ")" if loose and not alone else ""


def _around(use: Node, parts: list[Part], now: str) -> list[Part]:
    """All of it in brackets where it is an operation and something binds tighter around it."""
    plain = _HOLE.sub("x", NAMED.sub("x", now))
    made = script_parser("javascript").parse(plain.encode()).root_node.named_children[0]
    inner = made.named_children[0] if made.type == "expression_statement" else made
    parent = use.parent
    if inner.type not in _LOOSE or parent is None or parent.type not in _TIGHT or _stands_looser(inner, parent):
        return parts
    return ["(", *parts, ")"]


def _stands_looser(inner: Node, parent: Node) -> bool:
    """Whether what is around an operation binds looser: a comparison inside of *and*, *or* or a choice, and anything that is assigned."""
    operator = parent.child_by_field_name("operator")
    if parent.type in ("assignment_expression", "arrow_function", "sequence_expression"):
        return True
    joins = parent.type == "ternary_expression" or (operator is not None and text(operator) in _JOINING)
    own = inner.child_by_field_name("operator")
    return joins and (inner.type == "unary_expression" or (own is not None and text(own) not in _JOINING))
