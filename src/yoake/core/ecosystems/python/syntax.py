"""Python text → facts: imports, uses through names and attributes, guards, classes, old syntax.

One walk over the tree collects bindings and loads; names are resolved afterwards, when every scope is complete.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import cache
from typing import Final

from tree_sitter import Language, Node

from yoake.core.ecosystems.python.guards import guard_of_condition, leaves_block, try_guard
from yoake.core.ecosystems.python.old_syntax import OLD_FORMS, old_syntax
from yoake.core.ecosystems.python.tree import called_chain, chain, parse, string_value
from yoake.core.syntax.loads import Resolver, joined, returned_path
from yoake.core.syntax.scopes import Binding, MadeBy, Meaning, Scope, look_up
from yoake.core.syntax.tree import broken_lines, text
from yoake.core.syntax.walking import Guards, Kinds, Walk
from yoake.core.syntax.written import is_literal, written, written_value
from yoake.core.values.facts import HANDLER, Ask, ClassFact, FileFacts, Guard

_DOTTED: Final = re.compile(r"[A-Za-z_]\w*(\.[A-Za-z_]\w*)+$")
_MAX_DOTTED: Final = 120  # the longest dotted path that frameworks resolve is far shorter
_QUOTES: Final = b"\"'"
_DOTTED_STRING: Final = re.compile(r"""("{1,3}|'{1,3})([A-Za-z_]\w*(?:\.[A-Za-z_]\w*)+)\1$""")
_NEW_KEYWORDS: Final = ("async", "await")  # keywords since 3.7
_USES_NOTHING: Final = frozenset(
    ("comment", "delete_statement", "none", "true", "false", "float", "ellipsis", "pass_statement", "break_statement")
)


def read_python(source: bytes) -> FileFacts:
    """All facts of one Python file, of any version from 2.7 on."""
    if source.startswith(b"\xef\xbb\xbf"):
        source = source[3:]
    tree = parse(source)
    root = tree.root_node
    walk = _Walk(root, source, _kinds(tree.language))
    walk.run()
    walk.check_names()
    resolver = Resolver(walk.found, "builtins", written)
    resolver.made_members = walk.made_members
    resolver.resolve(walk.loads)
    return FileFacts(
        asks=walk.found.asks,
        places=walk.found.places,
        scopes=walk.found.scopes,
        exports=walk.exports(),
        stars=tuple(walk.stars),
        classes={name: ClassFact(tuple(walk.bases_of(name)), tuple(sorted(m))) for name, m in walk.members.items()},
        assigned=walk.assigned,
        broken=broken_lines(root),
        lines=source.count(b"\n") + (0 if source.endswith(b"\n") or not source else 1),
        absolute_import=walk.absolute_import,
        language="python",
        written=walk.found.written,
    )


