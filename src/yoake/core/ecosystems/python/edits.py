"""Names written otherwise in Python text: import statements, chains of attributes, bound names and decorators.

Everything is decided on the syntax tree of the text as it is; nothing but what has to change is touched.
"""

from __future__ import annotations

from codecs import BOM_UTF8
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Final

from tree_sitter import Node

from yoake.core.ecosystems.python.coroutines import SHAPE, as_coroutine
from yoake.core.ecosystems.python.modern_forms import PREFIX, Unwritable, modernised
from yoake.core.ecosystems.python.shapes import reshaped
from yoake.core.ecosystems.python.tree import parse
from yoake.core.syntax.tree import text
from yoake.core.values.edits import GONE, Change, Edited, Rename, Spot

_OWN: Final = "own."
"""What the name of a helper begins with in a shape."""
_DEFINITIONS: Final = ("function_definition", "class_definition")
_OWN_CLASS: Final = ("inherited", "member", "instance", "override", "assigned")
"""Uses whose first part is a value and no module: only their last part can be written otherwise."""


class _ByHand(Exception):
    """Why a name is left to a person."""


@dataclass(eq=False, kw_only=True)
class _Entry:
    """One name of an import statement. ``path``: what it imports; ``bound``: the name it binds; ``alias``: whether it says which."""

    node: Node
    name: Node
    statement: _Statement
    path: str
    bound: str
    alias: bool


@dataclass(eq=False)
class _Statement:
    """One import statement. ``module``: what names come from, empty for ``import a``."""

    node: Node
    module: str
    entries: list[_Entry] = field(default_factory=list)


@dataclass(kw_only=True)
class _Plan:
    """What is to be done. ``renamed``: entry → its new text in place; ``gone``: entries taken out; ``brought``: statement → what to import
    after it, as (module, written name); ``helpers``: name → what the file gets after its imports for it."""

    changes: list[Change] = field(default_factory=list)
    renamed: dict[_Entry, str] = field(default_factory=dict)
    gone: dict[_Entry, None] = field(default_factory=dict)
    brought: dict[_Statement, list[tuple[str, str]]] = field(default_factory=dict)
    tops: list[str] = field(default_factory=list)
    rewritten: dict[str, set[int]] = field(default_factory=dict)
    helpers: dict[str, str] = field(default_factory=dict)

    def copy(self) -> _Plan:
        return _Plan(
            changes=list(self.changes),
            renamed=dict(self.renamed),
            gone=dict(self.gone),
            brought={s: list(held) for s, held in self.brought.items()},
            tops=list(self.tops),
            rewritten={name: set(held) for name, held in self.rewritten.items()},
            helpers=dict(self.helpers),
        )


def rename_in_python(source: bytes, renames: Sequence[Rename], lost: Sequence[Spot] = ()) -> Edited:
    """The changes that write names otherwise. ``lost``: imports of what is not there at the destination, taken out when nothing needs
    them any more. A name is changed at all of its spots, or at none."""
    file = _File(source)
    if file.tree.root_node.has_error:
        return Edited((), {r.key: "the file cannot be read whole by today’s grammar" for r in renames})
    plan = _Plan()
    refused: dict[str, str] = {}
    for rename in renames:
        trial = plan.copy()
        try:
            file.plan(rename, trial)
        except _ByHand as why:
            refused[rename.key] = str(why)
            continue
        plan = trial
    file.drop_unused(plan, lost)
    try:
        return Edited(tuple(sorted({*plan.changes, *file.statement_changes(plan)})), refused)
    except _ByHand as why:
        return Edited((), {r.key: str(why) for r in renames})


