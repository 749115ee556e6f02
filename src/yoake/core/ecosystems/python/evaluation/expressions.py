"""What an expression of Python comes to."""

from __future__ import annotations

import ast
import operator
import re
from collections.abc import Callable
from typing import TYPE_CHECKING, Any, Final

from tree_sitter import Node

from yoake.core.contract.evaluation import (
    UNKNOWN,
    FunctionValue,
    Place,
    Reference,
    Scope,
    Value,
    unknown_piece,
)
from yoake.core.ecosystems.python.evaluation.known_calls import LONGEST, elements, is_constant, truth
from yoake.core.syntax.tree import text

if TYPE_CHECKING:
    from yoake.core.ecosystems.python.evaluation.evaluator import PythonEvaluator

_UNKNOWN: Final = "{unknown}"
"""What stands for a piece of a path that nobody knows."""

_OPERATORS: Final[dict[str, Callable[[Any, Any], Any]]] = {
    "-": operator.sub,
    "//": operator.floordiv,
    "==": operator.eq,
    "!=": operator.ne,
    "<": operator.lt,
    ">": operator.gt,
    "<=": operator.le,
    ">=": operator.ge,
    "is": operator.is_,
    "is not": operator.is_not,
    "in": lambda left, right: left in right,
    "not in": lambda left, right: left not in right,
}
_PERCENT: Final = re.compile(r"%(?:\((\w+)\))?[sdr]")
_BUILTINS: Final = frozenset(dir(__builtins__) if not isinstance(__builtins__, dict) else __builtins__)


def expression(node: Node | None, scope: Scope, run: PythonEvaluator) -> Value:
    """The value of an expression."""
    if node is None:
        return UNKNOWN
    run.step()
    handler = _EXPRESSIONS.get(node.type)
    return handler(node, scope, run) if handler is not None else UNKNOWN


