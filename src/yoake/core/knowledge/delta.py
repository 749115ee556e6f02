"""What changes between two lines of a timeline, whether this code uses it or not."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from yoake.core.knowledge.timeline import Timeline
    from yoake.core.values.coordinates import Line


@dataclass(frozen=True, slots=True)
class Change:
    """One symbol of a delta. ``kind``: removed, moved, deprecated or new; ``at`` the first line that differs."""

    symbol: str
    kind: str
    at: Line
    note: str = ""
    used: bool = False


def delta(
    timeline: Timeline, today: Line, goal: Line, used: Iterable[str] = (), shown: Callable[[str], str] | None = None
) -> list[Change]:
    """Changes from one line to another: removed and deprecated first, each lost thing once, at its outermost name.

    ``shown``: a path as people write it.
    """
    start, end = timeline.floor(today), timeline.floor(goal)
    if start is None or end is None or start >= end:
        return []
    names = set(used)
    found = list(_changes(timeline, start, end, names, shown or str))
    rank = {"removed": 0, "deprecated": 1, "new": 2}
    return sorted(found, key=lambda c: (rank[c.kind], c.symbol))


def _changes(timeline: Timeline, start: int, end: int, used: set[str], shown: Callable[[str], str]) -> Iterator[Change]:
    for path, symbol in timeline.symbols.items():
        if any(part.startswith("_") for part in path.split(".")):
            continue
        here, there = symbol.offers >> start & 1, symbol.offers >> end & 1
        kind = ""
        if here and not there:
            answer = timeline.ask(path)
            lost = not (answer.offers | answer.unknown) >> end & 1
            kind = "removed" if lost else ""
        elif there and not here and not (timeline.ask(path).offers | timeline.ask(path).unknown) >> start & 1:
            kind = "new"
        elif here and there and symbol.deprecates >> end & 1 and not symbol.deprecates >> start & 1:
            kind = "deprecated"
        if not kind or _covered(timeline, path, kind, start, end):
            continue
        at = next((i for i in range(start + 1, end + 1) if _differs(symbol.offers, symbol.deprecates, kind, i)), end)
        written = shown(path)
        yield Change(written, kind, timeline.names[at], timeline.note(path, end) or "", path in used or written in used)


def _differs(offers: int, deprecates: int, kind: str, at: int) -> bool:
    if kind == "deprecated":
        return bool(deprecates >> at & 1)
    return bool(offers >> at & 1) == (kind == "new")


def _covered(timeline: Timeline, path: str, kind: str, start: int, end: int) -> bool:
    """Whether the thing that holds this symbol changes the same way: then that is told instead."""
    if "." not in path:
        return False
    parent = timeline.symbols.get(path.rsplit(".", 1)[0])
    if parent is None:
        return False
    here, there = parent.offers >> start & 1, parent.offers >> end & 1
    return bool((kind == "removed" and here and not there) or (kind == "new" and there and not here))
