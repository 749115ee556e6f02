"""Slices: routes that move together, what each brings that is not there yet, and an order that pays early."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING, Final

import networkx as nx

from yoake.core.crossing.parts import Needs, Part
from yoake.core.values.journeys import BroughtSlice

if TYPE_CHECKING:
    from yoake.core.values.findings import Finding
    from yoake.core.values.routes import Route

_ALIKE: Final = 0.5  # of the smaller one's code, from which two groups are one slice
_FEW: Final = 12  # slices by prefix; of more, those of one route are put together
_NO_SLICE: Final = "in no slice"
_MOST_COMPARED: Final = 400  # groups that are compared with one another; more are joined by their prefix first


class SliceBasis(StrEnum):
    """What routes have in common that makes them one slice."""

    PREFIX = "prefix"
    CODE = "code"
    TABLES = "tables"


@dataclass(frozen=True, slots=True, kw_only=True)
class Slice:
    """Routes that move together. ``calls`` a week; ``own`` are lines that nobody else needs, ``shared`` those that others need too."""

    name: str
    routes: tuple[str, ...]
    calls: float
    own: int
    shared: int
    tables: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderedSlice:
    """A slice in its place: ``brings`` are lines that no slice before it brought, ``cumulated`` all up to here; ``calls_share`` of the
    calls that are on the new side after it."""

    slice: Slice
    brings: int
    cumulated: int
    calls_share: float


@dataclass(frozen=True, slots=True)
class SharedPart:
    """A part that several routes need."""

    part: Part
    routes: int


def needed_by_many(needs: Mapping[str, Needs], most: int = 20) -> list[SharedPart]:
    """What the most routes need, first."""
    count = Counter(part for each in needs.values() for part in each.parts)
    ordered = sorted(count.items(), key=lambda pair: (-pair[1], -pair[0].lines, pair[0]))
    return [SharedPart(part, routes) for part, routes in ordered[:most] if routes > 1]


def proposed(
    grouping: SliceBasis, routes: Sequence[Route], needs: Mapping[str, Needs], calls: Mapping[str, float]
) -> list[Slice]:
    """Slices by what their routes have in common."""
    if grouping is SliceBasis.PREFIX:
        groups = _by_prefix(routes)
    elif grouping is SliceBasis.TABLES:
        groups = _by_tables(routes, needs)
    else:
        groups = _by_code(routes, needs)
    return made(groups, needs, calls)


def made(groups: Mapping[str, Sequence[str]], needs: Mapping[str, Needs], calls: Mapping[str, float]) -> list[Slice]:
    """Slices out of names of routes; what a slice shares is what some route outside of it needs too."""
    needed = Counter(part for each in needs.values() for part in each.parts)
    found = []
    for name, routes in groups.items():
        inside = Counter(part for route in routes for part in _of(needs, route).parts)
        own = sum(part.lines for part, count in inside.items() if needed[part] == count)
        whole = sum(part.lines for part in inside)
        tables = sorted({table for route in routes for table in _of(needs, route).tables})
        found.append(
            Slice(
                name=name,
                routes=tuple(routes),
                calls=sum(calls.get(route, 0.0) for route in routes),
                own=own,
                shared=whole - own,
                tables=tuple(tables),
            )
        )
    return found


def _of(needs: Mapping[str, Needs], route: str) -> Needs:
    return needs.get(route) or Needs()


def _by_prefix(routes: Sequence[Route]) -> dict[str, list[str]]:
    groups: dict[str, list[str]] = {}
    for route in routes:
        groups.setdefault(_prefix(route.path), []).append(route.name)
    if len(groups) <= _FEW:
        return groups
    alone = [name for names in groups.values() if len(names) == 1 for name in names]
    kept = {name: names for name, names in groups.items() if len(names) > 1}
    return kept | ({_unused("single routes", kept): alone} if alone else {})


def _prefix(path: str) -> str:
    """The first part of a path that says something; versions and ``api`` say nothing."""
    parts = [part for part in path.split("/") if part]
    while len(parts) > 1 and (parts[0] in ("api", "rest") or parts[0].lstrip("v").replace(".", "").isdigit()):
        parts = parts[1:]
    return parts[0] if parts and not parts[0].startswith("{") else "start"


def _by_tables(routes: Sequence[Route], needs: Mapping[str, Needs]) -> dict[str, list[str]]:
    """Routes that touch the same tables; a table that more than half of the routes touch joins nobody."""
    touched = Counter(table for route in routes for table in _of(needs, route.name).tables)
    common = {table for table, count in touched.items() if count > max(len(routes) / 2, 3)}
    graph: nx.Graph[str] = nx.Graph()
    for route in routes:
        graph.add_node(route.name)
        for table in _of(needs, route.name).tables - common:
            graph.add_edge(route.name, f"\0{table}")
    groups: dict[str, list[str]] = {}
    for component in nx.connected_components(graph):
        inside = sorted(each for each in component if not each.startswith("\0"))
        tables = sorted(each[1:] for each in component if each.startswith("\0"))
        if tables:
            groups[_unused(" and ".join(tables[:2]), groups)] = inside
        else:
            groups.setdefault("no tables of their own", []).extend(inside)
    return groups


def _by_code(routes: Sequence[Route], needs: Mapping[str, Needs]) -> dict[str, list[str]]:
    """Routes that need much of the same code, joined from the most alike down; code that most need joins nobody."""
    count = Counter(part for route in routes for part in _of(needs, route.name).parts)
    common = {part for part, routes_ in count.items() if routes_ > max(len(routes) / 3, 3)}
    start = _by_prefix(routes).values() if len(routes) > _MOST_COMPARED else [[route.name] for route in routes]
    groups = [(list(names), {p for name in names for p in _of(needs, name).parts} - common) for names in start]
    graph: nx.Graph[int] = nx.Graph()
    graph.add_nodes_from(range(len(groups)))
    weights = [_weight(parts) for _, parts in groups]
    for i, (_, left) in enumerate(groups):
        for j in range(i + 1, len(groups)):
            smaller = min(weights[i], weights[j])
            if smaller and _weight(left & groups[j][1]) >= _ALIKE * smaller:
                graph.add_edge(i, j)
    found: dict[str, list[str]] = {}
    for component in nx.connected_components(graph):
        names = [name for at in sorted(component) for name in groups[at][0]]
        parts = set().union(*(groups[at][1] for at in component))
        found[_unused(_code_name(names, parts), found)] = names
    return found


def _unused(name: str, taken: Mapping[str, object]) -> str:
    """A name that no other slice has."""
    number = 2
    shown = name
    while shown in taken:
        shown = f"{name} {number}"
        number += 1
    return shown


def _weight(parts: Iterable[Part]) -> int:
    return sum(part.lines for part in parts)


def _code_name(names: Sequence[str], parts: set[Part]) -> str:
    files = Counter(part.file for part in parts)
    if files:
        file = files.most_common(1)[0][0]
        return file.rsplit("/", 1)[-1].rsplit(".", 1)[0]
    return _prefix(names[0].split(" ", 1)[-1])


def ordered(slices: Sequence[Slice], needs: Mapping[str, Needs], there: Iterable[str] = ()) -> list[OrderedSlice]:
    """An order that pays early: always the slice with the most calls for each line it brings that is not there yet. ``there``: routes that
    are on the new side already."""
    brought = {part for route in there for part in _of(needs, route).parts}
    whole = sum(each.calls for each in slices) or 1.0
    left = list(slices)
    parts = {each.name: {p for route in each.routes for p in _of(needs, route).parts} - brought for each in slices}
    found: list[OrderedSlice] = []
    cumulated, calls = 0, 0.0
    while left:
        costs = [_weight(parts[each.name]) for each in left]
        at = max(range(len(left)), key=lambda i: (left[i].calls / (costs[i] + 1), -costs[i], left[i].name))
        chosen = left.pop(at)
        brings = parts[chosen.name]
        for each in left:
            parts[each.name] -= brings
        cumulated += costs[at]
        calls += chosen.calls
        found.append(OrderedSlice(slice=chosen, brings=costs[at], cumulated=cumulated, calls_share=calls / whole))
    return found


def as_given(slices: Sequence[Slice], needs: Mapping[str, Needs], there: Iterable[str] = ()) -> list[OrderedSlice]:
    """The order of a person, with what each slice brings in it. ``there``: routes that are on the new side already."""
    found: list[OrderedSlice] = []
    whole = sum(each.calls for each in slices) or 1.0
    brought = {part for route in there for part in _of(needs, route).parts}
    cumulated, calls = 0, 0.0
    for each in slices:
        parts = {part for route in each.routes for part in _of(needs, route).parts}
        brings = _weight(parts - brought)
        brought |= parts
        cumulated += brings
        calls += each.calls
        found.append(OrderedSlice(slice=each, brings=brings, cumulated=cumulated, calls_share=calls / whole))
    return found


def in_order(
    chosen: Mapping[str, Sequence[str]],
    routes: Sequence[Route],
    needs: Mapping[str, Needs],
    calls: Mapping[str, float],
    there: Iterable[str] = (),
) -> list[OrderedSlice]:
    """All of ``routes`` in slices: as a person chose them (slice → names of routes), those of none last; where nobody chose, by prefix
    in an order that pays early."""
    if not chosen:
        return ordered(proposed(SliceBasis.PREFIX, routes, needs, calls), needs, there)
    names = {route.name: None for route in routes}
    groups = {name: [route for route in held if route in names] for name, held in chosen.items()}
    placed = {route for held in groups.values() for route in held}
    groups[_NO_SLICE] = [*groups.get(_NO_SLICE, ()), *(route for route in names if route not in placed)]
    return as_given([each for each in made(groups, needs, calls) if each.routes], needs, there)


def with_findings(
    order: Sequence[OrderedSlice], needs: Mapping[str, Needs], findings: Iterable[Finding]
) -> tuple[BroughtSlice, ...]:
    """What each slice brings with the findings in it. A finding belongs to the first slice that brings code in which it stands, or
    code of a file at whose head it stands; one that no route reaches belongs to none."""
    held = _Brought(order, needs)
    keys: dict[int, list[str]] = {}
    for finding in findings:
        at = min(
            (at for place in finding.places if (at := held.first(place.file, place.line)) is not None), default=None
        )
        if at is not None:
            keys.setdefault(at, []).append(finding.key)
    return tuple(
        BroughtSlice(
            name=each.slice.name,
            routes=len(each.slice.routes),
            lines=each.brings,
            findings=tuple(sorted(keys.get(at, ()))),
        )
        for at, each in enumerate(order)
    )


class _Brought:
    """Which slice brings a line first."""

    def __init__(self, order: Sequence[OrderedSlice], needs: Mapping[str, Needs]) -> None:
        self._parts: dict[str, list[tuple[int, int, int]]] = {}  # file → (first line, last line, slice)
        self._files: dict[str, int] = {}
        seen: set[Part] = set()
        for at, each in enumerate(order):
            for part in {part for route in each.slice.routes for part in _of(needs, route).parts} - seen:
                seen.add(part)
                self._files.setdefault(part.file, at)
                self._parts.setdefault(part.file, []).append((part.line, part.line + part.lines, at))
        self._heads = {file: min(first for first, _, _ in parts) for file, parts in self._parts.items()}

    def first(self, file: str, line: int) -> int | None:
        """The first slice that brings a line; None where no route reaches it."""
        inside = [at for first, end, at in self._parts.get(file, ()) if first <= line < end]
        if inside:
            return min(inside)
        return self._files[file] if line < self._heads.get(file, 0) else None


def loops(slices: Sequence[Slice], needs: Mapping[str, Needs], routes: Sequence[Route]) -> list[tuple[str, ...]]:
    """Slices that need one another's handlers: none of them can move without the others."""
    slice_of = {route: each.name for each in slices for route in each.routes}
    handlers = {(route.file, route.line): route.name for route in routes}
    graph: nx.DiGraph[str] = nx.DiGraph()
    for route, each in needs.items():
        for part in each.parts:
            other = handlers.get((part.file, part.line))
            if other is not None and slice_of.get(other) and slice_of.get(route) not in (None, slice_of[other]):
                graph.add_edge(slice_of[route], slice_of[other])
    return [tuple(sorted(each)) for each in nx.strongly_connected_components(graph) if len(each) > 1]
