"""Following the Python files of a source: modules once each, classes, functions and calls, within a bound of steps.

Where a condition is not known both ways are followed; what an error handler would do is left out.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Final

from tree_sitter import Node

from yoake.core.contract.evaluation import (
    UNKNOWN,
    Called,
    CallSite,
    ClassValue,
    Exhausted,
    FunctionValue,
    Instance,
    Member,
    Model,
    Models,
    ModuleValue,
    Native,
    Place,
    Reference,
    Scope,
    Value,
)
from yoake.core.ecosystems.python.evaluation.expressions import combined, expression, place
from yoake.core.ecosystems.python.evaluation.known_calls import (
    KNOWN,
    dict_method,
    elements,
    list_method,
    text_method,
    truth,
)
from yoake.core.ecosystems.python.evaluation.modules import ModuleIndex
from yoake.core.ecosystems.python.tree import parse
from yoake.core.syntax.tree import statements, text

_VENDORED: Final = re.compile(r"(?:^|\.)(?:_vendor|vendor|_vendored|vendored|third_party)\.(?=\w)")
_MOST_STEPS: Final = 4_000_000  # half a minute; the largest application tried took a tenth of it
_DEEPEST: Final = 60  # calls inside one another


@dataclass(slots=True)
class _Frame:
    """One call while it is followed."""

    returns: list[Value] = field(default_factory=list)
    yields: list[Value] = field(default_factory=list)
    generates: bool = False


class PythonEvaluator:
    """Follows the code of one source. ``read`` gives the text of a file."""

    language = "python"

    def __init__(self, paths: Sequence[str], read: Callable[[str], bytes | None], models: Models) -> None:
        self._every = list(paths)
        self._paths = [path for path in paths if path.endswith(".py")]
        self._read = read
        self._models = models
        self._index = ModuleIndex(self._paths)
        self._modules: dict[str, ModuleValue] = {}
        self._frames: list[_Frame] = [_Frame()]
        self._steps = 0
        self._active: list[Node] = []
        self.called: set[tuple[str, int]] = set()

    # what the framework asks

    def text_of(self, path: str) -> bytes | None:
        """The text of a file."""
        return self._read(path)

    def tree_of(self, file: str) -> Node | None:
        """The root of a file's syntax tree."""
        source = self._read(file)
        return parse(source).root_node if source is not None else None

    def modules(self) -> Sequence[str]:
        """All files that can be followed."""
        return self._paths

    def every_path(self) -> Sequence[str]:
        """All paths of the source."""
        return self._every

    def file_module(self, file: str) -> ModuleValue | None:
        """The module of a file, followed once."""
        known = self._modules.get(file)
        if known is not None:
            return known
        source = self._read(file)
        if source is None:
            return None
        scope = Scope({"__name__": self._dotted_name(file), "__file__": file}, None, file)
        made = self._modules[file] = ModuleValue(file, scope)
        depth = len(self._frames)
        if depth > _DEEPEST:
            return made
        self._frames.append(_Frame())
        try:
            self._block(parse(source).root_node, scope)
        except RecursionError:
            return made
        finally:
            del self._frames[depth:]
        return made

    def _dotted_name(self, file: str) -> str:
        parts = file.removesuffix(".py").removesuffix("/__init__").split("/")
        for start in range(len(parts)):
            name = ".".join(parts[start:])
            if self._index.find(name, file) == file:
                return name
        return parts[-1]

    def module(self, name: str, file: str = "") -> ModuleValue | None:
        """A module by its dotted name."""
        if name.startswith("."):
            level = len(name) - len(name.lstrip("."))
            return self._relative(level, name.lstrip("."), file)
        if _VENDORED.search(name):  # other people's code keeps its own name
            return None
        found = self._index.find(name, file)
        if found is not None:
            return self.file_module(found)
        folder = self._index.folder(name, file)
        return self._namespace(folder) if folder is not None else None

    def _namespace(self, folder: str) -> ModuleValue:
        key = f"{folder}/"
        return self._modules.setdefault(key, ModuleValue(key, Scope({}, None, key)))

    def _relative(self, level: int, name: str, file: str) -> ModuleValue | None:
        found, folder = self._index.relative(level, name, file)
        if found is not None:
            return self.file_module(found)
        return self._namespace(folder) if folder else None

    def dotted(self, path: str) -> Value:
        """A dotted path from the top: a module, or something inside of one."""
        parts = path.split(".")
        for length in range(len(parts), 0, -1):
            module = self.module(".".join(parts[:length]))
            if module is not None and not (module.file.endswith("/") and length < len(parts)):
                value: Value = module
                for part in parts[length:]:
                    value = self.attribute(value, part)
                return value
        return Reference(path)

    # members

    def attribute(self, of: Value, name: str) -> Value:  # noqa: C901 - one case a kind of value
        """A member of a value."""
        if isinstance(of, ModuleValue):
            return self._of_module(of, name)
        if isinstance(of, Reference):
            path = f"{of.path}.{name}"
            model = self._models.get(path)
            return model if isinstance(model, Model) else Reference(path)
        if isinstance(of, Instance):
            return self._of_instance(of, name)
        if isinstance(of, ClassValue):
            return self._of_class(of, of, name)
        if isinstance(of, Model):
            return of.attribute(name, self)
        if isinstance(of, str | bytes):
            return text_method(of, name)
        if isinstance(of, list):
            return list_method(of, name)
        if isinstance(of, dict):
            return dict_method(of, name)
        if isinstance(of, FunctionValue):
            return of.attributes.get(name, of.name if name == "__name__" else UNKNOWN)
        if isinstance(of, _Parent):
            return self._of_parent(of, name)
        if isinstance(of, Called) and isinstance(of.of, Reference):
            return Reference(f"{of.of.path}().{name}")
        return UNKNOWN

    def item(self, of: Value, key: Value) -> Value:
        """``of[key]`` where ``of`` is an object."""
        if isinstance(of, Instance | Model) and isinstance(key, str):
            getter = self.attribute(of, "__getitem__")
            if getter is not UNKNOWN:
                return self.call(getter, [key], {}, Place("", 0))
        return UNKNOWN

    def _of_module(self, module: ModuleValue, name: str) -> Value:
        if name in module.scope.names:
            return module.scope.names[name]
        folder = module.file.removesuffix("__init__.py").rstrip("/")
        if module.file.endswith(("/", "__init__.py")):
            path = f"{folder}/{name}" if folder else name
            found = self._index.at(path)
            if found is not None:
                return self.file_module(found)
            if path in self._index.folders:
                return self._namespace(path)
        return UNKNOWN

    def _of_instance(self, of: Instance, name: str) -> Value:
        if name in of.attributes:
            return of.attributes[name]
        found = self._of_class(of.kind, of, name)
        if isinstance(found, Member) and of.model is not None:
            known = of.model.attribute(name, self)
            return known if known is not UNKNOWN else found
        return found

    def _of_class(self, kind: ClassValue, of: ClassValue | Instance, name: str) -> Value:
        if name == "__class__" and isinstance(of, Instance):
            return kind
        if name == "__name__" and isinstance(of, ClassValue):
            return of.name
        for each in kind.lineage():
            if isinstance(each, ClassValue) and name in each.members:
                return self._bound(each.members[name], of)
        return Member(of, name) if kind.outside() else UNKNOWN

    def _bound(self, found: Value, of: ClassValue | Instance) -> Value:
        if not isinstance(found, FunctionValue):
            return found
        marks = {mark.path.rsplit(".", 1)[-1] for mark in found.marks if isinstance(mark, Reference)}
        if "staticmethod" in marks:
            return found
        if "classmethod" in marks:
            return replace(found, bound=of if isinstance(of, ClassValue) else of.kind)
        if isinstance(of, ClassValue):
            return found
        if marks & {"property", "cached_property"}:
            return self.call(replace(found, bound=of), [], {}, found.place)
        return replace(found, bound=of)

    def parent_of(self, scope: Scope) -> Value:
        """``super()`` as it stands in a scope."""
        at: Scope | None = scope
        while at is not None:
            if at.owner is not None:
                holder, bound = at.owner
                return _Parent(holder, bound)
            at = at.outer
        return UNKNOWN

    def _of_parent(self, of: _Parent, name: str) -> Value:
        kind = of.bound.kind if isinstance(of.bound, Instance) else of.bound
        lineage = kind.lineage() if isinstance(kind, ClassValue) else []
        rest = lineage[next((i for i, each in enumerate(lineage) if each is of.holder), -1) + 1 :]
        for each in rest:
            if isinstance(each, ClassValue) and name in each.members:
                return self._bound(each.members[name], of.bound)
        if isinstance(of.bound, Instance):
            if name == "__init__":
                return Native(lambda site: self._modelled(of.bound, site))
            if of.bound.model is not None:
                return of.bound.model.attribute(name, self)
        return UNKNOWN

    # calls

    def call(  # noqa: C901 - one case a kind of value
        self, of: Value, arguments: Sequence[Value], keywords: Mapping[str, Value], place: Place
    ) -> Value:
        """What a call gives."""
        if isinstance(of, FunctionValue):
            return self._function(of, arguments, keywords)
        if isinstance(of, Native):
            return of.call(CallSite(arguments, keywords, place, self))
        if isinstance(of, ClassValue):
            return self._made(of, CallSite(arguments, keywords, place, self))
        if isinstance(of, Reference):
            model = self._models.get(of.path) or KNOWN.get(of.path)
            if callable(model):
                return model(CallSite(arguments, keywords, place, self))
            if isinstance(model, Model):
                return model.call(CallSite(arguments, keywords, place, self))
        if isinstance(of, Model):
            return of.call(CallSite(arguments, keywords, place, self))
        if isinstance(of, Instance):
            own = self.attribute(of, "__call__")
            if isinstance(own, FunctionValue):
                return self._function(own, arguments, keywords)
        if isinstance(of, Called) and isinstance(of.of, FunctionValue):  # a partial call
            return self._function(of.of, [*of.arguments, *arguments], {**of.keywords, **keywords})
        return (
            Called(of, list(arguments), dict(keywords), place) if of is not UNKNOWN else self._wrapped(arguments, place)
        )

    def _wrapped(self, arguments: Sequence[Value], place: Place) -> Value:
        inner = [each for each in arguments if isinstance(each, FunctionValue | ClassValue)]
        return Called(UNKNOWN, inner, {}, place) if inner else UNKNOWN

    def _made(self, kind: ClassValue, site: CallSite) -> Value:
        made = Instance(kind)
        try:
            init = kind.member("__init__")
        except KeyError:
            init = None
        if isinstance(init, FunctionValue):
            self._function(replace(init, bound=made), site.arguments, site.keywords)
        if made.model is None:
            self._modelled(made, site if init is None else CallSite((), {}, site.place, self))
        return made

    def _modelled(self, made: Instance, site: CallSite) -> None:
        for path in made.kind.outside():
            model = self._models.get(path)
            if callable(model) and made.model is None:
                built = model(site)
                made.model = built if isinstance(built, Model) else None
                if made.model is not None:
                    made.model.holder = made

    def _function(self, of: FunctionValue, arguments: Sequence[Value], keywords: Mapping[str, Value]) -> Value:
        self.called.add((of.place.file, of.place.line))
        if len(self._frames) > _DEEPEST or sum(1 for s in self._active if s is of.node) > 3:
            return UNKNOWN
        scope = Scope({}, of.scope, of.scope.file, (of.holder, of.bound) if of.holder is not None else None)
        handed = [of.bound, *arguments] if of.bound is not None else list(arguments)
        self._parameters(of, handed, keywords, scope)
        body = of.node.child_by_field_name("body")
        if of.node.type == "lambda":
            return expression(body, scope, self)
        frame = _Frame()
        self._frames.append(frame)
        self._active.append(of.node)
        try:
            self._block(body, scope)
        finally:
            self._frames.pop()
            self._active.pop()
        if frame.generates:
            return frame.yields
        known = [each for each in frame.returns if each is not UNKNOWN and each is not None]
        return known[0] if known else (frame.returns[0] if frame.returns else None)

    def _parameters(self, of: FunctionValue, handed: list[Value], keywords: Mapping[str, Value], scope: Scope) -> None:
        left = dict(keywords)
        parameters = of.node.child_by_field_name("parameters")
        at = 0
        named_only = False
        for child in parameters.named_children if parameters is not None else ():
            kind = child.type
            if kind in ("comment", "positional_separator"):
                continue
            if kind == "keyword_separator":
                named_only = True
                continue
            inner = child.child_by_field_name("name") or (child.named_children[0] if child.named_children else child)
            if kind == "list_splat_pattern" or inner.type == "list_splat_pattern":
                scope.names[text(inner).lstrip("*")] = handed[at:]
                named_only = True
                continue
            if kind == "dictionary_splat_pattern" or inner.type == "dictionary_splat_pattern":
                scope.names[text(inner).lstrip("*")] = left
                continue
            name = text(child if kind == "identifier" else inner)
            if not named_only and at < len(handed):
                scope.names[name] = handed[at]
                at += 1
            elif name in left:
                scope.names[name] = left.pop(name)
            else:
                default = child.child_by_field_name("value")
                scope.names[name] = expression(default, of.scope, self) if default is not None else UNKNOWN

    def yielded(self, values: list[Value]) -> None:
        """``yield`` in the call that is followed."""
        self._frames[-1].generates = True
        self._frames[-1].yields.extend(values)

    # statements

    def step(self) -> None:
        """One more node; ends the work where it grows beyond measure."""
        self._steps += 1
        if self._steps > _MOST_STEPS:
            raise Exhausted

    def place(self, node: Node, scope: Scope) -> Place:
        """Where a node of a scope's file stands."""
        return place(node, scope.file)

    def _block(self, node: Node | None, scope: Scope) -> str:
        """Follows statements; answers how they end: "" or return, break, continue."""
        if node is None:
            return ""
        for each in statements(node):
            self.step()
            handler = _STATEMENTS.get(each.type)
            ended = handler(self, each, scope) if handler is not None else ""
            if ended:
                return ended
        return ""

    def _expression_statement(self, node: Node, scope: Scope) -> str:
        for child in node.named_children:
            if child.type == "assignment":
                self._assignment(child, scope)
            elif child.type == "augmented_assignment":
                self._augmented(child, scope)
            else:
                expression(child, scope, self)
        return ""

    def _assignment(self, node: Node, scope: Scope) -> Value:
        right = node.child_by_field_name("right")
        if right is None:
            return UNKNOWN
        value = self._assignment(right, scope) if right.type == "assignment" else expression(right, scope, self)
        self.assign(node.child_by_field_name("left"), value, scope)
        return value

    def assign(self, left: Node | None, value: Value, scope: Scope) -> None:  # noqa: C901 - one case a kind of target
        """Binds a name, a member, an element, or several."""
        if left is None:
            return
        if left.type == "identifier":
            scope.names[text(left)] = value
        elif left.type in ("pattern_list", "tuple_pattern", "list_pattern", "tuple"):
            parts = elements(value)
            for i, child in enumerate(c for c in left.named_children if c.type != "comment"):
                self.assign(child, parts[i] if parts is not None and i < len(parts) else UNKNOWN, scope)
        elif left.type == "attribute":
            of = expression(left.child_by_field_name("object"), scope, self)
            name = text(left.child_by_field_name("attribute"))
            if isinstance(of, Instance | FunctionValue):
                of.attributes[name] = value
            elif isinstance(of, ClassValue):
                of.members[name] = value
            elif isinstance(of, ModuleValue):
                of.scope.names[name] = value
        elif left.type == "subscript":
            of = expression(left.child_by_field_name("value"), scope, self)
            key = expression(left.child_by_field_name("subscript"), scope, self)
            if isinstance(of, dict) and isinstance(key, str | int):
                of[key] = value

    def _augmented(self, node: Node, scope: Scope) -> None:
        left = node.child_by_field_name("left")
        held = expression(left, scope, self)
        more = expression(node.child_by_field_name("right"), scope, self)
        sign = text(node.child_by_field_name("operator")).removesuffix("=")
        if isinstance(held, list) and sign == "+":
            held.extend(elements(more) or [])
        elif held is UNKNOWN and isinstance(more, list):
            self.assign(left, list(more), scope)
        else:
            self.assign(left, combined(held, sign, more), scope)

    def _if(self, node: Node, scope: Scope) -> str:
        held = truth(expression(node.child_by_field_name("condition"), scope, self))
        if held:
            return self._block(node.child_by_field_name("consequence"), scope)
        ends: list[str] = []
        if held is None:
            ends.append(self._block(node.child_by_field_name("consequence"), scope))
        closed = False
        for other in node.children_by_field_name("alternative"):
            if other.type == "else_clause":
                closed = True
                ends.append(self._block(other.child_by_field_name("body"), scope))
                continue
            held = truth(expression(other.child_by_field_name("condition"), scope, self))
            if held is not False:
                ends.append(self._block(other.child_by_field_name("consequence"), scope))
            if held:
                closed = True
                break
        return ends[0] if closed and ends and all(ends) else ""

    def _for(self, node: Node, scope: Scope) -> str:
        found = elements(expression(node.child_by_field_name("right"), scope, self))
        for each in found if found is not None else [UNKNOWN]:
            self.assign(node.child_by_field_name("left"), each, scope)
            ended = self._block(node.child_by_field_name("body"), scope)
            if ended == "return" and found is not None:
                return ended
            if ended == "break" and found is not None:
                break
        return ""

    def _while(self, node: Node, scope: Scope) -> str:
        if truth(expression(node.child_by_field_name("condition"), scope, self)) is not False:
            self._block(node.child_by_field_name("body"), scope)
        return ""

    def _try(self, node: Node, scope: Scope) -> str:
        ended = self._block(node.child_by_field_name("body"), scope)
        for child in node.named_children:
            if child.type == "else_clause" and not ended:
                ended = self._block(child.child_by_field_name("body"), scope)
            elif child.type == "finally_clause" or (
                child.type == "except_clause" and self._is_import_of_nothing(node, scope.file)
            ):
                self._block(child.named_children[-1], scope)
        return ended

    def _is_import_of_nothing(self, node: Node, file: str) -> bool:
        """Whether a try imports a module of the source that is not there: then the handler runs."""
        body = node.child_by_field_name("body")
        for each in statements(body) if body is not None else ():
            if each.type == "import_from_statement":
                name = text(each.child_by_field_name("module_name"))
                level = len(name) - len(name.lstrip("."))
                if level and self._relative(level, name.lstrip("."), file) is None:
                    return True
        return False

    def _with(self, node: Node, scope: Scope) -> str:
        for clause in node.named_children:
            for item in clause.named_children if clause.type == "with_clause" else ():
                value = item.child_by_field_name("value")
                if value is not None and value.type == "as_pattern":
                    found = expression(value.named_children[0], scope, self)
                    alias = value.child_by_field_name("alias")
                    self.assign(
                        alias.named_children[0] if alias is not None and alias.named_children else alias, found, scope
                    )
                else:
                    expression(value, scope, self)
        return self._block(node.child_by_field_name("body"), scope)

    def _define(self, node: Node, scope: Scope) -> Value:
        if node.type == "function_definition":
            name = text(node.child_by_field_name("name"))
            made: Value = FunctionValue(name, self.place(node, scope), node, scope)
        else:
            made = self._class(node, scope)
        scope.names[made.name] = made
        return made

    def _class(self, node: Node, scope: Scope) -> ClassValue:
        bases: list[Value] = []
        keywords: dict[str, Value] = {}
        listed = node.child_by_field_name("superclasses")
        for child in listed.named_children if listed is not None else ():
            if child.type == "keyword_argument":
                keywords[text(child.child_by_field_name("name"))] = expression(
                    child.child_by_field_name("value"), scope, self
                )
            elif child.type != "comment":
                bases.append(expression(child, scope, self))
        inner = Scope({}, scope, scope.file)
        made = ClassValue(
            text(node.child_by_field_name("name")), self.place(node, scope), bases, inner.names, [], keywords
        )
        self._block(node.child_by_field_name("body"), inner)
        for each in inner.names.values():
            if isinstance(each, FunctionValue) and each.holder is None and each.scope is inner:
                each.holder = made
                each.scope = scope
        return made

    def _definition(self, node: Node, scope: Scope) -> str:
        self._define(node, scope)
        return ""

    def _decorated(self, node: Node, scope: Scope) -> str:
        definition = node.child_by_field_name("definition")
        if definition is None:
            return ""
        decorators = [
            (expression(child.named_children[0], scope, self), self.place(child, scope))
            for child in node.named_children
            if child.type == "decorator" and child.named_children
        ]
        made = self._define(definition, scope)
        for decorator, where in reversed(decorators):
            made.marks.append(decorator)
            self.call(decorator, [made], {}, where)
        return ""

    def _import(self, node: Node, scope: Scope) -> str:
        for child in node.named_children:
            if child.type == "aliased_import":
                name = text(child.child_by_field_name("name"))
                scope.names[text(child.child_by_field_name("alias"))] = self._imported(name, scope.file)
            elif child.type == "dotted_name":
                name = text(child)
                head = name.split(".")[0]
                whole = self._imported(name, scope.file)
                scope.names[head] = self._imported(head, scope.file) if head != name else whole
        return ""

    def _imported(self, name: str, file: str) -> Value:
        return self.module(name, file) or Reference(_VENDORED.split(name)[-1])

    def _import_from(self, node: Node, scope: Scope) -> str:
        module = node.child_by_field_name("module_name")
        name = text(module)
        found: ModuleValue | None
        if name.startswith("."):
            level = len(name) - len(name.lstrip("."))
            found = self._relative(level, name.lstrip("."), scope.file)
        else:
            found = self.module(name, scope.file)
        if any(child.type == "wildcard_import" for child in node.named_children):
            self._star(found, scope)
            return ""
        for child in node.children_by_field_name("name"):
            alias = child.child_by_field_name("alias") if child.type == "aliased_import" else None
            wanted = text(child.child_by_field_name("name") if child.type == "aliased_import" else child)
            bound = text(alias) if alias is not None else wanted
            if found is not None:
                scope.names[bound] = self._of_module(found, wanted)
            elif not name.startswith("."):
                path = f"{_VENDORED.split(name)[-1]}.{wanted}"
                model = self._models.get(path)
                scope.names[bound] = model if isinstance(model, Model) else Reference(path)
        return ""

    @staticmethod
    def _star(found: ModuleValue | None, scope: Scope) -> None:
        if found is None:
            return
        listed = found.scope.names.get("__all__")
        for key, value in list(found.scope.names.items()):
            if (key in listed) if isinstance(listed, list) and listed else not key.startswith("_"):
                scope.names[key] = value

    def _return(self, node: Node, scope: Scope) -> str:
        inner = [child for child in node.named_children if child.type != "comment"]
        self._frames[-1].returns.append(expression(inner[0], scope, self) if inner else None)
        return "return"

    def _match(self, node: Node, scope: Scope) -> str:
        body = node.child_by_field_name("body")
        for case in body.named_children if body is not None else ():
            self._block(case.child_by_field_name("consequence"), scope)
        return ""

    def was_called(self, function: FunctionValue) -> bool:
        """Whether a function was followed already."""
        return (function.place.file, function.place.line) in self.called


