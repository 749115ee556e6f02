"""Uses of a name that are more than a name: calls matched against code with holes, and what is written instead."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from tree_sitter import Node

from yoake.core.ecosystems.python.tree import parse
from yoake.core.syntax.stretches import Part, Stretch, changes_between, comments, loses_comment
from yoake.core.syntax.tree import text
from yoake.core.values.edits import Change

_HOLE: Final = re.compile(r"\{(\*?)(\w+)\}")
_PREFIX: Final = "hole_"
_REST: Final = "rest_"
_TOKEN: Final = re.compile(
    r"\{\*(?P<rest>\w+)\}|\{(?P<hole>\w+)\}|(?P<comma>,\s+)|(?P<name>(?<![\w.}\"'])[A-Za-z_]\w*(?:\.[A-Za-z_]\w*)+)"
)
_COMMA: Final = ", "
_SIMPLE: Final = re.compile(rf"(?:{_PREFIX})?[A-Za-z_]\w*(?:\.[A-Za-z_]\w*)*")
_LOOSE: Final = (
    "binary_operator",
    "boolean_operator",
    "comparison_operator",
    "not_operator",
    "unary_operator",
    "conditional_expression",
    "lambda",
    "named_expression",
    "await",
    "yield",
)
"""Expressions that need brackets where an operator stands beside them."""
_BINDING: Final = (*_LOOSE, "attribute", "subscript", "call")
"""What binds tighter than an operator around it."""


_CALLEE: Final = "callee"
"""The hole that stands for the name as it is written there, whichever of the rule’s names it is."""


@dataclass(frozen=True, slots=True)
class _Argument:
    """One argument of a pattern. ``hole``: its name, empty for text that has to stand there; ``keyword``: empty by position; ``listed``: the
    hole takes the elements of a list."""

    keyword: str
    hole: str
    text: str
    listed: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class _Pattern:
    """A pattern as it is matched. ``value``: the hole before a member; ``name``: its name in full, ``last`` the last part of it, empty where
    any will do; ``called``: whether it is a call; ``rest``: takes what is left; ``plain``: a call of the name as it is written."""

    value: str
    name: str
    last: str
    called: bool
    arguments: tuple[_Argument, ...]
    rest: str
    plain: bool


_SPLATS: Final = ("list_splat", "dictionary_splat")
_ASSIGNED: Final = re.compile(r"^\{\w+\}(?:\.\w+|\[\{\w+\}\]) = ")
"""A shape that is a statement and no expression."""

Held = Mapping[str, Sequence[Stretch]]


def reshaped(
    chain: Node, name: str, shapes: Sequence[tuple[str, str]], refer: Callable[[str], str]
) -> tuple[list[Change], bool] | None:
    """(changes that write a use otherwise, whether the name itself stays); None where no shape fits. Shapes that only change arguments are all
    made, of others the first.

    ``chain``: the name as it stands there, ``name`` its last part as it is called where it comes from; ``refer``: a name in full → how it is
    written in this file, with what that needs. What a hole holds stays untouched where it can, so that other changes inside it remain
    possible.
    """
    made: list[Change] = []
    for was, now in shapes:
        pattern = _read(was)
        use = chain.parent if pattern.called else chain
        if use is None or (pattern.called and (use.type != "call" or use.child_by_field_name("function") != chain)):
            continue
        nodes = _match(chain, name, use, pattern)
        if nodes is None:
            continue
        goal = _read(now) if pattern.called and not _ASSIGNED.match(now) else None
        if goal is not None and _keeps_order(pattern, goal):
            if _is_there(use, pattern, goal):
                continue
            changed = list(_arguments_changed(use, pattern, goal, nodes, refer))
            if _takes_comment(use, changed):
                return None
            if not goal.plain:
                return [*_renamed(chain, goal, refer), *changed], False
            made += changed
            continue
        if made:
            continue
        parts = _written(use, now, _held(chain, pattern, nodes, use), refer)
        if parts is None:
            return None
        return list(changes_between(use, parts)), f"{{{_CALLEE}}}" in now
    return (made, True) if made else None


@lru_cache(maxsize=1024)
def _read(was: str) -> _Pattern:
    code = _HOLE.sub(lambda m: f"{_REST if m.group(1) else _PREFIX}{m.group(2)}", was)
    node = parse(code.encode()).root_node.children[0]
    node = node.children[0] if node.type == "expression_statement" else node
    called = node.type == "call"
    callee = node.child_by_field_name("function") if called else node
    whole = text(callee)
    value = callee.child_by_field_name("object") if callee is not None and callee.type == "attribute" else None
    hole = text(value).removeprefix(_PREFIX) if value is not None and text(value).startswith(_PREFIX) else ""
    plain = called and whole == f"{_PREFIX}{_CALLEE}"
    listed = node.child_by_field_name("arguments") if called else None
    arguments, rest = [], ""
    for child in listed.named_children if listed is not None else ():
        if text(child).startswith(_REST):
            rest = text(child).removeprefix(_REST)
        else:
            arguments.append(_argument(child))
    last = "" if plain else whole.rpartition(".")[2]
    return _Pattern(
        value=hole, name=whole, last=last, called=called, arguments=tuple(arguments), rest=rest, plain=plain
    )


def _argument(node: Node) -> _Argument:
    name = node.child_by_field_name("name") if node.type == "keyword_argument" else None
    inner = node.child_by_field_name("value") if name is not None else node
    keyword, written = text(name) if name is not None else "", text(inner)
    if found := re.fullmatch(rf"\[{_REST}(\w+)\]", written):
        return _Argument(keyword, found.group(1), "", listed=True)
    held = written.removeprefix(_PREFIX) if written.startswith(_PREFIX) else ""
    return _Argument(keyword, held, "" if held else written)


def _match(chain: Node, name: str, use: Node, pattern: _Pattern) -> list[Node] | None:
    """The argument that each of the pattern takes; None where the use is of another shape."""
    if pattern.value and chain.type != "attribute":
        return None
    if pattern.last and pattern.last != (text(chain.child_by_field_name("attribute")) if pattern.value else name):
        return None
    if not pattern.called:
        return []
    given = _given(use)
    if given is None:
        return None
    by_name = {text(c.child_by_field_name("name")): c for c in given if c.type == "keyword_argument"}
    in_order = iter([c for c in given if c.type not in ("keyword_argument", *_SPLATS)])
    found = []
    for argument in pattern.arguments:
        node = by_name.get(argument.keyword) if argument.keyword else next(in_order, None)
        if (
            node is None
            or not _fits(node, argument)
            or (not argument.keyword and any(c.type in _SPLATS for c in given))
        ):
            return None
        found.append(node)
    return found if pattern.rest or len(found) == len(given) else None


def _given(use: Node) -> list[Node] | None:
    """The arguments of a call; None for one over a generator."""
    listed = use.child_by_field_name("arguments")
    if listed is None or listed.type != "argument_list":
        return None
    return [child for child in listed.named_children if child.type != "comment"]


def _value(node: Node) -> Node:
    return (node.child_by_field_name("value") or node) if node.type == "keyword_argument" else node


def _fits(node: Node, argument: _Argument) -> bool:
    """Whether an argument is what a pattern asks for; strings are alike whatever their quotes."""
    value = _value(node)
    if argument.listed:
        return value.type == "list"
    return bool(argument.hole) or text(value).strip("\"'") == argument.text.strip("\"'")


def _held(chain: Node, pattern: _Pattern, nodes: Sequence[Node], use: Node) -> dict[str, tuple[Stretch, ...]]:
    """Hole → what it holds."""
    held: dict[str, tuple[Stretch, ...]] = {_CALLEE: (_stretch(chain),)}
    value = chain.child_by_field_name("object") if pattern.value else None
    if value is not None:
        held[pattern.value] = (_stretch(value),)
    for argument, node in zip(pattern.arguments, nodes, strict=True):
        if argument.listed:
            elements = [c for c in _value(node).named_children if c.type != "comment"]
            held[argument.hole] = _together(elements, elements)
        elif argument.hole:
            held[argument.hole] = (_stretch(_value(node)),)
    if pattern.rest:
        given = _given(use) or []
        held[pattern.rest] = _together([c for c in given if c not in nodes], given)
    return held


def _is_there(use: Node, pattern: _Pattern, goal: _Pattern) -> bool:
    """Whether a call has a keyword already that would be written anew."""
    held = {text(c.child_by_field_name("name")) for c in _given(use) or () if c.type == "keyword_argument"}
    asked = {a.keyword for a in pattern.arguments}
    return any(a.keyword in held for a in goal.arguments if a.keyword and a.keyword not in asked)


def _renamed(chain: Node, goal: _Pattern, refer: Callable[[str], str]) -> Iterator[Change]:
    """Another name in front of the arguments: another member of the same value, or a name in full."""
    member = chain.child_by_field_name("attribute") if goal.value else None
    if member is not None:
        yield Change(member.start_byte, member.end_byte, goal.last.encode())
    else:
        written = refer(goal.name) if "." in goal.name else goal.name
        yield Change(chain.start_byte, chain.end_byte, written.encode())


def _keeps_order(pattern: _Pattern, goal: _Pattern) -> bool:
    """Whether only the name in front, keywords, and arguments that go or come at the end change: the others stay as they are."""
    simple = goal.plain or (_SIMPLE.fullmatch(goal.name) and goal.value == pattern.value)
    if not goal.called or not simple or any(_PREFIX in a.text or _REST in a.text for a in goal.arguments):
        return False
    if pattern.rest != goal.rest or any(a.listed for a in (*pattern.arguments, *goal.arguments)):
        return False
    held = [a.hole for a in pattern.arguments if a.hole]
    kept = [a.hole for a in goal.arguments if a.hole]
    return kept == [hole for hole in held if hole in kept]


def _arguments_changed(
    use: Node, pattern: _Pattern, goal: _Pattern, nodes: Sequence[Node], refer: Callable[[str], str]
) -> Iterator[Change]:
    """Keywords written otherwise, arguments taken out with their comma, and new ones after the last."""
    given = _given(use) or []
    wanted = {a.hole: a for a in goal.arguments if a.hole}
    new = [a for a in goal.arguments if not a.hole]
    gone = []
    for argument, node in zip(pattern.arguments, nodes, strict=True):
        goal_argument = wanted.get(argument.hole) if argument.hole else None
        if goal_argument is None:
            same = next((a for a in new if a.keyword == argument.keyword or not argument.keyword), None)
            if argument.text and same is not None:  # another value in its place
                new.remove(same)
                yield Change(node.start_byte, node.end_byte, _as_text(same, refer).encode())
            else:
                gone.append(node)
        elif goal_argument.keyword != argument.keyword:
            start = _value(node).start_byte
            yield Change(node.start_byte, start, f"{goal_argument.keyword}=".encode() if goal_argument.keyword else b"")
    yield from _taken_out(use, given, gone)
    if new:
        written = ", ".join(_as_text(a, refer) for a in new)
        left = [node for node in given if node not in gone]
        listed = use.child_by_field_name("arguments")
        at = left[-1].end_byte if left else (listed.start_byte + 1 if listed is not None else use.end_byte)
        yield Change(at, at, (f", {written}" if left else written).encode())


def _as_text(argument: _Argument, refer: Callable[[str], str]) -> str:
    value = re.sub(r"(?<![\w.\"'])[A-Za-z_]\w*(?:\.[A-Za-z_]\w*)+", lambda m: refer(m.group()), argument.text)
    return f"{argument.keyword}={value}" if argument.keyword else value


def _taken_out(use: Node, given: Sequence[Node], gone: Sequence[Node]) -> Iterator[Change]:
    """Arguments taken out: with their lines where they stand alone on them, else with one comma and the space that goes with it."""
    kept = [node for node in given if node not in gone]
    for node in gone:
        at = given.index(node)
        lines = _own_lines(use, node)
        if lines is not None and kept:
            yield Change(*lines, b"")
        elif [other for other in given[at + 1 :] if other in kept]:
            yield Change(node.start_byte, given[at + 1].start_byte, b"")
        elif kept:
            yield Change(given[at - 1].end_byte, node.end_byte, b"")
        else:
            yield Change(node.start_byte, node.end_byte, b"")


def _own_lines(use: Node, node: Node) -> tuple[int, int] | None:
    """(from, to) of the lines on which an argument stands alone with its comma; None where something else does too."""
    source, base = use.text or b"", use.start_byte
    start = source.rfind(b"\n", 0, node.start_byte - base) + 1
    end = source.find(b"\n", node.end_byte - base)
    if not start or end < 0:
        return None
    before, after = source[start : node.start_byte - base], source[node.end_byte - base : end]
    if before.strip() or after.strip() != b",":
        return None
    return base + start, base + end + 1


def _written(use: Node, now: str, held: Held, refer: Callable[[str], str]) -> list[Part] | None:
    """What stands there instead; None where it is a statement and the use is none, or a comment would be lost."""
    if _ASSIGNED.match(now) and (use.parent is None or use.parent.type != "expression_statement"):
        return None
    parts = _around(use, list(_parts(now, held, refer)), now)
    return None if loses_comment(use, parts) else parts


def _stretch(node: Node) -> Stretch:
    return Stretch(node.start_byte, node.end_byte, node.type in _LOOSE)


def _together(left: Sequence[Node], given: Sequence[Node]) -> tuple[Stretch, ...]:
    """Arguments as they stand, neighbours in one stretch with what is between them."""
    found: list[Stretch] = []
    before = -2
    for node in left:
        at = given.index(node)
        if found and at == before + 1:
            found[-1] = Stretch(found[-1].start, node.end_byte)
        else:
            found.append(Stretch(node.start_byte, node.end_byte))
        before = at
    return tuple(found)


def _parts(now: str, held: Held, refer: Callable[[str], str]) -> Iterator[Part]:
    """What is written, in order: text of the shape, and stretches of the source; without commas beside what is empty."""
    made = [part for part in _tokens(now, held, refer) if part != ""]
    for number, part in enumerate(made):
        before = made[number - 1] if number else ""
        after = made[number + 1] if number + 1 < len(made) else ""
        opens = isinstance(before, str) and before.endswith(("(", "[", _COMMA))
        closes = isinstance(after, str) and after.startswith((")", "]"))
        if part != _COMMA or not (opens or closes):
            yield part


def _tokens(now: str, held: Held, refer: Callable[[str], str]) -> Iterator[Part]:
    at = 0
    for token in _TOKEN.finditer(now):
        yield now[at : token.start()]
        at = token.end()
        if token.group("name"):
            yield refer(token.group("name"))
        elif token.group("hole"):
            yield from _bracketed(held[token.group("hole")][0], now, token.start(), token.end())
        elif token.group("comma"):
            yield _COMMA
        else:
            for number, one in enumerate(held[token.group("rest")]):
                yield _COMMA if number else ""
                yield one
    yield now[at:]


def _bracketed(slice_: Stretch, now: str, start: int, end: int) -> Iterator[Part]:
    """What a hole holds, in brackets where an operator or a member stands beside it."""
    before, after = now[:start].rstrip()[-1:], now[end:].lstrip()[:1]
    alone = before in ("", "(", ",", "=", "[") and after in ("", ")", ",", "]")
    if slice_.loose and not alone:
        yield "("
        yield slice_
        yield ")"
    else:
        yield slice_


def _around(use: Node, parts: list[Part], now: str) -> list[Part]:
    """All of it in brackets where it is an operation and something binds tighter around it."""
    plain = _HOLE.sub("x", now)
    node = parse(plain.encode()).root_node.children[0]
    inner = node.children[0] if node.type == "expression_statement" else node
    parent = use.parent
    listed = parent is not None and parent.type == "call" and parent.child_by_field_name("function") != use
    if inner.type in _LOOSE and parent is not None and parent.type in _BINDING and not listed:
        return ["(", *parts, ")"]
    return parts


def _takes_comment(use: Node, changes: Sequence[Change]) -> bool:
    """Whether a comment stands in what is changed."""
    return any(c.start <= note.start_byte < c.end for c in changes for note in comments(use))