def _first(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    inner = [child for child in node.named_children if child.type != "comment"]
    return expression(inner[0], scope, run) if inner else UNKNOWN


def _name(node: Node, scope: Scope, _run: PythonEvaluator) -> Value:
    name = text(node)
    try:
        return scope.find(name)
    except KeyError:
        return Reference(f"builtins.{name}") if name in _BUILTINS else UNKNOWN


def _attribute(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    of = expression(node.child_by_field_name("object"), scope, run)
    return run.attribute(of, text(node.child_by_field_name("attribute")))


def string(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    """The value of a text literal; what is put into an f-string has to be known."""
    written = text(node)
    formatted = "f" in written[: written.find(written[-1:])].lower()
    if not formatted:
        try:
            return ast.literal_eval(re.sub(r"^[uU]", "", written)) if len(written) < LONGEST else UNKNOWN
        except (ValueError, SyntaxError):
            return UNKNOWN
    parts: list[str] = []
    for at, child in enumerate(node.named_children):
        if child.type == "string_content":
            parts.append(text(child).replace("{{", "{").replace("}}", "}"))
        elif child.type == "interpolation":
            value = expression(child.child_by_field_name("expression"), scope, run)
            rest = text(node.named_children[at + 1]) if at + 1 < len(node.named_children) else ""
            value = value if (piece := unknown_piece("".join(parts), value, rest, _UNKNOWN)) is None else piece
            if not isinstance(value, str | int | float):
                return UNKNOWN
            parts.append(str(value))
    return "".join(parts)


def _strings(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    parts = [string(child, scope, run) for child in node.named_children if child.type == "string"]
    if all(isinstance(part, str) for part in parts):
        return "".join(parts)
    return b"".join(parts) if all(isinstance(part, bytes) for part in parts) else UNKNOWN


def _number(node: Node, _scope: Scope, _run: PythonEvaluator) -> Value:
    try:
        return ast.literal_eval(text(node)) if node.end_byte - node.start_byte < 40 else UNKNOWN
    except (ValueError, SyntaxError):
        return UNKNOWN


def _list(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    found: list[Value] = []
    for child in node.named_children:
        if child.type == "comment":
            continue
        if child.type == "list_splat":
            found.extend(elements(_first(child, scope, run)) or [])
        else:
            found.append(expression(child, scope, run))
    return found


def _dict(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    found: dict[Any, Value] = {}
    for child in node.named_children:
        if child.type == "pair":
            key = expression(child.child_by_field_name("key"), scope, run)
            value = expression(child.child_by_field_name("value"), scope, run)
            if isinstance(key, list):
                key = tuple(key) if is_constant(key) else UNKNOWN
            try:
                found[key] = value
            except TypeError:
                continue
        elif child.type == "dictionary_splat":
            more = _first(child, scope, run)
            if isinstance(more, dict):
                found.update(more)
    return found


def _binary(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    left = expression(node.child_by_field_name("left"), scope, run)
    right = expression(node.child_by_field_name("right"), scope, run)
    return combined(left, text(node.child_by_field_name("operator")), right)


def _with_unknown(left: Value, right: Value) -> Value:
    """A path with a piece that nobody knows."""
    if isinstance(right, str) and (piece := unknown_piece("", left, right, _UNKNOWN)) is not None:
        return piece + right
    if isinstance(left, str) and (piece := unknown_piece(left, right, "", _UNKNOWN)) is not None:
        return left + piece
    return UNKNOWN


def combined(left: Value, sign: str, right: Value) -> Value:  # noqa: C901 - one case a pair of kinds
    """Two values under an operator. A list to which something unknown is added keeps what is known."""
    if sign in ("+", "|"):
        if isinstance(left, list) or isinstance(right, list):
            parts = [each for each in (left, right) if isinstance(each, list)]
            return [each for part in parts for each in part][:LONGEST]
        if sign == "|" and isinstance(left, dict) and isinstance(right, dict):
            return {**left, **right}
        if isinstance(left, str) and isinstance(right, str):
            return left + right if len(left) + len(right) < LONGEST else UNKNOWN
        if sign == "+" and isinstance(left, int | float) and isinstance(right, int | float):
            return left + right
        return _with_unknown(left, right)
    if sign == "%" and isinstance(left, str):
        return _formatted(left, right)
    if sign == "*" and isinstance(left, str | list) and isinstance(right, int) and len(left) * right < LONGEST:
        return left * right
    if sign == "/" and isinstance(left, str) and isinstance(right, str):  # folders put together
        return f"{left.rstrip('/')}/{right}"
    if sign in ("-", "//") and isinstance(left, int) and isinstance(right, int):
        try:
            return _OPERATORS[sign](left, right)
        except ZeroDivisionError:
            return UNKNOWN
    return UNKNOWN


def _formatted(form: str, value: Value) -> Value:
    values = value if isinstance(value, list) else [value]
    if isinstance(value, dict):
        if not all(isinstance(value.get(m.group(1)), str | int) for m in _PERCENT.finditer(form)):
            return UNKNOWN
        return _PERCENT.sub(lambda m: str(value.get(m.group(1))), form)
    if len(_PERCENT.findall(form)) != len(values) or not all(isinstance(each, str | int) for each in values):
        return UNKNOWN
    rest = iter(values)
    return _PERCENT.sub(lambda _: str(next(rest)), form)


def _boolean(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    left = expression(node.child_by_field_name("left"), scope, run)
    held = truth(left)
    is_and = text(node.child_by_field_name("operator")) == "and"
    if held is not None and held != is_and:
        return left
    right = expression(node.child_by_field_name("right"), scope, run)
    if held is None:
        if is_and:
            return False if truth(right) is False else UNKNOWN
        return right if left is UNKNOWN and truth(right) and not isinstance(right, bool) else UNKNOWN
    return right


def _not(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    held = truth(expression(node.child_by_field_name("argument"), scope, run))
    return UNKNOWN if held is None else not held


def _comparison(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    inner = [child for child in node.named_children if child.type != "comment"]
    if len(inner) != 2:
        return UNKNOWN
    left, right = (expression(child, scope, run) for child in inner)
    between = node.children_by_field_name("operators")
    sign = " ".join(text(each) for each in between)
    if sign in ("in", "not in") and isinstance(right, list | dict) and isinstance(left, str | int):
        known = all(each is not UNKNOWN for each in right)
        held = left in right
        return (held == (sign == "in")) if known or held else UNKNOWN
    if not (is_constant(left) and is_constant(right)) or sign not in _OPERATORS:
        if sign in ("is", "is not") and right is None and truth(left):
            return sign == "is not"
        return UNKNOWN
    try:
        return _OPERATORS[sign](left, right)
    except TypeError:
        return UNKNOWN


def _unary(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    value = expression(node.child_by_field_name("argument"), scope, run)
    return -value if isinstance(value, int | float) and text(node).startswith("-") else UNKNOWN


def _conditional(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    inner = [child for child in node.named_children if child.type != "comment"]
    if len(inner) != 3:
        return UNKNOWN
    held = truth(expression(inner[1], scope, run))
    if held is not None:
        return expression(inner[0] if held else inner[2], scope, run)
    first, second = expression(inner[0], scope, run), expression(inner[2], scope, run)
    return first if first is not UNKNOWN and first is not None else second


def _subscript(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    of = expression(node.child_by_field_name("value"), scope, run)
    inner = node.child_by_field_name("subscript")
    if inner is not None and inner.type == "slice":
        return _slice(of, inner, scope, run)
    key = expression(inner, scope, run)
    if isinstance(key, list):
        key = tuple(key)
    try:
        if isinstance(of, dict) or (isinstance(of, list | str) and isinstance(key, int)):
            return of[key]
    except (KeyError, IndexError, TypeError):
        return UNKNOWN
    if isinstance(of, Reference):  # a generic class stands for itself
        return of if not of.path.startswith(("os.environ", "django.conf")) else UNKNOWN
    return run.item(of, key)


def _slice(of: Value, node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    if not isinstance(of, list | str):
        return UNKNOWN
    bounds: list[int | None] = []
    waiting: int | None = None
    for child in node.children:
        if child.type == ":":
            bounds.append(waiting)
            waiting = None
        elif child.is_named:
            value = expression(child, scope, run)
            if not isinstance(value, int):
                return UNKNOWN
            waiting = value
    bounds.append(waiting)
    return of[slice(*bounds[:3])] if len(bounds) < 3 or bounds[2] != 0 else UNKNOWN


def _lambda(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    return FunctionValue(name="<lambda>", place=run.place(node, scope), node=node, scope=scope)


def _comprehension(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    body = node.child_by_field_name("body")
    clauses = [child for child in node.named_children if child.type in ("for_in_clause", "if_clause")]
    inner = Scope({}, scope, scope.file)
    rows: list[Value] = []

    def follow(rest: list[Node]) -> None:
        if len(rows) >= LONGEST:
            return
        if not rest:
            if body is not None and body.type == "pair":
                key = expression(body.child_by_field_name("key"), inner, run)
                rows.append((key, expression(body.child_by_field_name("value"), inner, run)))
            else:
                rows.append(expression(body, inner, run))
            return
        clause = rest[0]
        if clause.type == "if_clause":
            if truth(_first(clause, inner, run)) is not False:
                follow(rest[1:])
            return
        for each in elements(expression(clause.child_by_field_name("right"), inner, run)) or []:
            run.assign(clause.child_by_field_name("left"), each, inner)
            follow(rest[1:])

    follow(clauses)
    if node.type == "dictionary_comprehension":
        return {key: value for key, value in rows if isinstance(key, str | int)}
    return rows


def _named(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    value = expression(node.child_by_field_name("value"), scope, run)
    run.assign(node.child_by_field_name("name"), value, scope)
    return value


def call(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    """A call: arguments first, then what is called."""
    function = node.child_by_field_name("function")
    if function is not None and function.type == "identifier" and text(function) == "super":
        return run.parent_of(scope)
    if function is not None and function.type == "identifier" and text(function) in ("globals", "locals", "vars"):
        return scope.names
    of = expression(function, scope, run)
    handed = node.child_by_field_name("arguments")
    if handed is not None and handed.type == "generator_expression":
        return run.call(of, [_comprehension(handed, scope, run)], {}, run.place(node, scope))
    arguments: list[Value] = []
    keywords: dict[str, Value] = {}
    for child in handed.named_children if handed is not None else ():
        if child.type == "keyword_argument":
            keywords[text(child.child_by_field_name("name"))] = expression(
                child.child_by_field_name("value"), scope, run
            )
        elif child.type == "list_splat":
            arguments.extend(elements(_first(child, scope, run)) or [])
        elif child.type == "dictionary_splat":
            more = _first(child, scope, run)
            if isinstance(more, dict):
                keywords.update({key: value for key, value in more.items() if isinstance(key, str)})
        elif child.type != "comment":
            arguments.append(expression(child, scope, run))
    return run.call(of, arguments, keywords, run.place(node, scope))


def _yield(node: Node, scope: Scope, run: PythonEvaluator) -> Value:
    value = _first(node, scope, run) if node.named_child_count else None
    run.yielded(elements(value) or [] if "from" in text(node)[:11] else [value])
    return UNKNOWN


def place(node: Node, file: str) -> Place:
    """Where a node stands."""
    return Place(file, node.start_point.row + 1)


_EXPRESSIONS: Final[dict[str, Callable[[Node, Scope, Any], Value]]] = {
    "identifier": _name,
    "attribute": _attribute,
    "string": string,
    "concatenated_string": _strings,
    "integer": _number,
    "float": _number,
    "true": lambda *_: True,
    "false": lambda *_: False,
    "none": lambda *_: None,
    "list": _list,
    "tuple": _list,
    "set": _list,
    "expression_list": _list,
    "pattern_list": _list,
    "dictionary": _dict,
    "binary_operator": _binary,
    "boolean_operator": _boolean,
    "not_operator": _not,
    "comparison_operator": _comparison,
    "unary_operator": _unary,
    "conditional_expression": _conditional,
    "subscript": _subscript,
    "lambda": _lambda,
    "list_comprehension": _comprehension,
    "set_comprehension": _comprehension,
    "generator_expression": _comprehension,
    "dictionary_comprehension": _comprehension,
    "parenthesized_expression": _first,
    "await": _first,
    "named_expression": _named,
    "call": call,
    "yield": _yield,
}
