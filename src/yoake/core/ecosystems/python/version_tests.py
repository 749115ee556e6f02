"""Tests of a version inside code: ``if sys.version_info >= (3, 10)``, ``if six.PY2``, ``if django.VERSION < (4,)``."""

from __future__ import annotations

import re
from typing import Final

from tree_sitter import Node

from yoake.core.ecosystems.python.tree import dotted, version_tuple
from yoake.core.syntax.tree import text
from yoake.core.values.version_test import VersionTest

_FLIP: Final = {"<": ">", ">": "<", "<=": ">=", ">=": "<=", "==": "==", "!=": "!="}
_FLAG: Final = re.compile(
    r"(?:is_?|have_|at_least_)?py(?:thon)?_?([23])(k|_?\d{1,2})?(?:_?plus|_or_later|_or_newer)?$", re.IGNORECASE
)
"""What code for several versions calls its tests: ``PY2``, ``py3k``, ``IS_PY3``, ``py33``, ``PY37_PLUS``, ``PY_310``."""

_SUBJECTS: Final = {
    "sys.version_info": "python",
    "version_info": "python",
    "django.VERSION": "django",
    "DJANGO_VERSION": "django",
    "VERSION": "django",
    "six.sys.version_info": "python",
}


def _subject(node: Node) -> tuple[str, bool] | None:
    """(subject, whether it is one number): ``sys.version_info[0]``, ``.major`` and ``[:2]`` included."""
    if node.type == "subscript":
        inner = _SUBJECTS.get(dotted(node.child_by_field_name("value")) or "")
        index = node.child_by_field_name("subscript")
        if inner and index is not None:
            if text(index) == "0":
                return inner, True
            if index.type == "slice":
                return inner, False
        return None
    path = dotted(node) or ""
    if path.endswith(".major") and _SUBJECTS.get(path[:-6]):
        return _SUBJECTS[path[:-6]], True
    subject = _SUBJECTS.get(path)
    return (subject, False) if subject else None


def read_test(node: Node | None) -> VersionTest | None:
    """The version test that a condition is, or None."""
    while node is not None and node.type == "parenthesized_expression":
        node = node.named_children[0] if node.named_children else None
    if node is None:
        return None
    if node.type == "not_operator":
        inner = read_test(node.child_by_field_name("argument"))
        return inner.negated() if inner else None
    if node.type in ("identifier", "attribute"):
        return _flag((dotted(node) or "").rsplit(".", 1)[-1])
    if node.type != "comparison_operator" or len(node.named_children) != 2:
        return None
    left, right = node.named_children
    op = "".join(child.type for child in node.children if not child.is_named)
    if op not in _FLIP:
        return None
    subject, value = _subject(left), version_tuple(right)
    if subject is None:
        subject, value, op = _subject(right), version_tuple(left), _FLIP[op]
    if subject is None or value is None:
        return None
    return VersionTest(subject[0], op, value)


def _flag(name: str) -> VersionTest | None:
    """The test behind a name such as ``PY2`` or ``py36``: of Python 2 itself, or of a line of Python 3 and all later ones."""
    found = _FLAG.match(name)
    if found is None:
        return None
    major, minor = int(found.group(1)), (found.group(2) or "").strip("_")
    if not minor or minor.lower() == "k":
        return VersionTest("python", "==" if major == 2 else ">=", (major,))
    return VersionTest("python", ">=", (major, int(minor)))


def mentions_version(node: Node | None) -> bool:
    """Whether a condition that is no plain version test still speaks of a version or of a feature."""
    shown = text(node)
    return any(
        word in shown
        for word in (
            "version_info",
            "hexversion",
            "PY2",
            "PY3",
            "django.VERSION",
            "DJANGO_VERSION",
            "hasattr(",
            "find_spec(",
            "python_version",
            "platform.python_implementation",
        )
    )
