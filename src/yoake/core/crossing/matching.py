"""Which route a path belongs to."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Final
from urllib.parse import unquote

from yoake.core.values.routes import ANY, Route

LONGEST_PATH: Final = 8_192  # letters; longer ones are no address that anybody declared
_PARAMETER: Final = re.compile(r"\{([^{}]*)\}")
_MOST_STEPS: Final = 400  # nodes that one path may visit; templates that overlap take a handful
_KEPT_SLASH: Final = re.compile(r"%2f", re.IGNORECASE)


@dataclass(slots=True)
class _Node:
    """One segment of all templates that begin alike."""

    literal: dict[str, _Node] = field(default_factory=dict)
    mixed: list[tuple[re.Pattern[str], _Node]] = field(default_factory=list)
    one: _Node | None = None
    rest: dict[str, int] = field(default_factory=dict)
    here: dict[str, int] = field(default_factory=dict)


class RouteMatcher:
    """Finds the route of a method and a path: what is written out wins over parameters, and these over what takes all the rest.

    A slash at the end matters only where both forms are declared.
    """

    def __init__(self, routes: Sequence[Route]) -> None:
        self.routes = tuple(routes)
        self._root = _Node()
        self._lenient = _Node()
        for position, route in enumerate(self.routes):
            self._add(self._root, route.path, route, position)
            other = route.path.rstrip("/") if route.path.endswith("/") else f"{route.path}/"
            self._add(self._lenient, other or "/", route, position)

    @staticmethod
    def _add(root: _Node, path: str, route: Route, position: int) -> None:
        node = root
        segments = path.lstrip("/").split("/")
        for at, segment in enumerate(segments):
            names = _PARAMETER.findall(segment)
            if names and names[-1] in route.rest and at == len(segments) - 1 and segment.startswith("{"):
                node.rest.setdefault(route.method, position)
                return
            if not names:
                node = node.literal.setdefault(segment, _Node())
            elif segment == f"{{{names[0]}}}" and names[0] not in route.rest:
                node.one = node.one or _Node()
                node = node.one
            else:
                node = _mixed(node, segment, route.rest)
        node.here.setdefault(route.method, position)

    def find(self, method: str, path: str) -> int | None:
        """The position of the route that answers; None where no template fits."""
        plain = normal_path(path)
        if plain is None:
            return None
        segments = plain.lstrip("/").split("/")
        wanted = (method, "GET", ANY) if method == "HEAD" else (method, ANY)
        for root in (self._root, self._lenient):
            found = self._search(root, segments, wanted)
            if found is not None:
                return found
        return None

    def _search(self, root: _Node, segments: list[str], wanted: tuple[str, ...]) -> int | None:
        waiting: list[tuple[_Node, int]] = []
        node, at, steps = root, 0, 0
        last = len(segments)
        whole: int | None = None
        while True:
            steps += 1
            if at == last:
                found = _of_method(node.here, wanted)
                if found is not None:
                    return found
            else:
                if node.rest:
                    whole = self._longer(whole, _of_method(node.rest, wanted))
                segment = segments[at]
                at += 1
                if node.one is not None and segment:
                    waiting.append((node.one, at))
                if node.mixed:
                    waiting.extend((below, at) for pattern, below in reversed(node.mixed) if pattern.fullmatch(segment))
                literal = node.literal.get(segment)
                if literal is not None:
                    node = literal
                    continue
            if not waiting or steps > _MOST_STEPS:
                return whole
            node, at = waiting.pop()

    def _longer(self, one: int | None, other: int | None) -> int | None:
        """Of two routes that take all the rest, the one that is written out farther."""
        if one is None or other is None:
            return other if one is None else one
        return other if len(self.routes[other].path) > len(self.routes[one].path) else one


def _mixed(node: _Node, segment: str, rest: Iterable[str]) -> _Node:
    """A segment with text and parameters; every parameter takes as little as it can and is bounded by the text behind it."""
    parts = _PARAMETER.split(segment)
    written = "".join(re.escape(part) if i % 2 == 0 else "([^/]+?)" for i, part in enumerate(parts))
    for pattern, below in node.mixed:
        if pattern.pattern == written:
            return below
    below = _Node()
    node.mixed.append((re.compile(written), below))
    return below


def _of_method(table: dict[str, int], wanted: tuple[str, ...]) -> int | None:
    for method in wanted:
        if method in table:
            return table[method]
    return None


def normal_path(path: str) -> str | None:
    """A path as routes see it: without query, percent signs resolved but for slashes. None for what no client sends by itself:
    steps upwards, no slash in front, NUL, or beyond measure."""
    plain = path.split("?", 1)[0].split("#", 1)[0]
    if not plain.startswith("/") or len(plain) > LONGEST_PATH:
        return None
    if "%" in plain:
        plain = unquote(_KEPT_SLASH.sub("%252F", plain), errors="replace")
    if "\0" in plain or "/../" in f"{plain}/":
        return None
    return re.sub(r"/{2,}", "/", plain) if "//" in plain else plain