class _File:
    """One file as it is."""

    def __init__(self, source: bytes) -> None:
        self.source = source
        self.tree = parse(source)
        self.rows = source.split(b"\n")
        self.starts = [0]
        for row in self.rows:
            self.starts.append(self.starts[-1] + len(row) + 1)
        if source.startswith(BOM_UTF8):
            self.starts[0] = len(BOM_UTF8)  # columns of the first row are counted from after the mark
        self.statements = list(self._statements())
        self.entries = [entry for statement in self.statements for entry in statement.entries]
        self.names: dict[str, list[Node]] = {}
        for node in _walk(self.tree.root_node):
            if node.type == "identifier":
                self.names.setdefault(text(node), []).append(node)

    # reading

    def _statements(self) -> Iterator[_Statement]:
        for node in _walk(self.tree.root_node):
            if node.type == "import_from_statement":
                module = node.child_by_field_name("module_name")
                made = _Statement(node, text(module))
                for child in node.children_by_field_name("name"):
                    made.entries.append(_entry(child, made))
                yield made
            elif node.type == "import_statement":
                made = _Statement(node, "")
                for child in node.children_by_field_name("name"):
                    made.entries.append(_entry(child, made))
                yield made

    def byte_at(self, line: int, column: int) -> int:
        """Bytes before a column."""
        return self.starts[line - 1] + column

    def entry_at(self, spot: Spot) -> _Entry | None:
        at = self.byte_at(spot.line, spot.column)
        return next((e for e in self.entries if e.node.start_byte <= at < e.node.end_byte), None)

    def chain_at(self, spot: Spot) -> tuple[Node, Node]:
        """(whole chain, its last name) of a use."""
        end = self.byte_at(spot.line, spot.end_column)
        last = self.tree.root_node.descendant_for_byte_range(max(end - 1, 0), max(end - 1, 0))
        if last is None or last.type != "identifier" or last.end_byte != end:
            raise _ByHand("what stands there is no plain name")
        parent = last.parent
        if parent is not None and parent.type == "attribute" and parent.child_by_field_name("attribute") == last:
            return parent, last
        return last, last

    def free(self, name: str) -> bool:
        """Whether no name of the file is called so."""
        return name not in self.names

    def bound_uses(self, name: str) -> list[Node]:
        """Where a bound name stands outside of imports, and not as a member or a keyword."""
        inside = [s.node for s in self.statements]
        return [
            node
            for node in self.names.get(name, ())
            if not _member(node) and not any(s.start_byte <= node.start_byte < s.end_byte for s in inside)
        ]

    # planning

    def plan(self, rename: Rename, plan: _Plan) -> None:
        """Add what one name takes. Raises _ByHand."""
        if rename.old.startswith(PREFIX):
            self._modernise(rename, plan)
            return
        imports = [(spot, self.entry_at(spot)) for spot in rename.spots if spot.form == "import"]
        uses = [spot for spot in rename.spots if spot.form != "import"]
        if rename.shapes:
            self._reshape(rename, [e for _, e in imports if e is not None], uses, plan)
            return
        if rename.new == GONE:
            self._take_out(rename, [e for _, e in imports if e is not None], uses, plan)
            return
        renamed: dict[str, str] = {}
        for spot, entry in imports:
            if entry is None or spot.path != rename.old:
                raise _ByHand(f"what is imported is a part of {rename.old}, or holds it")
            renamed.update(self._import(rename, entry, uses, plan))
        for spot in uses:
            self._use(rename, spot, renamed, plan)

    def _modernise(self, rename: Rename, plan: _Plan) -> None:
        """An old form, written as newer lines read it too."""
        places = [self.byte_at(spot.line, spot.column) for spot in rename.spots]
        try:
            plan.changes.extend(modernised(rename.old, self.tree.root_node, self.source, places))
        except Unwritable as why:
            raise _ByHand(str(why)) from why
        _check_apart(plan.changes)

    def _reshape(self, rename: Rename, entries: list[_Entry], uses: list[Spot], plan: _Plan) -> None:
        """Uses that are more than a name, with the import of the name where nothing else needs it."""
        kept = False

        def refer(name: str) -> str:
            nonlocal kept
            if name == rename.old:
                kept = True
                return text(chain)
            if name.startswith(_OWN):
                return self._helped(name.removeprefix(_OWN), rename, entries, uses, plan)
            return self._named(name, rename, entries, plan)

        for spot in uses:
            chain, _ = self.chain_at(spot)
            if SHAPE in rename.shapes:
                self._to_coroutine(chain, plan)
                continue
            made = reshaped(chain, spot.path.rpartition(".")[2], rename.shapes, refer)
            if made is None:
                raise _ByHand("it is used in a form that the rule does not know")
            changes, stays = made
            kept = kept or stays
            plan.changes.extend(changes)
            _check_apart(plan.changes)
            _mark_rewritten(chain, plan)
        if not kept:
            self._drop_imports(entries, plan)

    def _helped(self, name: str, rename: Rename, entries: list[_Entry], uses: list[Spot], plan: _Plan) -> str:
        """The name of a helper, which the file gets where it has none of that name. Raises _ByHand where the name means something else."""
        code = rename.helpers[name].strip()
        imported = [node for entry in entries for node in (entry.name, entry.node)]
        spots = [(self.byte_at(s.line, s.column), self.byte_at(s.line, s.end_column)) for s in uses]
        for node in self.names.get(name, ()):
            place = node.parent
            own = any(held.start_byte <= node.start_byte < held.end_byte for held in imported)
            used = any(start <= node.start_byte < end for start, end in spots)
            if place is not None and place.type in _DEFINITIONS and text(place) == code:
                return name
            if not (_member(node) or own or used):
                raise _ByHand(f"{name} means something else here")
        plan.helpers[name] = code
        return name

    def _drop_imports(self, entries: list[_Entry], plan: _Plan) -> None:
        """Take out imports of a name whose every use was just written otherwise. Raises _ByHand where some was not."""
        for entry in entries:
            if not entry.statement.module:
                continue
            used = {node.start_byte for node in self.bound_uses(entry.bound)}
            if used <= plan.rewritten.get(entry.bound, set()) and not self._told(entry.bound):
                plan.gone[entry] = None
            else:
                raise _ByHand("it is used in more ways than the rule knows")

    def _to_coroutine(self, chain: Node, plan: _Plan) -> None:
        """A decorated generator as a coroutine, without its decorator. Raises _ByHand."""
        decorator = chain.parent
        changes = as_coroutine(decorator) if decorator is not None and decorator.type == "decorator" else None
        if decorator is None or changes is None:
            raise _ByHand("it yields by itself, or is no plain function")
        plan.changes += [Change(*self._whole_lines(decorator), b""), *changes]
        _check_apart(plan.changes)
        _mark_rewritten(chain, plan)

    def _named(self, name: str, rename: Rename, entries: list[_Entry], plan: _Plan) -> str:
        """How a name is written in this file; brought the way the old one was where both come from the same place."""
        home = rename.homes.get(name) or name.rpartition(".")[0]
        module, _, last = name.rpartition(".")
        beside = next((e for e in entries if e.statement.module == module), None)
        if beside is not None and home == module and (self.free(last) or self._binds_the_same(beside, last)):
            plan.brought.setdefault(beside.statement, []).append((module, last))
            return last
        return self._reference(Rename(key=rename.key, old=rename.old, new=name, home=home, spots=()), plan)

    def _take_out(self, rename: Rename, entries: list[_Entry], uses: list[Spot], plan: _Plan) -> None:
        """A decorator that does nothing any more, with its import."""
        for spot in uses:
            if spot.form == "setting":
                plan.changes.append(Change(*self._whole_lines(self._assignment_at(spot, rename.old)), b""))
                continue
            chain, _ = self.chain_at(spot)
            decorator = chain.parent
            if decorator is None or decorator.type != "decorator":
                raise _ByHand("it is not only a decorator here")
            start, end = self._whole_lines(decorator)
            plan.changes.append(Change(start, end, b""))
        bound = {e.bound for e in entries}
        counted = sum(len(self.bound_uses(name)) for name in bound)
        if entries and counted > len(uses):
            raise _ByHand("it is used in more ways than as a decorator")
        for entry in entries:
            plan.gone[entry] = None

    def _assignment_at(self, spot: Spot, name: str) -> Node:
        """The statement at the top that sets a name on a line. Raises _ByHand."""
        for node in self.tree.root_node.children:
            inner = node.named_children[0] if node.type == "expression_statement" and node.named_child_count else None
            if inner is None or inner.type != "assignment" or node.start_point.row != spot.line - 1:
                continue
            if text(inner.child_by_field_name("left")) == name:
                return node
        raise _ByHand("it is not set by a plain statement")

    def _import(self, rename: Rename, entry: _Entry, uses: list[Spot], plan: _Plan) -> dict[str, str]:
        """Plan for one imported name; returns bound names that are written otherwise from now on."""
        if not entry.statement.module:
            if entry.alias:
                plan.renamed[entry] = f"{rename.new} as {entry.bound}"
            elif "." not in rename.old and rename.home == rename.new:
                plan.renamed[entry] = rename.new if rename.new == entry.bound else f"{rename.new} as {entry.bound}"
            else:
                raise _ByHand("a dotted module is imported whole")
            return {}
        if entry.statement.module.startswith("."):
            raise _ByHand("it is imported from a module of its own")
        module, _, name = rename.new.rpartition(".")
        if not module or rename.home not in (module, rename.new):
            return self._member_for(rename, entry, uses, plan)
        written, otherwise = self._written(entry, name, uses)
        if module == entry.statement.module:
            plan.renamed[entry] = written
        else:
            plan.gone[entry] = None
            plan.brought.setdefault(entry.statement, []).append((module, written))
        return otherwise

    def _member_for(self, rename: Rename, entry: _Entry, uses: list[Spot], plan: _Plan) -> dict[str, str]:
        """A bound name becomes a member, which cannot be imported: each of its uses names what holds it."""
        spots = {self.byte_at(s.line, s.column) for s in uses}
        used = self.bound_uses(entry.bound)
        if entry.alias or self._told(entry.bound) or not all(node.start_byte in spots for node in used):
            raise _ByHand(f"{rename.new} is a member, which cannot be imported")
        plan.rewritten.setdefault(entry.bound, set()).update(node.start_byte for node in used)
        plan.gone[entry] = None
        return {entry.bound: self._reference(rename, plan)}

    def _written(self, entry: _Entry, name: str, uses: list[Spot]) -> tuple[str, dict[str, str]]:
        """(the imported name as it is to be written, bound names that change with it)."""
        if entry.alias:
            return (name if name == entry.bound else f"{name} as {entry.bound}"), {}
        if name == entry.bound:
            return name, {}
        spots = {self.byte_at(s.line, s.column) for s in uses}
        covered = all(node.start_byte in spots for node in self.bound_uses(entry.bound))
        known = self._binds_the_same(entry, name)
        if covered and (self.free(name) or known) and not self._told(entry.bound):
            return name, {entry.bound: name}
        return f"{name} as {entry.bound}", {}

    def _binds_the_same(self, entry: _Entry, name: str) -> bool:
        """Whether the only thing called so is what another entry imports from the same module already."""
        held = [e for e in self.entries if e.bound == name]
        return bool(held) and all(e.statement.module == entry.statement.module and not e.alias for e in held)

    def _told(self, name: str) -> bool:
        """Whether the module says in ``__all__`` that others may import a name."""
        return "__all__" in self.names and any(quote + name.encode() + quote in self.source for quote in (b'"', b"'"))

    def _use(self, rename: Rename, spot: Spot, renamed: dict[str, str], plan: _Plan) -> None:
        """Plan for one place that uses the name."""
        chain, last = self.chain_at(spot)
        if spot.form not in _OWN_CLASS:
            chain, last = _shortened(chain, last, rename.old.rpartition(".")[2])
        if chain is last:
            self._bound_use(rename, last, renamed, plan)
            return
        module, _, name = rename.new.rpartition(".")
        old_module, _, old_name = rename.old.rpartition(".")
        if text(last) != old_name and spot.form in _OWN_CLASS and spot.path == rename.old:
            return  # a member that comes along with its class
        if text(last) != old_name:
            raise _ByHand(f"{text(last)} is a part of {rename.old}, or holds it")
        if module == old_module:
            plan.changes.append(Change(last.start_byte, last.end_byte, name.encode()))
            return
        root = _root_of(chain)
        if spot.form in _OWN_CLASS or spot.path != rename.old or root is None:
            raise _ByHand("it is reached through a value")
        plan.changes.append(Change(chain.start_byte, chain.end_byte, self._reference(rename, plan).encode()))
        plan.rewritten.setdefault(text(root), set()).add(root.start_byte)

    def _bound_use(self, rename: Rename, name: Node, renamed: dict[str, str], plan: _Plan) -> None:
        """A bound name: what it is bound to has changed, or the name with it."""
        module, _, new = rename.new.rpartition(".")
        old_module, _, old = rename.old.rpartition(".")
        shown = text(name)
        if shown in renamed:
            plan.changes.append(Change(name.start_byte, name.end_byte, renamed[shown].encode()))
        elif not self._imported(shown):
            if shown != old or module != old_module:
                raise _ByHand(f"{shown} comes from elsewhere")
            plan.changes.append(Change(name.start_byte, name.end_byte, new.encode()))

    def _imported(self, name: str) -> bool:
        return any(entry.bound == name for entry in self.entries)

    def _reference(self, rename: Rename, plan: _Plan) -> str:
        """How the new name is written where it is used, with what has to be imported for it."""
        home = rename.home if rename.home != rename.new else rename.new.rpartition(".")[0]
        rest = rename.new.removeprefix(home).lstrip(".")
        if not home:
            return rest
        tops = [e for e in self.entries if e.statement.node.parent == self.tree.root_node]
        for entry in tops:
            if entry not in plan.gone and entry not in plan.renamed and entry.path == home and not entry.alias:
                written = home if not entry.statement.module else entry.bound
                return f"{written}.{rest}"
            if entry not in plan.gone and entry.path == home and entry.alias:
                return f"{entry.bound}.{rest}"
        top = home.split(".")[0]
        same = any(e.path.split(".")[0] == top and not e.statement.module and not e.alias for e in tops)
        if self.free(top) or same or f"import {home}" in plan.tops:
            plan.tops.append(f"import {home}")
            return f"{home}.{rest}"
        first, _, more = rest.partition(".")
        bound = first if self.free(first) else f"{home.replace('.', '_')}_{first}"
        if not self.free(bound):
            raise _ByHand(f"{top} and {bound} mean other things here")
        plan.tops.append(f"from {home} import {first}" + (f" as {bound}" if bound != first else ""))
        return f"{bound}.{more}" if more else bound

    def drop_unused(self, plan: _Plan, lost: Sequence[Spot]) -> None:
        """Take out imports of what is lost, where every use of them was just written otherwise."""
        for spot in lost:
            entry = self.entry_at(spot)
            if entry is None or entry in plan.gone or entry in plan.renamed:
                continue
            bound = entry.bound.split(".")[0]  # ``import a.b`` binds a
            uses = {node.start_byte for node in self.bound_uses(bound)}
            if uses and uses <= plan.rewritten.get(bound, set()) and not self._told(bound):
                plan.gone[entry] = None

    # writing

    def statement_changes(self, plan: _Plan) -> Iterator[Change]:
        """The import statements as they will stand. Raises _ByHand."""
        tops = list(dict.fromkeys(plan.tops))
        for _, code in sorted(plan.helpers.items()):
            tops += ["", "", code.replace("\n", self._newline())]
        anchor = self._anchor(plan) if tops else None
        for statement in self.statements:
            gone = [e for e in statement.entries if e in plan.gone]
            brought = [*self._lines(statement, plan), *(tops if statement is anchor else ())]
            for entry in statement.entries:
                if entry in plan.renamed and entry not in plan.gone:
                    yield from self._rewritten(entry, plan)
            if not gone and not brought:
                continue
            indent = self._indent(statement.node)
            after = f"{self._newline()}{indent}".join(brought)
            if len(gone) == len(statement.entries):
                yield self._replaced(statement, after)
                continue
            yield from self._without(statement, gone)
            if brought:
                self._alone(statement.node)
                end = self._end_of_row(statement.node)
                yield Change(end, end, f"{self._newline()}{indent}{after}".encode())

    def _end_of_row(self, node: Node) -> int:
        """After a statement and the comment beside it."""
        rest = self.source[node.end_byte : self.starts[node.end_point.row + 1] - 1].rstrip(b"\r")
        return node.end_byte + len(rest)

    def _anchor(self, plan: _Plan) -> _Statement:
        """The last import at the top that stands before any use of what has to be imported. Raises _ByHand."""
        first = min((at for held in plan.rewritten.values() for at in held), default=len(self.source))
        tops = [s for s in self.statements if s.node.parent == self.tree.root_node and s.node.end_byte < first]
        if not tops:
            raise _ByHand("there is no import at the top to stand beside")
        return tops[-1]

    def _rewritten(self, entry: _Entry, plan: _Plan) -> Iterator[Change]:
        """One name in place; taken out where the same statement imports it already."""
        written = plan.renamed[entry]
        twin = [e for e in entry.statement.entries if e is not entry and text(e.node) == written and e not in plan.gone]
        if twin or any(
            plan.renamed.get(e) == written for e in entry.statement.entries[: entry.statement.entries.index(entry)]
        ):
            yield from self._without(entry.statement, [entry])
        else:
            yield Change(entry.node.start_byte, entry.node.end_byte, written.encode())

    def _lines(self, statement: _Statement, plan: _Plan) -> list[str]:
        """Statements to stand after (or instead of) one, without what is imported at the same level already."""
        modules: dict[str, list[str]] = {}
        for module, written in plan.brought.get(statement, ()):
            name, _, alias = written.partition(" as ")
            level = [e for e in self.entries if e.statement.node.parent == statement.node.parent and e not in plan.gone]
            if not any(e.path == f"{module}.{name}" and e.bound == (alias or name) for e in level):
                modules.setdefault(module, []).append(written)
        return [f"from {module} import {', '.join(dict.fromkeys(names))}" for module, names in modules.items()]

    def _replaced(self, statement: _Statement, after: str) -> Change:
        node = statement.node
        if after:
            return Change(node.start_byte, node.end_byte, after.encode())
        parent = node.parent
        if parent is not None and parent.type == "block" and parent.named_child_count == 1:
            return Change(node.start_byte, node.end_byte, b"pass")
        return Change(*self._whole_lines(node), b"")

    def _without(self, statement: _Statement, gone: Sequence[_Entry]) -> Iterator[Change]:
        """Names taken out of a list, each with one comma and the space that goes with it."""
        entries = statement.entries
        kept = [e for e in entries if e not in gone]
        for entry in gone:
            later = entries[entries.index(entry) + 1 :]
            if later:
                yield Change(entry.node.start_byte, later[0].node.start_byte, b"")
        tail = [e for e in gone if kept and entries.index(e) > entries.index(kept[-1])]
        if tail:  # what follows the last name that stays goes with the comma before it
            yield Change(kept[-1].node.end_byte, tail[0].node.start_byte, b"")
            last = entries[-1]
            yield Change(last.node.start_byte, last.node.end_byte, b"")

    def _whole_lines(self, node: Node) -> tuple[int, int]:
        """The lines of a statement that stands alone on them. Raises _ByHand where it does not."""
        self._alone(node)
        start = self.starts[node.start_point.row]
        return start, min(self.starts[node.end_point.row + 1], len(self.source))

    def _alone(self, node: Node) -> None:
        before = self.source[self.starts[node.start_point.row] : node.start_byte]
        rest = self.source[node.end_byte : self.starts[node.end_point.row + 1] - 1].strip()
        if before.strip() or (rest and not rest.startswith(b"#")):
            raise _ByHand("other statements stand on the same line")

    def _indent(self, node: Node) -> str:
        return self.source[self.starts[node.start_point.row] : node.start_byte].decode("utf-8", "replace")

    def _newline(self) -> str:
        return "\r\n" if self.rows[0].endswith(b"\r") else "\n"