@dataclass(eq=False, slots=True)
class _Parent:
    """``super()``."""

    holder: Value
    bound: Value


_STATEMENTS: Final[dict[str, Callable[[PythonEvaluator, Node, Scope], str]]] = {
    "expression_statement": PythonEvaluator._expression_statement,  # noqa: SLF001 - the table of the class itself
    "if_statement": PythonEvaluator._if,  # noqa: SLF001
    "for_statement": PythonEvaluator._for,  # noqa: SLF001
    "while_statement": PythonEvaluator._while,  # noqa: SLF001
    "try_statement": PythonEvaluator._try,  # noqa: SLF001
    "with_statement": PythonEvaluator._with,  # noqa: SLF001
    "function_definition": PythonEvaluator._definition,  # noqa: SLF001
    "class_definition": PythonEvaluator._definition,  # noqa: SLF001
    "decorated_definition": PythonEvaluator._decorated,  # noqa: SLF001
    "import_statement": PythonEvaluator._import,  # noqa: SLF001
    "import_from_statement": PythonEvaluator._import_from,  # noqa: SLF001
    "return_statement": PythonEvaluator._return,  # noqa: SLF001
    "raise_statement": lambda *_: "return",
    "break_statement": lambda *_: "break",
    "continue_statement": lambda *_: "continue",
    "match_statement": PythonEvaluator._match,  # noqa: SLF001
}
