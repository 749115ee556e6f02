"""Java text → facts: imports of every kind, types, members through declared types, constructors, overrides.

Types are declared in Java, so what a member belongs to is mostly written down: a variable stands for its type, a call for what
the platform says it gives back. A plain name that nothing in the file imports or declares is left to the project (``~Name``).
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from typing import Final

import tree_sitter_java
from tree_sitter import Language, Node, Parser

from yoake.core.ecosystems.java.names import UNQUALIFIED, package_part, path_of
from yoake.core.ecosystems.java.surface import CONSTRUCTOR
from yoake.core.syntax.scopes import Binding, Scope, look_up
from yoake.core.syntax.tree import broken_lines, text
from yoake.core.syntax.walking import Guards, Kinds, Walk
from yoake.core.values.facts import ABOVE, Ask, ClassFact, FileFacts

_STRING: Final = "java.lang.String"
_NOTHING: Final = (
    "line_comment", "block_comment", "integral_type", "floating_point_type", "boolean_type", "void_type", "string_literal",
    "decimal_integer_literal", "hex_integer_literal", "octal_integer_literal", "binary_integer_literal", "character_literal",
    "decimal_floating_point_literal", "hex_floating_point_literal", "true", "false", "null_literal", "this", "super", "asterisk",
    "break_statement", "continue_statement", "module_declaration", "dimensions",
)  # fmt: skip
_DEPTH: Final = 60  # links of one chain of calls; longer ones are generated
_QUALIFIED: Final = frozenset(("scoped_type_identifier", "scoped_identifier", "field_access"))
_WRAPPED: Final = _QUALIFIED | {"generic_type", "annotated_type", "array_type"}
_RESERVED: Final = frozenset(("var", "yield", "record", "sealed", "permits"))
_BY_NAME: Final = frozenset(("forName", "loadClass", "findClass"))


@cache
def java_parser() -> Parser:
    """The parser of Java text."""
    return Parser(Language(tree_sitter_java.language()))


@cache
def _kinds(statics: bool) -> Kinds:
    """What each kind of node means; plain names matter only where some of them were imported statically."""
    return Kinds(_Walk, _NOTHING, ()) if statics else Kinds(_Plain, (*_NOTHING, "identifier"), ())


def read_java(source: bytes) -> FileFacts:
    """All facts of one file. Lines that the grammar cannot read are named in ``broken``; the rest is still read."""
    root = java_parser().parse(source).root_node
    statics = b"import static" in source
    walk = (_Walk if statics else _Plain)(root, Scope(kind="module", qualname="", parent=None), _kinds(statics))
    walk.run()
    walk.resolve()
    return FileFacts(
        asks=walk.found.asks,
        places=walk.found.places,
        scopes=walk.found.scopes,
        exports=dict.fromkeys(walk.tops, ("",)),
        stars=(package_part(walk.package), *walk.stars),
        classes={
            name: ClassFact(tuple(bases), tuple(sorted(walk.members[name]))) for name, bases in walk.bases.items()
        },
        assigned={},
        broken=broken_lines(root),
        lines=source.count(b"\n") + (0 if source.endswith(b"\n") or not source else 1),
        language="java",
    )


def _dotted(node: Node) -> str:
    """A qualified name without type arguments, annotations or dimensions."""
    after: list[str] = []  # from the end: names nest to the left, as deep as they have parts
    while True:
        kind, inside = node.type, node.named_children
        if kind in _QUALIFIED:
            inside = [child for child in inside if not child.type.endswith(("annotation", "comment"))]
            after.extend(text(child) for child in reversed(inside[1:]))
        if not inside or kind not in _WRAPPED:
            return ".".join((text(node), *reversed(after)))
        node = inside[-1 if kind == "annotated_type" else 0]


class _Plain(Walk):
    """One walk over one file. Variables are bound on the way; uses of members are resolved when all is seen."""

    def __init__(self, root: Node, module: Scope, kinds: Kinds) -> None:
        super().__init__(root, module, kinds)
        self.package = ""
        self.imports: dict[str, str] = {}
        self.statics: dict[str, str] = {}
        self.stars: list[str] = []
        self.static_stars: list[str] = []
        self.tops: list[str] = []
        self.bases: dict[str, list[str]] = {}
        self.members: dict[str, set[str]] = {}
        self.gives: dict[str, str | None] = {}
        self.values: dict[int, str | None] = {}
        self.types: dict[tuple[str, str], str | None] = {}
        self.later: list[tuple[Node, Scope, str]] = []
        self.heritage: dict[str, list[tuple[Node, Scope]]] = {}

    # declarations

    def on_package_declaration(self, node: Node, _scope: Scope, _guards: Guards) -> None:
        named = [child for child in node.named_children if child.type in ("identifier", "scoped_identifier")]
        self.package = _dotted(named[-1]) if named else ""

    def on_import_declaration(self, node: Node, scope: Scope, _guards: Guards) -> None:
        named = next(
            (child for child in node.named_children if child.type in ("identifier", "scoped_identifier")), None
        )
        if named is None:
            return
        dotted = _dotted(named)
        static = any(child.type == "static" for child in node.children)
        if any(child.type == "asterisk" for child in node.named_children):
            path = path_of(dotted)
            (self.static_stars if static else self.stars).append(path)
            self.use_at(named, Ask(path, "import"), scope)
            return
        name = dotted.rpartition(".")[2]
        if static:
            owner = path_of(dotted.rpartition(".")[0])
            path = f"{owner}.{name}"
            self.statics[name] = path
            self.imports.setdefault(name, path) if name[:1].isupper() and not name.isupper() else None
        else:
            path = path_of(dotted)
            self.imports[name] = path
        self.use_at(named, Ask(path, "import", binds=name), scope)

    def _type(self, node: Node, scope: Scope, guards: Guards) -> None:
        name_node = node.child_by_field_name("name")
        name = text(name_node)
        if name in _RESERVED and name_node is not None:
            self.use_at(name_node, Ask(f"syntax.{name}_type", "syntax"), scope)
        if not scope.qualname:
            self.tops.append(name)
        inner = self._class(f"{scope.qualname}.{name}".lstrip("."), scope)
        parameters = node.child_by_field_name("type_parameters")
        if parameters is not None:
            self._type_parameters(parameters, inner)
        above = [node.child_by_field_name(field) for field in ("superclass", "interfaces")]
        above += [child for child in node.named_children if child.type in ("extends_interfaces", "super_interfaces")]
        self._above(inner.qualname, [part for part in above if part is not None], inner)
        formal = node.child_by_field_name("parameters")
        body = node.child_by_field_name("body")
        outside = [child for child in node.named_children if child not in (name_node, body, formal, parameters)]
        self.push([body] if body is not None else [], inner, guards)
        if formal is not None:
            self.members[inner.qualname].update(text(p.child_by_field_name("name")) for p in formal.named_children)
            self.push([formal], inner, guards)
        self.push(outside, inner, guards)

    on_class_declaration = on_interface_declaration = on_enum_declaration = on_record_declaration = _type
    on_annotation_type_declaration = _type

    def _class(self, qualname: str, parent: Scope) -> Scope:
        self.bases.setdefault(qualname, [])
        self.members.setdefault(qualname, set())
        return Scope(kind="type", qualname=qualname, parent=parent)

    def _above(self, qualname: str, parts: list[Node], scope: Scope) -> None:
        """Remember what a class stands on, to be named when all imports and types are known."""
        for part in parts:
            listed = [part] if not part.type.endswith(("superclass", "interfaces")) else part.named_children
            for each in listed:
                inside = each.named_children if each.type == "type_list" else [each]
                self.heritage.setdefault(qualname, []).extend((one, scope) for one in inside)

    def _type_parameters(self, node: Node, scope: Scope) -> None:
        for parameter in node.named_children:
            for child in parameter.named_children:
                if child.type in ("type_identifier", "identifier"):
                    scope.bind(text(child), Binding(position=child.start_byte))

    def on_type_parameter(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.push([child for child in node.named_children if child.type == "type_bound"], scope, guards)

    def _method(self, node: Node, scope: Scope, guards: Guards) -> None:
        name_node = node.child_by_field_name("name")
        name = text(name_node)
        owner = scope.qualname
        self.members.setdefault(owner, set()).add(name)
        gives = node.child_by_field_name("type")
        if gives is not None:
            key = f"{owner}.{name}"
            written = self._written(gives)
            self.gives[key] = written if self.gives.get(key, written) == written else None
        inner = Scope(kind="function", qualname=f"{owner}.{name}".lstrip("."), parent=scope)
        parameters = node.child_by_field_name("type_parameters")
        if parameters is not None:
            self._type_parameters(parameters, inner)
        if name_node is not None and owner and self._overrides(node):
            self.use_at(name_node, Ask(f"self:{owner}.{name}", "override", guards), scope)
        self.push([child for child in node.named_children if child != name_node], inner, guards)

    on_method_declaration = on_constructor_declaration = on_compact_constructor_declaration = _method
    on_annotation_type_element_declaration = _method

    @staticmethod
    def _overrides(node: Node) -> bool:
        modifiers = next((child for child in node.named_children if child.type == "modifiers"), None)
        return modifiers is not None and any(
            child.type == "marker_annotation" and text(child.child_by_field_name("name")) == "Override"
            for child in modifiers.named_children
        )

    # variables

    def _written(self, node: Node | None) -> str | None:
        """The type as it is written, where its members can be looked up; None for arrays and plain numbers."""
        if node is None or node.type in (
            "array_type",
            "integral_type",
            "floating_point_type",
            "boolean_type",
            "void_type",
        ):
            return None
        return _dotted(node)

    def _bind(self, scope: Scope, name: Node | None, written: str | None) -> None:
        if name is not None:
            if name.end_byte - name.start_byte == 1 and text(name) == "_" and scope.kind == "function":
                self.use_at(name, Ask("syntax.underscore", "syntax"), scope)
            made_by = (written, ()) if written else None
            scope.bind(text(name), Binding(position=name.start_byte, made_by=made_by))

    def _declaration(self, node: Node, scope: Scope, guards: Guards) -> None:
        kind = node.child_by_field_name("type")
        field = node.type in ("field_declaration", "constant_declaration")
        rest: list[Node] = [child for child in node.named_children if child.type == "modifiers"]
        guessed = kind is not None and text(kind) == "var"
        if kind is not None and not guessed:
            rest.append(kind)
        for declarator in node.named_children:
            if declarator.type != "variable_declarator":
                continue
            name, value = declarator.child_by_field_name("name"), declarator.child_by_field_name("value")
            array = declarator.child_by_field_name("dimensions") is not None
            made = self._made(value) if guessed else None if array else self._written(kind)
            self._bind(scope, name, made)
            if field and name is not None:
                self.members.setdefault(scope.qualname, set()).add(text(name))
            rest.extend([value] if value is not None else [])
        self.push(rest, scope, guards)

    on_local_variable_declaration = on_field_declaration = on_constant_declaration = _declaration

    def _made(self, value: Node | None) -> str | None:
        """What ``var`` stands for, where a constructor or a cast says it."""
        if value is None:
            return None
        if value.type in {"object_creation_expression", "cast_expression"}:
            return self._written(value.child_by_field_name("type"))
        return None

    def _parameter(self, node: Node, scope: Scope, guards: Guards) -> None:
        kind, name = node.child_by_field_name("type"), node.child_by_field_name("name")
        self._bind(scope, name, None if node.child_by_field_name("dimensions") is not None else self._written(kind))
        self.push([child for child in node.named_children if child != name], scope, guards)

    on_formal_parameter = on_resource = _parameter

    def on_spread_parameter(self, node: Node, scope: Scope, guards: Guards) -> None:
        for child in node.named_children:
            if child.type == "variable_declarator":
                self._bind(scope, child.child_by_field_name("name"), None)
        self.push([child for child in node.named_children if child.type != "variable_declarator"], scope, guards)

    def on_catch_formal_parameter(self, node: Node, scope: Scope, guards: Guards) -> None:
        kinds = next((child for child in node.named_children if child.type == "catch_type"), None)
        single = kinds.named_children[0] if kinds is not None and len(kinds.named_children) == 1 else None
        self._bind(scope, node.child_by_field_name("name"), self._written(single))
        self.push([kinds] if kinds is not None else [], scope, guards)

    def on_enhanced_for_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        inner = Scope(kind="function", qualname=scope.qualname, parent=scope)
        name, kind = node.child_by_field_name("name"), node.child_by_field_name("type")
        self._bind(inner, name, None if kind is not None and text(kind) == "var" else self._written(kind))
        kept = [c for c in node.named_children if c != name and not (c == kind and text(kind) == "var")]
        self.push(kept, inner, guards)

    def on_instanceof_expression(self, node: Node, scope: Scope, guards: Guards) -> None:
        name = node.child_by_field_name("name")
        self._bind(scope, name, self._written(node.child_by_field_name("right")))
        self.push([child for child in node.named_children if child != name], scope, guards)

    def on_type_pattern(self, node: Node, scope: Scope, guards: Guards) -> None:
        children = node.named_children
        if len(children) > 1:
            self._bind(scope, children[-1], self._written(children[-2]))
        self.push(children[:-1], scope, guards)

    on_record_pattern_component = on_type_pattern

    def on_lambda_expression(self, node: Node, scope: Scope, guards: Guards) -> None:
        inner = Scope(kind="function", qualname=scope.qualname, parent=scope)
        parameters = node.child_by_field_name("parameters")
        if parameters is not None and parameters.type == "identifier":
            self._bind(inner, parameters, None)
        elif parameters is not None and parameters.type == "inferred_parameters":
            for child in parameters.named_children:
                self._bind(inner, child, None)
        else:
            self.push([parameters] if parameters is not None else [], inner, guards)
        self.push_one(node.child_by_field_name("body"), inner, guards)

    def _block(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.push(node.named_children, Scope(kind="function", qualname=scope.qualname, parent=scope), guards)

    on_block = on_for_statement = on_try_with_resources_statement = on_catch_clause = _block
    on_switch_block_statement_group = on_switch_rule = on_constructor_body = _block

    def on_yield_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        """``yield (x);`` is a call of a method of that name, unless a switch that has a value stands around it."""
        value = node.named_children[0] if node.named_children else None
        if value is not None and value.type == "parenthesized_expression" and not _gives_a_value(node):
            self.use_at(node, Ask("syntax.yield_call", "syntax"), scope)
        self.push(node.named_children, scope, guards)

    def on_labeled_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.push(node.named_children[1:], scope, guards)

    def on_enum_constant(self, node: Node, scope: Scope, guards: Guards) -> None:
        name, body = node.child_by_field_name("name"), node.child_by_field_name("body")
        self.members.setdefault(scope.qualname, set()).add(text(name))
        if body is not None:
            inner = self._class(f"{scope.qualname}.{text(name)}", scope)
            self.push([body], inner, guards)
        self.push([child for child in node.named_children if child not in (name, body)], scope, guards)

    # uses

    def on_type_identifier(self, node: Node, scope: Scope, _guards: Guards) -> None:
        self.later.append((node, scope, "type"))

    def on_scoped_type_identifier(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.later.append((node, scope, "type"))
        self.push([c for c in node.named_children if c.type in ("marker_annotation", "annotation")], scope, guards)

    def on_annotation(self, node: Node, scope: Scope, guards: Guards) -> None:
        name = node.child_by_field_name("name")
        if name is not None:
            self.later.append((name, scope, "type"))
        self.push_one(node.child_by_field_name("arguments"), scope, guards)

    on_marker_annotation = on_annotation

    def on_element_value_pair(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.push_one(node.child_by_field_name("value"), scope, guards)

    def on_field_access(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.later.append((node, scope, "field"))
        self._inside(node.child_by_field_name("object"), scope, guards)

    def on_method_invocation(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.later.append((node, scope, "call"))
        self.push([c for c in node.named_children if c.type in ("argument_list", "type_arguments")], scope, guards)
        self._inside(node.child_by_field_name("object"), scope, guards)

    def _inside(self, node: Node | None, scope: Scope, guards: Guards) -> None:
        """Visit what a member is asked of, unless it is a plain chain of names, which is told with the member."""
        at = node
        while at is not None and at.type == "field_access":
            at = at.child_by_field_name("object")
        if at is None or at.type not in ("identifier", "this", "super"):
            self.push_one(node, scope, guards)

    def on_method_reference(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.later.append((node, scope, "reference"))
        first = node.named_children[0] if node.named_children else None
        if first is not None and first.type not in (
            "identifier",
            "type_identifier",
            "field_access",
            "scoped_type_identifier",
        ):
            self.push_one(first, scope, guards)

    def on_object_creation_expression(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.later.append((node, scope, "new"))
        kind = node.child_by_field_name("type")
        body = next((child for child in node.named_children if child.type == "class_body"), None)
        rest = [child for child in node.named_children if child not in (kind, body)]
        if kind is not None and kind.type == "generic_type":
            rest += [child for child in kind.named_children if child.type == "type_arguments"]
        if body is not None:
            inner = self._class(f"{scope.qualname}.{node.start_point.row + 1}".lstrip("."), scope)
            self._above(inner.qualname, [kind] if kind is not None else [], scope)
            self.push([body], inner, guards)
        self.push(rest, scope, guards)

    # what uses mean, once everything is known

    def resolve(self) -> None:
        """Turn what was seen into uses with paths."""
        for qualname, listed in self.heritage.items():
            found = [self.type_path(_dotted(node), scope, node.start_byte) for node, scope in listed]
            self.bases[qualname] = [path for path in found if path is not None]
        uses = {form: getattr(self, f"_use_{form}") for form in ("type", "field", "call", "new", "reference", "static")}
        for node, scope, form in self.later:
            uses[form](node, scope)

    def type_path(self, written: str, scope: Scope, position: int) -> str | None:
        """The path of a type as it is written; ``:Name`` for one of this file, None for a type parameter."""
        key = (written, scope.qualname)  # type parameters belong to a class or method, so that is all that decides
        if key not in self.types:
            self.types[key] = self._type_path(written, scope, position)
        return self.types[key]

    def _type_path(self, written: str, scope: Scope, position: int) -> str | None:
        head, _, rest = written.partition(".")
        if rest and head[:1].islower():
            return path_of(written)
        if look_up(head, scope, position) is not None and self._is_parameter(head, scope):
            return None
        own = self._own_type(head, scope)
        if own is not None:
            return f":{own}{'.' if rest else ''}{rest}"
        path = self.imports.get(head)
        if path is None:
            return f"{UNQUALIFIED}{written}" if head[:1].isidentifier() or head else None
        return f"{path}.{rest}" if rest else path

    @staticmethod
    def _is_parameter(name: str, scope: Scope) -> bool:
        current: Scope | None = scope
        while current is not None:
            if any(binding.plain for binding in current.bindings.get(name, ())) and name[:1].isupper():
                return True
            current = current.parent
        return False

    def _own_type(self, name: str, scope: Scope) -> str | None:
        """The qualified name of a type that this file declares, seen from a place in it."""
        at = scope.qualname
        while True:
            found = f"{at}.{name}" if at else name
            if found in self.bases:
                return found
            if not at:
                return None
            at = at.rpartition(".")[0]

    def value_path(self, node: Node, scope: Scope, depth: int = 0) -> str | None:
        """The path of the value of an expression; ``self:TYPE`` for one of this file's own objects, None when it is not known."""
        if depth > _DEPTH:
            return None
        kind = node.type
        if kind in ("identifier", "type_identifier"):
            return self._named_value(node, scope)
        if kind == "method_invocation":
            if node.id not in self.values:
                self.values[node.id] = self._called(node, scope, depth)
            return self.values[node.id]
        if kind in ("this", "super"):
            return f"self:{_class_of(scope)}"
        if kind in ("field_access", "scoped_type_identifier"):
            return self._accessed(node, scope, depth)
        if kind == "string_literal":
            return f"{path_of(_STRING)}()"
        if kind == "generic_type":
            return self.type_path(_dotted(node), scope, node.start_byte)
        return self._wrapped(node, scope, depth)

    def _wrapped(self, node: Node, scope: Scope, depth: int) -> str | None:
        """The value of what was made, cast or put in parentheses."""
        if node.type == "parenthesized_expression":
            return self.value_path(node.named_children[0], scope, depth + 1) if node.named_children else None
        if node.type not in ("object_creation_expression", "cast_expression"):
            return None
        written = self._written(node.child_by_field_name("type"))
        return _instance(self.type_path(written, scope, node.start_byte)) if written else None

    def _named_value(self, node: Node, scope: Scope) -> str | None:
        name = text(node)
        meaning = look_up(name, scope, node.start_byte)
        if meaning is not None:
            made = meaning.binding.made_by
            return _instance(self.type_path(made[0], meaning.scope, node.start_byte)) if made is not None else None
        if name in self.statics and not name[:1].isupper():
            return f"{self.statics[name]}()"
        return self.type_path(name, scope, node.start_byte) if name[:1].isupper() else None

    def _accessed(self, node: Node, scope: Scope, depth: int) -> str | None:
        inner = node.child_by_field_name("object") or (node.named_children[0] if node.named_children else None)
        field = node.child_by_field_name("field") or (node.named_children[-1] if node.named_children else None)
        if inner is None or field is None:
            return None
        if inner.type in ("this", "super"):
            return self._own_field(text(field), scope)
        written = _dotted(node)
        head = written.split(".", 1)[0]
        if (
            head[:1].islower()
            and look_up(head, scope, node.start_byte) is None
            and written.replace(".", "").isidentifier()
        ):
            path = path_of(written)
            return path if "." in path or path[-1:].isupper() else None
        base = self.value_path(inner, scope, depth + 1)
        if base is None or base.startswith("self:"):
            return None
        if base.startswith(":"):
            own = f"{base[1:]}.{text(field)}"
            return f":{own}" if own in self.bases else None
        return f"{base}.{text(field)}"

    def _own_field(self, name: str, scope: Scope) -> str | None:
        owner = _class_of(scope)
        current: Scope | None = scope
        while current is not None:
            if current.kind == "type" and current.qualname == owner:
                found = current.bindings.get(name)
                made = found[-1].made_by if found else None
                return _instance(self.type_path(made[0], current, 0)) if made is not None else None
            current = current.parent
        return None

    def _called(self, node: Node, scope: Scope, depth: int) -> str | None:
        inner, name = node.child_by_field_name("object"), text(node.child_by_field_name("name"))
        if inner is None:
            for owner in _classes_around(scope):
                if name in self.members.get(owner, ()):
                    written = self.gives.get(f"{owner}.{name}")
                    return _instance(self.type_path(written, scope, node.start_byte)) if written else None
            return f"{self.statics[name]}()" if name in self.statics else None
        base = self.value_path(inner, scope, depth + 1)
        if base is None:
            return None
        if base.startswith((":", "self:")):
            written = self.gives.get(f"{base.removeprefix('self').removeprefix(':').removesuffix('()')}.{name}")
            return _instance(self.type_path(written, scope, node.start_byte)) if written else None
        return f"{base}.{name}()"

    def _use_type(self, node: Node, scope: Scope) -> None:
        written = _dotted(node)
        if written == "var":
            return
        path = self.type_path(written, scope, node.start_byte)
        if path is not None and not path.startswith(":"):
            self.use_at(node, Ask(path, "name"), scope)

    def _use_static(self, node: Node, scope: Scope) -> None:
        name = text(node)
        if look_up(name, scope, node.start_byte) is None:
            self.use_at(node, Ask(self.statics[name], "name"), scope)

    def _use_field(self, node: Node, scope: Scope) -> None:
        path = self._accessed(node, scope, 0)
        if path is not None and not path.startswith((":", "self:")):
            self._tell(node, node.child_by_field_name("field"), path, "attribute", (), scope)

    def _use_reference(self, node: Node, scope: Scope) -> None:
        parts = node.named_children
        if not parts:
            return
        base = self.value_path(parts[0], scope)
        if base is None or base.startswith((":", "self:")):
            return
        last = text(parts[-1]) if len(parts) > 1 else CONSTRUCTOR
        self._tell(node, parts[-1], f"{base}.{last}", "attribute", (), scope)

    def _use_new(self, node: Node, scope: Scope) -> None:
        kind = node.child_by_field_name("type")
        path = self.type_path(_dotted(kind), scope, node.start_byte) if kind is not None else None
        if kind is None or path is None or path.startswith(":"):
            return
        anonymous = any(child.type == "class_body" for child in node.named_children)
        ask = Ask(path, "name") if anonymous else Ask(f"{path}.{CONSTRUCTOR}", "call", (), (_count(node),))
        self.use_at(kind, ask, scope, node)

    def _use_call(self, node: Node, scope: Scope) -> None:
        inner, name_node = node.child_by_field_name("object"), node.child_by_field_name("name")
        name = text(name_node)
        if name_node is None:
            return
        if inner is None:
            self._plain_call(node, name_node, name, scope)
            return
        base = self.value_path(inner, scope)
        if base is None:
            return
        if base.startswith("self:"):
            owner = base.removesuffix("()")
            above = inner.type == "super"  # what the class itself has of that name is passed over
            if above or name not in self.members.get(owner[5:], ()):
                asked = f"{owner}{ABOVE if above else ''}.{name}"
                self.use_at(name_node, Ask(asked, "inherited", (), (_count(node),)), scope)
            return
        if base.startswith(":"):
            return
        self._by_name(node, name, scope)
        self._tell(node, name_node, f"{base}.{name}", "call", (_count(node),), scope)

    def _plain_call(self, node: Node, name_node: Node, name: str, scope: Scope) -> None:
        """A call of a method that the class has, inherits, or that was imported."""
        if name == "yield":
            self.use_at(name_node, Ask("syntax.yield_call", "syntax"), scope)
        around = list(_classes_around(scope))
        if any(name in self.members.get(owner, ()) for owner in around):
            return
        if name in self.statics:
            self.use_at(name_node, Ask(self.statics[name], "call", (), (_count(node),)), scope)
        elif self.static_stars:
            ways = tuple(f"{star}.{name}" for star in self.static_stars)
            self.use_at(name_node, Ask(ways[0], "call", (), (), "", ways[1:]), scope)
        elif around:
            self.use_at(name_node, Ask(f"self:{around[0]}.{name}", "inherited", (), (_count(node),)), scope)

    def _by_name(self, node: Node, name: str, scope: Scope) -> None:
        """A class that is named by a string: found while the program runs, if it is there."""
        arguments = node.child_by_field_name("arguments")
        first = arguments.named_children[0] if arguments is not None and arguments.named_children else None
        if name in _BY_NAME and first is not None and first.type == "string_literal":
            written = text(first).strip('"')
            if "." in written and written.replace(".", "").replace("$", "").isidentifier():
                self.use_at(first, Ask(path_of(written.replace("$", ".")), "string"), scope)

    def _tell(
        self, node: Node, last: Node | None, path: str, form: str, keywords: tuple[str, ...], scope: Scope
    ) -> None:
        """A use of a member, where the name of the member stands; of a chain of names, where that begins."""
        at = last if last is not None else node
        root = node
        while root.type in ("field_access", "method_invocation", "scoped_type_identifier"):
            inner = root.child_by_field_name("object") or (
                root.named_children[0] if root.type == "scoped_type_identifier" else None
            )
            if inner is None:
                break
            root = inner
        plain = root.type in ("identifier", "type_identifier") and "()" not in path
        start = root if plain and root.start_point.row == at.start_point.row else at
        row, column = start.start_point
        end = at.end_point.column if at.end_point.row == row else column + 1
        first = node.start_point.row + 1
        self.found.add(
            Ask(path, form, (), keywords), row + 1, column, end, scope.qualname, first if first != row + 1 else 0
        )


