"""How much every route is called: lines of access logs counted by route and day, and paths that no route fits."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Final, NamedTuple

from yoake.core.crossing.matching import RouteMatcher

if TYPE_CHECKING:
    from yoake.core.values.routes import Route

_MOST_UNMATCHED: Final = 20_000  # paths kept apart; scanners try millions, and the rare ones say nothing
_MOST_REMEMBERED: Final = 100_000  # paths whose route is remembered
_LONGEST_SHOWN: Final = 200
_IDENTIFIER: Final = re.compile(
    r"^(?:\d+|[0-9a-f]{8}-(?:[0-9a-f]{4}-){3}[0-9a-f]{12}|(?=[^/]*\d)[0-9a-f]{8,}|(?=[^/]*\d)[\w-]{20,})$",
    re.IGNORECASE,
)


class Call(NamedTuple):
    """Requests that were alike: a day as ``YYYY-MM-DD``, method, path as it was asked for, and status."""

    day: str
    method: str
    path: str
    status: int


@dataclass(frozen=True, slots=True, kw_only=True)
class UnmatchedPath:
    """A path that no route fits, identifiers in it replaced; ``answered``: requests with a status below 400."""

    method: str
    path: str
    requests: int
    answered: int


@dataclass(slots=True)
class _Unknown:
    requests: int = 0
    answered: int = 0


@dataclass(slots=True, kw_only=True)
class Traffic:
    """Counts requests. ``by_route``: position of the route → day → requests; ``errors`` those with a status of 500 and above."""

    routes: tuple[Route, ...]
    by_route: dict[int, Counter[str]] = field(default_factory=dict)
    errors: Counter[int] = field(default_factory=Counter)
    lines: int = 0
    other_lines: int = 0
    scattered: int = 0
    first_day: str = ""
    last_day: str = ""
    _day: str = ""
    _matcher: RouteMatcher = field(init=False)
    _known: dict[tuple[str, str], int | None] = field(default_factory=dict)
    _unknown: dict[tuple[str, str], _Unknown] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self._matcher = RouteMatcher(self.routes)

    def add(self, call: Call, count: int = 1) -> int | None:
        """Takes note of requests; answers the position of their route."""
        key = (call.method, call.path)
        if key in self._known:
            position = self._known[key]
        else:
            if len(self._known) >= _MOST_REMEMBERED:
                self._known.clear()
            position = self._known[key] = self._matcher.find(call.method, call.path)
        day = call.day
        if day != self._day and day:
            self._day = day
            self.first_day = min(self.first_day or day, day)
            self.last_day = max(self.last_day, day)
        if position is None:
            self._note_unknown(call, count)
            return None
        days: Counter[str] | None = self.by_route.get(position)
        if days is None:
            days = Counter[str]()
            self.by_route[position] = days
        days[day] += count
        if call.status >= 500:
            self.errors[position] += count
        return position

    def _note_unknown(self, call: Call, count: int) -> None:
        key = (call.method, folded(call.path))
        held = self._unknown.get(key)
        if held is None:
            if len(self._unknown) >= _MOST_UNMATCHED:
                self._drop_rare()
            held = self._unknown[key] = _Unknown()
        held.requests += count
        held.answered += count if call.status < 400 else 0

    def _drop_rare(self) -> None:
        ordered = sorted(self._unknown.items(), key=lambda pair: -pair[1].requests)
        for _, held in ordered[_MOST_UNMATCHED // 2 :]:
            self.scattered += held.requests
        self._unknown = dict(ordered[: _MOST_UNMATCHED // 2])

    def requests(self, position: int, since: str = "", until: str = "9999") -> int:
        """Requests of a route between two days, both included."""
        days = self.by_route.get(position, Counter[str]())
        return sum(count for day, count in days.items() if since <= day <= until)

    def unmatched(self, most: int = 200) -> list[UnmatchedPath]:
        """Paths without a route, the most called first."""
        ordered = sorted(self._unknown.items(), key=lambda pair: (-pair[1].requests, pair[0]))
        return [
            UnmatchedPath(method=method, path=path, requests=held.requests, answered=held.answered)
            for (method, path), held in ordered[:most]
        ]


def folded(path: str) -> str:
    """A path with identifiers as ``{id}``, without its query, short enough to be shown."""
    plain = path.split("?", 1)[0][: _LONGEST_SHOWN * 4]
    shown = "/".join("{id}" if _IDENTIFIER.match(part) else part for part in plain.split("/"))
    return shown if len(shown) <= _LONGEST_SHOWN else f"{shown[:_LONGEST_SHOWN]}…"
