"""Following the Python files of a source: modules once each, classes, functions and calls, within a bound of steps.

Where a condition is not known both ways are followed; what an error handler would do is left out.
"""

from __future__ import annotations

import re
import sys
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Final

from tree_sitter import Node

from yoake.core.contract.evaluation import (
    UNKNOWN,
    Called,
    CallSite,
    ClassValue,
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
    Steps,
    SyntaxWords,
    Value,
)
from yoake.core.ecosystems.python.evaluation.expressions import expression, place
from yoake.core.ecosystems.python.evaluation.known_calls import (
    KNOWN,
    dict_method,
    elements,
    list_method,
    text_method,
)
from yoake.core.ecosystems.python.evaluation.modules import VENDORED, ModuleIndex
from yoake.core.ecosystems.python.evaluation.statements import STATEMENTS
from yoake.core.ecosystems.python.tree import parse
from yoake.core.syntax.tree import statements, text

_WORDS: Final = SyntaxWords(
    definitions=frozenset(("function_definition", "class_definition", "lambda")),
    chains={"attribute": ("object", "attribute")},
    texts=frozenset(("string",)),
    own=frozenset((*sys.stdlib_module_names, "builtins")),
    tables=re.compile(r"(?:^|\.)(?:Model|DeclarativeBase|Base|SQLModel|Document)$"),
)
_MOST_STEPS: Final = 4_000_000  # half a minute; the largest application tried took a tenth of it
_DEEPEST: Final = 60  # calls inside one another


@dataclass(slots=True)
class _Frame:
    """One call while it is followed. ``inside``: what happens at the first ``yield`` of a function that ``with`` enters."""

    returns: list[Value] = field(default_factory=list)
    yields: list[Value] = field(default_factory=list)
    generates: bool = False
    inside: Callable[[Value], None] | None = None