class _Walk(_Plain):
    """The same for files in which a plain name may be a static import."""

    def on_identifier(self, node: Node, scope: Scope, _guards: Guards) -> None:
        if text(node) in self.statics:
            self.later.append((node, scope, "static"))


def _gives_a_value(node: Node) -> bool:
    """Whether a statement stands in a switch that is more than a statement itself."""
    at = node.parent
    while at is not None and at.type not in ("method_declaration", "lambda_expression", "class_body"):
        if at.type == "switch_expression" and at.parent is not None and at.parent.type != "expression_statement":
            return not at.parent.type.endswith("block")
        at = at.parent
    return False


def _instance(path: str | None) -> str | None:
    """The path of an object of a class."""
    if path is None:
        return None
    return f"self:{path[1:]}" if path.startswith(":") else f"{path}()"


def _class_of(scope: Scope) -> str:
    return next(_classes_around(scope), "")


def _classes_around(scope: Scope) -> Iterator[str]:
    current: Scope | None = scope
    while current is not None:
        if current.kind == "type":
            yield current.qualname
        current = current.parent


def _count(node: Node) -> str:
    """How many arguments a call gives."""
    arguments = node.child_by_field_name("arguments")
    given = [c for c in arguments.named_children if not c.type.endswith("comment")] if arguments is not None else []
    return f"/{len(given)}"
