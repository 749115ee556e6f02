"""JavaScript and TypeScript text → facts: imports of every kind, uses through names and members, guards, classes, exports.

The same shape as the reader of Python: one walk, then resolution.
"""

from __future__ import annotations

import re
from functools import cache
from itertools import pairwise
from typing import Final

from tree_sitter import Language, Node

from yoake.core.ecosystems.javascript.bindings import BindingWalk
from yoake.core.ecosystems.javascript.guards import (
    catches,
    feature_paths,
    may_fail_to_load,
    mentions_version,
    tested_text,
)
from yoake.core.ecosystems.javascript.specifiers import as_part
from yoake.core.ecosystems.javascript.tree import (
    called_chain,
    computed_part,
    literal,
    member_chain,
    parse_script,
    plain_chain,
    required,
    required_by,
)
from yoake.core.syntax.loads import joined
from yoake.core.syntax.scopes import Binding, Scope
from yoake.core.syntax.tree import broken_lines, text
from yoake.core.syntax.walking import Guards, Kinds
from yoake.core.syntax.written import written_element, written_value
from yoake.core.values.facts import Ask, ClassFact, FileFacts, Guard

ELEMENT: Final = "<>"
"""Begins paths of attributes that a framework reads on whatever element they stand."""
_READ_ATTRIBUTE: Final = re.compile(r"\bref: '")
HANDLER: Final = "(req, res)"
"""Begins paths of what a handler of requests is given, which are values: ``(req, res).res().send``."""

_USES_NOTHING: Final = frozenset(
    (
        "comment",
        "number",
        "string",
        "regex",
        "true",
        "false",
        "null",
        "undefined",
        "property_identifier",
        "private_property_identifier",
        "statement_identifier",
        "predefined_type",
        "empty_statement",
        "break_statement",
        "continue_statement",
        "hash_bang_line",
        "type_parameters",
        "enum_body",
        "accessibility_modifier",
        "import",
        "super",
        "meta_property",
    )
)
_CHOOSING: Final = ("&&", "||", "??")
_MOST_OPERANDS: Final = 50
_LEXICAL: Final = frozenset(("lexical_declaration", "class_declaration"))
_REQUEST: Final = re.compile(r"_?req(uest)?$")
_RESPONSE: Final = re.compile(r"_?res(ponse)?$")
_REQUIRE_IN_STRING: Final = re.compile(r"[\w@./-]+$")


def read_javascript(source: bytes, grammar: str = "javascript") -> FileFacts:
    """All facts of one file; ``grammar``: javascript, typescript or tsx."""
    tree = parse_script(source, grammar)
    root = tree.root_node
    walk = _Walk(root, _kinds(tree.language))
    walk.run()
    walk.forget_unknown_returns()
    walk.resolver.resolve(walk.loads)
    walk.tell_assigned()
    return FileFacts(
        asks=walk.found.asks,
        places=walk.found.places,
        scopes=walk.found.scopes,
        exports=walk.exports.found(),
        stars=tuple(walk.exports.stars),
        classes={name: ClassFact(tuple(walk.bases_of(name)), tuple(sorted(m))) for name, m in walk.members.items()},
        assigned={},
        broken=broken_lines(root),
        lines=source.count(b"\n") + (0 if source.endswith(b"\n") or not source else 1),
        language="javascript",
        written=walk.found.written,
    )


