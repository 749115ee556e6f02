"""What the statements of JavaScript bind, and how a block ends. Where a condition is not known both ways are followed."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any, Final

from tree_sitter import Node

from yoake.core.contract.evaluation import UNKNOWN, ClassValue, FunctionValue, Scope, Value
from yoake.core.ecosystems.javascript.evaluation.expressions import expression, property_name
from yoake.core.ecosystems.javascript.evaluation.known_calls import truth
from yoake.core.ecosystems.javascript.evaluation.modules import export_statement, import_statement
from yoake.core.syntax.tree import text

if TYPE_CHECKING:
    from yoake.core.ecosystems.javascript.evaluation.evaluator import JavaScriptEvaluator


def _inner_block(run: JavaScriptEvaluator, node: Node, scope: Scope) -> str:
    inner = Scope({}, scope, scope.file)
    run.hoist(node, inner)
    return run.block(node, inner)


def _expression_statement(run: JavaScriptEvaluator, node: Node, scope: Scope) -> str:
    for child in node.named_children:
        if child.type != "comment":
            expression(child, scope, run)
    return ""


def _declaration(run: JavaScriptEvaluator, node: Node, scope: Scope) -> str:
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
            value = expression(child.child_by_field_name("value"), scope, run)
            name = child.child_by_field_name("name")
            if isinstance(value, FunctionValue | ClassValue) and not value.name:
                value.name = text(name)
            if child.child_by_field_name("value") is None:
                value = None
            run.assign(name, value, target)
    return ""


def _if(run: JavaScriptEvaluator, node: Node, scope: Scope) -> str:
    held = truth(expression(node.child_by_field_name("condition"), scope, run))
    consequence, alternative = node.child_by_field_name("consequence"), node.child_by_field_name("alternative")
    if held is True:
        return _one(run, consequence, scope)
    if held is False:
        return _one(run, alternative, scope)
    first = _one(run, consequence, scope)
    second = _one(run, alternative, scope)
    return first if first and second else ""


def _one(run: JavaScriptEvaluator, node: Node | None, scope: Scope) -> str:
    if node is None:
        return ""
    if node.type == "statement_block":
        return _inner_block(run, node, scope)
    return run.block(node, scope)


def _for_in(run: JavaScriptEvaluator, node: Node, scope: Scope) -> str:
    right = expression(node.child_by_field_name("right"), scope, run)
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
            run.assign(left, each, inner)
        ended = _one(run, node.child_by_field_name("body"), inner)
        if ended == "return" and each is not UNKNOWN:
            return ended
        if ended == "break" and each is not UNKNOWN:
            break
    return ""


def _loop(run: JavaScriptEvaluator, node: Node, scope: Scope) -> str:
    inner = Scope({}, scope, scope.file)
    run.block(node.child_by_field_name("initializer"), inner)
    rows = _counted(run, node, inner)
    if rows is None:
        _one(run, node.child_by_field_name("body"), inner)
        return ""
    name, numbers = rows
    for number in numbers:
        inner.names[name] = number
        if _one(run, node.child_by_field_name("body"), inner) in ("return", "break"):
            break
    return ""


def _counted(run: JavaScriptEvaluator, node: Node, scope: Scope) -> tuple[str, range] | None:
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
    start, end = _found(scope, name), expression(condition.child_by_field_name("right"), scope, run)
    return (name, range(start, min(end, 5_000))) if isinstance(start, int) and isinstance(end, int) else None


def _found(scope: Scope, name: str) -> Value:
    try:
        return scope.find(name)
    except KeyError:
        return UNKNOWN


def _try(run: JavaScriptEvaluator, node: Node, scope: Scope) -> str:
    ended = _one(run, node.child_by_field_name("body"), scope)
    finalizer = node.child_by_field_name("finalizer")
    if finalizer is not None:
        _one(run, finalizer.child_by_field_name("body"), scope)
    return ended


def _switch(run: JavaScriptEvaluator, node: Node, scope: Scope) -> str:
    body = node.child_by_field_name("body")
    for case in body.named_children if body is not None else ():
        inner = Scope({}, scope, scope.file)
        value = case.child_by_field_name("value")
        for each in case.named_children:
            if each is not value and each.type in STATEMENTS:
                run.block(each, inner)
    return ""


def _return(run: JavaScriptEvaluator, node: Node, scope: Scope) -> str:
    inner = [child for child in node.named_children if child.type != "comment"]
    run.returned(expression(inner[0], scope, run) if inner else None)
    return "return"


def _define(run: JavaScriptEvaluator, node: Node, scope: Scope) -> str:
    if node.type in ("class_declaration", "abstract_class_declaration"):
        made = run.class_value(node, scope)
        scope.names[made.name] = made
    return ""  # functions are there already


def _enum(run: JavaScriptEvaluator, node: Node, scope: Scope) -> str:
    body = node.child_by_field_name("body")
    members: dict[str, Value] = {}
    for at, child in enumerate(body.named_children if body is not None else ()):
        name = child.child_by_field_name("name") if child.type == "enum_assignment" else child
        value = child.child_by_field_name("value")
        key = property_name(name, scope, run)
        if isinstance(key, str):
            members[key] = at if value is None else expression(value, scope, run)
    scope.names[text(node.child_by_field_name("name"))] = members
    return ""


STATEMENTS: Final[dict[str, Callable[[Any, Node, Scope], str]]] = {
    "expression_statement": _expression_statement,
    "lexical_declaration": _declaration,
    "variable_declaration": _declaration,
    "if_statement": _if,
    "for_in_statement": _for_in,
    "for_statement": _loop,
    "while_statement": _loop,
    "try_statement": _try,
    "switch_statement": _switch,
    "return_statement": _return,
    "throw_statement": lambda *_: "return",
    "break_statement": lambda *_: "break",
    "continue_statement": lambda *_: "continue",
    "statement_block": _inner_block,
    "else_clause": _inner_block,
    "function_declaration": _define,
    "class_declaration": _define,
    "abstract_class_declaration": _define,
    "enum_declaration": _enum,
    "import_statement": import_statement,
    "export_statement": export_statement,
}
