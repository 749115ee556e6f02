"""Names that a file takes from modules: how one is written there, and what has to be added at its head for it."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Final

from tree_sitter import Node

from yoake.core.syntax.tree import text
from yoake.core.values.edits import Change

GLOBAL: Final = "globalThis"
OWN: Final = "own"
"""Stands for the file itself: what is taken from it is a helper that it gets."""
NAMED: Final = re.compile(r"(?<![\w$@/-])([@\w][\w@/.-]*)#([\w$]+)")
"""A name of a module as rules write it: ``module#name``."""
_LISTS: Final = ("object_pattern", "named_imports")


class NotHere(Exception):
    """Why a name cannot be taken from its module in this file."""


@dataclass
class References:
    """What a file takes from modules, and what is added to that. ``bound``: names that mean something in it;
    ``added``: module → names; ``helpers``: name → function that the file gets at its end."""

    source: bytes
    root: Node
    bound: frozenset[str]
    added: dict[str, set[str]] = field(default_factory=dict)
    helpers: dict[str, str] = field(default_factory=dict)

    def kept(self) -> tuple[dict[str, set[str]], dict[str, str]]:
        """What has been added so far, to go back to."""
        return {module: set(names) for module, names in self.added.items()}, dict(self.helpers)

    def back_to(self, kept: tuple[dict[str, set[str]], dict[str, str]]) -> None:
        """Forget what was added since."""
        self.added, self.helpers = kept

    def helped(self, name: str, code: str) -> str:
        """The name of a helper, which the file gets where it has none of that name. Raises NotHere where the name means something else."""
        written = NAMED.sub(lambda found: self.refer(found[1], found[2]), code).strip()
        there = next((c for c in self.root.children if text(c.child_by_field_name("name")) == name), None)
        if name in self.bound and (there is None or text(there) != written):
            raise NotHere(f"{name} means something else here")
        if there is None:
            self.helpers[name] = written
        return name

    def refer(self, module: str, name: str, freed: str = "") -> str:
        """How a name of a module is written here, with what that needs. ``freed``: a name that the file gives up.

        Raises NotHere where the name means something else here.
        """
        if module == GLOBAL:
            return name
        held = self._taken(module)
        for statement in held:
            for local, taken in _names_of(statement):
                if taken == name:
                    return local
        for statement in held:
            for local, taken in _names_of(statement):
                if taken in ("*", "require") or (taken == "default" and module in _WHOLE):
                    return f"{local}.{name}"
        added = self.added.setdefault(module, set())
        if module in _AS_A_WHOLE and (_ALL in added or module not in self.bound):
            added.add(_ALL)
            return f"{module}.{name}"
        if name in self.bound and name != freed and name not in added:
            raise NotHere(f"{name} means something else here")
        added.add(name)
        return name

    def changes(self, removed: Sequence[Change]) -> Iterator[Change]:
        """What is added at the head of the file. ``removed``: what is taken out of it otherwise."""
        stays = [child for child in self.root.children if not _within(child, removed)]
        modern = any(child.type == "import_statement" for child in self.root.children)
        heads = [child for child in stays if child.type == "import_statement" or (not modern and _is_require(child))]
        modern = modern or (not heads and any(child.type == "export_statement" for child in stays))
        shown = next((child for child in reversed(self.root.children) if _module_of(child)), None)
        style = text(shown) if shown is not None else self.source[:2000].decode("utf-8", "replace")
        quote, end = ("'" if "'" in style else '"'), (";" if shown is None or style.endswith(";") else "")
        ends = max((child.end_byte for child in stays), default=0)
        for _, code in sorted(self.helpers.items()):
            yield Change(ends, ends, f"\n\n{code}".encode())
        for module, names in sorted((module, names) for module, names in self.added.items() if names):
            listed = ", ".join(sorted(names))
            taken = module if _ALL in names else f"{{ {listed} }}"
            lists = (_list_of(child) for child in self._taken(module) if child in stays)
            held = next((one for one in lists if one is not None and one.named_children), None)
            if held is not None and _ALL not in names:
                at = held.named_children[-1].end_byte
                yield Change(at, at, f", {listed}".encode())
                continue
            source = f"{quote}{module}{quote}"
            line = f"import {taken} from {source}" if modern else f"const {taken} = require({source})"
            at = heads[-1].end_byte if heads else _head(self.root)
            yield Change(at, at, (f"\n{line}{end}" if heads else f"{line}{end}\n").encode())

    def _taken(self, module: str) -> list[Node]:
        """The statements at the head of the file that take something from a module."""
        wanted = {module, f"node:{module}"}
        return [child for child in self.root.children if _module_of(child) in wanted and not _of_types(child)]

    def unused(self, changes: Sequence[Change]) -> Iterator[tuple[Node, list[Node]]]:
        """(statement or list of names, names of the list) that nothing needs any more once changes have taken uses of them away."""
        names = [node for node in walk(self.root) if node.type in _USES]
        written = b" ".join(change.text for change in changes).decode("utf-8", "replace")
        lost = {text(node) for node in names if _within(node, changes)} - set(_WORD.findall(written))
        for statement in self.root.children if lost else ():
            if not _module_of(statement):
                continue
            bound = [local for local, _ in _names_of(statement)]
            idle = [
                local
                for local in bound
                if local in lost
                and all(_within(n, changes) or _is_inside(n, statement) for n in names if text(n) == local)
            ]
            listed = _list_of(statement)
            if idle and len(idle) == len(bound):
                yield statement, []
            elif idle and listed is not None:
                entries = [e for e in listed.named_children if _local_name(e) in idle]
                if entries:
                    yield listed, entries


