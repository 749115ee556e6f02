"""Following the JavaScript and TypeScript files of a source: modules once each, functions, classes and calls, within a bound of steps.

Where a condition is not known both ways are followed. Functions that are handed to something unknown are followed once: most of
them are called sooner or later. Requests never come, so handlers say nothing that matters.
"""

from __future__ import annotations

import json
import posixpath
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
from yoake.core.ecosystems.javascript import manifests
from yoake.core.ecosystems.javascript.evaluation.expressions import expression, property_name
from yoake.core.ecosystems.javascript.evaluation.known_calls import KNOWN, list_method, text_method, truth
from yoake.core.ecosystems.javascript.project import JsProject
from yoake.core.ecosystems.javascript.specifiers import as_part
from yoake.core.ecosystems.javascript.tree import grammar_of, parse_script
from yoake.core.syntax.tree import statements, text
from yoake.core.values.modules import Module

_MOST_STEPS: Final = 4_000_000  # half a minute; the largest application tried took a tenth of it
_DEEPEST: Final = 60  # calls inside one another
_LARGEST: Final = 1_500_000  # bytes of a file that is followed; longer ones were put together by a tool
_ENDINGS: Final = (".js", ".mjs", ".cjs", ".jsx", ".ts", ".mts", ".cts", ".tsx")


@dataclass(slots=True)
class _Frame:
    returns: list[Value] = field(default_factory=list)


