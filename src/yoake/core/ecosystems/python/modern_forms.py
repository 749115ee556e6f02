"""Syntax of Python 2 written so that Python 3 reads it, and 2.7 still does."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from typing import Final

from tree_sitter import Node

from yoake.core.syntax.tree import text
from yoake.core.values.edits import Change

PREFIX: Final = "syntax."
_PRINT_FUNCTION: Final = b"from __future__ import print_function\n"
_OCTAL: Final = re.compile(r"0+(\d+)[lL]?$")
_COMMA: Final = re.compile(rb",\s*$")
_FEW: Final = 2  # an exception and its value; a third is where it comes from


class Unwritable(Exception):
    """Why a form is left to a person."""


def modernised(form: str, root: Node, source: bytes, places: Sequence[int]) -> list[Change]:
    """The changes that write one old form otherwise. ``places``: where it stands, in bytes. Raises Unwritable."""
    known = _FORMS.get(form.removeprefix(PREFIX))
    if known is None:
        raise Unwritable("this form is not written otherwise by itself")
    types, write = known
    nodes = list({node.start_byte: node for at in places for node in [_node_at(root, at, types)]}.values())
    changes = [change for node in nodes for change in write(node, source)]
    if write is _print:
        changes.extend(_print_function(root, nodes))
    return changes


def _node_at(root: Node, at: int, types: Sequence[str]) -> Node:
    node = root.descendant_for_byte_range(at, at)
    while node is not None and node.type not in types:
        node = node.parent
    if node is None:
        raise Unwritable("what stands there is read in another way")
    return node


def _whole(node: Node, written: bytes) -> Change:
    return Change(node.start_byte, node.end_byte, written)


def _of(node: Node, source: bytes) -> bytes:
    return source[node.start_byte : node.end_byte]


def _print(node: Node, source: bytes) -> Iterator[Change]:
    """``print a, b`` → ``print(a, b)``; ``print >>f, a`` → ``print(a, file=f)``; a comma at its end keeps the line open."""
    chevron = next((child for child in node.named_children if child.type == "chevron"), None)
    given = [_of(child, source) for child in node.named_children if child.type not in ("chevron", "comment")]
    if any(child.type == "comment" for child in node.named_children):
        raise Unwritable("a comment stands inside of it")
    if chevron is not None:
        given.append(b"file=" + _of(chevron.named_children[0], source))
    if _COMMA.search(_of(node, source)):
        given.append(b'end=" "')
    yield _whole(node, b"print(" + b", ".join(given) + b")")


def _print_function(root: Node, printed: Sequence[Node]) -> Iterator[Change]:
    """The import that makes print a function on 2.7 too, where more than one plain value is printed somewhere."""
    bare = [node for node in _walk(root) if node.type == "expression_statement" and text(node) == "print"]
    simple = all(len(n.named_children) == 1 and n.named_children[0].type != "chevron" for n in printed)
    if simple and not bare and not any(_COMMA.search(text(n).encode()) for n in printed):
        return
    for node in bare:
        yield _whole(node, b"print()")
    for node in _walk(root):
        if node.type == "expression_statement" and text(node).startswith("print") and _is_tuple_of_print(node):
            raise Unwritable("a print whose first value stands in brackets means something else as a function")
    statements = [child for child in root.named_children if child.type != "comment"]
    if any(child.type == "future_import_statement" and "print_function" in text(child) for child in statements):
        return
    first = statements[1] if _is_text(statements[0]) and len(statements) > 1 else statements[0]
    yield Change(first.start_byte, first.start_byte, _PRINT_FUNCTION)


def _is_tuple_of_print(node: Node) -> bool:
    """``print (a), b``, which the grammar reads as a call and something more."""
    first = node.named_children[0]
    called = first.child_by_field_name("function") if first.type == "call" else None
    return len(node.named_children) > 1 and called is not None and text(called) == "print"


def _is_text(node: Node) -> bool:
    return node.type == "expression_statement" and node.named_children[0].type in ("string", "concatenated_string")


def _walk(root: Node) -> Iterator[Node]:
    waiting = [root]
    while waiting:
        node = waiting.pop()
        yield node
        waiting.extend(node.named_children)


def _exec(node: Node, source: bytes) -> Iterator[Change]:
    """``exec code in names, more`` → ``exec(code, names, more)``."""
    given = [_of(child, source) for child in node.named_children]
    yield _whole(node, b"exec(" + b", ".join(given) + b")")


def _except(node: Node, source: bytes) -> Iterator[Change]:
    """``except E, e:`` → ``except E as e:``."""
    values = node.children_by_field_name("value")
    if len(values) != _FEW or values[1].type != "identifier":
        raise Unwritable("what is caught is put somewhere else than into a plain name")
    yield Change(values[0].end_byte, values[1].start_byte, b" as ")


def _raise(node: Node, source: bytes) -> Iterator[Change]:
    """``raise E, value`` → ``raise E(value)``; a tuple is what E is called with."""
    held = node.named_children[0].named_children
    if len(held) != _FEW:
        raise Unwritable("it says where it comes from: raise E(value).with_traceback(tb), which 2.7 does not have")
    error, value = held
    if error.type not in ("identifier", "attribute"):
        raise Unwritable("what is raised is no plain name")
    if value.type not in ("string", "concatenated_string", "tuple", "binary_operator", "call", "integer"):
        raise Unwritable(
            "what its value is only shows when it runs: a tuple would be taken apart, an error raised as it is"
        )
    inside = _of(value, source)
    yield _whole(node, b"raise " + _of(error, source) + (inside if value.type == "tuple" else b"(" + inside + b")"))


def _octal(node: Node, source: bytes) -> Iterator[Change]:
    found = _OCTAL.match(_of(node, source).decode())
    if found is None:
        raise Unwritable("what stands there is read in another way")
    yield _whole(node, b"0o" + found[1].encode())


def _long(node: Node, source: bytes) -> Iterator[Change]:
    octal = _OCTAL.match(_of(node, source).decode())
    yield _whole(node, b"0o" + octal[1].encode() if octal is not None else _of(node, source).rstrip(b"lL"))


def _backticks(node: Node, source: bytes) -> Iterator[Change]:
    yield _whole(node, b"repr(" + _of(node, source).strip(b"`").strip() + b")")


def _not_equal(node: Node, _source: bytes) -> Iterator[Change]:
    for child in node.children:
        if child.type == "<>":
            yield _whole(child, b"!=")


def _from_here(node: Node, source: bytes) -> Iterator[Change]:
    """``import a`` → ``from . import a``; ``from a import b`` → ``from .a import b``."""
    if node.type == "import_from_statement":
        module = node.child_by_field_name("module_name")
        if module is None:
            raise Unwritable("what stands there is read in another way")
        yield Change(module.start_byte, module.start_byte, b".")
        return
    names = node.children_by_field_name("name")
    plain = names[0].child_by_field_name("name") if names[0].type == "aliased_import" else names[0]
    if len(names) > 1 or plain is None or b"." in _of(plain, source):
        raise Unwritable("it imports several, or a part of one")
    yield Change(node.start_byte, names[0].start_byte, b"from . import ")


_Write = Callable[[Node, bytes], Iterator[Change]]
_FORMS: Final[dict[str, tuple[tuple[str, ...], _Write]]] = {
    "print_statement": (("print_statement",), _print),
    "exec_statement": (("exec_statement",), _exec),
    "except_comma": (("except_clause",), _except),
    "raise_comma": (("raise_statement",), _raise),
    "old_octal": (("integer",), _octal),
    "long_integer": (("integer",), _long),
    "backticks": (("string",), _backticks),
    "not_equal_sign": (("comparison_operator",), _not_equal),
    "implicit_relative_import": (("import_statement", "import_from_statement"), _from_here),
}