class PythonEvaluator:
    """Follows the code of one source. ``read`` gives the text of a file."""

    words = _WORDS

    def __init__(self, paths: Sequence[str], read: Callable[[str], bytes | None], models: Models) -> None:
        self._every = list(paths)
        self._paths = [path for path in paths if path.endswith(".py")]
        self._read = read
        self._models = models
        self._index = ModuleIndex(self._paths, {path.split(".")[0] for path in models})
        self._modules: dict[str, ModuleValue] = {}
        self._frames: list[_Frame] = [_Frame()]
        self.steps = Steps(_MOST_STEPS)
        self._active: list[Node] = []
        self._entering: Callable[[Value], None] | None = None
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
            self.block(parse(source).root_node, scope)
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
            return self.relative(level, name.lstrip("."), file)
        if VENDORED.search(name):  # other people's code keeps its own name
            return None
        found = self._index.find(name, file)
        if found is not None:
            return self.file_module(found)
        folder = self._index.folder(name, file)
        return self._namespace(folder) if folder is not None else None

    def _namespace(self, folder: str) -> ModuleValue:
        key = f"{folder}/"
        return self._modules.setdefault(key, ModuleValue(key, Scope({}, None, key)))

    def relative(self, level: int, name: str, file: str) -> ModuleValue | None:
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
            return self.member_of_module(of, name)
        if isinstance(of, Reference):
            path = f"{of.path}.{name}"
            model = self._models.get(path)
            return model if isinstance(model, Model) else Reference(path)
        if isinstance(of, Instance):
            return self._of_instance(of, name)
        if isinstance(of, ClassValue):
            return self._of_class(of, of, name)
        if isinstance(of, Model):
            return of.found(name, self)
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

    def member_of_module(self, module: ModuleValue, name: str) -> Value:
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
        if found is UNKNOWN and not name.startswith("__"):
            answers = self._of_class(of.kind, of, "__getattr__")
            return self._function(answers, [name], {}) if isinstance(answers, FunctionValue) else UNKNOWN
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
            if of.path.endswith(".__init__") and arguments and isinstance(arguments[0], Instance):
                self._modelled(arguments[0], CallSite(arguments[1:], keywords, place, self))
                return None
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
        if isinstance(of, Called) and isinstance(of.of, FunctionValue | Native):  # a partial call
            return self.call(of.of, [*of.arguments, *arguments], {**of.keywords, **keywords}, place)
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
        if self._entering is not None and any(
            isinstance(mark, Reference) and mark.path.endswith("contextmanager") for mark in of.marks
        ):
            frame.inside, self._entering = self._entering, None
        self._frames.append(frame)
        self._active.append(of.node)
        try:
            self.block(body, scope)
        finally:
            self._frames.pop()
            self._active.pop()
        if frame.generates:
            return frame.yields
        known = [each for each in frame.returns if each is not UNKNOWN and each is not None]
        if UNKNOWN in frame.returns and not any(each != "" for each in known):
            return UNKNOWN  # what it gives up with says nothing
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

    def returned(self, value: Value) -> None:
        """``return`` in the call that is followed."""
        self._frames[-1].returns.append(value)

    def returned_nothing_known(self) -> bool:
        """Whether the last ``return`` of the call that is followed gave something that nobody knows."""
        returns = self._frames[-1].returns
        return bool(returns) and returns[-1] is UNKNOWN

    def model(self, path: str) -> Value:
        """What a framework brings under a path; None where it brings nothing."""
        return self._models.get(path)

    def yielded(self, values: list[Value]) -> None:
        """``yield`` in the call that is followed."""
        frame = self._frames[-1]
        frame.generates = True
        frame.yields.extend(values)
        if frame.inside is not None:
            inside, frame.inside = frame.inside, None
            self._frames.pop()  # what the body returns is nothing that the generator does
            try:
                inside(values[0] if values else None)
            finally:
                self._frames.append(frame)

    def entering(self, body: Callable[[Value], None], value: Node | None, scope: Scope) -> Value:
        """What ``with`` enters; where that is a function that yields once, ``body`` happens there."""
        before, self._entering = self._entering, body
        try:
            return expression(value, scope, self)
        finally:
            self._entering = before

    # statements

    def step(self) -> None:
        """One more node; ends the work where it grows beyond measure."""
        self.steps.one()

    def place(self, node: Node, scope: Scope) -> Place:
        """Where a node of a scope's file stands."""
        return place(node, scope.file)

    def block(self, node: Node | None, scope: Scope) -> str:
        """Follows statements; answers how they end: "" or return, break, continue."""
        if node is None:
            return ""
        for each in statements(node):
            self.step()
            handler = STATEMENTS.get(each.type)
            ended = handler(self, each, scope) if handler is not None else ""
            if ended:
                return ended
        return ""

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
            elif isinstance(of, Model):
                of.keep(name, value)
            elif isinstance(of, ClassValue):
                of.members[name] = value
            elif isinstance(of, ModuleValue):
                of.scope.names[name] = value
        elif left.type == "subscript":
            of = expression(left.child_by_field_name("value"), scope, self)
            key = expression(left.child_by_field_name("subscript"), scope, self)
            if isinstance(of, dict) and isinstance(key, str | int):
                of[key] = value

    def parameters(self, function: FunctionValue) -> Sequence[str]:
        """The names of what a function takes, in their order, without ``self``."""
        listed = function.node.child_by_field_name("parameters")
        names = []
        for child in listed.named_children if listed is not None else ():
            if child.type in ("keyword_separator", "list_splat_pattern", "dictionary_splat_pattern"):
                break
            inner = child.child_by_field_name("name") or (child.named_children[0] if child.named_children else child)
            if child.type not in ("comment", "positional_separator"):
                names.append(text(inner))
        return names[1:] if function.holder is not None and names[:1] in (["self"], ["cls"]) else names

    def was_called(self, function: FunctionValue) -> bool:
        """Whether a function was followed already."""
        return (function.place.file, function.place.line) in self.called


@dataclass(eq=False, slots=True)
class _Parent:
    """``super()``."""

    holder: Value
    bound: Value
