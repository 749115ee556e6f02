"""Following the JavaScript and TypeScript files of a source: modules once each, functions, classes and calls, within a bound of steps.

Where a condition is not known both ways are followed. Functions that are handed to something unknown are followed once: most of
them are called sooner or later. Requests never come, so handlers say nothing that matters.
"""

from __future__ import annotations

import json
import posixpath
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
from yoake.core.ecosystems.javascript import manifests
from yoake.core.ecosystems.javascript.evaluation.expressions import expression, property_name
from yoake.core.ecosystems.javascript.evaluation.known_calls import KNOWN, LONGEST, list_method, text_method
from yoake.core.ecosystems.javascript.evaluation.statements import STATEMENTS
from yoake.core.ecosystems.javascript.project import JsProject
from yoake.core.ecosystems.javascript.specifiers import as_part
from yoake.core.ecosystems.javascript.tree import grammar_of, parse_script
from yoake.core.syntax.tree import statements, text
from yoake.core.values.modules import Module

_OF_NODE: Final = (
    *("assert", "buffer", "child_process", "crypto", "events", "fs", "http", "http2", "https", "net", "os", "path"),
    *("querystring", "stream", "timers", "tls", "url", "util", "worker_threads", "zlib"),
)
_WORDS: Final = SyntaxWords(
    definitions=frozenset(
        ("function_declaration", "class_declaration", "method_definition", "arrow_function", "function_expression")
    ),
    chains={"member_expression": ("object", "property")},
    texts=frozenset(("string", "template_string")),
    own=frozenset((*_OF_NODE, "globalThis")),
    tables=re.compile(r"(?:^|\.)(?:Model|Schema|BaseEntity)$"),
)
_MOST_STEPS: Final = 4_000_000  # half a minute; the largest application tried took a tenth of it
_DEEPEST: Final = 60  # calls inside one another
_LARGEST: Final = 1_500_000  # bytes of a file that is followed; longer ones were put together by a tool
_ENDINGS: Final = (".js", ".mjs", ".cjs", ".jsx", ".ts", ".mts", ".cts", ".tsx")


@dataclass(slots=True)
class _Frame:
    returns: list[Value] = field(default_factory=list)


