"""Names written otherwise in JavaScript and TypeScript: members of modules, and names taken out of them.

Everything is decided on the syntax tree of the text as it is; nothing but what has to change is touched.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Final

from tree_sitter import Node, Tree

from yoake.core.ecosystems.javascript.references import OWN, NotHere, References, walk
from yoake.core.ecosystems.javascript.shapes import reshaped
from yoake.core.ecosystems.javascript.tree import script_parser, scripts_in
from yoake.core.syntax.tree import text
from yoake.core.values.edits import GONE, Change, Edited, Rename, Spot, applied

_GLOBAL: Final = "globalThis."
_DEFAULT: Final = ".default."
"""Inside the path of a member that is reached through the default of its module."""
_NAMES: Final = (
    "identifier",
    "shorthand_property_identifier",
    "shorthand_property_identifier_pattern",
    "property_identifier",
    "type_identifier",
)
_LAST_NAMES: Final = ("identifier", "property_identifier", "member_expression")
_LISTS: Final = ("object_pattern", "named_imports")
_BINDERS: Final = (
    "variable_declarator",
    "import_specifier",
    "import_clause",
    "namespace_import",
    "function_declaration",
    "class_declaration",
    "formal_parameters",
)


class _ByHand(Exception):
    """Why a name is left to a person."""


@dataclass
class _Plan:
    """What is to be done. ``reshaped``: changes that take whole uses away; ``gone``: list of names → those of it that are taken out."""

    changes: list[Change] = field(default_factory=list)
    reshaped: list[Change] = field(default_factory=list)
    gone: dict[int, tuple[Node, list[Node]]] = field(default_factory=dict)


def rename_in_javascript(source: bytes, renames: Sequence[Rename], _lost: Sequence[Spot] = ()) -> Edited:
    """The changes that write names otherwise. A name is changed at all of its spots, or at none."""
    tree = _parse(source)
    if tree is None:
        return Edited((), {r.key: "the file cannot be read whole by today’s grammar" for r in renames})
    file = _File(source, tree.root_node)
    made = _Plan()
    refused: dict[str, str] = {}
    for rename in renames:
        plan = _Plan()
        kept = file.references.kept()
        try:
            file.plan(rename, plan)
            _check_apart(source, made, plan)
        except (_ByHand, NotHere) as why:
            refused[rename.key] = str(why)
            file.references.back_to(kept)
            continue
        made.changes += plan.changes
        made.reshaped += plan.reshaped
        for at, (held, names) in plan.gone.items():
            made.gone.setdefault(at, (held, []))[1].extend(names)
    try:
        return Edited(tuple(sorted(set(file.changes(made)))), refused)
    except _ByHand as why:
        return Edited((), {r.key: str(why) for r in renames})


def _check_apart(source: bytes, made: _Plan, plan: _Plan) -> None:
    """Raises _ByHand where a plan changes what is changed already."""
    try:
        applied(source, {*made.changes, *made.reshaped, *plan.changes, *plan.reshaped})
    except ValueError:
        raise _ByHand("another edit changes the same place: ask again after it") from None


def _parse(source: bytes) -> Tree | None:
    """The tree of the first grammar that reads the text whole; of its scripts where it is a component of elements and scripts."""
    script = scripts_in(source)[0] if source.lstrip()[:1] == b"<" else source
    trees = (script_parser(grammar).parse(script) for grammar in ("javascript", "typescript", "tsx"))
    return next((tree for tree in trees if not tree.root_node.has_error), None)


class _File:
    """One file as it is."""

    def __init__(self, source: bytes, root: Node) -> None:
        self.source = source
        self.root = root
        self.starts = [0]
        for row in source.split(b"\n"):
            self.starts.append(self.starts[-1] + len(row) + 1)
        self.bound = frozenset(text(n) for n in walk(root) if n.type == "identifier" and _binds(n))
        self.bound |= {text(n) for n in walk(root) if n.type == "shorthand_property_identifier_pattern"}
        self.references = References(source, root, self.bound)

    def node_at(self, spot: Spot) -> Node:
        """The whole of what a spot covers."""
        start, end = (self.starts[spot.line - 1] + column for column in (spot.column, spot.end_column))
        node = self.root.named_descendant_for_byte_range(start, end)
        if node is None or (node.start_byte, node.end_byte) != (start, end):
            raise _ByHand("what stands there is no plain name")
        return node

    def plan(self, rename: Rename, plan: _Plan) -> None:
        """Add what one name takes. Raises _ByHand."""
        if rename.shapes:
            self._reshape(rename, plan)
            return
        if rename.new == GONE:
            raise _ByHand("it has to be taken out by somebody who knows what it was for")
        module, _, old = rename.old.rpartition(".")
        imports = [self.node_at(s) for s in rename.spots if s.form == "import"]
        uses = [s for s in rename.spots if s.form != "import"]
        for spot in uses:
            if spot.path.replace(_DEFAULT, ".") != rename.old:
                raise _ByHand(f"{spot.path} is a part of {rename.old}, or holds it")
        within = rename.new.startswith(f"{module}.")
        new = rename.new.removeprefix(f"{module}.") if within else self._from_elsewhere(rename, old)
        for spot in uses:
            self._use(self.node_at(spot), old, new, plan, within=within)
        for name in imports:
            self._imported(name, old, new, plan, within=within)

    def _from_elsewhere(self, rename: Rename, old: str) -> str:
        """How a name is written here that is no member of the old one’s module. Raises _ByHand, NotHere."""
        if rename.new.startswith(_GLOBAL):
            new = rename.new.removeprefix(_GLOBAL)
            if new.split(".")[0] in self.bound:
                raise _ByHand(f"{new.split('.')[0]} means something else here")
            return new
        if not rename.home:
            raise _ByHand(f"{rename.new} has to be imported from elsewhere")
        name = rename.new.removeprefix(f"{rename.home}.")
        first, _, rest = name.partition(".")
        freed = old if any(s.form == "import" for s in rename.spots) else ""
        written = self.references.refer(rename.home, first, freed)
        return f"{written}.{rest}" if rest else written

    def _reshape(self, rename: Rename, plan: _Plan) -> None:
        """All uses of a name written otherwise as its rule says. Raises _ByHand, NotHere."""

        def refer(module: str, name: str) -> str:
            helps = module == OWN
            return self.references.helped(name, rename.helpers[name]) if helps else self.references.refer(module, name)

        for spot in rename.spots:
            if spot.form == "import":
                continue  # it goes when nothing needs it any more
            made = [change for node in self._nodes_at(spot) for change in reshaped(node, rename.shapes, refer) or ()]
            if not made:
                raise _ByHand("it is used in another way than the rule knows, or a comment stands in the middle of it")
            plan.reshaped += made

    def _nodes_at(self, spot: Spot) -> Iterator[Node]:
        """What a spot covers; all names on its row where it says no more than the row."""
        if spot.end_column > spot.column:
            yield self.node_at(spot)
            return
        for node in walk(self.root):
            if node.start_point.row == spot.line - 1 and node.type in _LAST_NAMES:
                yield node

    def changes(self, plan: _Plan) -> Iterator[Change]:
        """All changes of a plan, with what has to be taken from modules for them, and what is not needed any more. Raises _ByHand."""
        gone = dict(plan.gone)
        removed: list[Change] = []
        for held, names in self.references.unused(plan.reshaped):
            if names:
                gone.setdefault(held.id, (held, []))[1].extend(n for n in names if n not in gone[held.id][1])
            else:
                removed.append(Change(*self._whole_lines(held), b""))
        for held, names in gone.values():
            removed += self.without(held, names)
        yield from (*plan.changes, *plan.reshaped, *removed, *self.references.changes(removed))

    def _use(self, node: Node, old: str, new: str, plan: _Plan, *, within: bool) -> None:
        """One place that uses the name: a member of its module, or the name by itself."""
        if node.type == "member_expression":
            owner, last = node.child_by_field_name("object"), node.child_by_field_name("property")
            if owner is None or last is None or text(last) != old or not _is_module(owner):
                raise _ByHand("it is reached in a way that is not rewritten")
            start = last.start_byte if within else node.start_byte
            plan.changes.append(Change(start, node.end_byte, new.encode()))
        elif node.type == "identifier" and text(node) != old and self._stands_for(text(node), old):
            return  # it is bound to what is written otherwise
        elif node.type in _NAMES and text(node) == old:
            if within and "." not in new:
                if new in self.bound:
                    raise _ByHand(f"{new} means something else here")
                plan.changes.append(Change(node.start_byte, node.end_byte, new.encode()))
            elif not within:
                plan.changes.append(Change(node.start_byte, node.end_byte, new.encode()))
            else:
                raise _ByHand(f"{old} was taken out of its module, and {new} is further inside")
        else:
            raise _ByHand("it has another name here")

    def _stands_for(self, name: str, old: str) -> bool:
        """Whether a name is declared as the member of a module: ``extend = require("util")._extend``."""
        for node in walk(self.root):
            value = node.child_by_field_name("value") if node.type == "variable_declarator" else None
            if (
                value is not None
                and value.type == "member_expression"
                and text(node.child_by_field_name("name")) == name
            ):
                return text(value.child_by_field_name("property")) == old
        return False

    def _imported(self, name: Node, old: str, new: str, plan: _Plan, *, within: bool) -> None:
        """The name where it is taken out of its module."""
        entry = name.parent if name.parent is not None and name.parent.type == "import_specifier" else name
        held = entry.parent
        if held is None or held.type not in _LISTS or text(entry) != old:
            raise _ByHand("it is taken out of its module under another name")
        if within and "." not in new:
            plan.changes.append(Change(entry.start_byte, entry.end_byte, new.encode()))
        else:
            plan.gone.setdefault(held.id, (held, []))[1].append(entry)

    def without(self, held: Node, names: Sequence[Node]) -> Iterator[Change]:
        """Names taken out of a list, with their commas; the whole statement where none is left. Raises _ByHand."""
        entries = held.named_children
        kept = [e for e in entries if e not in names]
        if not kept:
            yield Change(*self._whole_lines(_statement(held)), b"")
            return
        for entry in names:
            later = entries[entries.index(entry) + 1 :]
            if any(e in kept for e in later):
                yield Change(entry.start_byte, later[0].start_byte, b"")
        tail = [e for e in names if entries.index(e) > entries.index(kept[-1])]
        if tail:
            yield Change(kept[-1].end_byte, tail[-1].end_byte, b"")

    def _whole_lines(self, node: Node) -> tuple[int, int]:
        start, end = self.starts[node.start_point.row], min(self.starts[node.end_point.row + 1], len(self.source))
        if self.source[start : node.start_byte].strip() or self.source[node.end_byte : end].strip():
            raise _ByHand("other statements stand on the same line")
        return start, end


def _is_module(node: Node) -> bool:
    """Whether an expression is a name, or ``require(…)``."""
    if node.type == "call_expression":
        return text(node.child_by_field_name("function")) == "require"
    return node.type == "identifier"


def _statement(held: Node) -> Node:
    """The statement whose only purpose a list of names is. Raises _ByHand where it has another."""
    node: Node | None = held.parent
    while node is not None and node.type not in ("import_statement", "lexical_declaration", "variable_declaration"):
        if node.type not in ("import_clause", "variable_declarator") or (
            node.type == "import_clause" and node.named_child_count > 1
        ):
            raise _ByHand("what it is taken from is used in another way as well")
        node = node.parent
    if node is None or (node.type != "import_statement" and node.named_child_count > 1):
        raise _ByHand("other names are declared in the same statement")
    return node


def _binds(node: Node) -> bool:
    """Whether a name is given a meaning here: declared, imported, or a parameter."""
    parent = node.parent
    if parent is None or parent.type not in _BINDERS:
        return False
    return parent.type != "variable_declarator" or parent.child_by_field_name("name") == node
