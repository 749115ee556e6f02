"""Thin helpers over tree-sitter that the readers of JavaScript and TypeScript text share."""

from __future__ import annotations

import re
from functools import cache
from typing import Final

import tree_sitter_javascript
import tree_sitter_typescript
from tree_sitter import Language, Node, Parser, Tree

from yoake.core.ecosystems.javascript.specifiers import as_part
from yoake.core.syntax.tree import text

_GRAMMARS: Final = {
    "javascript": tree_sitter_javascript.language,
    "typescript": tree_sitter_typescript.language_typescript,
    "tsx": tree_sitter_typescript.language_tsx,
}
_SHORT: Final = 80
_LONGEST_CHAIN: Final = 20  # members and calls in one expression that are followed
_NAMES: Final = re.compile(r"[A-Za-z_$][\w$]*(?:\.[A-Za-z_$][\w$]*)*$", re.ASCII)
_NO_ROOTS: Final = ("super", "import", "new", "undefined", "null", "true", "false")
_INTEROP: Final = ("interop", "__importDefault", "__importStar", "__toESM", "__toModule", "_interopNamespace")
_SCRIPT: Final = re.compile(rb"<script\b([^>]*)>(.*?)</script\s*>", re.DOTALL | re.IGNORECASE)


@cache
def script_parser(grammar: str) -> Parser:
    """The parser of a grammar: javascript, typescript or tsx."""
    return Parser(Language(_GRAMMARS[grammar]()))


def grammar_of(path: str) -> str:
    """Which grammar reads a file, by its name."""
    if path.endswith(".tsx"):
        return "tsx"
    return "typescript" if path.endswith((".ts", ".mts", ".cts")) else "javascript"


def parse_script(source: bytes, grammar: str) -> Tree:
    """The syntax tree of JavaScript or TypeScript text. JavaScript with type annotations is read as TSX."""
    tree = script_parser(grammar).parse(source)
    if tree.root_node.has_error and "tsx" in grammars_of(source, grammar):
        return script_parser("tsx").parse(source)
    return tree


def grammars_of(source: bytes, grammar: str) -> tuple[str, ...]:
    """The grammars that may read a text: its own, and TSX for JavaScript that has type annotations."""
    typed = grammar == "javascript" and (b"@flow" in source[:2000] or b"import type" in source)
    return (grammar, "tsx") if typed else (grammar,)


def literal(node: Node | None) -> str | None:
    """The value of a string, or of a template without substitutions; None for everything else."""
    if node is None or node.type not in ("string", "template_string"):
        return None
    parts = node.named_children
    if any(part.type == "template_substitution" for part in parts):
        return None
    return "".join(text(part) for part in parts if part.type == "string_fragment")


def required(node: Node) -> tuple[str, Node] | None:
    """``require("x")``, ``import("x")``, also inside ``await``, parentheses and helpers of compilers: (part, literal)."""
    kind = node.type
    if kind in ("await_expression", "parenthesized_expression"):
        inner = node.named_children[0] if node.named_children else None
        return required(inner) if inner is not None else None
    if kind != "call_expression":
        return None
    return required_by(node.child_by_field_name("function"), node.child_by_field_name("arguments"))


def required_by(function: Node | None, arguments: Node | None) -> tuple[str, Node] | None:
    """The same for a call that was taken apart."""
    first = arguments.named_child(0) if arguments is not None and arguments.named_child_count else None
    if function is None or first is None:
        return None
    kind = function.type
    if kind == "import" or (kind == "identifier" and function.text == b"require"):
        value = literal(first)
        return (as_part(value), first) if value and "!" not in value else None
    if first.type == "call_expression" and any(sign in text(function) for sign in _INTEROP):
        return required(first)
    return None


def plain_chain(node: Node) -> tuple[str, tuple[str, ...]] | None:
    """``a.b.c`` as ("a", ("b", "c")), by its text alone; None when it is long or anything more than names."""
    if node.end_byte - node.start_byte > _SHORT:
        return None
    shown = text(node)
    if not _NAMES.match(shown):
        return None
    root, *names = shown.split(".")
    return (root, tuple(names)) if root not in _NO_ROOTS else None


def computed_part(node: Node) -> Node | None:
    """The node inside a chain at which ``member_chain`` gave up: what stands below it has no name of its own."""
    while True:
        kind = node.type
        if kind == "non_null_expression" or (kind == "parenthesized_expression" and node.named_child_count == 1):
            node = node.named_children[0]
            continue
        if kind == "subscript_expression":
            value = literal(node.child_by_field_name("index"))
            if not value or "." in value:
                return node
        inner = node.child_by_field_name("module" if kind == "nested_type_identifier" else "object")
        if inner is None:
            return None
        node = inner


def member_chain(node: Node) -> tuple[Node, list[str]] | None:
    """``a.b["c"]`` as (node of ``a``, ["b", "c"]); None when a part is computed."""
    names: list[str] = []
    while True:
        kind = node.type
        if kind == "member_expression":
            names.append(text(node.child_by_field_name("property")))
        elif kind == "subscript_expression":
            value = literal(node.child_by_field_name("index"))
            if not value or "." in value:
                return None
            names.append(value)
        elif kind == "non_null_expression" or (kind == "parenthesized_expression" and node.named_child_count == 1):
            node = node.named_children[0]
            continue
        elif kind == "nested_type_identifier":
            names.append(text(node.child_by_field_name("name")))
            inner = node.child_by_field_name("module")
            if inner is None:
                return None
            node = inner
            continue
        else:
            break
        inner = node.child_by_field_name("object")
        if inner is None:
            return None
        node = inner
    names.reverse()
    return node, names


def called_chain(node: Node) -> tuple[Node, list[str]] | None:
    """``a.b(…).c`` as (node of ``a``, ["b()", "c"]): members of what calls give back. A call of the first name itself is the
    member ``()``. None when a part is computed."""
    names: list[str] = []
    called = ""
    while True:
        kind = node.type
        if kind == "call_expression" and required(node) is not None:
            break
        if kind in ("call_expression", "new_expression"):
            called = "()"
            inner = node.child_by_field_name("function" if kind == "call_expression" else "constructor")
        elif kind == "member_expression":
            names.append(text(node.child_by_field_name("property")) + called)
            called = ""
            inner = node.child_by_field_name("object")
        elif (
            kind in ("non_null_expression", "await_expression", "parenthesized_expression")
            and node.named_child_count == 1
        ):
            inner = node.named_children[0]
        else:
            break
        if inner is None or len(names) > _LONGEST_CHAIN:
            return None
        node = inner
    if called:
        names.append(called)
    names.reverse()
    return node, names


def scripts_in(text: bytes) -> tuple[bytes, str]:
    """The scripts of a component file at the lines where they stand, everything else blank."""
    kept = bytearray(re.sub(rb"[^\n]", b" ", text))
    grammar = "javascript"
    for found in _SCRIPT.finditer(text):
        kept[found.start(2) : found.end(2)] = found.group(2)
        if re.search(rb"lang=[\"']?tsx?", found.group(1)):
            grammar = "tsx"
    return bytes(kept), grammar
