"""What import and export statements bind."""

from __future__ import annotations

from typing import TYPE_CHECKING

from tree_sitter import Node

from yoake.core.contract.evaluation import UNKNOWN, FunctionValue, Scope, Value
from yoake.core.ecosystems.javascript.evaluation.expressions import expression
from yoake.core.syntax.tree import text

if TYPE_CHECKING:
    from yoake.core.ecosystems.javascript.evaluation.evaluator import JavaScriptEvaluator


def import_statement(run: JavaScriptEvaluator, node: Node, scope: Scope) -> str:
    """Names out of another module, or the whole of it."""
    source = node.child_by_field_name("source")
    if source is None:
        for child in node.named_children:  # import x = require("x")
            if child.type == "import_require_clause":
                wanted = child.child_by_field_name("source")
                scope.names[text(child.named_children[0])] = run.required(text(wanted)[1:-1], scope.file)
        return ""
    held = run.required(text(source)[1:-1], scope.file)
    for clause in node.named_children:
        for child in clause.named_children if clause.type == "import_clause" else ():
            if child.type == "identifier":
                scope.names[text(child)] = run.attribute(held, "default")
            elif child.type == "namespace_import":
                scope.names[text(child.named_children[0])] = held
            elif child.type == "named_imports":
                for part in child.named_children:
                    name = text(part.child_by_field_name("name"))
                    alias = part.child_by_field_name("alias")
                    scope.names[text(alias) if alias is not None else name] = run.attribute(held, name)
    return ""


def export_statement(run: JavaScriptEvaluator, node: Node, scope: Scope) -> str:
    """What a module gives to others, also out of a third one."""
    exports = _exported(scope)
    declaration = node.child_by_field_name("declaration")
    source = node.child_by_field_name("source")
    held = run.required(text(source)[1:-1], scope.file) if source is not None else None
    is_default = any(child.type == "default" for child in node.children)
    value = node.child_by_field_name("value")
    if is_default:
        shown = _default(run, declaration, value, scope)
        exports["default"] = shown
    elif declaration is not None:
        before = dict(scope.names)
        run.block(declaration, scope)
        for bound in _declared(declaration):
            exports[bound] = scope.names.get(bound, before.get(bound, UNKNOWN))
    elif any(child.type == "=" for child in node.children):  # export = x
        inner = [child for child in node.named_children if child.type != "comment"]
        scope.names["module"]["exports"] = expression(inner[-1], scope, run) if inner else UNKNOWN
    for child in node.named_children:
        if child.type == "export_clause":
            for part in child.named_children:
                name = text(part.child_by_field_name("name"))
                alias = part.child_by_field_name("alias")
                found = run.attribute(held, name) if source is not None else _named(name, scope)
                exports[text(alias) if alias is not None else name] = found
        elif child.type == "namespace_export":
            exports[text(child.named_children[0])] = held
    if source is not None and any(child.type == "*" for child in node.children) and isinstance(held, dict):
        exports.update({key: each for key, each in held.items() if key != "default"})
    return ""


def _default(run: JavaScriptEvaluator, declaration: Node | None, value: Node | None, scope: Scope) -> Value:
    if declaration is None:
        return expression(value, scope, run)
    if declaration.type in ("class_declaration", "class", "abstract_class_declaration"):
        made = run.class_value(declaration, scope)
        scope.names[made.name] = made
        return made
    name = text(declaration.child_by_field_name("name"))
    known = scope.names.get(name)
    if isinstance(known, FunctionValue):
        return known
    return FunctionValue(name=name or "default", place=run.place(declaration, scope), node=declaration, scope=scope)


def _named(name: str, scope: Scope) -> Value:
    try:
        return scope.find(name)
    except KeyError:
        return UNKNOWN


def _exported(scope: Scope) -> dict[str, Value]:
    held = scope.names.get("module")
    found = held.get("exports") if isinstance(held, dict) else None
    return found if isinstance(found, dict) else {}


def _declared(node: Node) -> list[str]:
    if node.type in ("lexical_declaration", "variable_declaration"):
        return [
            text(child.child_by_field_name("name"))
            for child in node.named_children
            if child.type == "variable_declarator"
        ]
    name = node.child_by_field_name("name")
    return [text(name)] if name is not None else []