def _local_name(entry: Node) -> str:
    field_name = "alias" if entry.child_by_field_name("alias") is not None else "value"
    return text(entry.child_by_field_name(field_name) or entry.child_by_field_name("name") or entry)


def _within(node: Node, changes: Sequence[Change]) -> bool:
    return any(c.start <= node.start_byte and node.end_byte <= c.end for c in changes)


def _is_inside(node: Node, statement: Node) -> bool:
    return statement.start_byte <= node.start_byte < statement.end_byte


def _of_types(node: Node) -> bool:
    """Whether a statement takes nothing but types."""
    return any(child.type in ("type", "typeof") for child in node.children)


def walk(node: Node) -> Iterator[Node]:
    """A node and all below it, in the order of the text."""
    waiting = [node]
    while waiting:
        here = waiting.pop()
        yield here
        waiting.extend(reversed(here.children))


_WORD: Final = re.compile(r"(?<![\w$.])[\w$]+")
_ALL: Final = "*"
"""Among the names that are added: the module as a whole, under its own name."""
_AS_A_WHOLE: Final = frozenset(("assert", "crypto", "fs", "os", "path", "url", "util"))
_USES: Final = ("identifier", "shorthand_property_identifier", "type_identifier")
_WHOLE: Final = frozenset(
    ("path", "fs", "util", "url", "crypto", "os", "events", "assert", "react", "react-dom", "express")
)
"""Modules whose default export has all of their names."""


def _is_require(node: Node) -> bool:
    return node.type in ("lexical_declaration", "variable_declaration") and _required(node) is not None


def _required(node: Node) -> Node | None:
    """The call of require that a declaration of one name, or one list of names, takes its value from."""
    declared = [child for child in node.named_children if child.type == "variable_declarator"]
    value = declared[0].child_by_field_name("value") if len(declared) == 1 else None
    if value is None or value.type != "call_expression" or text(value.child_by_field_name("function")) != "require":
        return None
    return value


def _require_clause(node: Node) -> Node | None:
    """``a = require("b")`` of an import in the form of TypeScript."""
    return next((child for child in node.named_children if child.type == "import_require_clause"), None)


def _module_of(node: Node) -> str:
    if node.type == "import_statement":
        return text((_require_clause(node) or node).child_by_field_name("source")).strip("\"'`")
    required = _required(node) if _is_require(node) else None
    listed = required.child_by_field_name("arguments") if required is not None else None
    return text(listed.named_children[0]).strip("\"'`") if listed is not None and listed.named_children else ""


def _list_of(node: Node) -> Node | None:
    """The list of names that a statement takes out of its module."""
    waiting = [node]
    while waiting:
        here = waiting.pop()
        if here.type in _LISTS:
            return here
        waiting.extend(child for child in here.named_children if child.type in _ON_THE_WAY)
    return None


_ON_THE_WAY: Final = ("import_clause", "variable_declarator", *_LISTS)


def _whole_names(node: Node) -> Iterator[tuple[str, str]]:
    required = _require_clause(node)
    if required is not None:
        yield text(required.named_children[0]), "require"
    elif node.type == "import_statement":
        clause = next((child for child in node.named_children if child.type == "import_clause"), None)
        for child in clause.named_children if clause is not None else ():
            if child.type == "identifier":
                yield text(child), "default"
            elif child.type == "namespace_import":
                yield text(child.named_children[0]), "*"
    else:
        name = node.named_children[0].child_by_field_name("name")
        if name is not None and name.type == "identifier":
            yield text(name), "require"


def _names_of(node: Node) -> Iterator[tuple[str, str]]:
    """(name here, name there) of what a statement takes; there is ``*``, ``require`` or ``default`` for the module as a whole."""
    yield from _whole_names(node)
    listed = _list_of(node)
    for entry in listed.named_children if listed is not None else ():
        if entry.type == "import_specifier":
            alias = entry.child_by_field_name("alias")
            yield text(alias or entry.child_by_field_name("name")), text(entry.child_by_field_name("name"))
        elif entry.type == "shorthand_property_identifier_pattern":
            yield text(entry), text(entry)
        elif entry.type == "pair_pattern":
            yield text(entry.child_by_field_name("value")), text(entry.child_by_field_name("key"))


def _head(root: Node) -> int:
    """Where the first statement begins that is no directive and no comment at the very top."""
    for child in root.children:
        directive = child.type == "expression_statement" and child.named_children[0].type == "string"
        if child.type not in ("comment", "hash_bang_line") and not directive:
            return child.start_byte
    return root.end_byte