class JavaScriptEvaluator:
    """Follows the code of one source. ``read`` gives the text of a file."""

    language = "javascript"

    def __init__(self, paths: Sequence[str], read: Callable[[str], bytes | None], models: Models) -> None:
        self._every = list(paths)
        self._paths = [p for p in paths if p.endswith(_ENDINGS) and not p.endswith(".d.ts")]
        self._read = read
        self._models = models
        self._project = self._known_project()
        self._modules: dict[str, ModuleValue] = {}
        self._frames: list[_Frame] = [_Frame()]
        self._active: list[Node] = []
        self._steps = 0
        self.called: set[tuple[str, int]] = set()

    def _known_project(self) -> JsProject:
        aliases: list[tuple[str, tuple[str, ...]]] = []
        packages: dict[str, tuple[str, str]] = {}
        for path in self._every:
            name = path.rsplit("/", 1)[-1]
            if name != "package.json" and not (name.startswith(("tsconfig", "jsconfig")) and name.endswith(".json")):
                continue
            module = Module(posixpath.dirname(path), name)
            content = (self._read(path) or b"").decode("utf-8", "replace")
            if name == "package.json":
                manifests.read_package_json(path, content, module)
                if module.import_name:
                    packages[module.import_name] = (module.path, module.main)
            else:
                manifests.read_configuration(path, content, module)
                aliases.extend(module.aliases)
        facts: Mapping[str, None] = dict.fromkeys(p for p in self._every if p.endswith((*_ENDINGS, ".json")))
        return JsProject(facts, aliases, packages)  # type: ignore[arg-type] # only its keys are asked

    # what the framework asks

    def text_of(self, path: str) -> bytes | None:
        """The text of a file."""
        return self._read(path)

    def tree_of(self, file: str) -> Node | None:
        """The root of a file's syntax tree."""
        source = self._read(file)
        return parse_script(source, grammar_of(file)).root_node if source is not None else None

    def modules(self) -> Sequence[str]:
        """All files that can be followed."""
        return self._paths

    def every_path(self) -> Sequence[str]:
        """All paths of the source."""
        return self._every

    def was_called(self, function: FunctionValue) -> bool:
        """Whether a function was followed already."""
        return (function.place.file, function.place.line) in self.called

    def file_module(self, file: str) -> ModuleValue | None:
        """The module of a file, followed once."""
        known = self._modules.get(file)
        if known is not None:
            return known
        source = self._read(file)
        if source is None or len(source) > _LARGEST:
            return None
        exports: dict[str, Value] = {}
        folder = posixpath.dirname(file)
        names: dict[str, Value] = {
            "module": {"exports": exports},
            "exports": exports,
            "__dirname": f"/{folder}" if folder else "/",
            "__filename": f"/{file}",
        }
        scope = Scope(names, None, file)
        made = self._modules[file] = ModuleValue(file, scope)
        if file.endswith(".json"):
            names["module"]["exports"] = _json(source)
            return made
        depth = len(self._frames)
        if depth > _DEEPEST:
            return made
        self._frames.append(_Frame())
        try:
            root = parse_script(source, grammar_of(file)).root_node
            self._hoist(root, scope)
            self._block(root, scope)
        except RecursionError:
            return made
        finally:
            del self._frames[depth:]
        return made

    def module(self, name: str, file: str = "") -> ModuleValue | None:
        """A module by a specifier as written in a file."""
        if name.startswith("/"):
            found = self._project._at(posixpath.normpath(name).lstrip("/"))  # noqa: SLF001 - a path of the source itself
        else:
            _, found = self._project.file_of(as_part(name), file)
        return self.file_module(found) if found is not None else None

    def dotted(self, path: str) -> Value:
        """Nothing is named by a dotted path here."""
        return Reference(path)

    def exports_of(self, module: ModuleValue) -> Value:
        """What a module gives to those that require it."""
        held = module.scope.names["module"]
        return held.get("exports", UNKNOWN) if isinstance(held, dict) else UNKNOWN

    def required(self, name: str, file: str) -> Value:
        """``require(name)`` and ``import(name)``."""
        module = self.module(name, file)
        if module is not None:
            return self.exports_of(module)
        if name.startswith((".", "/")):
            return UNKNOWN
        plain = name.removeprefix("node:")
        model = self._models.get(plain)
        return model if isinstance(model, Model) else Reference(plain)

    # members

    def attribute(self, of: Value, name: str) -> Value:  # noqa: C901 - one case a kind of value
        """A member of a value."""
        if isinstance(of, dict):
            return self._of_object(of, name)
        if isinstance(of, Reference):
            if name == "default":
                return of
            path = f"{of.path}.{name}"
            model = self._models.get(path)
            return model if isinstance(model, Model) else Reference(path)
        if isinstance(of, Instance):
            return self._of_instance(of, name)
        if isinstance(of, ClassValue):
            return of.members.get(f"static {name}", Member(of, name) if name != "default" else of)
        if isinstance(of, Model):
            return of.attribute(name, self)
        if isinstance(of, str):
            return text_method(of, name)
        if isinstance(of, list):
            return list_method(of, name)
        if isinstance(of, FunctionValue | Native):
            return self._of_function(of, name)
        if isinstance(of, _Parent):
            return self._of_parent(of, name)
        if isinstance(of, Called) and isinstance(of.of, Reference):
            return self.attribute(of.of, f"{name}") if name == "default" else Reference(f"{of.of.path}().{name}")
        return UNKNOWN

    def _of_object(self, of: dict[str, Value], name: str) -> Value:
        if name in of:
            return of[name]
        if name == "default":
            return of
        if name == "hasOwnProperty":
            return Native(lambda site: site.get(0) in of if isinstance(site.get(0), str) else UNKNOWN)
        return UNKNOWN

    def _of_function(self, of: FunctionValue | Native, name: str) -> Value:
        if isinstance(of, FunctionValue) and name in of.attributes:
            return of.attributes[name]
        if name == "default":
            return of
        if name == "bind":
            return Native(lambda _: of)
        if name == "call":
            return Native(lambda site: self.call(of, list(site.arguments[1:]), {}, site.place))
        if name == "apply":
            return Native(
                lambda site: self.call(of, site.get(1) if isinstance(site.get(1), list) else [], {}, site.place)
            )
        if name == "prototype" and isinstance(of, FunctionValue):
            return of.attributes.setdefault("prototype", {})
        return of.name if name == "name" else UNKNOWN

    def _of_instance(self, of: Instance, name: str) -> Value:
        if name in of.attributes:
            return of.attributes[name]
        for each in of.kind.lineage():
            if isinstance(each, ClassValue):
                found = each.members.get(name)
                if isinstance(found, FunctionValue):
                    bound = replace(found, bound=of)
                    return self.call(bound, [], {}, found.place) if found.attributes.get("getter") else bound
                if found is not None:
                    return found
        if of.model is not None:
            return of.model.attribute(name, self)
        return Member(of, name) if of.kind.outside() else UNKNOWN

    # this and super

    def this_of(self, scope: Scope) -> Value:
        """``this`` in a scope."""
        at: Scope | None = scope
        while at is not None:
            if at.owner is not None:
                return at.owner[1]
            at = at.outer
        return UNKNOWN

    def parent(self, scope: Scope, this: Instance) -> Value:
        """``super`` in a scope."""
        at: Scope | None = scope
        while at is not None:
            if at.owner is not None and at.owner[0] is not None:
                return _Parent(at.owner[0], this)
            at = at.outer
        return UNKNOWN

    def _of_parent(self, of: _Parent, name: str) -> Value:
        lineage = of.this.kind.lineage()
        at = next((i for i, each in enumerate(lineage) if each is of.holder), -1)
        for each in lineage[at + 1 :]:
            if isinstance(each, ClassValue) and isinstance(each.members.get(name), FunctionValue):
                return replace(each.members[name], bound=of.this)
        return of.this.model.attribute(name, self) if of.this.model is not None else UNKNOWN

    def parent_built(self, scope: Scope, arguments: list[Value], place: Place) -> None:
        """``super(…)``."""
        this = self.this_of(scope)
        parent = self.parent(scope, this) if isinstance(this, Instance) else None
        if isinstance(parent, _Parent):
            self._construct(parent.this, arguments, place, after=parent.holder)

    # calls

    def call(self, of: Value, arguments: Sequence[Value], keywords: Mapping[str, Value], place: Place) -> Value:
        """What a call gives."""
        site = CallSite(arguments, keywords, place, self)
        if isinstance(of, FunctionValue):
            return self._function(of, arguments)
        if isinstance(of, Native):
            return of.call(site)
        if isinstance(of, Reference):
            model = self._models.get(of.path) or KNOWN.get(of.path)
            if callable(model):
                return model(site)
            if isinstance(model, Model):
                return model.call(site)
        if isinstance(of, Model):
            return of.call(site)
        if isinstance(of, dict) and isinstance(of.get("default"), FunctionValue | Native):
            return self.call(of["default"], arguments, keywords, place)
        self._hand_over(arguments)
        return Called(of, list(arguments), {}, place)

    def _hand_over(self, arguments: Sequence[Value]) -> None:
        for each in arguments:
            if isinstance(each, FunctionValue) and not self.was_called(each):
                self._function(each, [])

    def made(self, of: Value, arguments: list[Value], place: Place) -> Value:
        """``new of(…)``."""
        if isinstance(of, ClassValue):
            made = Instance(of)
            self._construct(made, arguments, place)
            return made
        if isinstance(of, FunctionValue):
            members = of.attributes.get("prototype")
            kind = ClassValue(of.name, of.place, [], dict(members) if isinstance(members, dict) else {})
            made = Instance(kind)
            result = self._function(replace(of, bound=made), arguments)
            return result if isinstance(result, Model | dict) else made
        return self.call(of, arguments, {}, place)

    def _construct(self, made: Instance, arguments: list[Value], place: Place, after: Value = None) -> None:
        lineage = made.kind.lineage()
        start = next((i + 1 for i, each in enumerate(lineage) if each is after), 0)
        for each in lineage[start:]:
            if isinstance(each, ClassValue):
                self._fields(each, made)
                init = each.members.get("constructor")
                if isinstance(init, FunctionValue):
                    self._function(replace(init, bound=made), arguments)
                    return
            else:
                model = self._models.get(each.path)
                if callable(model):
                    built = model(CallSite(arguments, {}, place, self))
                    made.model = built if isinstance(built, Model) else made.model
                return

    def _fields(self, kind: ClassValue, made: Instance) -> None:
        for name, node, scope in kind.keywords.get("fields", ()):
            inner = Scope({}, scope, scope.file, (kind, made))
            value = expression(node, inner, self)
            if isinstance(value, FunctionValue) and not value.name:
                value.name = name
            made.attributes[name] = value

    def _function(self, of: FunctionValue, arguments: Sequence[Value]) -> Value:
        self.called.add((of.place.file, of.place.line))
        if len(self._frames) > _DEEPEST or sum(1 for each in self._active if each is of.node) > 2:
            return UNKNOWN
        owner = (of.holder, of.bound) if of.node.type != "arrow_function" else None
        scope = Scope({"arguments": list(arguments)}, of.scope, of.scope.file, owner)
        self._parameters(of, list(arguments), scope)
        body = of.node.child_by_field_name("body")
        self._frames.append(_Frame())
        self._active.append(of.node)
        try:
            if body is not None and body.type != "statement_block":
                return expression(body, scope, self)
            if body is not None:
                self._hoist(body, scope)
                self._block(body, scope)
            returns = self._frames[-1].returns
        finally:
            self._frames.pop()
            self._active.pop()
        known = [each for each in returns if each is not UNKNOWN and each is not None]
        return known[0] if known else (returns[0] if returns else None)

    def _parameters(self, of: FunctionValue, handed: list[Value], scope: Scope) -> None:
        single = of.node.child_by_field_name("parameter")
        listed = of.node.child_by_field_name("parameters")
        children = [single] if single is not None else list(listed.named_children) if listed is not None else []
        at = 0
        for child in children:
            if child.type == "comment":
                continue
            target: Node | None = child
            default: Node | None = None
            kept = ""
            if child.type in ("required_parameter", "optional_parameter"):
                target = child.child_by_field_name("pattern")
                default = child.child_by_field_name("value")
                if any(part.type in ("accessibility_modifier", "readonly") for part in child.children):
                    kept = text(target)
            if target is not None and target.type == "this":
                continue
            if target is not None and target.type == "rest_pattern":
                self.assign(target.named_children[0], handed[at:], scope)
                break
            if target is not None and target.type == "assignment_pattern":
                default = target.child_by_field_name("right")
                target = target.child_by_field_name("left")
            value = (
                handed[at] if at < len(handed) else (UNKNOWN if default is None else expression(default, scope, self))
            )
            if value is None and default is not None:
                value = expression(default, scope, self)
            at += 1
            self.assign(target, value, scope)
            if kept and isinstance(of.bound, Instance):
                of.bound.attributes[kept] = value

    # statements

    def step(self) -> None:
        """One more node; ends the work where it grows beyond measure."""
        self._steps += 1
        if self._steps > _MOST_STEPS:
            raise Exhausted

    def place(self, node: Node, scope: Scope) -> Place:
        """Where a node of a scope's file stands."""
        return Place(scope.file, node.start_point.row + 1)

    def _hoist(self, block: Node, scope: Scope) -> None:
        """Function declarations are there before the first statement runs."""
        for each in block.named_children:
            inner = each
            if each.type == "export_statement":
                inner = each.child_by_field_name("declaration") or each
            if inner.type in ("function_declaration", "generator_function_declaration"):
                name = text(inner.child_by_field_name("name"))
                scope.names[name] = FunctionValue(name, self.place(inner, scope), inner, scope)

    def _block(self, node: Node | None, scope: Scope) -> str:
        if node is None:
            return ""
        if node.type not in ("program", "statement_block", "switch_case", "switch_default", "else_clause"):
            handler = _STATEMENTS.get(node.type)
            return handler(self, node, scope) if handler is not None else ""
        for each in statements(node):
            self.step()
            handler = _STATEMENTS.get(each.type)
            ended = handler(self, each, scope) if handler is not None else ""
            if ended:
                return ended
        return ""

    def _inner_block(self, node: Node, scope: Scope) -> str:
        inner = Scope({}, scope, scope.file)
        self._hoist(node, inner)
        return self._block(node, inner)

    def _expression_statement(self, node: Node, scope: Scope) -> str:
        for child in node.named_children:
            if child.type != "comment":
                expression(child, scope, self)
        return ""

    def _declaration(self, node: Node, scope: Scope) -> str:
        target = scope
        if node.type == "variable_declaration":  # var belongs to the function
            while (
                target.outer is not None
                and target.owner is None
                and "arguments" not in target.names
                and target.outer.outer is not None
            ):
                target = target.outer
        for child in node.named_children:
            if child.type == "variable_declarator":
                value = expression(child.child_by_field_name("value"), scope, self)
                name = child.child_by_field_name("name")
                if isinstance(value, FunctionValue | ClassValue) and not value.name:
                    value.name = text(name)
                if child.child_by_field_name("value") is None:
                    value = None
                self.assign(name, value, target)
        return ""

    def assign(self, left: Node | None, value: Value, scope: Scope, *, declare: bool = True) -> None:  # noqa: C901 - one case a kind
        """Binds a name, a member, or several out of a list or an object."""
        if left is None:
            return
        kind = left.type
        if kind in ("identifier", "shorthand_property_identifier_pattern", "property_identifier"):
            if declare:
                scope.names[text(left)] = value
            else:
                self._bind(text(left), value, scope)
        elif kind == "member_expression":
            of = expression(left.child_by_field_name("object"), scope, self)
            self._put(of, text(left.child_by_field_name("property")), value, scope)
        elif kind == "subscript_expression":
            of = expression(left.child_by_field_name("object"), scope, self)
            key = expression(left.child_by_field_name("index"), scope, self)
            if isinstance(key, str):
                self._put(of, key, value, scope)
        elif kind == "object_pattern":
            self._taken_apart(left, value, scope)
        elif kind == "array_pattern":
            for i, child in enumerate(left.named_children):
                each = value[i] if isinstance(value, list) and i < len(value) else UNKNOWN
                self.assign(child, each, scope, declare=declare)
        elif kind == "assignment_pattern":
            default = left.child_by_field_name("right")
            known = value is not UNKNOWN and value is not None
            self.assign(
                left.child_by_field_name("left"),
                value if known else expression(default, scope, self),
                scope,
                declare=declare,
            )
        elif kind in ("non_null_expression", "parenthesized_expression", "as_expression"):
            self.assign(left.named_children[0], value, scope, declare=declare)

    def _bind(self, name: str, value: Value, scope: Scope) -> None:
        at: Scope | None = scope
        while at is not None:
            if name in at.names:
                at.names[name] = value
                return
            at = at.outer
        scope.names[name] = value

    def _put(self, of: Value, name: str, value: Value, scope: Scope) -> None:
        if isinstance(value, FunctionValue) and not value.name:
            value.name = name
        if isinstance(of, dict):
            of[name] = value
            if of is scope.names.get("module") and name == "exports":
                scope.names["exports"] = value
        elif isinstance(of, Instance | FunctionValue):
            of.attributes[name] = value
        elif isinstance(of, ClassValue):
            of.members[f"static {name}"] = value

    def _taken_apart(self, left: Node, value: Value, scope: Scope) -> None:
        for child in left.named_children:
            if child.type == "shorthand_property_identifier_pattern":
                scope.names[text(child)] = self.attribute(value, text(child))
            elif child.type == "pair_pattern":
                key = property_name(child.child_by_field_name("key"), scope, self)
                inner = self.attribute(value, key) if isinstance(key, str) else UNKNOWN
                self.assign(child.child_by_field_name("value"), inner, scope)
            elif child.type == "object_assignment_pattern":
                name = child.child_by_field_name("left")
                found = self.attribute(value, text(name))
                known = found is not UNKNOWN and found is not None
                default = child.child_by_field_name("right")
                scope.names[text(name)] = found if known else expression(default, scope, self)
            elif child.type == "rest_pattern" and child.named_children:
                scope.names[text(child.named_children[0])] = dict(value) if isinstance(value, dict) else UNKNOWN

    def _if(self, node: Node, scope: Scope) -> str:
        held = truth(expression(node.child_by_field_name("condition"), scope, self))
        consequence, alternative = node.child_by_field_name("consequence"), node.child_by_field_name("alternative")
        if held is True:
            return self._one(consequence, scope)
        if held is False:
            return self._one(alternative, scope)
        first = self._one(consequence, scope)
        second = self._one(alternative, scope)
        return first if first and second else ""

    def _one(self, node: Node | None, scope: Scope) -> str:
        if node is None:
            return ""
        if node.type == "statement_block":
            return self._inner_block(node, scope)
        return self._block(node, scope)

    def _for_in(self, node: Node, scope: Scope) -> str:
        right = expression(node.child_by_field_name("right"), scope, self)
        sign = text(node.child_by_field_name("operator"))
        each_of: list[Value] = [UNKNOWN]
        if isinstance(right, list):
            each_of = right if sign == "of" else [str(i) for i in range(len(right))]
        elif isinstance(right, dict) and sign == "in":
            each_of = list(right)
        for each in list(each_of):
            inner = Scope({}, scope, scope.file)
            left = node.child_by_field_name("left")
            if left is not None and left.type == "identifier":
                inner.names[text(left)] = each
            else:
                self.assign(left, each, inner)
            ended = self._one(node.child_by_field_name("body"), inner)
            if ended == "return" and each is not UNKNOWN:
                return ended
            if ended == "break" and each is not UNKNOWN:
                break
        return ""

    def _loop(self, node: Node, scope: Scope) -> str:
        inner = Scope({}, scope, scope.file)
        self._block(node.child_by_field_name("initializer"), inner)
        rows = self._counted(node, inner)
        if rows is None:
            self._one(node.child_by_field_name("body"), inner)
            return ""
        name, numbers = rows
        for number in numbers:
            inner.names[name] = number
            if self._one(node.child_by_field_name("body"), inner) in ("return", "break"):
                break
        return ""

    def _counted(self, node: Node, scope: Scope) -> tuple[str, range] | None:
        """``for (let i = 0; i < list.length; i++)`` as (name, numbers)."""
        condition = node.child_by_field_name("condition")
        while condition is not None and condition.type in ("expression_statement", "parenthesized_expression"):
            condition = condition.named_children[0] if condition.named_children else None
        if (
            condition is None
            or condition.type != "binary_expression"
            or text(condition.child_by_field_name("operator")) != "<"
        ):
            return None
        name = text(condition.child_by_field_name("left"))
        start, end = scope.names.get(name), expression(condition.child_by_field_name("right"), scope, self)
        return (name, range(start, min(end, 5_000))) if isinstance(start, int) and isinstance(end, int) else None

    def _try(self, node: Node, scope: Scope) -> str:
        ended = self._one(node.child_by_field_name("body"), scope)
        finalizer = node.child_by_field_name("finalizer")
        if finalizer is not None:
            self._one(finalizer.child_by_field_name("body"), scope)
        return ended

    def _switch(self, node: Node, scope: Scope) -> str:
        body = node.child_by_field_name("body")
        for case in body.named_children if body is not None else ():
            inner = Scope({}, scope, scope.file)
            value = case.child_by_field_name("value")
            for each in case.named_children:
                if each is not value and each.type in _STATEMENTS:
                    self._block(each, inner)
        return ""

    def _return(self, node: Node, scope: Scope) -> str:
        inner = [child for child in node.named_children if child.type != "comment"]
        self._frames[-1].returns.append(expression(inner[0], scope, self) if inner else None)
        return "return"

    def _define(self, node: Node, scope: Scope) -> str:
        if node.type in ("class_declaration", "abstract_class_declaration"):
            made = self.class_value(node, scope)
            scope.names[made.name] = made
        return ""  # functions are there already

    def class_value(self, node: Node, scope: Scope) -> ClassValue:  # noqa: C901 - one case a kind of member
        """A class: its members, and fields that are set when it is made."""
        bases: list[Value] = []
        for child in node.named_children:
            if child.type == "class_heritage":
                inner = child.named_children[0] if child.named_children else None
                if inner is not None and inner.type == "extends_clause":
                    inner = inner.child_by_field_name("value")
                bases.append(expression(inner, scope, self))
        fields: list[tuple[str, Node | None, Scope]] = []
        made = ClassValue(text(node.child_by_field_name("name")), self.place(node, scope), bases, {})
        made.keywords["fields"] = fields
        body = node.child_by_field_name("body")
        for child in body.named_children if body is not None else ():
            is_static = any(part.type == "static" for part in child.children)
            if child.type == "method_definition":
                key = property_name(child.child_by_field_name("name"), scope, self)
                if isinstance(key, str):
                    method = FunctionValue(key, self.place(child, scope), child, scope, holder=made)
                    if any(part.type == "get" for part in child.children):
                        method.attributes["getter"] = True
                    made.members[f"static {key}" if is_static else key] = method
            elif child.type in ("field_definition", "public_field_definition"):
                name = text(child.child_by_field_name("property") or child.child_by_field_name("name"))
                value = child.child_by_field_name("value")
                if is_static:
                    made.members[f"static {name}"] = expression(value, scope, self)
                elif value is not None:
                    fields.append((name, value, scope))
        return made

    def _enum(self, node: Node, scope: Scope) -> str:
        body = node.child_by_field_name("body")
        members: dict[str, Value] = {}
        for at, child in enumerate(body.named_children if body is not None else ()):
            name = child.child_by_field_name("name") if child.type == "enum_assignment" else child
            value = child.child_by_field_name("value")
            key = property_name(name, scope, self)
            if isinstance(key, str):
                members[key] = at if value is None else expression(value, scope, self)
        scope.names[text(node.child_by_field_name("name"))] = members
        return ""

    # modules

    def _import(self, node: Node, scope: Scope) -> str:
        source = node.child_by_field_name("source")
        if source is None:
            for child in node.named_children:  # import x = require("x")
                if child.type == "import_require_clause":
                    wanted = child.child_by_field_name("source")
                    scope.names[text(child.named_children[0])] = self.required(text(wanted)[1:-1], scope.file)
            return ""
        held = self.required(text(source)[1:-1], scope.file)
        for clause in node.named_children:
            for child in clause.named_children if clause.type == "import_clause" else ():
                if child.type == "identifier":
                    scope.names[text(child)] = self.attribute(held, "default")
                elif child.type == "namespace_import":
                    scope.names[text(child.named_children[0])] = held
                elif child.type == "named_imports":
                    for part in child.named_children:
                        name = text(part.child_by_field_name("name"))
                        alias = part.child_by_field_name("alias")
                        scope.names[text(alias) if alias is not None else name] = self.attribute(held, name)
        return ""

    def _export(self, node: Node, scope: Scope) -> str:
        exports = self._exported(scope)
        declaration = node.child_by_field_name("declaration")
        source = node.child_by_field_name("source")
        held = self.required(text(source)[1:-1], scope.file) if source is not None else None
        is_default = any(child.type == "default" for child in node.children)
        value = node.child_by_field_name("value")
        if is_default:
            shown = self._default(declaration, value, scope)
            exports["default"] = shown
        elif declaration is not None:
            before = dict(scope.names)
            self._block(declaration, scope)
            for bound in _declared(declaration):
                exports[bound] = scope.names.get(bound, before.get(bound, UNKNOWN))
        elif any(child.type == "=" for child in node.children):  # export = x
            inner = [child for child in node.named_children if child.type != "comment"]
            scope.names["module"]["exports"] = expression(inner[-1], scope, self) if inner else UNKNOWN
        for child in node.named_children:
            if child.type == "export_clause":
                for part in child.named_children:
                    name = text(part.child_by_field_name("name"))
                    alias = part.child_by_field_name("alias")
                    found = self.attribute(held, name) if source is not None else self._named(name, scope)
                    exports[text(alias) if alias is not None else name] = found
            elif child.type == "namespace_export":
                exports[text(child.named_children[0])] = held
        if source is not None and any(child.type == "*" for child in node.children) and isinstance(held, dict):
            exports.update({key: each for key, each in held.items() if key != "default"})
        return ""

    def _default(self, declaration: Node | None, value: Node | None, scope: Scope) -> Value:
        if declaration is None:
            return expression(value, scope, self)
        if declaration.type in ("class_declaration", "class", "abstract_class_declaration"):
            made = self.class_value(declaration, scope)
            scope.names[made.name] = made
            return made
        name = text(declaration.child_by_field_name("name"))
        known = scope.names.get(name)
        if isinstance(known, FunctionValue):
            return known
        return FunctionValue(name or "default", self.place(declaration, scope), declaration, scope)

    @staticmethod
    def _named(name: str, scope: Scope) -> Value:
        try:
            return scope.find(name)
        except KeyError:
            return UNKNOWN

    def _exported(self, scope: Scope) -> dict[str, Value]:
        held = scope.names.get("module")
        found = held.get("exports") if isinstance(held, dict) else None
        return found if isinstance(found, dict) else {}