class _Walk(BindingWalk):
    """One walk over one file: what is named, called, imported, exported and guarded."""

    # Names and members ----------------------------------------------------------------------------------------------

    def on_type_identifier(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.loads.append((text(node), (), node, node, scope, guards, "type", (), None))

    def on_member_expression(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.member(node, scope, guards, "attribute")

    def on_subscript_expression(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.member(node, scope, guards, "attribute")
        index = node.child_by_field_name("index")
        if index is not None and literal(index) is None:
            self.push_one(index, scope, guards)

    def on_nested_type_identifier(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.member(node, scope, guards, "type")

    def member(self, node: Node, scope: Scope, guards: Guards, form: str, handed: Node | None = None) -> None:
        plain = plain_chain(node)
        if plain is not None and plain[1]:
            self.loads.append((*plain, node, node, scope, guards, form, (), handed))
            return
        found = member_chain(node)
        if found is None:
            stuck = computed_part(node)  # all above it has been looked through: go on there, not one member further
            self.push_one(node.child_by_field_name("object") if stuck == node else stuck, scope, guards)
            return
        root, names = found
        kind = root.type
        if kind in ("identifier", "this"):
            shape = form if names or form == "call" else "name"
            self.loads.append((text(root), tuple(names), node, root, scope, guards, shape, (), handed))
            return
        source = required(root)
        if source is None:
            self.member_of_call(node, scope, guards, form, handed)
            self.push_one(root, scope, guards)
            return
        self.take(source, node, scope, guards)
        if names:
            load = ("", tuple(names), node, root, scope, guards, form, (), handed)
            self.resolver.add(load, Ask(".".join([source[0], *names]), form, guards))

    def member_of_call(self, node: Node, scope: Scope, guards: Guards, form: str, handed: Node | None) -> None:
        """A member of what a call gives back: what was called is visited itself."""
        found = called_chain(node)
        if found is None or not found[1]:
            return
        root, names = found
        if root.type == "identifier":
            self.loads.append((text(root), tuple(names), node, root, scope, guards, form, (), handed))
        source = required(root)
        if source is not None:
            load = ("", tuple(names), node, root, scope, guards, form, (), handed)
            self.resolver.add(load, Ask(joined(source[0], names), "instance", guards))

    def on_call_expression(self, node: Node, scope: Scope, guards: Guards) -> None:
        function, arguments = node.child_by_field_name("function"), node.child_by_field_name("arguments")
        source = required_by(function, arguments)
        if source is not None:
            self.take(source, node, scope, guards)
            return
        if arguments is not None:
            self.push(arguments.named_children, scope, guards)
        self.called(function, scope, guards, arguments)

    def on_new_expression(self, node: Node, scope: Scope, guards: Guards) -> None:
        arguments = node.child_by_field_name("arguments")
        self.push_one(arguments, scope, guards)
        self.called(node.child_by_field_name("constructor"), scope, guards, arguments)

    def called(self, function: Node | None, scope: Scope, guards: Guards, arguments: Node | None) -> None:
        if function is None:
            return
        kind = function.type
        if kind == "identifier":
            self.loads.append((text(function), (), function, function, scope, guards, "call", (), arguments))
        elif kind == "member_expression":
            self.member(function, scope, guards, "call", arguments)
        else:
            self.push_one(function, scope, guards)

    def on_jsx_opening_element(self, node: Node, scope: Scope, guards: Guards) -> None:
        """A component with its attributes; of other elements only what the framework itself reads."""
        name = node.child_by_field_name("name")
        self.push([c for c in node.named_children if c != name], scope, guards)
        found = plain_chain(name) if name is not None else None
        if found is None or name is None:
            return
        if found[0][:1].isupper() or found[1]:
            self.loads.append((*found, name, name, scope, guards, "element", (), node))
        shown = written_element(node)
        if _READ_ATTRIBUTE.search(shown):
            row, column = name.start_point
            ask = Ask(f"{ELEMENT}.element", "element", guards)
            self.found.add(ask, row + 1, column, name.end_point.column, scope.qualname, 0, shown)

    on_jsx_self_closing_element = on_jsx_opening_element

    def on_jsx_attribute(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.push(node.named_children[1:], scope, guards)

    def on_pair(self, node: Node, scope: Scope, guards: Guards) -> None:
        key = node.child_by_field_name("key")
        self.push_one(node.child_by_field_name("value"), scope, guards)
        if key is not None and key.type == "computed_property_name":
            self.push_one(key, scope, guards)

    # Imports and exports ----------------------------------------------------------------------------------------------

    def on_import_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        whole = next((c for c in node.named_children if c.type == "import_require_clause"), node)
        source = whole.child_by_field_name("source")
        value = literal(source)
        if source is None or not value or "!" in value:
            return
        part = as_part(value)
        self.take((part, source), node, scope, guards)
        for clause in node.named_children:
            if clause.type == "import_require_clause":
                for name in clause.named_children:
                    if name.type == "identifier":
                        scope.bind(text(name), Binding(position=name.start_byte, target=part, guards=guards))
            elif clause.type == "import_clause":
                self.import_clause(clause, part, node, scope, guards)

    def import_clause(self, clause: Node, part: str, whole: Node, scope: Scope, guards: Guards) -> None:
        for child in clause.named_children:
            if child.type == "identifier":
                self.bring(child, child, f"{part}.default", whole, scope, guards)
            elif child.type == "namespace_import":
                for bound in child.named_children:
                    scope.bind(text(bound), Binding(position=bound.start_byte, target=part, guards=guards))
            elif child.type == "named_imports":
                for specifier in child.named_children:
                    name, alias = specifier.child_by_field_name("name"), specifier.child_by_field_name("alias")
                    if specifier.type == "import_specifier" and name is not None:
                        self.bring(name, alias or name, f"{part}.{text(name)}", whole, scope, guards)

    def bring(self, at: Node, bound: Node, path: str, whole: Node, scope: Scope, guards: Guards) -> None:
        """One name brought in: a use of its path at ``at``, and a binding."""
        typed = any(child.type == "type" for node in (whole, at.parent) if node is not None for child in node.children)
        self.use_at(at, Ask(path, "type" if typed else "import", guards, (), text(bound)), scope, whole)
        scope.bind(text(bound), Binding(position=at.start_byte, target=path, guards=guards))

    def on_export_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        source = node.child_by_field_name("source")
        value = literal(source)
        if source is not None and value:
            part = as_part(value)
            self.take((part, source), node, scope, guards)
            for path, at in self.exports.reexport(node, part):
                self.use_at(at, Ask(path, "import", guards), scope)
            return
        self.exports.statement(node, scope)
        self.push([c for c in node.named_children if c.type != "export_clause"], scope, guards)
        for clause in node.named_children:
            if clause.type == "export_clause":
                for specifier in reversed(clause.named_children):
                    self.push_one(specifier.child_by_field_name("name"), scope, guards)

    # Scopes ---------------------------------------------------------------------------------------------------------

    def on_function_declaration(self, node: Node, scope: Scope, guards: Guards) -> None:
        name = node.child_by_field_name("name")
        made = self.functions.setdefault(node.id, Binding(position=node.start_byte, target=None, guards=guards))
        if name is not None:
            scope.bind(text(name), made)
        self.function(node, scope, guards, Binding(position=0))

    on_generator_function_declaration = on_function_signature = on_function_declaration

    def on_function_expression(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.function(node, scope, guards, Binding(position=0))

    on_generator_function = on_function_expression

    def on_arrow_function(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.function(node, scope, guards, None)

    def on_method_definition(self, node: Node, scope: Scope, guards: Guards) -> None:
        name = node.child_by_field_name("name")
        inside = scope.kind == "class"
        if inside:
            self.members.setdefault(scope.qualname, set()).add(text(name))
            self.note_override(name, scope, guards, "f")
        self.function(
            node,
            scope,
            guards,
            Binding(position=0, target=None, guards=(), made_by=None, receiver=scope.qualname if inside else None),
        )
        if name is not None and name.type == "computed_property_name":
            self.push_one(name, scope, guards)

    on_method_signature = on_method_definition

    def function(self, node: Node, scope: Scope, guards: Guards, this: Binding | None) -> None:
        name = text(node.child_by_field_name("name"))
        inner = Scope(kind="function", qualname=_qualify(scope, name) if name else scope.qualname, parent=scope)
        if this is not None:
            inner.bind("this", this)
        if name and node.type in ("function_expression", "generator_function"):
            inner.bind(name, Binding(position=node.start_byte))
        body = node.child_by_field_name("body")
        if scope.kind == "module":
            self.returning[inner] = self.functions.setdefault(
                node.id, Binding(position=node.start_byte, target=None, guards=guards)
            )
            if body is not None and body.type != "statement_block":
                self.note_returned(_bare(body), inner)
        single = node.child_by_field_name("parameter")
        if single is not None:
            inner.bind(text(single), Binding(position=single.start_byte))
        self.push_one(body, inner, guards)
        self.push_one(node.child_by_field_name("return_type"), scope, guards)
        parameters = node.child_by_field_name("parameters")
        handled = _handled(parameters)
        for child in parameters.named_children if parameters is not None else ():
            if child.type in ("required_parameter", "optional_parameter"):
                pattern = child.child_by_field_name("pattern")
                self.push_one(child.child_by_field_name("type"), scope, guards)
                self.push_one(child.child_by_field_name("value"), inner, guards)
            else:
                pattern = child
            if pattern is not None and text(pattern) in handled:
                inner.bind(
                    text(pattern), Binding(position=child.start_byte, target=f"{HANDLER}.{handled[text(pattern)]}()")
                )
            elif pattern is not None:
                self.bind_pattern(pattern, inner, ())

    def on_return_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        if node.named_child_count:
            self.note_returned(_bare(node.named_children[0]), scope)
        self.push(node.named_children, scope, guards)

    def on_statement_block(self, node: Node, scope: Scope, guards: Guards) -> None:
        children = node.named_children
        if scope.kind != "function" or scope.bindings:
            for child in children:
                if child.type in _LEXICAL:
                    scope = Scope(kind="block", qualname=scope.qualname, parent=scope)
                    break
        self.push(children, scope, guards)

    def on_class_declaration(self, node: Node, scope: Scope, guards: Guards) -> None:
        name = text(node.child_by_field_name("name"))
        inner = Scope(kind="class", qualname=_qualify(scope, name) if name else scope.qualname, parent=scope)
        if name:
            scope.bind(name, Binding(position=node.start_byte, target=None, guards=guards, class_name=inner.qualname))
        self.members.setdefault(inner.qualname, set())
        for child in node.named_children:
            if child.type == "class_heritage":
                self.heritage(child, inner.qualname, scope, guards)
        self.push_one(node.child_by_field_name("body"), inner, guards)

    on_class = on_abstract_class_declaration = on_class_declaration

    def heritage(self, node: Node, name: str, scope: Scope, guards: Guards) -> None:
        clause = next((c for c in node.named_children if c.type == "extends_clause"), node)
        base = clause.child_by_field_name("value") or next(iter(clause.named_children), None)
        if base is not None:
            self.bases[name] = (base, scope)
        self.push(node.named_children, scope, guards)

    def on_field_definition(self, node: Node, scope: Scope, guards: Guards) -> None:
        name = node.child_by_field_name("property") or node.child_by_field_name("name")
        value = node.child_by_field_name("value")
        if scope.kind == "class":
            self.members.setdefault(scope.qualname, set()).add(text(name))
            self.note_override(name, scope, guards, written_value(value) if value is not None else "")
        inner = Scope(kind="function", qualname=scope.qualname, parent=scope)
        inner.bind(
            "this",
            Binding(
                position=0,
                target=None,
                guards=(),
                made_by=None,
                receiver=scope.qualname if scope.kind == "class" else None,
            ),
        )
        self.push_one(value, inner, guards)
        self.push_one(node.child_by_field_name("type"), scope, guards)

    def note_override(self, name: Node | None, scope: Scope, guards: Guards, shown: str) -> None:
        """A member of a class with a base: the base, or whoever calls it, may look for that name."""
        if name is not None and scope.qualname in self.bases:
            row, column = name.start_point
            ask = Ask(f"self:{scope.qualname}.{text(name)}", "member", guards)
            self.found.add(ask, row + 1, column, name.end_point.column, scope.qualname, 0, shown)

    on_public_field_definition = on_field_definition

    def on_internal_module(self, node: Node, scope: Scope, guards: Guards) -> None:
        name = node.child_by_field_name("name")
        if name is not None and name.type == "identifier":
            scope.bind(text(name), Binding(position=node.start_byte))
        self.push_one(node.child_by_field_name("body"), scope, guards)

    on_module = on_internal_module

    def on_interface_declaration(self, node: Node, scope: Scope, guards: Guards) -> None:
        scope.bind(text(node.child_by_field_name("name")), Binding(position=node.start_byte))
        self.push([c for c in node.named_children if c.type != "type_identifier"], scope, guards)

    on_type_alias_declaration = on_enum_declaration = on_interface_declaration

    def bases_of(self, name: str) -> list[str]:
        held = self.bases.get(name)
        found = member_chain(held[0]) if held is not None else None
        if held is None or found is None:
            return []
        root, names = found
        source = required(root)
        if source is not None:
            return [".".join([source[0], *names])]
        path = self.resolver.path_of(text(root), tuple(names), held[1], root.start_byte)
        return [path] if path is not None else [":" + ".".join([text(root), *names])]

    # Guards -----------------------------------------------------------------------------------------------------------

    def on_try_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        body, handler = node.child_by_field_name("body"), node.child_by_field_name("handler")
        caught = handler is not None and catches(handler) and body is not None and may_fail_to_load(body)
        kept = (*guards, Guard("import-error", self.new_group())) if caught else guards
        self.push_one(node.child_by_field_name("finalizer"), scope, guards)
        if handler is not None:
            inner = Scope(kind="block", qualname=scope.qualname, parent=scope)
            parameter = handler.child_by_field_name("parameter")
            if parameter is not None:
                self.bind_pattern(parameter, inner, ())
            self.push_one(handler.child_by_field_name("body"), inner, kept)
        self.push_one(body, scope, kept)

    def on_if_statement(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.branches(
            node.child_by_field_name("condition"),
            node.child_by_field_name("consequence"),
            node.child_by_field_name("alternative"),
            scope,
            guards,
        )

    def on_ternary_expression(self, node: Node, scope: Scope, guards: Guards) -> None:
        self.on_if_statement(node, scope, guards)

    def branches(self, condition: Node | None, yes: Node | None, no: Node | None, scope: Scope, guards: Guards) -> None:
        positive, negative = feature_paths(condition) if condition is not None else (frozenset(), frozenset())
        version = condition is not None and mentions_version(condition)
        either = (*guards, Guard("feature", self.new_group())) if version else guards
        self.push_one(no, scope, _with_features(either, negative))
        self.push_one(yes, scope, _with_features(either, positive))
        self.push_one(condition, scope, _with_features(guards, positive | negative))

    def on_binary_expression(self, node: Node, scope: Scope, guards: Guards) -> None:
        sign = node.child_by_field_name("operator")
        operator = sign.type if sign is not None else ""
        left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
        if operator not in _CHOOSING or left is None or not _is_short(left):
            self.push(node.named_children, scope, guards)
        elif operator == "&&":
            self.branches(left, right, None, scope, guards)
        else:
            positive, negative = feature_paths(left)
            self.push_one(right, scope, _with_features(guards, negative))
            self.push_one(left, scope, _with_features(guards, positive | negative))

    def on_unary_expression(self, node: Node, scope: Scope, guards: Guards) -> None:
        argument = node.child_by_field_name("argument")
        sign = node.child_by_field_name("operator")
        asks = sign is not None and sign.type in ("typeof", "!")
        tested = tested_text(argument) if asks and argument is not None else None
        self.push_one(argument, scope, _with_features(guards, frozenset((tested,))) if tested else guards)


def _bare(value: Node) -> Node:
    """A value without brackets around it."""
    while value.type == "parenthesized_expression" and value.named_child_count == 1:
        value = value.named_children[0]
    return value


def _handled(parameters: Node | None) -> dict[str, str]:
    """``(req, res)``, ``(error, req, res, next)``: what the names of a handler of requests stand for. Only the names say so."""
    held = parameters.named_children if parameters is not None else []
    names = [text(child.child_by_field_name("pattern") or child) for child in held]
    for at, (first, second) in enumerate(pairwise(names)):
        if at < 2 and _REQUEST.match(first) and _RESPONSE.match(second):
            return {first: "req", second: "res"}
    return {}


@cache
def _kinds(_language: Language) -> Kinds:
    return Kinds(_Walk, _USES_NOTHING, ("identifier", "shorthand_property_identifier"))


def _is_short(node: Node) -> bool:
    """Whether so few operands are joined that each may be looked at for each: nobody tests for a feature in hundreds."""
    for _ in range(_MOST_OPERANDS):
        inner = node.child_by_field_name("left") if node.type == "binary_expression" else None
        if inner is None:
            return True
        node = inner
    return False


def _with_features(guards: Guards, tested: frozenset[str]) -> Guards:
    """Guards that hold for the tested texts only: ``feature:`` and the text."""
    return (*guards, *(Guard(f"feature:{name}", 0) for name in sorted(tested))) if tested else guards


def _qualify(scope: Scope, name: str) -> str:
    return f"{scope.qualname}.{name}" if scope.qualname else name
