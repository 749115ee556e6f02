"""Which routes the tests of an application call, as far as they write an address out."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from typing import TYPE_CHECKING, Final

from yoake.core.crossing.matching import RouteMatcher

if TYPE_CHECKING:
    from yoake.core.values.routes import Route

_METHODS: Final = ("GET", "POST", "PUT", "PATCH", "DELETE", "HEAD", "OPTIONS")
_WRITTEN: Final = re.compile(
    r"(?:\.(?P<verb>get|post|put|patch|delete|del|head|options)\s*\(\s*)?(?:\b[bfrFBR]{1,2})?(?P<quote>[\"'`])"
    r"(?:https?://[\w.:-]+)?(?P<path>/(?:(?!(?P=quote))[^\s\\]){0,400})(?P=quote)(?P<goes_on>\s*\+)?"
)
_FILLED: Final = re.compile(r"\$?\{[^{}]*\}|%[sd]|:\w+|<\w+>")
_MOST: Final = 20_000
"""Addresses in the tests of one source; more name the same routes again."""


def called_in_tests(texts: Iterable[str], routes: Sequence[Route]) -> frozenset[str]:
    """Names of the routes that some test calls. A call says its method where it is a client's; an address alone counts for every
    method of its route."""
    matcher = RouteMatcher(routes)
    found: set[str] = set()
    for count, (verb, path) in enumerate(_addresses(texts)):
        if count >= _MOST:
            break
        for method in (verb,) if verb else _METHODS:
            at = matcher.find(method, path)
            if at is not None:
                found.add(routes[at].name)
    return frozenset(found)


def _addresses(texts: Iterable[str]) -> Iterator[tuple[str, str]]:
    for text in texts:
        for written in _WRITTEN.finditer(text):
            verb = (written["verb"] or "").upper()
            path = _FILLED.sub("1", written["path"]) + ("1" if written["goes_on"] else "")
            yield "DELETE" if verb == "DEL" else verb, path
