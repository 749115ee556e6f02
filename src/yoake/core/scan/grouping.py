"""References between folders as parts of a picture: few enough to be read, with their loops and levels."""

from __future__ import annotations

import posixpath
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import networkx as nx

from yoake.core.scan.references import SMALL


@dataclass(frozen=True, slots=True)
class Part:
    """A file, a folder, or several folders put together. ``cycle`` numbers the loop it belongs to, 0 for none; ``level``: 0 uses nobody's."""

    path: str
    files: int
    lines: int
    cycle: int
    level: int


@dataclass(frozen=True, slots=True)
class Reference:
    """How often files of one part name files of another."""

    source: str
    target: str
    count: int


def group(
    files: Iterable[tuple[str, int]], edges: Mapping[tuple[str, str], int], most: int = SMALL
) -> tuple[list[Part], list[Reference]]:
    """Folders as parts, put together from the deepest until there are at most ``most``; cycles and levels marked.

    Files themselves are the parts where there are so few, and ``edges`` lead from file to file. ``files``: (path, lines).
    """
    held = list(files)
    names = {path for path, _ in held}
    if len(held) <= most and all(source in names for source, _ in edges):
        used = {name for edge in edges for name in edge}
        return _parts({path: (1, lines) for path, lines in held if lines or path in used}, edges)
    depth = max((path.count("/") for path, _ in held), default=0)
    while depth > 1 and len({_cut(posixpath.dirname(path), depth) for path, _ in held}) > most:
        depth -= 1
    sizes: dict[str, tuple[int, int]] = {}
    for path, lines in held:
        name = _cut(posixpath.dirname(path), depth)
        count, total = sizes.get(name, (0, 0))
        sizes[name] = (count + 1, total + lines)
    counts: dict[tuple[str, str], int] = {}
    for (source, target), count in edges.items():
        edge = (_cut(source, depth), _cut(target, depth))
        if edge[0] != edge[1] and edge[0] in sizes and edge[1] in sizes:
            counts[edge] = counts.get(edge, 0) + count
    return _parts(sizes, counts)


def _parts(
    sizes: Mapping[str, tuple[int, int]], counts: Mapping[tuple[str, str], int]
) -> tuple[list[Part], list[Reference]]:
    """``sizes``: name → (files, lines)."""
    graph: nx.DiGraph[str] = nx.DiGraph()
    graph.add_nodes_from(sorted(sizes))
    graph.add_edges_from(sorted(counts))
    cycles, levels = _cycles_and_levels(graph)
    parts = [Part(name, *sizes[name], cycles.get(name, 0), levels[name]) for name in sorted(sizes)]
    return parts, [Reference(s, t, n) for (s, t), n in sorted(counts.items())]


def _cut(folder: str, depth: int) -> str:
    return "/".join(folder.split("/")[:depth])


def _cycles_and_levels(graph: nx.DiGraph[str]) -> tuple[dict[str, int], dict[str, int]]:
    """Number of the loop each part belongs to; level: longest way down to a part that uses nobody."""
    loops = sorted((sorted(c) for c in nx.strongly_connected_components(graph)), key=lambda c: c[0])
    numbers = {name: i for i, loop in enumerate((c for c in loops if len(c) > 1), 1) for name in loop}
    whole = nx.condensation(graph, [set(c) for c in loops])
    levels: dict[str, int] = {}
    deep: dict[int, int] = {}
    for node in reversed(list(nx.topological_sort(whole))):
        deep[node] = max((deep[n] + 1 for n in whole.successors(node)), default=0)
        levels.update(dict.fromkeys(whole.nodes[node]["members"], deep[node]))
    return numbers, levels
