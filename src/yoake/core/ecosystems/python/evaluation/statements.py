"""What the statements of Python bind, and how a block ends. Where a condition is not known both ways are followed."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any, Final

from tree_sitter import Node

from yoake.core.contract.evaluation import (
    UNKNOWN,
    ClassValue,
    FunctionValue,
    Instance,
    Model,
    ModuleValue,
    Reference,
    Scope,
    Value,
)
from yoake.core.ecosystems.python.evaluation.expressions import combined, expression
from yoake.core.ecosystems.python.evaluation.known_calls import elements, truth
from yoake.core.ecosystems.python.evaluation.modules import VENDORED
from yoake.core.syntax.tree import statements, text

if TYPE_CHECKING:
    from yoake.core.ecosystems.python.evaluation.evaluator import PythonEvaluator


_SETTER: Final = re.compile(r"@\s*\w+\.(?:setter|deleter)\s*")


def _expression_statement(run: PythonEvaluator, node: Node, scope: Scope) -> str:
    for child in node.named_children:
        if child.type == "assignment":
            _assignment(run, child, scope)
        elif child.type == "augmented_assignment":
            _augmented(run, child, scope)
        else:
            expression(child, scope, run)
    return ""


def _assignment(run: PythonEvaluator, node: Node, scope: Scope) -> Value:
    right = node.child_by_field_name("right")
    if right is None:
        return UNKNOWN
    value = _assignment(run, right, scope) if right.type == "assignment" else expression(right, scope, run)
    run.assign(node.child_by_field_name("left"), value, scope)
    return value


def _augmented(run: PythonEvaluator, node: Node, scope: Scope) -> None:
    left = node.child_by_field_name("left")
    held = expression(left, scope, run)
    more = expression(node.child_by_field_name("right"), scope, run)
    sign = text(node.child_by_field_name("operator")).removesuffix("=")
    if isinstance(held, list) and sign == "+":
        held.extend(elements(more) or [])
    elif held is UNKNOWN and isinstance(more, list):
        run.assign(left, list(more), scope)
    else:
        run.assign(left, combined(held, sign, more), scope)


def _if(run: PythonEvaluator, node: Node, scope: Scope) -> str:
    held = truth(expression(node.child_by_field_name("condition"), scope, run))
    if held:
        return run.block(node.child_by_field_name("consequence"), scope)
    ends: list[str] = []
    said: dict[str, Value] = {}
    if held is None:
        ends.append(run.block(node.child_by_field_name("consequence"), scope))
        said = dict(scope.names)
    closed = False
    for other in node.children_by_field_name("alternative"):
        if other.type == "else_clause":
            closed = True
            ends.append(run.block(other.child_by_field_name("body"), scope))
            continue
        held = truth(expression(other.child_by_field_name("condition"), scope, run))
        if held is not False:
            ends.append(run.block(other.child_by_field_name("consequence"), scope))
        if held:
            closed = True
            break
    if closed:
        _keep_what_is_said(scope, said)
    return ends[0] if closed and ends and all(ends) else ""


def _keep_what_is_said(scope: Scope, said: dict[str, Value]) -> None:
    """A name that one way gives a value and the other nothing has that value: both may be so, and only the value leads on."""
    for name, value in said.items():
        held = scope.names.get(name, UNKNOWN)
        if held is not value and (held is None or held is UNKNOWN) and value is not None:
            scope.names[name] = value


def _for(run: PythonEvaluator, node: Node, scope: Scope) -> str:
    found = elements(expression(node.child_by_field_name("right"), scope, run))
    for each in found if found is not None else [UNKNOWN]:
        run.assign(node.child_by_field_name("left"), each, scope)
        ended = run.block(node.child_by_field_name("body"), scope)
        if ended == "return" and found is not None:
            return ended
        if ended == "break" and found is not None:
            break
    return ""


def _while(run: PythonEvaluator, node: Node, scope: Scope) -> str:
    if truth(expression(node.child_by_field_name("condition"), scope, run)) is not False:
        run.block(node.child_by_field_name("body"), scope)
    return ""


def _try(run: PythonEvaluator, node: Node, scope: Scope) -> str:
    ended = run.block(node.child_by_field_name("body"), scope)
    if ended == "return" and run.returned_nothing_known():
        ended = ""  # the attempt may have failed: what follows is what is left to say
    for child in node.named_children:
        if child.type == "else_clause" and not ended:
            ended = run.block(child.child_by_field_name("body"), scope)
        elif child.type == "finally_clause" or (
            child.type == "except_clause" and _is_import_of_nothing(run, node, scope.file)
        ):
            run.block(child.named_children[-1], scope)
    return ended


def _is_import_of_nothing(run: PythonEvaluator, node: Node, file: str) -> bool:
    """Whether a try imports a module of the source that is not there: then the handler runs."""
    body = node.child_by_field_name("body")
    for each in statements(body) if body is not None else ():
        if each.type == "import_from_statement":
            name = text(each.child_by_field_name("module_name"))
            level = len(name) - len(name.lstrip("."))
            if level and run.relative(level, name.lstrip("."), file) is None:
                return True
    return False


def _with(run: PythonEvaluator, node: Node, scope: Scope) -> str:
    items = [
        item
        for clause in node.named_children
        if clause.type == "with_clause"
        for item in clause.named_children
        if item.type == "with_item"
    ]
    return _inside(run, items, node, scope)


def _inside(run: PythonEvaluator, items: Sequence[Node], node: Node, scope: Scope) -> str:
    """The body of a ``with``, inside of what its items enter: of a generator at its ``yield``, of an object between its two functions."""
    if not items:
        return run.block(node.child_by_field_name("body"), scope)
    value = items[0].child_by_field_name("value")
    named = value is not None and value.type == "as_pattern"
    alias = value.child_by_field_name("alias") if value is not None and named else None
    ends: list[str] = []

    def body(entered: Value) -> None:
        if alias is not None:
            run.assign(alias.named_children[0] if alias.named_children else alias, entered, scope)
        ends.append(_inside(run, items[1:], node, scope))

    found = run.entering(body, value.named_children[0] if value is not None and named else value, scope)
    if not ends:
        enter = run.attribute(found, "__enter__") if isinstance(found, Instance) else UNKNOWN
        entered = run.call(enter, [], {}, run.place(node, scope)) if isinstance(enter, FunctionValue) else found
        body(found if entered is UNKNOWN or entered is None else entered)
        leave = run.attribute(found, "__exit__") if isinstance(found, Instance) else UNKNOWN
        if isinstance(leave, FunctionValue):
            run.call(leave, [None, None, None], {}, run.place(node, scope))
    return ends[0]


def _define(run: PythonEvaluator, node: Node, scope: Scope) -> Value:
    if node.type == "function_definition":
        name = text(node.child_by_field_name("name"))
        made: Value = FunctionValue(name=name, place=run.place(node, scope), node=node, scope=scope)
    else:
        made = _class(run, node, scope)
    scope.names[made.name] = made
    return made


def _class(run: PythonEvaluator, node: Node, scope: Scope) -> ClassValue:
    bases: list[Value] = []
    keywords: dict[str, Value] = {}
    listed = node.child_by_field_name("superclasses")
    for child in listed.named_children if listed is not None else ():
        if child.type == "keyword_argument":
            keywords[text(child.child_by_field_name("name"))] = expression(
                child.child_by_field_name("value"), scope, run
            )
        elif child.type != "comment":
            bases.append(expression(child, scope, run))
    inner = Scope({}, scope, scope.file)
    made = ClassValue(
        name=text(node.child_by_field_name("name")),
        place=run.place(node, scope),
        bases=bases,
        members=inner.names,
        marks=[],
        keywords=keywords,
    )
    run.block(node.child_by_field_name("body"), inner)
    for each in inner.names.values():
        if isinstance(each, FunctionValue) and each.holder is None and each.scope is inner:
            each.holder = made
            each.scope = scope
    return made


def _definition(run: PythonEvaluator, node: Node, scope: Scope) -> str:
    _define(run, node, scope)
    return ""


def _decorated(run: PythonEvaluator, node: Node, scope: Scope) -> str:
    definition = node.child_by_field_name("definition")
    if definition is None:
        return ""
    if any(child.type == "decorator" and _SETTER.fullmatch(text(child)) for child in node.named_children):
        return ""  # the property of that name stays what it is
    decorators = [
        (expression(child.named_children[0], scope, run), run.place(child, scope))
        for child in node.named_children
        if child.type == "decorator" and child.named_children
    ]
    made = _define(run, definition, scope)
    for decorator, where in reversed(decorators):
        made.marks.append(decorator)
        run.call(decorator, [made], {}, where)
    return ""


def _import(run: PythonEvaluator, node: Node, scope: Scope) -> str:
    for child in node.named_children:
        if child.type == "aliased_import":
            name = text(child.child_by_field_name("name"))
            scope.names[text(child.child_by_field_name("alias"))] = _imported(run, name, scope.file)
        elif child.type == "dotted_name":
            name = text(child)
            head = name.split(".")[0]
            whole = _imported(run, name, scope.file)
            scope.names[head] = _imported(run, head, scope.file) if head != name else whole
    return ""


def _imported(run: PythonEvaluator, name: str, file: str) -> Value:
    return run.module(name, file) or Reference(VENDORED.split(name)[-1])


def _import_from(run: PythonEvaluator, node: Node, scope: Scope) -> str:
    module = node.child_by_field_name("module_name")
    name = text(module)
    found: ModuleValue | None
    if name.startswith("."):
        level = len(name) - len(name.lstrip("."))
        found = run.relative(level, name.lstrip("."), scope.file)
    else:
        found = run.module(name, scope.file)
    if any(child.type == "wildcard_import" for child in node.named_children):
        _star(found, scope)
        return ""
    for child in node.children_by_field_name("name"):
        alias = child.child_by_field_name("alias") if child.type == "aliased_import" else None
        wanted = text(child.child_by_field_name("name") if child.type == "aliased_import" else child)
        bound = text(alias) if alias is not None else wanted
        if found is not None:
            scope.names[bound] = run.member_of_module(found, wanted)
        elif not name.startswith("."):
            path = f"{VENDORED.split(name)[-1]}.{wanted}"
            model = run.model(path)
            scope.names[bound] = model if isinstance(model, Model) else Reference(path)
    return ""


def _star(found: ModuleValue | None, scope: Scope) -> None:
    if found is None:
        return
    listed = found.scope.names.get("__all__")
    for key, value in list(found.scope.names.items()):
        if (key in listed) if isinstance(listed, list) and listed else not key.startswith("_"):
            scope.names[key] = value


def _return(run: PythonEvaluator, node: Node, scope: Scope) -> str:
    inner = [child for child in node.named_children if child.type != "comment"]
    run.returned(expression(inner[0], scope, run) if inner else None)
    return "return"


def _match(run: PythonEvaluator, node: Node, scope: Scope) -> str:
    body = node.child_by_field_name("body")
    for case in body.named_children if body is not None else ():
        run.block(case.child_by_field_name("consequence"), scope)
    return ""


STATEMENTS: Final[dict[str, Callable[[Any, Node, Scope], str]]] = {
    "expression_statement": _expression_statement,
    "if_statement": _if,
    "for_statement": _for,
    "while_statement": _while,
    "try_statement": _try,
    "with_statement": _with,
    "function_definition": _definition,
    "class_definition": _definition,
    "decorated_definition": _decorated,
    "import_statement": _import,
    "import_from_statement": _import_from,
    "return_statement": _return,
    "raise_statement": lambda *_: "return",
    "break_statement": lambda *_: "break",
    "continue_statement": lambda *_: "continue",
    "match_statement": _match,
}
