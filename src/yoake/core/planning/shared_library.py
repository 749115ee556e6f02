"""What a shared library must support at once, and until when: the lines its users stand on until they leave them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from yoake.core.values.coordinates import Coordinate, Line
    from yoake.core.values.plans import LineSlack


@dataclass(frozen=True, slots=True)
class Bridge:
    """One line to serve. ``until``: the 80 % date at which the last user leaves it, None while someone stays on it."""

    coordinate: Coordinate
    line: Line
    until: date | None
    users: tuple[str, ...]


def bridges(users: Iterable[tuple[str, Iterable[LineSlack]]], coordinates: frozenset[Coordinate]) -> list[Bridge]:
    """Lines of ``coordinates`` that a library must serve, given its users with the lines of their paths."""
    held: dict[tuple[Coordinate, Line], list[tuple[str, date | None]]] = {}
    for name, rows in users:
        for row in rows:
            if row.coordinate in coordinates:
                held.setdefault((row.coordinate, row.line), []).append((name, row.left80))
    found = []
    for (coordinate, line), stays in held.items():
        dates = [left for _, left in stays if left is not None]
        until = max(dates) if len(dates) == len(stays) else None
        found.append(Bridge(coordinate, line, until, tuple(sorted({name for name, _ in stays}))))
    return sorted(found, key=lambda b: (b.coordinate, b.line))