class _Walk(Walk):
    """One walk over one file."""

    def __init__(self, root: Node, source: bytes, kinds: Kinds) -> None:
        super().__init__(root, Scope(kind="module", qualname="", parent=None), kinds)
        self.source = source
        self.stars: list[str] = []
        self.bases: dict[str, list[tuple[Node, Scope]]] = {}
        self.assigned: dict[str, int] = {}
        self.returning: dict[Scope, Binding] = {}  # functions at the top level, whose ways back are gathered
        self.absolute_import = False
        self.broken = root.has_error

    def children(self, node: Node) -> list[Node]:
        """Where the grammar broke down, unnamed nodes may hold what it could not place."""
        return node.children[:] if self.broken and node.has_error else node.named_children

    def syntax_use(self, node: Node, scope: Scope, guards: Guards, name: str) -> None:
        self.use_at(node, Ask(f"syntax.{name}", "syntax", guards), scope)

    def old_form(self, node: Node, scope: Scope, guards: Guards) -> None:
        """A kind of node that may be syntax of an older Python."""
        found = old_syntax(node)
        if found:
            self.syntax_use(node, scope, guards, found)
        self.push(self.children(node), scope, guards)

    # Names and attributes -----------------------------------------------------------------------------------------

    def check_keyword(self, node: Node | None, scope: Scope, guards: Guards) -> None:
        """``async`` and ``await`` as names, which the grammar reads without complaint."""
        if node is not None and text(node) in _NEW_KEYWORDS:
            self.syntax_use(node, scope, guards, "async_name")

    def check_names(self) -> None:
        """The same for every name that was loaded."""
        for name, _, node, _, scope, guards, _, _, _ in self.loads:
            if name in _NEW_KEYWORDS:
                self.syntax_use(node, scope, guards, "async_name")

    def load(
        self,
        node: Node,
        scope: Scope,
        guards: Guards,
        form: str,
        keywords: tuple[str, ...] = (),
        handed: Node | None = None,
    ) -> bool:
        """A name with members. False where more than names stands in front of the last: that is to be visited itself."""
        found = chain(node)
        if found is not None:
            root, name, attributes = found
            if "async" in attributes or "await" in attributes:
                self.check_attributes(node, scope, guards)
            self.loads.append((name, attributes, node, root, scope, guards, form, keywords, handed))
            return True
        found = called_chain(node)
        if found is not None:
            root, name, attributes = found
            self.loads.append((name, attributes, node, root, scope, guards, form, keywords, handed))
        return False

    def check_attributes(self, node: Node | None, scope: Scope, guards: Guards) -> None:
        while node is not None and node.type == "attribute":
            self.check_keyword(node.child_by_field_name("attribute"), scope, guards)
            node = node.child_by_field_name("object")

    def on_attribute(self, node: Node, scope: Scope, guards: Guards) -> None:
        if not self.load(node, scope, guards, "attribute"):
            self.computed(node, scope, guards)

    def computed(self, node: Node, scope: Scope, guards: Guards) -> None:
        """Attributes of something that is no name: only what stands in front of them says anything."""
        self.check_attributes(node, scope, guards)
        while node.type == "attribute":
            node = node.child_by_field_name("object") or node
        self.push_one(node, scope, guards)

    def on_call(self, node: Node, scope: Scope, guards: Guards) -> None:
        function, arguments = node.child_by_field_name("function"), node.child_by_field_name("arguments")
        if function is None:
            return
        kind = function.type
        name = text(function) if kind == "identifier" else ""
        keywords: tuple[str, ...] = ()
        if arguments is not None:
            keywords = self.arguments(arguments, name in ("hasattr", "getattr"), scope, guards)
        if name:
            self.loads.append((name, (), function, function, scope, guards, "call", keywords, arguments))
        elif kind != "attribute":
            self.push_one(function, scope, guards)
        elif not self.load(function, scope, guards, "call", keywords, arguments):
            self.computed(function, scope, guards)

    def arguments(self, node: Node, asks: bool, scope: Scope, guards: Guards) -> tuple[str, ...]:
        """Visit what is handed over, and return the names of keyword arguments. ``asks``: the second names a member."""
        if node.type == "generator_expression":
            self.push_one(node, scope, guards)
            return ()
        keywords: list[str] = []
        pushed: list[Node] = []
        for child in node.named_children:
            if child.type == "keyword_argument":
                name = child.child_by_field_name("name")
                self.check_keyword(name, scope, guards)
                keywords.append(text(name))
                value = child.child_by_field_name("value")
                if value is not None:
                    pushed.append(value)
            else:
                pushed.append(child)
        if asks:
            _leave_out_name(pushed)
        if pushed:
            self.push(pushed, scope, guards)
        return tuple(keywords)

    def on_keyword_argument(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.push_one(node.child_by_field_name("value"), scope, guards)

    def on_string(self, node: Node, scope: Scope, guards: Guards) -> None:
        start, end = node.start_byte, node.end_byte
        if self.source[start] in _QUOTES:  # no prefix: nothing is put in, and only a dotted path says anything
            if end - start > _MAX_DOTTED:
                return
            shown = self.source[start:end]
            path = _DOTTED_STRING.match(shown.decode("utf-8", "replace")) if b"." in shown else None
            if path is not None:
                self.use_at(node, Ask(path[2], "string", guards), scope)
            return
        prefix = old_syntax(node)
        if prefix:
            self.syntax_use(node, scope, guards, prefix)
        written = string_value(node)
        if written and len(written) <= _MAX_DOTTED and _DOTTED.match(written):
            self.use_at(node, Ask(written, "string", guards), scope)
        elif written is None:
            self.push([c for c in node.named_children if c.type == "interpolation"], scope, guards)

    # Imports --------------------------------------------------------------------------------------------------------

    def on_import_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        for child in node.named_children:
            if child.type == "aliased_import":
                path, name = text(child.child_by_field_name("name")), text(child.child_by_field_name("alias"))
                target = path
            elif child.type == "dotted_name":
                path = text(child)
                name = target = path.split(".", 1)[0]
            else:
                continue
            path = path.replace(" ", "")
            self.use_at(child, Ask(path, "import", guards, (), name), scope, node)
            scope.bind(name, Binding(position=child.start_byte, target=target, guards=guards))

    def on_import_from_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        source = text(node.child_by_field_name("module_name")).replace(" ", "")
        if any(child.type == "wildcard_import" for child in node.named_children):
            self.stars.append(source)
            self.use_at(node, Ask(source, "import", guards, (), "*"), scope)
            return
        joint = "" if source.endswith(".") else "."
        for child in node.children_by_field_name("name"):
            aliased = child.type == "aliased_import"
            original = text(child.child_by_field_name("name")) if aliased else text(child)
            name = text(child.child_by_field_name("alias")) if aliased else original
            self.check_keyword(child, scope, guards)
            path = f"{source}{joint}{original}"
            self.use_at(child, Ask(path, "import", guards, (), name), scope, node)
            scope.bind(name, Binding(position=child.start_byte, target=path, guards=guards))

    def on_future_import_statement(self, node: Node, _scope: Scope, _guards: Guards) -> None:
        self.absolute_import = self.absolute_import or "absolute_import" in text(node)

    # Bindings -------------------------------------------------------------------------------------------------------

    def bind_pattern(
        self,
        node: Node,
        scope: Scope,
        guards: Guards,
        made_by: MadeBy | None = None,
        position: int | None = None,
    ) -> None:
        """Bind the names of an assignment target; attributes and subscripts in it are uses of their roots.

        ``position``: from where on the names stand for it, where that is not at once.
        """
        waiting = [node]
        while waiting:
            current = waiting.pop()
            kind = current.type
            if kind == "identifier":
                self.check_keyword(current, scope, guards)
                name = text(current)
                scope.bind(
                    name, Binding(position=position or current.start_byte, target=None, guards=guards, made_by=made_by)
                )
                self.note_member(scope, name)
            elif kind == "attribute":
                held = chain(current)
                if held is not None:
                    self.note_own_member(held[1], held[2], scope, current.start_byte)
                    self.loads.append((held[1], held[2], current, held[0], scope, guards, "assigned", (), None))
                self.push_one(current.child_by_field_name("object"), scope, guards)
            elif kind == "subscript":
                self.push(current.named_children, scope, guards)
            else:
                waiting.extend(current.named_children)

    def note_member(self, scope: Scope, name: str) -> None:
        if scope.kind == "class":
            self.members[scope.qualname].add(name)

    def on_assignment(self, node: Node, scope: Scope, guards: Guards) -> None:
        left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
        typed = node.child_by_field_name("type")
        made_by = None
        if left is not None and left.type == "identifier":
            made_by = _maker_by_type(typed) or _maker(right)
        elif left is not None and left.type == "attribute":
            self.note_member_of(left, _maker_by_type(typed) or _maker(right), scope)
        if left is not None:
            # in “x = x.f()” the second x is still the old one
            self.bind_pattern(left, scope, guards, made_by, node.end_byte if made_by is not None else None)
            if left.type == "identifier" and is_literal(right):
                scope.literals[text(left)] = right
            if scope is self.module and left.type == "identifier" and text(left).isupper():
                self.assigned[text(left)] = left.start_point.row + 1
            if right is not None and scope.kind == "class":
                self.note_setting(left, right, scope, guards)
            if scope.kind == "class" and left.type == "identifier" and (of_type := _maker_by_type(typed)) is not None:
                self.made_members[scope.qualname, text(left)] = (
                    Binding(position=left.end_byte, target=None, guards=(), made_by=of_type),
                    scope,
                )
        self.push_one(right, scope, guards)
        self.push_one(typed, scope, guards)

    def note_member_of(self, left: Node, made_by: MadeBy | None, scope: Scope) -> None:
        held = chain(left) if made_by is not None else None
        if held is not None and made_by is not None and len(held[2]) == 1:
            self.note_made_member(held[1], held[2][0], scope, left.start_byte, made_by)

    def note_setting(self, left: Node, right: Node, scope: Scope, guards: Guards) -> None:
        """``class Meta: x = 1`` inside a class with bases: what the outer class is told by a class of settings."""
        outer, _, inner = scope.qualname.rpartition(".")
        if left.type == "identifier" and inner and self.bases.get(outer):
            row, column = left.start_point
            ask = Ask(f"self:{outer}.{inner}.{text(left)}", "member", guards)
            end = left.end_point.column
            self.found.add(ask, row + 1, column, end, scope.qualname, 0, written_value(right))

    def on_augmented_assignment(self, node: Node, scope: Scope, guards: Guards) -> None:
        left = node.child_by_field_name("left")
        self.push_one(node.child_by_field_name("right"), scope, guards)
        if left is not None and left.type != "identifier":
            self.push_one(left, scope, guards)

    def on_named_expression(self, node: Node, scope: Scope, guards: Guards) -> None:
        name = node.child_by_field_name("name")
        if name is not None:
            self.bind_pattern(name, scope, guards)
        self.push_one(node.child_by_field_name("value"), scope, guards)

    def on_for_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.bind_field(node, "left", scope, guards, _element_of(node.child_by_field_name("right")))

    def on_as_pattern(self, node: Node, scope: Scope, guards: Guards) -> None:
        made_by = _maker(node.named_children[0]) if node.named_children else None
        self.bind_field(node, "alias", scope, guards, made_by)

    def on_subscript(self, node: Node, scope: Scope, guards: Guards) -> None:
        inside = node.named_children
        held = inside[0] if len(inside) > 1 else None
        if (
            held is not None and held.type == "identifier" and inside[1].type == "string"
        ):  # other elements nobody asks for
            self.loads.append((text(held), ("[]",), held, held, scope, guards, "subscript", (), node))
        elif held is not None and held.type == "call":
            found = called_chain(held)
            if found is not None:
                root, name, attributes = found
                self.loads.append((name, (*attributes, "[]"), held, root, scope, guards, "subscript", (), node))
        self.push(inside, scope, guards)

    def bind_field(
        self,
        node: Node,
        name: str,
        scope: Scope,
        guards: Guards,
        made_by: MadeBy | None = None,
    ) -> None:
        bound = node.child_by_field_name(name)
        if bound is not None:
            self.bind_pattern(bound, scope, guards, made_by)
        self.push([c for c in node.named_children if c != bound], scope, guards)

    def on_global_statement(self, node: Node, scope: Scope, _guards: Guards) -> None:
        scope.outer.update(text(child) for child in node.named_children)

    on_nonlocal_statement = on_global_statement

    # Scopes ---------------------------------------------------------------------------------------------------------

    def on_function_definition(self, node: Node, scope: Scope, guards: Guards) -> None:
        named = node.child_by_field_name("name")
        name = text(named)
        made = Binding(position=node.start_byte, target=None, guards=guards)
        scope.bind(name, made)
        self.note_member(scope, name)
        if scope.kind == "class" and named is not None and not name.startswith("_") and self.bases.get(scope.qualname):
            row, column = named.start_point
            ask = Ask(f"self:{scope.qualname}.{name}", "override", guards)
            self.found.add(ask, row + 1, column, named.end_point.column, scope.qualname)
        inner = Scope(kind="function", qualname=_qualify(scope, name), parent=scope)
        if scope is self.module and node.children[0].type != "async":
            typed = _maker_by_type(node.child_by_field_name("return_type"))
            if typed is not None:
                made.returned = [
                    Meaning(Binding(position=node.start_byte, target=None, guards=(), made_by=typed), scope)
                ]
            else:
                self.returning[inner] = made
        self.parameters(node.child_by_field_name("parameters"), inner, scope, guards)
        self.push_one(node.child_by_field_name("body"), inner, guards)
        self.push_one(node.child_by_field_name("return_type"), scope, guards)

    def on_return_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        made = self.returning.get(scope)
        value = node.named_children[0] if node.named_child_count else None
        if made is not None and value is not None and value.type != "none":
            made.returned = [*(made.returned or ()), self.given_back(value, scope)]
        self.push(node.named_children, scope, guards)

    @staticmethod
    def given_back(value: Node, scope: Scope) -> Meaning | None:
        """What is returned: what a call made, or what a name stands for."""
        if value.type == "identifier":
            same = (text(value), ())
            return Meaning(
                Binding(position=value.end_byte, target=None, guards=(), made_by=None, receiver=None, same_as=same),
                scope,
            )
        made_by = _maker(value)
        return (
            Meaning(Binding(position=value.end_byte, target=None, guards=(), made_by=made_by), scope)
            if made_by is not None
            else None
        )

    def parameters(self, node: Node | None, inner: Scope, scope: Scope, guards: Guards) -> None:
        receiver = scope.qualname if scope.kind == "class" else None
        for child in node.named_children if node is not None else ():
            kind = child.type
            if kind == "identifier":
                inner.bind(text(child), Binding(position=child.start_byte, target=None, receiver=receiver))
                receiver = None
                continue
            target: Node | None = child
            if kind in ("default_parameter", "typed_default_parameter"):
                target = child.child_by_field_name("name")
            elif kind == "typed_parameter":
                target = child.named_children[0] if child.named_children else None
            made_by = _maker_by_type(child.child_by_field_name("type"))
            self.push_one(child.child_by_field_name("type"), scope, guards)
            self.push_one(child.child_by_field_name("value"), scope, guards)
            waiting = [target] if target is not None else []
            while waiting:
                current = waiting.pop()
                if current.type == "identifier":
                    inner.bind(
                        text(current),
                        Binding(
                            position=current.start_byte, target=None, guards=(), made_by=made_by, receiver=receiver
                        ),
                    )
                    receiver = None
                else:
                    if current.type == "tuple_pattern":
                        self.syntax_use(current, scope, guards, "tuple_parameter")
                    waiting.extend(current.named_children)

    def on_lambda(self, node: Node, scope: Scope, guards: Guards) -> None:
        inner = Scope(kind="function", qualname=scope.qualname, parent=scope)
        outer = scope if scope.kind != "class" else Scope(kind="function", qualname=scope.qualname, parent=scope)
        self.parameters(node.child_by_field_name("parameters"), inner, outer, guards)
        self.push_one(node.child_by_field_name("body"), inner, guards)

    def on_list_comprehension(self, node: Node, scope: Scope, guards: Guards) -> None:
        inner = Scope(kind="comprehension", qualname=scope.qualname, parent=scope)
        rest: list[Node] = []
        for child in node.named_children:
            left = child.child_by_field_name("left") if child.type == "for_in_clause" else None
            if left is not None:
                self.bind_pattern(left, inner, guards, _element_of(child.child_by_field_name("right")))
                rest.extend(c for c in child.named_children if c != left)
            else:
                rest.append(child)
        self.push(rest, inner, guards)

    on_set_comprehension = on_dictionary_comprehension = on_generator_expression = on_list_comprehension

    def on_class_definition(self, node: Node, scope: Scope, guards: Guards) -> None:
        name = text(node.child_by_field_name("name"))
        inner = Scope(kind="class", qualname=_qualify(scope, name), parent=scope)
        scope.bind(name, Binding(position=node.start_byte, target=None, guards=guards, class_name=inner.qualname))
        self.note_member(scope, name)
        self.members.setdefault(inner.qualname, set())
        arguments = node.child_by_field_name("superclasses")
        listed = list(arguments.named_children) if arguments is not None else []
        self.bases[inner.qualname] = [(base, scope) for base in listed if base.type in ("identifier", "attribute")]
        self.push_one(node.child_by_field_name("body"), inner, guards)
        self.push(listed, scope, guards)

    def bases_of(self, name: str) -> list[str]:
        found = []
        for node, scope in self.bases.get(name, ()):
            held = chain(node)
            if held is None:
                continue
            _, base, attributes = held
            meaning = look_up(base, scope, node.start_byte)
            rest = "".join(f".{part}" for part in attributes)
            if meaning is not None and meaning.binding.target:
                found.append(meaning.binding.target + rest)
            elif meaning is not None:
                found.append(f":{base}{rest}")
        return found

    # Guards -----------------------------------------------------------------------------------------------------------

    def on_block(self, node: Node, scope: Scope, guards: Guards) -> None:
        """Statements in order; a version test that leaves the block guards what follows it."""
        parts: list[tuple[list[Node], Guards]] = [([], guards)]
        for statement in node.named_children:
            parts[-1][0].append(statement)
            if statement.type == "if_statement" and leaves_block(statement):
                after = guard_of_condition(statement.child_by_field_name("condition"), self.groups + 1, negated=True)
                # “if this Python is too odd: raise” at the top of a file guards nothing below it
                if after is not None and (after.kind == "version" or scope.kind == "function"):
                    self.groups += 1
                    parts.append(([], (*parts[-1][1], after)))
        if self.broken and node.has_error:
            parts.append(([c for c in node.children if c.type == "ERROR"], guards))
        for statements, held in reversed(parts):
            self.push(statements, scope, held)

    on_module = on_block

    def on_if_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        group = self.new_group()
        condition, body = node.child_by_field_name("condition"), node.child_by_field_name("consequence")
        guard = guard_of_condition(condition, group)
        otherwise = guard_of_condition(condition, group, negated=True) if guard is not None else None
        branches = [c for c in node.named_children if c.type in ("elif_clause", "else_clause")]
        added: Guards = (otherwise,) if otherwise else ()
        for branch in branches:
            self.push_one(branch, scope, (*guards, *added) if added else guards)
            if branch.type == "elif_clause":
                further = guard_of_condition(branch.child_by_field_name("condition"), group, negated=True)
                added = (*added, further) if further else added
        self.push_one(body, scope, (*guards, guard) if guard else guards)
        self.push_one(condition, scope, guards)

    def on_elif_clause(self, node: Node, scope: Scope, guards: Guards) -> None:
        condition = node.child_by_field_name("condition")
        guard = guard_of_condition(condition, self.new_group())
        self.push_one(node.child_by_field_name("consequence"), scope, (*guards, guard) if guard else guards)
        self.push_one(condition, scope, guards)

    def on_conditional_expression(self, node: Node, scope: Scope, guards: Guards) -> None:
        parts = [c for c in node.named_children if c.type != "comment"]
        if len(parts) != 3:
            self.push(parts, scope, guards)
            return
        group = self.new_group()
        yes, no = guard_of_condition(parts[1], group), guard_of_condition(parts[1], group, negated=True)
        self.push_one(parts[2], scope, (*guards, no) if no else guards)
        self.push_one(parts[1], scope, guards)
        self.push_one(parts[0], scope, (*guards, yes) if yes else guards)

    def on_try_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        guard = try_guard(node, self.groups + 1)
        if guard is None:
            self.push(node.named_children, scope, guards)
            return
        self.groups += 1
        handling = Guard(f"{guard.kind}{HANDLER}", guard.group)
        held = {"except_clause": (*guards, handling), "finally_clause": guards}
        for child in reversed(node.named_children):
            self.push_one(child, scope, held.get(child.type, (*guards, guard)))

    def on_ERROR(self, node: Node, scope: Scope, guards: Guards) -> None:  # noqa: N802  named as in the grammar
        found = old_syntax(node)
        if found:
            self.syntax_use(node, scope, guards, found)
        self.push(node.named_children, scope, guards)

    def exports(self) -> dict[str, tuple[str, ...]]:
        """Top-level names and the paths each may stand for; "" for what is defined here, "?" when that depends."""
        found: dict[str, tuple[str, ...]] = {}
        for name, bound in self.module.bindings.items():
            grouped = bool(bound[-1].guards)
            kept = bound if grouped else bound[-1:]
            targets = tuple(dict.fromkeys(b.target or self.made_path(b) for b in kept))
            found[name] = ("?", *targets) if grouped else targets
        return found | dict(self.gives_back())

    def made_path(self, binding: Binding) -> str:
        """``flask.Flask()`` for a name at the top level that stands for what an imported class made; else nothing."""
        made_by = binding.made_by
        maker = look_up(made_by[0], self.module, binding.position) if made_by is not None else None
        if made_by is None or maker is None or maker.binding.target is None or binding.guards or maker.binding.guards:
            return ""
        return joined(maker.binding.target, made_by[1]) + "()"

    def gives_back(self) -> Iterator[tuple[str, tuple[str, ...]]]:
        """``make()`` → what an imported class made, for functions at the top level that give it back."""
        for name, bound in self.module.bindings.items():
            path = returned_path(bound[-1]) if bound[-1].returned and not bound[-1].guards else None
            if path is not None and not path.startswith("self:"):
                yield f"{name}()", (f"{path}()",)


for _form in OLD_FORMS:
    setattr(_Walk, f"on_{_form}", _Walk.old_form)


_CASTS: Final = ("cast", "typing.cast", "t.cast")
"""How people write that a value is of a type."""


@cache
def _kinds(_language: Language) -> Kinds:
    return Kinds(_Walk, _USES_NOTHING, ("identifier",))


def _maker(value: Node | None) -> MadeBy | None:
    """(name, members) of what is called to make a value."""
    if value is not None and value.type == "await" and value.named_child_count == 1:
        value = value.named_children[0]
    if value is not None and value.type == "subscript" and value.named_child_count == 2:
        by_name = value.named_children[1].type == "string"  # a slice of something is of its own kind
        return _element_of(value.named_children[0]) if by_name else None
    if value is None or value.type != "call":
        return None
    function = value.child_by_field_name("function")
    if function is not None and text(function) in _CASTS:
        handed = value.child_by_field_name("arguments")
        named = handed.named_children[0] if handed is not None and handed.named_child_count else None
        found = chain(named) if named is not None and named.type in ("identifier", "attribute") else None
        return found[1:] if found is not None else None
    found = (chain(function) or called_chain(function)) if function is not None else None
    return found[1:] if found is not None else None


def _element_of(whole: Node | None) -> MadeBy | None:
    """(name, members) of what gives an element of a value that has a name, or that a call gives back."""
    found = called_chain(whole) if whole is not None and whole.type in ("call", "identifier") else None
    return (found[1], (*found[2], "[]")) if found is not None else None


def _maker_by_type(annotation: Node | None) -> MadeBy | None:
    """(name, members) of the class that an annotation names, where it names one and nothing else."""
    named = annotation.named_children[0] if annotation is not None and annotation.named_child_count == 1 else None
    found = chain(named) if named is not None and named.type in ("identifier", "attribute") else None
    return found[1:] if found is not None else None


def _qualify(scope: Scope, name: str) -> str:
    return f"{scope.qualname}.{name}" if scope.qualname else name


def _leave_out_name(arguments: list[Node]) -> None:
    """``hasattr(module, "name")`` asks; it is no use of the name."""
    for argument in arguments[1:2]:
        if argument.type == "string":
            arguments.remove(argument)
