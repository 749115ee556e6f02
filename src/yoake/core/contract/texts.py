"""What several readers of manifests share: tables that may be none, and where things stand in a text."""

from __future__ import annotations

import re
import tomllib
from bisect import bisect_right
from collections.abc import Iterator, Mapping
from functools import lru_cache
from itertools import accumulate
from typing import Any, Final

_LOOKED_THROUGH: Final = (
    2_000_000_000  # characters of one text: a second or two; what is asked for after that has no line
)


_MAX_KEY: Final = 64  # parts of a dotted key; the parser's time grows with their square
_LONG_KEY: Final = re.compile(rf"(?<![^\s.=\[\]{{}},#])(?:[^\s.=\[\]{{}},#]*+[ \t]*+\.[ \t]*+){{{_MAX_KEY}}}")


def parse_toml(text: str) -> dict[str, Any]:
    """A TOML text as plain data. Raises ValueError with what is wrong."""
    if _LONG_KEY.search(text):
        raise ValueError(f"it has a key of more than {_MAX_KEY} parts")
    try:
        return tomllib.loads(text)
    except RecursionError as error:
        raise ValueError("it is nested too deep") from error


def table(value: object) -> Mapping[str, Any]:
    """A table of a parsed file; an empty one where something else stands."""
    return value if isinstance(value, Mapping) else {}


def line_of_text(text: str, needle: str) -> int:
    """The first line that holds ``needle`` (any case), 1 when none does."""
    return _lines(text).of(needle)


class _Lines:
    """Where words stand in one text."""

    def __init__(self, text: str) -> None:
        self._text = text.lower()
        self._ends = list(accumulate(len(line) for line in self._text.splitlines(keepends=True)))
        self._left = _LOOKED_THROUGH

    def of(self, needle: str) -> int:
        if self._left <= 0:
            return 1
        at = self._text.find(needle.lower())
        self._left -= at if at >= 0 else len(self._text)
        return bisect_right(self._ends, at) + 1 if at >= 0 else 1


@lru_cache(maxsize=4)
def _lines(text: str) -> _Lines:
    return _Lines(text)


def line_numbers(content: str) -> dict[str, int]:
    """Key of a JSON object → its first line."""
    found: dict[str, int] = {}
    for number, key in _keys(content):
        found.setdefault(key, number)
    return found


def _keys(content: str) -> Iterator[tuple[int, str]]:
    for number, raw in enumerate(content.splitlines(), 1):
        stripped = raw.lstrip()
        if stripped.startswith('"'):
            end = stripped.find('"', 1)
            if end > 0:
                yield number, stripped[1:end]