def _shortened(chain: Node, last: Node, name: str) -> tuple[Node, Node]:
    """(chain up to a name, its last name) where members of what the name stands for follow; as it is where it does not stand there."""
    node: Node | None = chain
    while node is not None and node.type == "attribute":
        member = node.child_by_field_name("attribute")
        if member is not None and text(member) == name:
            return node, member
        node = node.child_by_field_name("object")
    return (node, node) if node is not None and node.type == "identifier" and text(node) == name else (chain, last)


def _root_of(chain: Node) -> Node | None:
    """The first name of a chain of attributes; None where something else stands there."""
    root: Node | None = chain
    while root is not None and root.type == "attribute":
        root = root.child_by_field_name("object")
    return root if root is not None and root.type == "identifier" else None


def _mark_rewritten(chain: Node, plan: _Plan) -> None:
    """Note that a use was written otherwise, so that its import may go when it was the last."""
    root = _root_of(chain)
    if root is not None:
        plan.rewritten.setdefault(text(root), set()).add(root.start_byte)


def _check_apart(changes: Sequence[Change]) -> None:
    """Raises _ByHand where two changes overlap."""
    ordered = sorted(set(changes))
    if any(a.end > b.start for a, b in pairwise(ordered)):
        raise _ByHand("another edit changes the same place: ask again after it")


def _entry(node: Node, statement: _Statement) -> _Entry:
    name = node.child_by_field_name("name") if node.type == "aliased_import" else node
    alias = node.child_by_field_name("alias") if node.type == "aliased_import" else None
    imported = text(name)
    module = statement.module
    path = f"{module}.{imported}" if module and not module.endswith(".") else f"{module}{imported}"
    return _Entry(
        node=node,
        name=name or node,
        statement=statement,
        path=path,
        bound=text(alias) if alias is not None else imported,
        alias=alias is not None,
    )


def _member(node: Node) -> bool:
    """Whether a name is a member of something, or the name of an argument."""
    parent = node.parent
    if parent is None:
        return False
    if parent.type == "attribute":
        return parent.child_by_field_name("attribute") == node
    return parent.type == "keyword_argument" and parent.child_by_field_name("name") == node


def _walk(node: Node) -> Iterator[Node]:
    """Every node below one, in the order of the text."""
    waiting = [node]
    while waiting:
        here = waiting.pop()
        yield here
        waiting.extend(reversed(here.children))
