"""Python text → facts: imports, uses through names and attributes, guards, classes, old syntax.

One walk over the tree collects bindings and loads, with an explicit stack so that depth costs no recursion; names are
resolved afterwards, when every scope is complete. Speed matters here: every node of every file passes through ``run``.
"""

from __future__ import annotations

import re
from typing import Final

from tree_sitter import Node

from yoake.core.syntax.facts import Ask, ClassFact, FileFacts, Gathering, Guard
from yoake.core.syntax.guards import guard_of_condition, leaves_block, try_guard
from yoake.core.syntax.loads import Load, Resolver
from yoake.core.syntax.old_syntax import OLD_FORMS, old_syntax
from yoake.core.syntax.scopes import Binding, Scope, look_up
from yoake.core.syntax.tree import broken_lines, chain, parse, string_value, text

_DOTTED: Final = re.compile(r"[A-Za-z_]\w*(\.[A-Za-z_]\w*)+$")
_MAX_DOTTED: Final = 120  # the longest dotted path that frameworks resolve is far shorter
_NEW_KEYWORDS: Final = frozenset((b"async", b"await"))  # keywords since 3.7
_USES_NOTHING: Final = frozenset(
    ("comment", "delete_statement", "none", "true", "false", "float", "ellipsis", "pass_statement", "break_statement")
)

Guards = tuple[Guard, ...]
Task = tuple[Node, Scope, Guards]


def read_python(source: bytes) -> FileFacts:
    """All facts of one Python file, of any version from 2.7 on."""
    if source.startswith(b"\xef\xbb\xbf"):
        source = source[3:]
    root = parse(source).root_node
    walk = _Walk(root)
    walk.run()
    walk.handlers.clear()  # they hold the walk, the walk holds them
    Resolver(walk.found).resolve(walk.loads)
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
    )


