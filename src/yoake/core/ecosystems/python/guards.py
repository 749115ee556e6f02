"""Which statements keep a use from breaking: import fallbacks, version tests, feature tests, typing-only blocks."""

from __future__ import annotations

from typing import Final

from tree_sitter import Node

from yoake.core.ecosystems.python.tree import dotted
from yoake.core.ecosystems.python.version_tests import mentions_version, read_test
from yoake.core.syntax.tree import statements, text
from yoake.core.values.facts import Guard

_IMPORT_ERRORS: Final = frozenset(("ImportError", "ModuleNotFoundError"))
_ANY_ERRORS: Final = frozenset(("Exception", "BaseException", "StandardError"))
_IMPORTING: Final = frozenset(("import_statement", "import_from_statement"))
_IMPORTERS: Final = frozenset(("__import__", "import_module"))
_INSIDE: Final = frozenset(("function_definition", "class_definition", "lambda"))
_NAME_ERRORS: Final = frozenset(("AttributeError", "NameError"))
_LEAVING: Final = frozenset(("return_statement", "raise_statement", "continue_statement", "break_statement"))


def guard_of_condition(condition: Node | None, group: int, *, negated: bool = False) -> Guard | None:
    """The guard that an ``if`` puts on its body, or with ``negated`` on what runs otherwise."""
    if condition is None:
        return None
    if text(condition).endswith("TYPE_CHECKING"):
        return None if negated else Guard("typing", group)
    test = read_test(condition)
    if test is not None:
        return Guard("version", group, test.negated() if negated else test)
    if mentions_version(condition):
        return Guard("feature", group)
    return None


def leaves_block(node: Node) -> bool:
    """Whether an ``if`` without ``else`` always leaves the block it stands in."""
    if any(child.type in ("else_clause", "elif_clause") for child in node.named_children):
        return False
    body = node.child_by_field_name("consequence")
    last = list(statements(body))[-1:] if body is not None else []
    return bool(last) and last[0].type in _LEAVING


def try_guard(node: Node, group: int) -> Guard | None:
    """The guard of a ``try`` that catches a failing import or a missing name and goes on.

    What catches everything is there for an import only where it stands around one: around anything else it hides what breaks.
    """
    kinds: set[str] = set()
    for clause in node.named_children:
        if clause.type != "except_clause" or _gives_up(clause):
            continue
        names = _caught(clause)
        if names & _IMPORT_ERRORS or (
            (not names or names & _ANY_ERRORS) and _imports(node.child_by_field_name("body"))
        ):
            kinds.add("import-error")
        if names & _NAME_ERRORS:
            kinds.add("attribute-error")
    if not kinds:
        return None
    return Guard("+".join(sorted(kinds)), group)


def _imports(body: Node | None) -> bool:
    """Whether a block imports something when it runs."""
    waiting = [body] if body is not None else []
    while waiting:
        node = waiting.pop()
        if node.type in _IMPORTING:
            return True
        if (
            node.type == "call"
            and (dotted(node.child_by_field_name("function")) or "").rsplit(".", 1)[-1] in _IMPORTERS
        ):
            return True
        waiting.extend(child for child in node.named_children if child.type not in _INSIDE)
    return False


def _caught(clause: Node) -> set[str]:
    """Last parts of the exception names a clause catches; empty for a bare ``except``."""
    names: set[str] = set()
    waiting = [c for c in clause.named_children if c.type not in ("block", "comment")]
    while waiting:
        node = waiting.pop()
        path = dotted(node)
        if path:
            names.add(path.rsplit(".", 1)[-1])
        elif node.type == "as_pattern":
            waiting.extend(node.named_children[:1])
        else:
            waiting.extend(node.named_children)
    return names


def _gives_up(clause: Node) -> bool:
    """A handler that raises again or ends the program keeps nothing from breaking."""
    body = next((c for c in clause.named_children if c.type == "block"), None)
    last = list(statements(body))[-1:] if body is not None else []
    if not last:
        return False
    if last[0].type == "raise_statement":
        return True
    return text(last[0]).startswith(("sys.exit(", "exit(", "os._exit("))
