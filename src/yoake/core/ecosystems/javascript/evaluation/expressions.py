"""What an expression of JavaScript comes to."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from typing import TYPE_CHECKING, Any, Final

from tree_sitter import Node

from yoake.core.contract.evaluation import (
    UNKNOWN,
    CallSite,
    FunctionValue,
    Instance,
    Model,
    Pattern,
    Reference,
    Scope,
    Value,
    unknown_piece,
)
from yoake.core.ecosystems.javascript.evaluation.compiled import helped, helper_of
from yoake.core.ecosystems.javascript.evaluation.known_calls import LONGEST, UNKNOWN_PIECE, truth
from yoake.core.syntax.tree import text

if TYPE_CHECKING:
    from yoake.core.ecosystems.javascript.evaluation.evaluator import JavaScriptEvaluator

_ESCAPE: Final = re.compile(r"\\(u\{[0-9a-fA-F]+\}|u[0-9a-fA-F]{4}|x[0-9a-fA-F]{2}|[\s\S])")
_SIGNS: Final = {"n": "\n", "t": "\t", "r": "\r", "b": "\b", "f": "\f", "0": "\0", "v": "\v"}
_INTEROP: Final = re.compile(r"interop|__importDefault|__importStar|__toESM|__toCommonJS", re.IGNORECASE)


def expression(node: Node | None, scope: Scope, run: JavaScriptEvaluator) -> Value:
    """The value of an expression."""
    if node is None:
        return UNKNOWN
    run.step()
    handler = _EXPRESSIONS.get(node.type)
    return handler(node, scope, run) if handler is not None else UNKNOWN


def _first(node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    inner = [child for child in node.named_children if child.type != "comment"]
    return expression(inner[0], scope, run) if inner else UNKNOWN


def _last(node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    value: Value = UNKNOWN
    for child in node.named_children:
        value = expression(child, scope, run)
    return value


def _name(node: Node, scope: Scope, _run: JavaScriptEvaluator) -> Value:
    name = text(node)
    try:
        return scope.find(name)
    except KeyError:
        return None if name == "undefined" else Reference(f"globalThis.{name}")


def _unescaped(found: re.Match[str]) -> str:
    sign = found.group(1)
    if sign[0] in "ux" and len(sign) > 1:
        try:
            return chr(int(sign[1:].strip("{}"), 16))
        except (ValueError, OverflowError):
            return ""
    return _SIGNS.get(sign, sign if sign != "\n" else "")


def _string(node: Node, _scope: Scope, _run: JavaScriptEvaluator) -> Value:
    return _ESCAPE.sub(_unescaped, text(node)[1:-1])


def _template(node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    parts: list[str] = []
    at = node.start_byte + 1
    source = node.text or b""
    for child in node.named_children:
        if child.type != "template_substitution":
            continue
        parts.append(source[at - node.start_byte : child.start_byte - node.start_byte].decode("utf-8", "replace"))
        value = _first(child, scope, run)
        rest = source[child.end_byte - node.start_byte : -1].decode("utf-8", "replace")
        value = value if (piece := unknown_piece("".join(parts), value, rest, UNKNOWN_PIECE)) is None else piece
        if not isinstance(value, str | int | float) or isinstance(value, bool):
            return UNKNOWN
        parts.append(str(value))
        at = child.end_byte
    parts.append(source[at - node.start_byte : -1].decode("utf-8", "replace"))
    whole = "".join(parts)
    return _ESCAPE.sub(_unescaped, whole) if len(whole) < LONGEST else UNKNOWN


def _number(node: Node, _scope: Scope, _run: JavaScriptEvaluator) -> Value:
    try:
        return json.loads(text(node)) if len(text(node)) < 40 else UNKNOWN
    except ValueError:
        return UNKNOWN


def _array(node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    found: list[Value] = []
    for child in node.named_children:
        if child.type == "spread_element":
            more = _first(child, scope, run)
            found.extend(more if isinstance(more, list) else [])
        elif child.type != "comment":
            found.append(expression(child, scope, run))
    return found


def _object(node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    made: dict[str, Value] = {}
    copied: Model | None = None  # what a framework made, and is spread: the copy does the same
    for child in node.named_children:
        if child.type == "pair":
            key = property_name(child.child_by_field_name("key"), scope, run)
            if isinstance(key, str):
                value = expression(child.child_by_field_name("value"), scope, run)
                if isinstance(value, FunctionValue) and not value.name:
                    value.name = key
                made[key] = value
        elif child.type == "shorthand_property_identifier":
            made[text(child)] = _name(child, scope, run)
        elif child.type == "spread_element":
            more = _first(child, scope, run)
            if isinstance(more, dict):
                made.update(more)
            elif isinstance(more, Model):
                copied = more
        elif child.type == "method_definition":
            _put_method(made, child, scope, run)
    return made if copied is None else copied


def _put_method(made: dict[str, Value], node: Node, scope: Scope, run: JavaScriptEvaluator) -> None:
    key = property_name(node.child_by_field_name("name"), scope, run)
    if isinstance(key, str):
        method = FunctionValue(name=key, place=run.place(node, scope), node=node, scope=scope, bound=made)
        getter = any(part.type == "get" for part in node.children)
        made[key] = run.call(method, [], {}, method.place) if getter else method


def property_name(node: Node | None, scope: Scope, run: JavaScriptEvaluator) -> Value:
    """The name of a property as it is written: plain, quoted or computed."""
    if node is None:
        return UNKNOWN
    if node.type == "string":
        return _string(node, scope, run)
    if node.type == "computed_property_name":
        return _first(node, scope, run)
    return text(node)


def _member(node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    of = expression(node.child_by_field_name("object"), scope, run)
    return run.attribute(of, text(node.child_by_field_name("property")))


def _subscript(node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    of = expression(node.child_by_field_name("object"), scope, run)
    key = expression(node.child_by_field_name("index"), scope, run)
    if isinstance(key, str):
        return run.attribute(of, key)
    if isinstance(of, list | str) and isinstance(key, int) and -1 < key < len(of):
        return of[key]
    return UNKNOWN


def arguments_of(node: Node | None, scope: Scope, run: JavaScriptEvaluator) -> list[Value]:
    """The values of a list of arguments."""
    found: list[Value] = []
    for child in node.named_children if node is not None else ():
        if child.type == "spread_element":
            more = _first(child, scope, run)
            found.extend(more if isinstance(more, list) else [])
        elif child.type != "comment":
            found.append(expression(child, scope, run))
    return found


def _call(node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    function = node.child_by_field_name("function")
    handed = node.child_by_field_name("arguments")
    if function is None or (handed is not None and handed.type == "template_string"):
        return UNKNOWN
    if function.type == "import" or (function.type == "identifier" and text(function) == "require"):
        given = arguments_of(handed, scope, run)
        return run.required(given[0], scope.file) if given and isinstance(given[0], str) else UNKNOWN
    if (
        function.type == "identifier" and text(function) == "await"
    ):  # the grammar takes “await (0, f)(x)” for a call of that name
        return _last(handed, scope, run) if handed is not None else UNKNOWN
    if function.type == "identifier" and _INTEROP.search(text(function)):
        given = arguments_of(handed, scope, run)
        return given[0] if given else UNKNOWN
    if function.type == "super":
        run.parent_built(scope, arguments_of(handed, scope, run), run.place(node, scope))
        return None
    if helper := helper_of(text(function)):
        given, place = arguments_of(handed, scope, run), run.place(node, scope)
        return helped(helper, given, run.this_of(scope), run, CallSite(given, {}, place, run))
    of = expression(function, scope, run)
    return run.call(of, arguments_of(handed, scope, run), {}, run.place(node, scope))


def _new(node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    of = expression(node.child_by_field_name("constructor"), scope, run)
    return run.made(of, arguments_of(node.child_by_field_name("arguments"), scope, run), run.place(node, scope))


def _function(node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    name = text(node.child_by_field_name("name"))
    made = FunctionValue(name=name, place=run.place(node, scope), node=node, scope=scope)
    if node.type == "arrow_function":
        made.bound = run.this_of(scope)
    return made


def _class(node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    return run.class_value(node, scope)


def _assignment(node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    value = expression(node.child_by_field_name("right"), scope, run)
    run.assign(node.child_by_field_name("left"), value, scope, declare=False)
    return value


def _augmented(node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    left = node.child_by_field_name("left")
    sign = text(node.child_by_field_name("operator")).removesuffix("=")
    held = expression(left, scope, run)
    right = expression(node.child_by_field_name("right"), scope, run)
    value = combined(held, sign, right)
    run.assign(left, value, scope, declare=False)
    return value


def combined(left: Value, sign: str, right: Value) -> Value:
    """Two values under an operator."""
    if sign in ("||", "??", "&&"):
        held = truth(left)
        if held is None:
            return right if sign != "&&" and right is not UNKNOWN and not isinstance(right, bool) else UNKNOWN
        if sign == "??":
            return right if left is None else left
        return left if held == (sign == "||") else right
    if sign == "+":
        return _added(left, right)
    known = (str, int, float, bool, type(None))
    if sign in ("===", "==", "!==", "!=") and isinstance(left, known) and isinstance(right, known):
        return (left == right) == (sign[0] == "=")
    if sign in ("<", ">", "<=", ">=") and isinstance(left, int | float) and isinstance(right, int | float):
        return {"<": left < right, ">": left > right, "<=": left <= right, ">=": left >= right}[sign]
    if sign == "in" and isinstance(right, dict) and isinstance(left, str):
        return left in right
    return UNKNOWN


def _added(left: Value, right: Value) -> Value:
    if isinstance(left, str) and isinstance(right, str | int) and not isinstance(right, bool):
        return left + str(right) if len(left) < LONGEST else UNKNOWN
    if isinstance(right, str) and isinstance(left, int) and not isinstance(left, bool):
        return str(left) + right
    if isinstance(right, str) and (piece := unknown_piece("", left, right, UNKNOWN_PIECE)) is not None:
        return piece + right
    if isinstance(left, str) and (piece := unknown_piece(left, right, "", UNKNOWN_PIECE)) is not None:
        return left + piece
    return left + right if isinstance(left, int | float) and isinstance(right, int | float) else UNKNOWN


def _binary(node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    left = expression(node.child_by_field_name("left"), scope, run)
    sign = text(node.child_by_field_name("operator"))
    if sign in ("&&", "||", "??"):
        held = truth(left)
        if (sign == "&&" and held is False) or (sign == "||" and held is True):
            return left
    return combined(left, sign, expression(node.child_by_field_name("right"), scope, run))


def _unary(node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    sign = text(node.child_by_field_name("operator"))
    value = expression(node.child_by_field_name("argument"), scope, run)
    if sign == "!":
        held = truth(value)
        return UNKNOWN if held is None else not held
    if sign == "-" and isinstance(value, int | float):
        return -value
    if sign == "typeof":
        kinds = {
            str: "string",
            bool: "boolean",
            int: "number",
            float: "number",
            FunctionValue: "function",
            dict: "object",
        }
        return kinds.get(type(value), UNKNOWN)
    return UNKNOWN


def _ternary(node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    held = truth(expression(node.child_by_field_name("condition"), scope, run))
    if held is not None:
        return expression(node.child_by_field_name("consequence" if held else "alternative"), scope, run)
    first = expression(node.child_by_field_name("consequence"), scope, run)
    second = expression(node.child_by_field_name("alternative"), scope, run)
    return first if first is not UNKNOWN and first is not None else second


def _regex(node: Node, _scope: Scope, _run: JavaScriptEvaluator) -> Value:
    flags = text(node.child_by_field_name("flags"))
    return Pattern(text(node.child_by_field_name("pattern")), is_global="g" in flags)


def _this(_node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    return run.this_of(scope)


def _super(_node: Node, scope: Scope, run: JavaScriptEvaluator) -> Value:
    this = run.this_of(scope)
    return run.parent(scope, this) if isinstance(this, Instance) else UNKNOWN


_EXPRESSIONS: Final[dict[str, Callable[[Node, Scope, Any], Value]]] = {
    "identifier": _name,
    "undefined": lambda *_: None,
    "null": lambda *_: None,
    "true": lambda *_: True,
    "false": lambda *_: False,
    "string": _string,
    "template_string": _template,
    "number": _number,
    "array": _array,
    "object": _object,
    "member_expression": _member,
    "subscript_expression": _subscript,
    "call_expression": _call,
    "new_expression": _new,
    "arrow_function": _function,
    "function_expression": _function,
    "function": _function,
    "generator_function": _function,
    "class": _class,
    "assignment_expression": _assignment,
    "augmented_assignment_expression": _augmented,
    "binary_expression": _binary,
    "unary_expression": _unary,
    "ternary_expression": _ternary,
    "await_expression": _first,
    "parenthesized_expression": _first,
    "sequence_expression": _last,
    "as_expression": _first,
    "satisfies_expression": _first,
    "non_null_expression": _first,
    "type_assertion": _last,
    "instantiation_expression": _first,
    "regex": _regex,
    "this": _this,
    "super": _super,
    "yield_expression": _first,
}
