"""Paths with ``:name`` as templates: what the frameworks of Node share."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final

from yoake.core.contract.evaluation import UNKNOWN, FunctionValue, Pattern, Value
from yoake.core.frameworks.regular import regex_template
from yoake.core.frameworks.routing import VERBS
from yoake.core.values.routes import ANY, joined, rooted

_PARAMETER: Final = re.compile(r":(\w+)(\((?:[^()]|\([^()]*\))*\))?([?*+]?)")
_STAR: Final = re.compile(r"\*(\w*)|\(\.\*\)")
_GROUP: Final = re.compile(r"\((?:[^()]|\([^()]*\))*\)\??")


def colon_template(path: str) -> tuple[str, frozenset[str]]:
    """``/a/:id(\\d+)/*`` as (``/a/{id}/{any}``, parameters that may hold slashes). What is optional is there."""
    if isinstance(path, Pattern):
        return regex_template(path)
    rest: set[str] = set()

    def named(found: re.Match[str]) -> str:
        if found.group(3) in ("*", "+") or found.group(2) == "(.*)":
            rest.add(found.group(1))
        return f"{{{found.group(1)}}}"

    def starred(found: re.Match[str]) -> str:
        name = found.group(1) or ("any" if not rest & {"any"} else f"any{len(rest) + 1}")
        rest.add(name)
        return f"{{{name}}}"

    shown = re.sub(r"\{(/?:\w+|[^{}:]*)\}\??", r"\1", path)  # optional parts in braces
    shown = _PARAMETER.sub(named, shown)
    shown = _STAR.sub(starred, shown)
    shown = _GROUP.sub(_group, shown)
    return shown.replace("?", "").replace("\\", ""), frozenset(rest)


def _group(found: re.Match[str]) -> str:
    """What stands in parentheses: text that may be left out is there, a pattern is a parameter."""
    written = found.group()
    return "{any}" if re.search(r"[|\\\[]", written) else written.rstrip("?")[1:-1]


def verb_of(name: str) -> str | None:
    """The method of a member such as ``get``, ``del`` or ``all``; None for every other member."""
    verb = {"del": "DELETE", "all": ANY}.get(name, name.upper())
    return verb if verb in VERBS or verb == ANY else None


def handler_of(given: Sequence[Value]) -> Value:
    """The last of what is handed over answers; what stands before it looks at the request."""
    flat = [each for part in given for each in (part if isinstance(part, list) else [part])]
    known = [each for each in flat if each is not UNKNOWN]
    return _wrapped(known[-1]) if known else UNKNOWN


def _wrapped(value: Value) -> Value:
    """The function that a wrapper of the source was handed and calls later: it is what answers."""
    for _ in range(4):
        if not isinstance(value, FunctionValue) or value.scope.outer is None:
            return value
        handed = value.scope.names.get("arguments")
        if not isinstance(handed, list) or len(handed) > 2:
            return value
        inner = [each for each in handed if isinstance(each, FunctionValue)]
        if len(inner) != 1:  # what makes a handler out of several things is one itself
            return value
        value = inner[0]
    return value


def below(prefix: str, path: str) -> str:
    """A path below a prefix; the root of a router is the prefix itself."""
    return joined(prefix, path) if path != "/" or not prefix.strip("/") else rooted(prefix)


def deeper(prefix: str, path: str) -> str:
    """The prefix of what is mounted at a path below another prefix."""
    shown, _ = colon_template(path)
    return joined(prefix, shown) if shown.strip("/") else prefix


def paths_of(value: Value) -> list[str]:
    """One path, or several in a list."""
    if isinstance(value, str):
        return [value]
    return [each for each in value if isinstance(each, str)] if isinstance(value, list) else []
