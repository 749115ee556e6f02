"""What the names of JavaScript are bound to: declarations, patterns and assignments, in either module system."""

from __future__ import annotations

from typing import Final

from tree_sitter import Node

from yoake.core.ecosystems.javascript.exports import Exports
from yoake.core.ecosystems.javascript.specifiers import GLOBAL
from yoake.core.ecosystems.javascript.tree import called_chain, member_chain, required
from yoake.core.syntax.loads import Resolver, joined, returned_path
from yoake.core.syntax.scopes import Binding, Meaning, Scope, look_up
from yoake.core.syntax.tree import text
from yoake.core.syntax.walking import Guards, Kinds, Walk
from yoake.core.syntax.written import is_literal, written, written_value
from yoake.core.values.facts import Ask

FUNCTION: Final = "function()"
"""Begins paths of what is put on a function of the file."""
FUNCTIONS: Final = ("function_expression", "generator_function", "arrow_function")
_MODULE_NAMES: Final = ("require", "module", "exports", "__dirname", "__filename", "arguments", "undefined")


class BindingWalk(Walk):
    """The part of a walk that binds names."""

    def __init__(self, root: Node, kinds: Kinds) -> None:
        outermost = Scope(kind="function", qualname="", parent=None)
        for name in _MODULE_NAMES:
            outermost.bind(name, Binding(position=0))
        super().__init__(root, Scope(kind="module", qualname="", parent=outermost), kinds)
        self.resolver = Resolver(self.found, GLOBAL, written, script=True)
        self.functions: dict[int, Binding] = {}
        self.returning: dict[Scope, Binding] = {}
        self.exports = Exports(self.module, self.maker, self.functions)
        self.bases: dict[str, tuple[Node, Scope]] = {}
        self.assigned: list[tuple[str, str, Node, Node, Scope, Guards]] = []

    def tell_assigned(self) -> None:
        """``Page.title = …``: what is put on a class or a function of this file, where somebody else may look for it."""
        for root, name, left, right, scope, guards in self.assigned:
            meaning = look_up(root, scope, left.start_byte)
            binding = meaning.binding if meaning is not None else None
            if binding is None:
                continue
            if binding.class_name is not None and binding.class_name in self.bases:
                path = f"self:{binding.class_name}.{name}"
            elif (binding.plain or binding.returned) and meaning is not None and meaning.scope.kind == "module":
                path = f"{FUNCTION}.{name}"
            else:
                continue
            row, column = left.start_point
            ask = Ask(path, "member", guards)
            self.found.add(ask, row + 1, column, left.end_point.column, scope.qualname, 0, written_value(right))

    def take(self, source: tuple[str, Node], whole: Node, scope: Scope, guards: Guards, binds: str = "") -> None:
        """The import itself, at the literal that names the module."""
        part, at = source
        self.use_at(at, Ask(part, "import", guards, (), binds), scope, whole)

    def on_variable_declarator(self, node: Node, scope: Scope, guards: Guards) -> None:
        name, value = node.child_by_field_name("name"), node.child_by_field_name("value")
        parent = node.parent
        if parent is not None and parent.type == "variable_declaration":
            while scope.kind == "block" and scope.parent is not None:
                scope = scope.parent
        if name is not None:
            self.assign(name, value, scope, guards)
        self.push_one(node.child_by_field_name("type"), scope, guards)

    def assign(self, name: Node, value: Node | None, scope: Scope, guards: Guards, into: Scope | None = None) -> None:
        """Bind a pattern to a value, in ``into`` where it was declared elsewhere, and visit the value."""
        owner = into or scope
        source: tuple[str, Node] | None = None
        root: Node | None = None
        names: list[str] = []
        if value is not None:
            found = member_chain(value)
            if found is not None:
                root, names = found
                source = required(root)
        if source is not None and value is not None:
            binds = text(name) if name.type == "identifier" else ""
            self.take(source, name, scope, guards, binds)
            path = ".".join([source[0], *names])
            if names:
                self.resolver.add(
                    ("", tuple(names), value, value, scope, guards, "attribute", (), None),
                    Ask(path, "attribute", guards),
                )
            self.bind_to(name, path, owner, guards, uses=True)
            return
        made_from = self.made_from_module(value) if name.type == "identifier" else None
        if made_from is not None:
            scope.bind(text(name), Binding(position=name.start_byte, target=made_from, guards=guards))
        elif root is not None and root.type == "identifier" and owner is scope:
            self.bind_alias(name, (text(root), tuple(names)), scope, guards)
        else:
            made_by = self.maker(value) if owner is scope else None
            if value is not None and name.type == "identifier" and value.type in FUNCTIONS:
                owner.bind(
                    text(name),
                    self.functions.setdefault(value.id, Binding(position=name.start_byte, target=None, guards=guards)),
                )
            else:
                self.bind_pattern(name, owner, guards, made_by)
            if name.type == "identifier" and is_literal(value):
                owner.literals[text(name)] = value
        self.push_one(value, scope, guards)

    def note_returned(self, value: Node, scope: Scope) -> None:
        """What a function gives back on one of its ways: what a call made, or what a name stands for."""
        function = scope
        while function.kind == "block" and function.parent is not None:
            function = function.parent
        made = self.returning.get(function)
        if made is None or value.type in ("null", "undefined"):
            return
        given: Meaning | None = None
        if value.type == "identifier":
            given = Meaning(
                Binding(
                    position=value.end_byte,
                    target=None,
                    guards=(),
                    made_by=None,
                    receiver=None,
                    same_as=(text(value), ()),
                ),
                scope,
            )
        elif (made_by := self.maker(value)) is not None:
            given = Meaning(Binding(position=value.end_byte, target=None, guards=(), made_by=made_by), scope)
        made.returned = [*(made.returned or ()), given]

    def forget_unknown_returns(self) -> None:
        """A function of which one way gives back nobody knows what is a function like any other."""
        for made in self.returning.values():
            if made.returned and (None in made.returned or returned_path(made) is None):
                made.returned = None

    @staticmethod
    def made_from_module(value: Node | None) -> str | None:
        """``require("lib")()``, ``new (require("lib").Thing)()``: the path of what is called, as a value."""
        if value is None or value.type not in ("new_expression", "call_expression"):
            return None
        function = value.child_by_field_name("constructor") or value.child_by_field_name("function")
        found = member_chain(function) if function is not None else None
        source = required(found[0]) if found is not None else None
        return joined(source[0], found[1]) + "()" if source is not None and found is not None else None

    @staticmethod
    def maker(value: Node | None) -> tuple[str, tuple[str, ...]] | None:
        """(name, members) of what is called or constructed."""
        if value is not None and value.type == "await_expression" and value.named_child_count == 1:
            value = value.named_children[0]
        if value is None or value.type not in ("new_expression", "call_expression"):
            return None
        function = value.child_by_field_name("constructor") or value.child_by_field_name("function")
        found = (member_chain(function) or called_chain(function)) if function is not None else None
        if found is not None and found[0].type == "call_expression":
            found = called_chain(function) if function is not None else None
        if found is None or found[0].type != "identifier":
            return None
        return text(found[0]), tuple(found[1])

    def bind_to(self, name: Node, path: str, scope: Scope, guards: Guards, *, uses: bool) -> None:
        """Bind a pattern to an imported path; the names that it takes out of it are uses."""
        if name.type == "identifier":
            scope.bind(text(name), Binding(position=name.start_byte, target=path, guards=guards))
            return
        for key, inner, rest in _taken(name):
            if rest is not None:
                self.push_one(rest, scope, guards)
            if uses:
                binds = text(inner) if inner.child_count == 0 else ""
                self.use_at(key, Ask(f"{path}.{text(key)}", "import", guards, (), binds), scope)
            if inner.child_count == 0:
                scope.bind(text(inner), Binding(position=inner.start_byte, target=f"{path}.{text(key)}", guards=guards))
            else:
                self.bind_to(inner, f"{path}.{text(key)}", scope, guards, uses=uses)
        if name.type != "object_pattern":
            self.bind_pattern(name, scope, guards)

    def bind_alias(self, name: Node, same_as: tuple[str, tuple[str, ...]], scope: Scope, guards: Guards) -> None:
        """Bind a pattern to what another name stands for."""
        if name.type == "identifier":
            scope.bind(
                text(name),
                Binding(
                    position=name.start_byte, target=None, guards=guards, made_by=None, receiver=None, same_as=same_as
                ),
            )
            return
        if name.type != "object_pattern":
            self.bind_pattern(name, scope, guards)
            return
        for key, inner, rest in _taken(name):
            if rest is not None:
                self.push_one(rest, scope, guards)
            members = (*same_as[1], text(key))
            self.loads.append((same_as[0], members, key, key, scope, guards, "attribute", (), None))
            if inner.child_count == 0:
                binding = Binding(
                    position=inner.start_byte,
                    target=None,
                    guards=guards,
                    made_by=None,
                    receiver=None,
                    same_as=(same_as[0], members),
                )
                scope.bind(text(inner), binding)
            else:
                self.bind_pattern(inner, scope, guards)

    def bind_pattern(
        self, node: Node, scope: Scope, guards: Guards, made_by: tuple[str, tuple[str, ...]] | None = None
    ) -> None:
        """Bind every name of a pattern to something made here; defaults in it are visited."""
        waiting = [node]
        while waiting:
            current = waiting.pop()
            kind = current.type
            if kind in ("identifier", "shorthand_property_identifier_pattern"):
                scope.bind(
                    text(current), Binding(position=current.start_byte, target=None, guards=guards, made_by=made_by)
                )
            elif kind in ("object_assignment_pattern", "assignment_pattern"):
                self.push_one(current.child_by_field_name("right"), scope, guards)
                left = current.child_by_field_name("left")
                waiting.extend([left] if left is not None else [])
            elif kind == "pair_pattern":
                value = current.child_by_field_name("value")
                waiting.extend([value] if value is not None else [])
            elif kind in ("member_expression", "subscript_expression"):
                self.push_one(current, scope, guards)
            else:
                waiting.extend(current.named_children)

    def on_assignment_expression(self, node: Node, scope: Scope, guards: Guards) -> None:
        left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
        if left is None or right is None:
            return
        if left.type == "identifier" and not self.exports.is_target(left):
            self.assign(left, right, scope, guards, _owner(text(left), scope))
            return
        if self.exports.is_target(left):
            self.exports.assignment(left, right, scope)
            self.push_one(right, scope, guards)
            return
        self.push_one(right, scope, guards)
        if left.type in ("member_expression", "subscript_expression"):
            held = member_chain(left)
            if held is not None and held[0].type == "identifier" and held[1]:
                self.loads.append((text(held[0]), tuple(held[1]), left, held[0], scope, guards, "assigned", (), None))
            if held is not None and held[0].type == "this":
                self.note_own_member("this", held[1], scope, left.start_byte)
            elif held is not None and held[0].type == "identifier" and len(held[1]) == 1:
                self.assigned.append((text(held[0]), held[1][0], left, right, scope, guards))
            inner = left.child_by_field_name("object")
            self.push_one(inner, scope, guards)
        else:
            self.bind_pattern(left, scope, guards)

    def on_for_in_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        left = node.child_by_field_name("left")
        if left is not None:
            self.bind_pattern(left, scope, guards)
        self.push([c for c in node.named_children if c != left], scope, guards)


def _owner(name: str, scope: Scope) -> Scope:
    """The scope that declares a name; the outermost when nobody does."""
    current = scope
    while name not in current.bindings and current.parent is not None:
        current = current.parent
    return current if name in current.bindings else scope


def _taken(pattern: Node) -> list[tuple[Node, Node, Node | None]]:
    """(key, what it is bound to, default) for each name that an object pattern takes."""
    found: list[tuple[Node, Node, Node | None]] = []
    for child in pattern.named_children if pattern.type == "object_pattern" else ():
        rest = None
        current = child
        if current.type == "object_assignment_pattern":
            rest = current.child_by_field_name("right")
            current = current.child_by_field_name("left") or current
        if current.type == "shorthand_property_identifier_pattern":
            found.append((current, current, rest))
        elif current.type == "pair_pattern":
            key, value = current.child_by_field_name("key"), current.child_by_field_name("value")
            if value is not None and value.type == "assignment_pattern":
                rest = value.child_by_field_name("right")
                value = value.child_by_field_name("left")
            if key is not None and value is not None and key.type == "property_identifier":
                found.append((key, value, rest))
    return found