class _Walk:
    """One walk over one file."""

    def __init__(self, root: Node) -> None:
        self.module = Scope("module", "", None)
        self.stack: list[Task] = [(root, self.module, ())]
        self.found = Gathering()
        self.loads: list[Load] = []
        self.stars: list[str] = []
        self.members: dict[str, set[str]] = {}
        self.bases: dict[str, list[tuple[Node, Scope]]] = {}
        self.assigned: dict[str, int] = {}
        self.absolute_import = False
        self.broken = root.has_error
        self.groups = 0
        self.handlers = {name.removeprefix("on_"): getattr(self, name) for name in _HANDLERS}

    def run(self) -> None:
        """Visit every node once, in source order."""
        stack, handlers = self.stack, self.handlers
        while stack:
            node, scope, guards = stack.pop()
            kind = node.type
            handler = handlers.get(kind)
            if handler is not None:
                handler(node, scope, guards)
                continue
            if kind in _USES_NOTHING:
                continue
            if kind in OLD_FORMS:
                found = old_syntax(node)
                if found:
                    self.syntax_use(node, scope, guards, found)
            children = node.children if self.broken and node.has_error else node.named_children
            children.reverse()
            stack += [(child, scope, guards) for child in children]

    def push(self, nodes: list[Node], scope: Scope, guards: Guards) -> None:
        self.stack += [(node, scope, guards) for node in reversed(nodes)]

    def push_one(self, node: Node | None, scope: Scope, guards: Guards) -> None:
        if node is not None:
            self.stack.append((node, scope, guards))

    def new_group(self) -> int:
        self.groups += 1
        return self.groups

    def syntax_use(self, node: Node, scope: Scope, guards: Guards, name: str) -> None:
        row, column = node.start_point
        end = node.end_point.column if node.end_point.row == row else column + 1
        self.found.add(Ask(f"syntax.{name}", "syntax", guards), row + 1, column, end, scope.qualname)

    # Names and attributes -----------------------------------------------------------------------------------------

    def on_identifier(self, node: Node, scope: Scope, guards: Guards) -> None:
        name = node.text or b""
        if name in _NEW_KEYWORDS:
            self.syntax_use(node, scope, guards, "async_name")
        self.loads.append((name.decode(), (), node, node, scope, guards, "name", ()))

    def check_keyword(self, node: Node | None, scope: Scope, guards: Guards) -> None:
        """``async`` and ``await`` as names, which the grammar reads without complaint."""
        if node is not None and node.text in _NEW_KEYWORDS:
            self.syntax_use(node, scope, guards, "async_name")

    def load(self, node: Node, scope: Scope, guards: Guards, form: str, keywords: tuple[str, ...] = ()) -> bool:
        found = chain(node)
        if found is None:
            return False
        root, names = found
        kind = form if form == "call" else ("attribute" if names else "name")
        self.loads.append((text(root), tuple(names), node, root, scope, guards, kind, keywords))
        return True

    def on_attribute(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.check_keyword(node.child_by_field_name("attribute"), scope, guards)
        if not self.load(node, scope, guards, "attribute"):
            while node.type == "attribute":
                node = node.child_by_field_name("object") or node
            self.stack.append((node, scope, guards))

    def on_call(self, node: Node, scope: Scope, guards: Guards) -> None:
        function, arguments = node.child_by_field_name("function"), node.child_by_field_name("arguments")
        keywords: list[str] = []
        pushed: list[Node] = []
        for child in arguments.named_children if arguments is not None else ():
            if child.type == "keyword_argument":
                name = child.child_by_field_name("name")
                self.check_keyword(name, scope, guards)
                keywords.append(text(name))
                value = child.child_by_field_name("value")
                pushed.extend([value] if value is not None else [])
            else:
                pushed.append(child)
        if arguments is not None and arguments.type == "generator_expression":
            pushed = [arguments]
        if function is not None and function.text in (b"hasattr", b"getattr"):
            _leave_out_name(pushed)
        self.push(pushed, scope, guards)
        if function is None:
            return
        if function.type == "attribute":
            self.check_keyword(function.child_by_field_name("attribute"), scope, guards)
        if not self.load(function, scope, guards, "call", tuple(keywords)):
            self.stack.append((function, scope, guards))

    def on_keyword_argument(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.push_one(node.child_by_field_name("value"), scope, guards)

    def on_string(self, node: Node, scope: Scope, guards: Guards) -> None:
        parts = node.named_children
        plain = len(parts) == 3 and parts[0].text in (b'"', b"'")
        if plain and (b"." not in (parts[1].text or b"") or parts[1].end_byte - parts[1].start_byte > _MAX_DOTTED):
            return
        prefix = old_syntax(node)
        if prefix:
            self.syntax_use(node, scope, guards, prefix)
        value = string_value(node)
        if value and len(value) <= _MAX_DOTTED and _DOTTED.match(value):
            row, column = node.start_point
            self.found.add(Ask(value, "string", guards), row + 1, column, node.end_point.column, scope.qualname)
        elif value is None:
            self.push([c for c in parts if c.type == "interpolation"], scope, guards)

    # Imports --------------------------------------------------------------------------------------------------------

    def import_use(self, whole: Node, node: Node, ask: Ask, scope: Scope) -> None:
        row, column = node.start_point
        first = whole.start_point.row
        end = node.end_point.column if node.end_point.row == row else column + 1
        self.found.add(ask, row + 1, column, end, scope.qualname, first + 1 if first != row else 0)

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
            self.import_use(node, child, Ask(path, "import", guards, (), name), scope)
            scope.bind(name, Binding(child.start_byte, target, guards))

    def on_import_from_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        source = text(node.child_by_field_name("module_name")).replace(" ", "")
        if any(child.type == "wildcard_import" for child in node.named_children):
            self.stars.append(source)
            self.import_use(node, node, Ask(source, "import", guards, (), "*"), scope)
            return
        joint = "" if source.endswith(".") else "."
        for child in node.children_by_field_name("name"):
            aliased = child.type == "aliased_import"
            original = text(child.child_by_field_name("name")) if aliased else text(child)
            name = text(child.child_by_field_name("alias")) if aliased else original
            self.check_keyword(child, scope, guards)
            path = f"{source}{joint}{original}"
            self.import_use(node, child, Ask(path, "import", guards, (), name), scope)
            scope.bind(name, Binding(child.start_byte, path, guards))

    def on_future_import_statement(self, node: Node, _scope: Scope, _guards: Guards) -> None:
        self.absolute_import = self.absolute_import or "absolute_import" in text(node)

    # Bindings -------------------------------------------------------------------------------------------------------

    def bind_pattern(
        self, node: Node, scope: Scope, guards: Guards, made_by: tuple[str, tuple[str, ...]] | None = None
    ) -> None:
        """Bind the names of an assignment target; attributes and subscripts in it are uses of their roots."""
        waiting = [node]
        while waiting:
            current = waiting.pop()
            kind = current.type
            if kind == "identifier":
                self.check_keyword(current, scope, guards)
                name = text(current)
                scope.bind(name, Binding(current.start_byte, None, guards, made_by))
                self.note_member(scope, name)
            elif kind == "attribute":
                self.note_own_attribute(current, scope)
                self.push_one(current.child_by_field_name("object"), scope, guards)
            elif kind == "subscript":
                self.push(current.named_children, scope, guards)
            else:
                waiting.extend(current.named_children)

    def note_member(self, scope: Scope, name: str) -> None:
        if scope.kind == "class":
            self.members[scope.qualname].add(name)

    def note_own_attribute(self, node: Node, scope: Scope) -> None:
        found = chain(node)
        if found is None or len(found[1]) != 1:
            return
        meaning = look_up(text(found[0]), scope, node.start_byte)
        if meaning is not None and meaning.binding.receiver is not None:
            self.members.setdefault(meaning.binding.receiver, set()).add(found[1][0])

    def on_assignment(self, node: Node, scope: Scope, guards: Guards) -> None:
        left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
        made_by = None
        if right is not None and left is not None and right.type == "call" and left.type == "identifier":
            function = right.child_by_field_name("function")
            found = chain(function) if function is not None else None
            made_by = (text(found[0]), tuple(found[1])) if found else None
        if left is not None:
            self.bind_pattern(left, scope, guards, made_by)
            if scope is self.module and left.type == "identifier" and text(left).isupper():
                self.assigned[text(left)] = left.start_point.row + 1
        self.push_one(right, scope, guards)
        self.push_one(node.child_by_field_name("type"), scope, guards)

    def on_augmented_assignment(self, node: Node, scope: Scope, guards: Guards) -> None:
        left = node.child_by_field_name("left")
        self.push_one(node.child_by_field_name("right"), scope, guards)
        if left is not None and left.type != "identifier":
            self.stack.append((left, scope, guards))

    def on_named_expression(self, node: Node, scope: Scope, guards: Guards) -> None:
        name = node.child_by_field_name("name")
        if name is not None:
            self.bind_pattern(name, scope, guards)
        self.push_one(node.child_by_field_name("value"), scope, guards)

    def on_for_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.bind_field(node, "left", scope, guards)

    def on_as_pattern(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.bind_field(node, "alias", scope, guards)

    def bind_field(self, node: Node, name: str, scope: Scope, guards: Guards) -> None:
        bound = node.child_by_field_name(name)
        if bound is not None:
            self.bind_pattern(bound, scope, guards)
        self.push([c for c in node.named_children if c != bound], scope, guards)

    def on_global_statement(self, node: Node, scope: Scope, _guards: Guards) -> None:
        scope.outer.update(text(child) for child in node.named_children)

    on_nonlocal_statement = on_global_statement

    # Scopes ---------------------------------------------------------------------------------------------------------

    def on_function_definition(self, node: Node, scope: Scope, guards: Guards) -> None:
        named = node.child_by_field_name("name")
        name = text(named)
        scope.bind(name, Binding(node.start_byte, None, guards))
        self.note_member(scope, name)
        if scope.kind == "class" and named is not None and not name.startswith("_") and self.bases.get(scope.qualname):
            row, column = named.start_point
            ask = Ask(f"self:{scope.qualname}.{name}", "override", guards)
            self.found.add(ask, row + 1, column, named.end_point.column, scope.qualname)
        inner = Scope("function", _qualify(scope, name), scope)
        self.parameters(node.child_by_field_name("parameters"), inner, scope, guards)
        self.push_one(node.child_by_field_name("body"), inner, guards)
        self.push_one(node.child_by_field_name("return_type"), scope, guards)

    def parameters(self, node: Node | None, inner: Scope, scope: Scope, guards: Guards) -> None:
        receiver = scope.qualname if scope.kind == "class" else None
        for child in node.named_children if node is not None else ():
            kind = child.type
            if kind == "identifier":
                inner.bind(text(child), Binding(child.start_byte, None, receiver=receiver))
                receiver = None
                continue
            target: Node | None = child
            if kind in ("default_parameter", "typed_default_parameter"):
                target = child.child_by_field_name("name")
            elif kind == "typed_parameter":
                target = child.named_children[0] if child.named_children else None
            self.push_one(child.child_by_field_name("type"), scope, guards)
            self.push_one(child.child_by_field_name("value"), scope, guards)
            waiting = [target] if target is not None else []
            while waiting:
                current = waiting.pop()
                if current.type == "identifier":
                    inner.bind(text(current), Binding(current.start_byte, None, receiver=receiver))
                    receiver = None
                else:
                    waiting.extend(current.named_children)

    def on_lambda(self, node: Node, scope: Scope, guards: Guards) -> None:
        inner = Scope("function", scope.qualname, scope)
        outer = scope if scope.kind != "class" else Scope("function", scope.qualname, scope)
        self.parameters(node.child_by_field_name("parameters"), inner, outer, guards)
        self.push_one(node.child_by_field_name("body"), inner, guards)

    def on_list_comprehension(self, node: Node, scope: Scope, guards: Guards) -> None:
        inner = Scope("comprehension", scope.qualname, scope)
        rest: list[Node] = []
        for child in node.named_children:
            left = child.child_by_field_name("left") if child.type == "for_in_clause" else None
            if left is not None:
                self.bind_pattern(left, inner, guards)
                rest.extend(c for c in child.named_children if c != left)
            else:
                rest.append(child)
        self.push(rest, inner, guards)

    on_set_comprehension = on_dictionary_comprehension = on_generator_expression = on_list_comprehension

    def on_class_definition(self, node: Node, scope: Scope, guards: Guards) -> None:
        name = text(node.child_by_field_name("name"))
        scope.bind(name, Binding(node.start_byte, None, guards))
        self.note_member(scope, name)
        inner = Scope("class", _qualify(scope, name), scope)
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
            meaning = look_up(text(held[0]), scope, node.start_byte)
            rest = "".join(f".{part}" for part in held[1])
            if meaning is not None and meaning.binding.target:
                found.append(meaning.binding.target + rest)
            elif meaning is not None:
                found.append(f":{text(held[0])}{rest}")
        return found

    # Guards -----------------------------------------------------------------------------------------------------------

    def on_block(self, node: Node, scope: Scope, guards: Guards) -> None:
        """Statements in order; a version test that leaves the block guards what follows it."""
        tasks: list[Task] = []
        outside = guards
        for statement in node.named_children:
            tasks.append((statement, scope, guards))
            if statement.type == "if_statement" and leaves_block(statement):
                after = guard_of_condition(statement.child_by_field_name("condition"), self.groups + 1, negated=True)
                # “if this Python is too odd: raise” at the top of a file guards nothing below it
                if after is not None and (after.kind == "version" or scope.kind == "function"):
                    self.groups += 1
                    guards = (*guards, after)
        if self.broken and node.has_error:
            tasks.extend((c, scope, outside) for c in node.children if c.type == "ERROR")
        tasks.reverse()
        self.stack += tasks

    on_module = on_block

    def on_if_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        group = self.new_group()
        condition, body = node.child_by_field_name("condition"), node.child_by_field_name("consequence")
        guard = guard_of_condition(condition, group)
        otherwise = guard_of_condition(condition, group, negated=True) if guard is not None else None
        branches = [c for c in node.named_children if c.type in ("elif_clause", "else_clause")]
        added: Guards = (otherwise,) if otherwise else ()
        for branch in branches:
            self.stack.append((branch, scope, (*guards, *added) if added else guards))
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
        self.stack.append((parts[2], scope, (*guards, no) if no else guards))
        self.stack.append((parts[1], scope, guards))
        self.stack.append((parts[0], scope, (*guards, yes) if yes else guards))

    def on_try_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        guard = try_guard(node, self.groups + 1)
        if guard is not None:
            self.groups += 1
        for child in reversed(node.named_children):
            inside = guard is not None and child.type != "finally_clause"
            self.stack.append((child, scope, (*guards, guard) if inside and guard else guards))

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
            targets = tuple(dict.fromkeys(b.target or "" for b in kept))
            found[name] = ("?", *targets) if grouped else targets
        return found


_HANDLERS: Final = tuple(name for name in dir(_Walk) if name.startswith("on_"))


def _qualify(scope: Scope, name: str) -> str:
    return f"{scope.qualname}.{name}" if scope.qualname else name


def _leave_out_name(arguments: list[Node]) -> None:
    """``hasattr(module, "name")`` asks; it is no use of the name."""
    for argument in arguments[1:2]:
        if argument.type == "string":
            arguments.remove(argument)