class JavaScriptEvaluator:
    """Follows the code of one source. ``read`` gives the text of a file."""

    words = _WORDS

    def __init__(self, paths: Sequence[str], read: Callable[[str], bytes | None], models: Models) -> None:
        self._every = list(paths)
        self._paths = [p for p in paths if p.endswith(_ENDINGS) and not p.endswith(".d.ts")]
        self._read = read
        self._models = models
        self._project = self._known_project()
        self._modules: dict[str, ModuleValue] = {}
        self._frames: list[_Frame] = [_Frame()]
        self._ended: list[Value] = []
        self._active: list[Node] = []
        self.steps = Steps(_MOST_STEPS)
        self.called: set[tuple[str, int]] = set()

    def _known_project(self) -> JsProject:
        aliases: list[tuple[str, tuple[str, ...]]] = []
        packages: dict[str, tuple[str, str]] = {}
        for path in self._every:
            name = path.rsplit("/", 1)[-1]
            if name != "package.json" and not (name.startswith(("tsconfig", "jsconfig")) and name.endswith(".json")):
                continue
            module = Module(path=posixpath.dirname(path), name=name)
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

    def parameters(self, function: FunctionValue) -> Sequence[str]:
        """The names of what a function takes, in their order; what is taken apart stands as it is written."""
        single = function.node.child_by_field_name("parameter")
        listed = function.node.child_by_field_name("parameters")
        children = [single] if single is not None else list(listed.named_children) if listed is not None else []
        names = []
        for child in children:
            target = child.child_by_field_name("pattern") or child.child_by_field_name("left") or child
            if child.type != "comment":
                names.append(text(target) if target.type in ("identifier", "object_pattern") else "")
        return names

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
            self.hoist(root, scope)
            self.block(root, scope)
        except RecursionError:
            return made
        finally:
            del self._frames[depth:]
        return made

    def module(self, name: str, file: str = "") -> ModuleValue | None:
        """A module by a specifier as written in a file."""
        if name.startswith("/"):
            found = self._project.at(posixpath.normpath(name).lstrip("/"))
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
            return of.found(name, self)
        if isinstance(of, str):
            return text_method(of, name)
        if isinstance(of, list):
            return list_method(of, name)
        if isinstance(of, FunctionValue | Native):
            return self._of_function(of, name)
        if isinstance(of, _Parent):
            return self._of_parent(of, name)
        if isinstance(of, Called) and isinstance(of.of, Reference):
            return of if name == "default" else Reference(f"{of.of.path}().{name}")
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
            return Native(lambda site: self._called_on(of, site))
        if name == "apply":
            return Native(
                lambda site: self.call(of, site.get(1) if isinstance(site.get(1), list) else [], {}, site.place)
            )
        if name == "prototype" and isinstance(of, FunctionValue):
            return of.attributes.setdefault("prototype", {})
        return of.name if name == "name" else UNKNOWN

    def _called_on(self, of: FunctionValue | Native, site: CallSite) -> Value:
        """``function.call(this, …)``; what a list brings, such as ``[].slice``, is asked of the list that is handed over."""
        this = site.get(0)
        if isinstance(of, Native) and isinstance(this, list):
            of = self.attribute(this, of.name)
        return self.call(of, list(site.arguments[1:]), {}, site.place)

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
        if isinstance(of, ClassValue):
            return self.made(of, list(arguments), place)
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

    def followed(self, of: FunctionValue, arguments: Sequence[Value]) -> list[Value]:
        """Everything that a function returns on its ways, in order."""
        self._ended = []
        self._function(of, arguments)
        return self._ended

    def last_returned(self) -> Value:
        """What the call that is followed returned last."""
        returns = self._frames[-1].returns
        return returns[-1] if returns else UNKNOWN

    def _hand_over(self, arguments: Sequence[Value]) -> None:
        for each in arguments:
            if isinstance(each, FunctionValue) and not self.was_called(each):
                self._function(each, [])
            elif isinstance(each, list) and any(isinstance(inner, FunctionValue) for inner in each):
                self._hand_over(each)  # steps that are taken one after the other

    def made(self, of: Value, arguments: list[Value], place: Place) -> Value:
        """``new of(…)``."""
        if isinstance(of, ClassValue):
            made = Instance(of)
            self._construct(made, arguments, place)
            return made
        if isinstance(of, FunctionValue):
            members = of.attributes.get("prototype")
            kind = ClassValue(
                name=of.name, place=of.place, bases=[], members=dict(members) if isinstance(members, dict) else {}
            )
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
                self.hoist(body, scope)
                self.block(body, scope)
            returns = self._frames[-1].returns
        finally:
            self._ended = self._frames.pop().returns
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

    def returned(self, value: Value) -> None:
        """``return`` in the call that is followed."""
        self._frames[-1].returns.append(value)

    def step(self) -> None:
        """One more node; ends the work where it grows beyond measure."""
        self.steps.one()

    def place(self, node: Node, scope: Scope) -> Place:
        """Where a node of a scope's file stands."""
        return Place(scope.file, node.start_point.row + 1)

    def hoist(self, block: Node, scope: Scope) -> None:
        """Function declarations are there before the first statement runs."""
        for each in block.named_children:
            inner = each
            if each.type == "export_statement":
                inner = each.child_by_field_name("declaration") or each
            if inner.type in ("function_declaration", "generator_function_declaration"):
                name = text(inner.child_by_field_name("name"))
                scope.names[name] = FunctionValue(name=name, place=self.place(inner, scope), node=inner, scope=scope)

    def block(self, node: Node | None, scope: Scope) -> str:
        """Follows statements; answers how they end: "" or return, break, continue."""
        if node is None:
            return ""
        if node.type not in ("program", "statement_block", "switch_case", "switch_default", "else_clause"):
            handler = STATEMENTS.get(node.type)
            return handler(self, node, scope) if handler is not None else ""
        for each in statements(node):
            self.step()
            handler = STATEMENTS.get(each.type)
            ended = handler(self, each, scope) if handler is not None else ""
            if ended:
                return ended
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
            self._put_at(of, expression(left.child_by_field_name("index"), scope, self), value, scope)
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

    def _put_at(self, of: Value, key: Value, value: Value, scope: Scope) -> None:
        if isinstance(key, str):
            self._put(of, key, value, scope)
        elif isinstance(of, list) and isinstance(key, int) and 0 <= key <= len(of) < LONGEST:
            of[key : key + 1] = [value]

    def _put(self, of: Value, name: str, value: Value, scope: Scope) -> None:
        if isinstance(value, FunctionValue) and not value.name:
            value.name = name
        if isinstance(of, dict):
            of[name] = value
            if of is scope.names.get("module") and name == "exports":
                scope.names["exports"] = value
        elif isinstance(of, Instance | FunctionValue):
            of.attributes[name] = value
        elif isinstance(of, Model):
            of.keep(name, value)
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
        made = ClassValue(
            name=text(node.child_by_field_name("name")), place=self.place(node, scope), bases=bases, members={}
        )
        made.keywords["fields"] = fields
        body = node.child_by_field_name("body")
        for child in body.named_children if body is not None else ():
            is_static = any(part.type == "static" for part in child.children)
            if child.type == "method_definition":
                key = property_name(child.child_by_field_name("name"), scope, self)
                if isinstance(key, str):
                    method = FunctionValue(
                        name=key, place=self.place(child, scope), node=child, scope=scope, holder=made
                    )
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


@dataclass(eq=False, slots=True)
class _Parent:
    """``super``."""

    holder: Value
    this: Instance


def _json(source: bytes) -> Value:
    try:
        return json.loads(source)
    except (ValueError, RecursionError):
        return UNKNOWN
