"""How a call is written: what is handed over, argument by argument, in a short form that rules can ask about.

``f("a", b, key=[1], {x: 1, y}, (p, q) => 0)`` is ``'a' | b | key=[1] | {x: 1, y: y} | f2``: texts in single quotes, names and members as
they stand, lists and objects with what is inside, functions by the number of their parameters, calls as ``name()``, and ``?`` for
anything else.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from tree_sitter import Node

from yoake.core.syntax.tree import text

_MOST: Final = 300  # characters; nobody asks about more
_MOST_TEXT: Final = 60
_MOST_INSIDE: Final = 12  # elements of a list, members of an object
_BRACKETS: Final = {"tuple": ("(", ")"), "set": ("{", "}")}
_DEEPEST: Final = 3
_LONGEST_NAME: Final = 60
_LITERAL: Final = frozenset(
    ("set", "dictionary", "list", "tuple", "object", "array", "string", "integer", "float", "number")
)


def is_literal(node: Node | None) -> bool:
    """Whether a value is written out, so that a name bound to it says as much as the value itself."""
    if node is None:
        return False
    if node.type == "call":
        called = node.child_by_field_name("function")
        return called is not None and called.type == "identifier" and text(called) in ("set", "frozenset")
    return node.type in _LITERAL


def written(arguments: Node, value_of: Callable[[str], Node | None] = lambda _: None) -> str:
    """The short form of what stands between the brackets of a call. ``value_of``: what a name stands for, where that is written out."""
    if arguments.type == "generator_expression":
        return "?"
    if arguments.type.startswith("jsx_"):
        return written_element(arguments)
    parts = [_one(_meant(child, value_of), 0) for child in arguments.named_children if child.type != "comment"]
    return " | ".join(parts)[:_MOST]


def _meant(node: Node, value_of: Callable[[str], Node | None]) -> Node:
    return (value_of(text(node)) or node) if node.type == "identifier" else node


def written_value(node: Node) -> str:
    """The short form of one value."""
    return _one(node, 0)[:_MOST]


def written_element(node: Node) -> str:
    """The attributes of an element of JSX: ``{component: Page, exact: true}``."""
    shown: list[str] = []
    for child in node.named_children:
        if child.type != "jsx_attribute" or not child.named_children:
            continue
        name, *value = child.named_children
        inside = value[0].named_children[0] if value and value[0].named_children else None
        if not value:
            said = "true"
        elif value[0].type == "jsx_expression":
            said = _one(inside, 1) if inside is not None else "?"
        else:
            said = _one(value[0], 1)
        shown.append(f"{text(name)}: {said}")
    return "{" + ", ".join(shown)[:_MOST] + "}"


def _one(node: Node, depth: int) -> str:
    kind = node.type
    plain = _PLAIN.get(kind)
    if plain is not None:
        return plain(node)
    if depth >= _DEEPEST:
        return "?"
    held = _HOLDING.get(kind)
    return held(node, depth) if held is not None else "?"


def _as_it_stands(node: Node) -> str:
    return text(node)[:_LONGEST_NAME]


def _short(node: Node) -> str:
    shown = text(node)
    return shown if len(shown) <= _MOST_INSIDE else "?"


def _member_of(node: Node) -> str:
    shown = text(node)
    return shown if len(shown) <= _LONGEST_NAME and "(" not in shown and "\n" not in shown else "?"


def _call(node: Node) -> str:
    called = node.child_by_field_name("function") or node.child_by_field_name("constructor")
    shown = text(called) if called is not None and called.end_byte - called.start_byte <= _LONGEST_NAME else "("
    return f"{shown}()" if "(" not in shown and "\n" not in shown else "?"


def _keyword(node: Node, depth: int) -> str:
    name, value = node.child_by_field_name("name"), node.child_by_field_name("value")
    return f"{text(name)}={_one(value, depth + 1) if value is not None else '?'}"


def _list(node: Node, depth: int) -> str:
    inside = [_one(child, depth + 1) for child in node.named_children[:_MOST_INSIDE] if child.type != "comment"]
    first, last = _BRACKETS.get(node.type, ("[", "]"))
    return f"{first}{', '.join(inside)}{last}"


def _object(node: Node, depth: int) -> str:
    return "{" + ", ".join(_member(child, depth) for child in node.named_children[:_MOST_INSIDE]) + "}"


def _joined(node: Node, depth: int) -> str:
    """Something put together: a text where it begins with one."""
    begins = _one(node.named_children[0], depth + 1) if node.named_children else "?"
    return "'…'" if begins.startswith("'") else "?"


def _inside(node: Node, depth: int) -> str:
    return _one(node.named_children[0], depth + 1) if node.named_children else "?"


def _text_of(node: Node) -> str:
    """A text in single quotes; ``'…'`` where it is long or something is put in."""
    if any(child.type in ("interpolation", "template_substitution") for child in node.named_children):
        return "'…'"
    if node.end_byte - node.start_byte > _MOST_TEXT:
        return "'…'"
    inside = "".join(
        text(child)
        for child in node.named_children
        if child.type in ("string_content", "string_fragment", "escape_sequence")
    )
    return "'" + inside.replace("|", "¦").replace("\n", " ") + "'"


def _member(node: Node, depth: int) -> str:
    kind = node.type
    if kind == "pair":
        key, value = node.child_by_field_name("key"), node.child_by_field_name("value")
        name = text(key).strip("'\"")[:_LONGEST_NAME] if key is not None else "?"
        return f"{name}: {_one(value, depth + 1) if value is not None else '?'}"
    if kind == "shorthand_property_identifier":
        return f"{text(node)}: {text(node)}"
    if kind == "method_definition":
        return f"{text(node.child_by_field_name('name'))}: f{_parameters(node)}"
    return "..."


def _parameters(node: Node) -> int:
    if node.child_by_field_name("parameter") is not None:
        return 1
    held = node.child_by_field_name("parameters")
    return sum(1 for child in held.named_children if child.type != "comment") if held is not None else 0


_PLAIN: Final[dict[str, Callable[[Node], str]]] = {
    **dict.fromkeys(("string", "template_string"), _text_of),
    **dict.fromkeys(
        ("integer", "float", "number", "true", "false", "none", "null", "undefined", "regex", "identifier", "this"),
        _as_it_stands,
    ),
    **dict.fromkeys(("attribute", "member_expression"), _member_of),
    **dict.fromkeys(("call", "call_expression", "new_expression"), _call),
    **dict.fromkeys(("unary_operator", "unary_expression"), _short),
    **dict.fromkeys(("spread_element", "list_splat", "dictionary_splat"), lambda _: "..."),
    **dict.fromkeys(
        ("lambda", "arrow_function", "function_expression", "function", "generator_function"),
        lambda node: f"f{_parameters(node)}",
    ),
}
_HOLDING: Final[dict[str, Callable[[Node, int], str]]] = {
    "keyword_argument": _keyword,
    **dict.fromkeys(("list", "array", "tuple", "set"), _list),
    **dict.fromkeys(("dictionary", "object"), _object),
    **dict.fromkeys(
        ("concatenated_string", "binary_operator", "binary_expression", "parenthesized_expression"), _joined
    ),
    **dict.fromkeys(("as_expression", "satisfies_expression", "await", "await_expression"), _inside),
}
