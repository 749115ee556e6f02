"""Where package.json asks for packages, and a range in its manner for another release."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Final

from yoake.core.values.coordinates import line_key

_TOKEN: Final = re.compile(r'"(?:[^"\\\n]|\\.)*"|[{}\[\]:,]')
"""A text, or a sign that gives JSON its shape; numbers and words between them do not matter here."""


def dependency_ranges(text: str, groups: frozenset[str]) -> Iterator[tuple[str, str, int, int]]:
    """(group, package, from, to) of each range in objects of the outermost one that are called as ``groups`` are, quotes left out."""
    keys: list[str] = []
    key, before, depth = "", "", 0
    for token in _TOKEN.finditer(text):
        sign = token.group()
        if sign in "{[":
            keys.append(key if before == ":" else "")
            depth += 1
        elif sign in "}]":
            depth -= 1
            if keys:
                keys.pop()
        elif sign[0] == '"':
            if before == ":" and depth == 2 and keys[1] in groups:
                yield keys[1], key, token.start() + 1, token.end() - 1
            elif before != ":":
                key = sign[1:-1]
        before = sign


def respecified(wanted: str, release: str) -> str:
    """``^1.2.3`` becomes ``^5.0.1``, ``~1.2.3`` ``~5.0.1``, ``1.x`` ``5.x``, ``1.2.3`` ``5.0.1``; what joins ranges, ``^5.0.1``."""
    first = wanted.strip()
    if re.fullmatch(r"[v=]?\d+\.\d+\.\d+", first):
        return release
    if re.fullmatch(r"\d+(\.\d+)?(\.[x*])+|\d+", first):
        return f"{line_key(release)[0]}.x" if "." in first else str(line_key(release)[0])
    return f"~{release}" if re.fullmatch(r"~\s*[\w.-]+", first) else f"^{release}"
