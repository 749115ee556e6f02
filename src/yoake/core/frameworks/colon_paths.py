"""Paths with ``:name`` as templates: what the frameworks of Node share."""

from __future__ import annotations

import re
from typing import Final

from yoake.core.contract.evaluation import Pattern, Value
from yoake.core.frameworks.regular import regex_template

_PARAMETER: Final = re.compile(r":(\w+)(\((?:[^()]|\([^()]*\))*\))?([?*+]?)")
_STAR: Final = re.compile(r"\*(\w*)|\(\.\*\)")
_GROUP: Final = re.compile(r"\((?:[^()]|\([^()]*\))*\)\??")


def colon_template(path: str) -> tuple[str, frozenset[str]]:
    """``/a/:id(\\d+)/*`` as (``/a/{id}/{any}``, parameters that may hold slashes). What is optional is there."""
    if isinstance(path, Pattern):
        return regex_template(path)
    rest: set[str] = set()

    def named(found: re.Match[str]) -> str:
        if (found.group(3) in ("*", "+") and found.group(3)) or found.group(2) == "(.*)":
            rest.add(found.group(1))
        return f"{{{found.group(1)}}}"

    def starred(found: re.Match[str]) -> str:
        name = found.group(1) or ("any" if not rest & {"any"} else f"any{len(rest) + 1}")
        rest.add(name)
        return f"{{{name}}}"

    shown = re.sub(r"\{(/?:\w+|[^{}:]*)\}\??", r"\1", path)  # optional parts in braces
    shown = _PARAMETER.sub(named, shown)
    shown = _STAR.sub(starred, shown)
    shown = _GROUP.sub(
        lambda m: (
            m.group().rstrip("?")[1:-1]
            if "|" not in m.group() and "\\" not in m.group() and "[" not in m.group()
            else "{any}"
        ),
        shown,
    )
    return shown.replace("?", "").replace("\\", ""), frozenset(rest)


def paths_of(value: Value) -> list[str]:
    """One path, or several in a list."""
    if isinstance(value, str):
        return [value]
    return [each for each in value if isinstance(each, str)] if isinstance(value, list) else []