@dataclass(eq=False, slots=True)
class _Parent:
    """``super``."""

    holder: Value
    this: Instance


def _declared(node: Node) -> list[str]:
    if node.type in ("lexical_declaration", "variable_declaration"):
        return [
            text(child.child_by_field_name("name"))
            for child in node.named_children
            if child.type == "variable_declarator"
        ]
    name = node.child_by_field_name("name")
    return [text(name)] if name is not None else []


def _json(source: bytes) -> Value:
    try:
        return json.loads(source)
    except (ValueError, RecursionError):
        return UNKNOWN


_STATEMENTS: Final[dict[str, Callable[[JavaScriptEvaluator, Node, Scope], str]]] = {
    "expression_statement": JavaScriptEvaluator._expression_statement,  # noqa: SLF001 - the table of the class itself
    "lexical_declaration": JavaScriptEvaluator._declaration,  # noqa: SLF001
    "variable_declaration": JavaScriptEvaluator._declaration,  # noqa: SLF001
    "if_statement": JavaScriptEvaluator._if,  # noqa: SLF001
    "for_in_statement": JavaScriptEvaluator._for_in,  # noqa: SLF001
    "for_statement": JavaScriptEvaluator._loop,  # noqa: SLF001
    "while_statement": JavaScriptEvaluator._loop,  # noqa: SLF001
    "try_statement": JavaScriptEvaluator._try,  # noqa: SLF001
    "switch_statement": JavaScriptEvaluator._switch,  # noqa: SLF001
    "return_statement": JavaScriptEvaluator._return,  # noqa: SLF001
    "throw_statement": lambda *_: "return",
    "break_statement": lambda *_: "break",
    "continue_statement": lambda *_: "continue",
    "statement_block": JavaScriptEvaluator._inner_block,  # noqa: SLF001
    "else_clause": JavaScriptEvaluator._inner_block,  # noqa: SLF001
    "function_declaration": JavaScriptEvaluator._define,  # noqa: SLF001
    "class_declaration": JavaScriptEvaluator._define,  # noqa: SLF001
    "abstract_class_declaration": JavaScriptEvaluator._define,  # noqa: SLF001
    "enum_declaration": JavaScriptEvaluator._enum,  # noqa: SLF001
    "import_statement": JavaScriptEvaluator._import,  # noqa: SLF001
    "export_statement": JavaScriptEvaluator._export,  # noqa: SLF001
}
