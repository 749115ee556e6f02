"""Python text → facts: imports, uses through names and attributes, guards, classes, old syntax.

One walk over the tree collects bindings and loads, with an explicit stack so that depth costs no recursion; names are
resolved afterwards, when every scope is complete.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Final

from tree_sitter import Node

from yoake.core.syntax.facts import ClassFact, FileFacts, Guard, Use
from yoake.core.syntax.guards import guard_of_condition, leaves_block, try_guard
from yoake.core.syntax.old_syntax import old_syntax
from yoake.core.syntax.scopes import Binding, Meaning, Scope, look_up
from yoake.core.syntax.tree import broken_lines, chain, parse, statements, string_value, text

_DOTTED: Final = re.compile(r"[A-Za-z_]\w*(\.[A-Za-z_]\w*)+$")
_MAX_DOTTED: Final = 120  # the longest dotted path that frameworks resolve is far shorter
_NEW_KEYWORDS: Final = frozenset((b"async", b"await"))  # keywords since 3.7
_COMPREHENSIONS: Final = frozenset(
    ("list_comprehension", "set_comprehension", "dictionary_comprehension", "generator_expression")
)

Guards = tuple[Guard, ...]


@dataclass(slots=True)
class _Load:
    name: str
    attributes: tuple[str, ...]
    node: Node
    root: Node
    scope: Scope
    guards: Guards
    form: str
    keywords: tuple[str, ...] = ()


@dataclass(slots=True)
class _Task:
    node: Node
    scope: Scope
    guards: Guards


def read_python(source: bytes) -> FileFacts:
    """All facts of one Python file, of any version from 2.7 on."""
    if source.startswith(b"\xef\xbb\xbf"):
        source = source[3:]
    root = parse(source).root_node
    walk = _Walk(root)
    walk.run()
    return FileFacts(
        uses=tuple(sorted([*walk.uses, *walk.resolve()], key=lambda u: (u.line, u.column, u.path, u.form))),
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
        self.stack = [_Task(root, self.module, ())]
        self.uses: list[Use] = []
        self.loads: list[_Load] = []
        self.stars: list[str] = []
        self.members: dict[str, set[str]] = {}
        self.bases: dict[str, list[tuple[Node, Scope]]] = {}
        self.assigned: dict[str, int] = {}
        self.absolute_import = False
        self.groups = 0
        self.handlers = {name.removeprefix("on_"): getattr(self, name) for name in dir(self) if name.startswith("on_")}

    def run(self) -> None:
        """Visit every node once, in source order."""
        while self.stack:
            task = self.stack.pop()
            handler = self.handlers.get(task.node.type)
            if handler is not None:
                handler(task)
                continue
            found = old_syntax(task.node)
            if found:
                self.syntax_use(task, found)
            if task.node.type in _COMPREHENSIONS:
                self.comprehension(task)
            else:
                self.push(task.node.children if task.node.has_error else task.node.named_children, task)

    def push(self, nodes: list[Node], task: _Task, scope: Scope | None = None, guards: Guards | None = None) -> None:
        kept_scope, kept = scope or task.scope, task.guards if guards is None else guards
        self.stack.extend(_Task(node, kept_scope, kept) for node in reversed(nodes))

    def new_group(self) -> int:
        self.groups += 1
        return self.groups

    def syntax_use(self, task: _Task, name: str) -> None:
        row, column = task.node.start_point
        end = task.node.end_point.column if task.node.end_point.row == row else column + 1
        self.uses.append(Use(f"syntax.{name}", "syntax", row + 1, column, end, task.scope.qualname, task.guards))

    # Names and attributes -----------------------------------------------------------------------------------------

    def on_identifier(self, task: _Task) -> None:
        self.check_keyword(task, task.node)
        self.load(task, task.node, "name")

    def check_keyword(self, task: _Task, node: Node | None) -> None:
        """``async`` and ``await`` as names, which the grammar reads without complaint."""
        if node is not None and node.text in _NEW_KEYWORDS:
            self.syntax_use(_Task(node, task.scope, task.guards), "async_name")

    def load(self, task: _Task, node: Node, form: str, keywords: tuple[str, ...] = ()) -> bool:
        found = chain(node)
        if found is None:
            return False
        root, names = found
        name = text(root)
        kind = form if form == "call" else ("attribute" if names else "name")
        self.loads.append(_Load(name, tuple(names), node, root, task.scope, task.guards, kind, keywords))
        return True

    def on_attribute(self, task: _Task) -> None:
        self.check_keyword(task, task.node.child_by_field_name("attribute"))
        if not self.load(task, task.node, "attribute"):
            node = task.node
            while node.type == "attribute":
                node = node.child_by_field_name("object") or node
            self.push([node], task)

    def on_call(self, task: _Task) -> None:
        function, arguments = task.node.child_by_field_name("function"), task.node.child_by_field_name("arguments")
        keywords: list[str] = []
        pushed: list[Node] = []
        for child in arguments.named_children if arguments is not None else ():
            if child.type == "keyword_argument":
                self.check_keyword(task, child.child_by_field_name("name"))
                keywords.append(text(child.child_by_field_name("name")))
                value = child.child_by_field_name("value")
                pushed.extend([value] if value is not None else [])
            else:
                pushed.append(child)
        if arguments is not None and arguments.type == "generator_expression":
            pushed = [arguments]
        if function is not None and function.type == "identifier" and text(function) in ("hasattr", "getattr"):
            self.feature_call(pushed)
        self.push(pushed, task)
        if function is not None and function.type == "attribute":
            self.check_keyword(task, function.child_by_field_name("attribute"))
        if function is not None and not self.load(task, function, "call", tuple(keywords)):
            self.push([function], task)

    def feature_call(self, arguments: list[Node]) -> None:
        """``hasattr(module, "name")`` asks; it is no use of the name."""
        for argument in arguments[1:2]:
            if argument.type == "string":
                arguments.remove(argument)

    def on_keyword_argument(self, task: _Task) -> None:
        value = task.node.child_by_field_name("value")
        self.push([value] if value is not None else [], task)

    def on_string(self, task: _Task) -> None:
        prefix = old_syntax(task.node)
        if prefix:
            self.syntax_use(task, prefix)
        value = string_value(task.node)
        if value and len(value) <= _MAX_DOTTED and _DOTTED.match(value):
            row, column = task.node.start_point
            self.uses.append(
                Use(value, "string", row + 1, column, task.node.end_point.column, task.scope.qualname, task.guards)
            )
        elif value is None:
            inner = [c for c in task.node.named_children if c.type == "interpolation"]
            self.push(inner, task)

    def on_comment(self, _task: _Task) -> None:
        """Comments use nothing."""

    # Imports --------------------------------------------------------------------------------------------------------

    def import_use(self, task: _Task, node: Node, path: str, binds: str) -> None:
        row, column = node.start_point
        first = task.node.start_point.row
        self.uses.append(
            Use(
                path,
                "import",
                row + 1,
                column,
                node.end_point.column if node.end_point.row == row else column + 1,
                task.scope.qualname,
                task.guards,
                (),
                binds,
                (),
                first + 1 if first != row else 0,
            )
        )

    def on_import_statement(self, task: _Task) -> None:
        for child in task.node.named_children:
            if child.type == "aliased_import":
                path, name = text(child.child_by_field_name("name")), text(child.child_by_field_name("alias"))
                target = path
            elif child.type == "dotted_name":
                path = text(child)
                name = target = path.split(".", 1)[0]
            else:
                continue
            path = path.replace(" ", "")
            self.import_use(task, child, path, name)
            task.scope.bind(name, Binding(child.start_byte, target, task.guards))

    def on_import_from_statement(self, task: _Task) -> None:
        source = text(task.node.child_by_field_name("module_name")).replace(" ", "")
        if any(child.type == "wildcard_import" for child in task.node.named_children):
            self.stars.append(source)
            self.import_use(task, task.node, source, "*")
            return
        joint = "" if source.endswith(".") else "."
        for child in task.node.children_by_field_name("name"):
            aliased = child.type == "aliased_import"
            original = text(child.child_by_field_name("name")) if aliased else text(child)
            name = text(child.child_by_field_name("alias")) if aliased else original
            self.check_keyword(task, child)
            self.import_use(task, child, f"{source}{joint}{original}", name)
            task.scope.bind(name, Binding(child.start_byte, f"{source}{joint}{original}", task.guards))

    def on_future_import_statement(self, task: _Task) -> None:
        self.absolute_import = self.absolute_import or "absolute_import" in text(task.node)

    # Bindings -------------------------------------------------------------------------------------------------------

    def bind_pattern(self, node: Node, task: _Task, made_by: tuple[str, tuple[str, ...]] | None = None) -> None:
        """Bind the names of an assignment target; attributes and subscripts in it are uses of their roots."""
        waiting = [node]
        while waiting:
            current = waiting.pop()
            if current.type == "identifier":
                self.check_keyword(task, current)
                binding = Binding(current.start_byte, None, task.guards, made_by)
                task.scope.bind(text(current), binding)
                self.note_member(task.scope, text(current))
            elif current.type == "attribute":
                self.note_own_attribute(current, task)
                inner = current.child_by_field_name("object")
                self.push([inner] if inner is not None else [], task)
            elif current.type == "subscript":
                self.push(current.named_children, task)
            else:
                waiting.extend(current.named_children)

    def note_member(self, scope: Scope, name: str) -> None:
        if scope.kind == "class":
            self.members[scope.qualname].add(name)

    def note_own_attribute(self, node: Node, task: _Task) -> None:
        found = chain(node)
        if found is None or len(found[1]) != 1:
            return
        meaning = look_up(text(found[0]), task.scope, node.start_byte)
        if meaning is not None and meaning.binding.receiver is not None:
            self.members.setdefault(meaning.binding.receiver, set()).add(found[1][0])

    def on_assignment(self, task: _Task) -> None:
        left, right = task.node.child_by_field_name("left"), task.node.child_by_field_name("right")
        kind = task.node.child_by_field_name("type")
        made_by = None
        if right is not None and right.type == "call" and left is not None and left.type == "identifier":
            function = right.child_by_field_name("function")
            found = chain(function) if function is not None else None
            made_by = (text(found[0]), tuple(found[1])) if found else None
        if left is not None:
            self.bind_pattern(left, task, made_by)
            if task.scope is self.module and left.type == "identifier" and text(left).isupper():
                self.assigned[text(left)] = left.start_point.row + 1
        self.push([n for n in (kind, right) if n is not None], task)

    def on_augmented_assignment(self, task: _Task) -> None:
        left, right = task.node.child_by_field_name("left"), task.node.child_by_field_name("right")
        if left is not None and left.type != "identifier":
            self.push([left], task)
        self.push([right] if right is not None else [], task)

    def on_named_expression(self, task: _Task) -> None:
        name, value = task.node.child_by_field_name("name"), task.node.child_by_field_name("value")
        if name is not None:
            self.bind_pattern(name, task)
        self.push([value] if value is not None else [], task)

    def on_for_statement(self, task: _Task) -> None:
        left = task.node.child_by_field_name("left")
        if left is not None:
            self.bind_pattern(left, task)
        self.push([c for c in task.node.named_children if c != left], task)

    def on_as_pattern(self, task: _Task) -> None:
        alias = task.node.child_by_field_name("alias")
        if alias is not None:
            self.bind_pattern(alias, task)
        self.push([c for c in task.node.named_children if c != alias], task)

    def on_global_statement(self, task: _Task) -> None:
        task.scope.outer.update(text(child) for child in task.node.named_children)

    on_nonlocal_statement = on_global_statement

    def on_delete_statement(self, _task: _Task) -> None:
        """Deleting a name uses nothing that could go away."""

    # Scopes ---------------------------------------------------------------------------------------------------------

    def on_function_definition(self, task: _Task) -> None:
        node, name = task.node, text(task.node.child_by_field_name("name"))
        task.scope.bind(name, Binding(node.start_byte, None, task.guards))
        self.note_member(task.scope, name)
        inner = Scope("function", self.qualify(task.scope, name), task.scope)
        parameters = node.child_by_field_name("parameters")
        self.parameters(parameters, inner, task)
        returned = node.child_by_field_name("return_type")
        body = node.child_by_field_name("body")
        self.push([body] if body is not None else [], task, inner)
        self.push([returned] if returned is not None else [], task)

    @staticmethod
    def qualify(scope: Scope, name: str) -> str:
        return f"{scope.qualname}.{name}" if scope.qualname else name

    def parameters(self, node: Node | None, inner: Scope, task: _Task) -> None:
        first = task.scope.kind == "class"
        for child in node.named_children if node is not None else ():
            target: Node | None = child
            if child.type in ("default_parameter", "typed_default_parameter"):
                target = child.child_by_field_name("name")
            elif child.type == "typed_parameter":
                target = child.named_children[0] if child.named_children else None
            extra = [child.child_by_field_name("value"), child.child_by_field_name("type")]
            self.push([n for n in extra if n is not None], task)
            waiting = [target] if target is not None else []
            while waiting:
                current = waiting.pop()
                if current.type == "identifier":
                    receiver = task.scope.qualname if first else None
                    inner.bind(text(current), Binding(current.start_byte, None, receiver=receiver))
                    first = False
                else:
                    waiting.extend(current.named_children)

    def on_lambda(self, task: _Task) -> None:
        inner = Scope("function", task.scope.qualname, task.scope)
        parameters = task.node.child_by_field_name("parameters")
        self.parameters(parameters, inner, _Task(task.node, Scope("function", "", task.scope), task.guards))
        body = task.node.child_by_field_name("body")
        self.push([body] if body is not None else [], task, inner)

    def comprehension(self, task: _Task) -> None:
        inner = Scope("comprehension", task.scope.qualname, task.scope)
        held = _Task(task.node, inner, task.guards)
        rest: list[Node] = []
        for child in task.node.named_children:
            left = child.child_by_field_name("left") if child.type == "for_in_clause" else None
            if left is not None:
                self.bind_pattern(left, held)
                rest.extend(c for c in child.named_children if c != left)
            else:
                rest.append(child)
        self.push(rest, held)

    def on_class_definition(self, task: _Task) -> None:
        node, name = task.node, text(task.node.child_by_field_name("name"))
        task.scope.bind(name, Binding(node.start_byte, None, task.guards))
        self.note_member(task.scope, name)
        inner = Scope("class", self.qualify(task.scope, name), task.scope)
        self.members.setdefault(inner.qualname, set())
        arguments = node.child_by_field_name("superclasses")
        listed = list(arguments.named_children) if arguments is not None else []
        self.bases[inner.qualname] = [(base, task.scope) for base in listed if base.type in ("identifier", "attribute")]
        body = node.child_by_field_name("body")
        self.push([body] if body is not None else [], task, inner)
        self.push(listed, task)

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

    def on_block(self, task: _Task) -> None:
        """Statements in order; a version test that leaves the block guards what follows it."""
        guards = task.guards
        tasks: list[_Task] = []
        for statement in statements(task.node):
            tasks.append(_Task(statement, task.scope, guards))
            if statement.type == "if_statement" and leaves_block(statement):
                after = guard_of_condition(statement.child_by_field_name("condition"), self.groups + 1, negated=True)
                # “if this Python is too odd: raise” at the top of a file guards nothing below it
                if after is not None and (after.kind == "version" or task.scope.kind == "function"):
                    self.groups += 1
                    guards = (*guards, after)
        if task.node.has_error:
            tasks.extend(_Task(c, task.scope, guards) for c in task.node.children if c.type == "ERROR")
        self.stack.extend(reversed(tasks))

    on_module = on_block

    def on_if_statement(self, task: _Task) -> None:
        group = self.new_group()
        condition, body = task.node.child_by_field_name("condition"), task.node.child_by_field_name("consequence")
        guard = guard_of_condition(condition, group)
        otherwise = guard_of_condition(condition, group, negated=True)
        branches = [c for c in task.node.named_children if c.type in ("elif_clause", "else_clause")]
        added: Guards = (otherwise,) if otherwise else ()
        for branch in branches:
            held = _Task(branch, task.scope, (*task.guards, *added))
            self.stack.append(held)
            if branch.type == "elif_clause":
                further = guard_of_condition(branch.child_by_field_name("condition"), group, negated=True)
                added = (*added, further) if further else added
        if body is not None:
            self.push([body], task, None, (*task.guards, guard) if guard else task.guards)
        self.push([condition] if condition is not None else [], task)

    def on_elif_clause(self, task: _Task) -> None:
        condition, body = task.node.child_by_field_name("condition"), task.node.child_by_field_name("consequence")
        guard = guard_of_condition(condition, self.new_group())
        if body is not None:
            self.push([body], task, None, (*task.guards, guard) if guard else task.guards)
        self.push([condition] if condition is not None else [], task)

    def on_conditional_expression(self, task: _Task) -> None:
        parts = task.node.named_children
        if len(parts) != 3:
            self.push(parts, task)
            return
        group = self.new_group()
        yes, no = guard_of_condition(parts[1], group), guard_of_condition(parts[1], group, negated=True)
        self.push([parts[2]], task, None, (*task.guards, no) if no else task.guards)
        self.push([parts[1]], task)
        self.push([parts[0]], task, None, (*task.guards, yes) if yes else task.guards)

    def on_try_statement(self, task: _Task) -> None:
        guard = try_guard(task.node, self.groups + 1)
        if guard is not None:
            self.groups += 1
        for child in reversed(task.node.named_children):
            inside = child.type != "finally_clause"
            guards = (*task.guards, guard) if guard is not None and inside else task.guards
            self.push([child], task, None, guards)

    def on_ERROR(self, task: _Task) -> None:  # noqa: N802  named as the grammar names the node
        found = old_syntax(task.node)
        if found:
            self.syntax_use(task, found)
        self.push(task.node.named_children, task)

    # Resolution -------------------------------------------------------------------------------------------------------

    def resolve(self) -> list[Use]:
        """Every load whose root is imported, an instance, a method's own object, or nobody's (a builtin)."""
        found = []
        for load in self.loads:
            use = self.resolve_load(load)
            if use is not None:
                found.append(use)
        return found

    def resolve_load(self, load: _Load) -> Use | None:
        meaning = look_up(load.name, load.scope, load.root.start_byte)
        if meaning is None:
            path = ".".join(["builtins", load.name])
            return self.made(load, path, "builtin", load.guards, ())
        binding = meaning.binding
        if binding.target is not None:
            return self.imported(load, meaning)
        if binding.receiver is not None and load.attributes:
            return self.made(load, f"self:{binding.receiver}.{load.attributes[0]}", "inherited", load.guards, ())
        if binding.made_by is not None and load.attributes:
            return self.instance(load, meaning)
        return None

    def imported(self, load: _Load, meaning: Meaning) -> Use:
        rest = "".join(f".{name}" for name in load.attributes)
        guards = (*load.guards, *(g for g in meaning.binding.guards if g not in load.guards))
        ways = sorted((meaning.binding, *meaning.others), key=lambda b: b.position)
        paths = tuple(dict.fromkeys(f"{b.target}{rest}" for b in ways if b.target))
        return self.made(load, paths[0], load.form, guards, paths[1:])

    def instance(self, load: _Load, meaning: Meaning) -> Use | None:
        made_by = meaning.binding.made_by
        if made_by is None:
            return None
        maker = look_up(made_by[0], meaning.scope, meaning.binding.position)
        if maker is None or maker.binding.target is None or maker.binding.guards:
            return None
        path = "".join([maker.binding.target, *(f".{name}" for name in made_by[1])])
        return self.made(load, f"{path}().{load.attributes[0]}", "instance", load.guards, ())

    def made(self, load: _Load, path: str, form: str, guards: Guards, others: tuple[str, ...]) -> Use:
        """The use at the place where the last part of the path stands."""
        node = load.node
        last = node.child_by_field_name("attribute") if node.type == "attribute" else node
        first = load.root.start_point.row
        start = load.root.start_point
        if last is not None and last.start_point.row != first:
            start = last.start_point
        end = (last or node).end_point
        return Use(
            path,
            form,
            start.row + 1,
            start.column,
            end.column if end.row == start.row else start.column + 1,
            load.scope.qualname,
            guards,
            load.keywords,
            "",
            others,
            first + 1 if first != start.row else 0,
        )

    def exports(self) -> dict[str, tuple[str, ...]]:
        """Top-level names and the paths each may stand for; "" for what is defined here, "?" when that depends."""
        found: dict[str, tuple[str, ...]] = {}
        for name, bound in self.module.bindings.items():
            grouped = bool(bound[-1].guards)
            kept = bound if grouped else bound[-1:]
            targets = tuple(dict.fromkeys(b.target or "" for b in kept))
            found[name] = ("?", *targets) if grouped else targets
        return found
