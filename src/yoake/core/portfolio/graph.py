"""Who waits for whom: applications and the libraries of our own between them, in layers from libraries to their users."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import networkx as nx


@dataclass(frozen=True, slots=True)
class Place:
    """An application in the graph. ``layer``: how many libraries stand below it; ``circle``: number of the loop it is in, None for none.

    ``frees``: all that waits for it, in the end; ``blocks``: all that it waits for.
    """

    slug: str
    layer: int
    circle: int | None
    frees: tuple[str, ...]
    blocks: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class PortfolioGraph:
    """Applications with their places, and (library, user) for each use."""

    places: tuple[Place, ...]
    uses: tuple[tuple[str, str], ...]
    circles: tuple[tuple[str, ...], ...]


def portfolio_graph(slugs: Sequence[str], uses: Iterable[tuple[str, str]]) -> PortfolioGraph:
    """The graph of these applications; a loop is one thing for the layers, and told."""
    held = set(slugs)
    edges = sorted({(a, b) for a, b in uses if a in held and b in held and a != b})
    graph: nx.DiGraph[str] = nx.DiGraph()
    graph.add_nodes_from(slugs)
    graph.add_edges_from(edges)
    whole = nx.condensation(graph)
    layer: dict[int, int] = {}
    for part in nx.topological_sort(whole):
        layer[part] = max((layer[p] + 1 for p in whole.predecessors(part)), default=0)
    circles = [tuple(sorted(whole.nodes[p]["members"])) for p in whole if len(whole.nodes[p]["members"]) > 1]
    circles.sort()
    circle_of = {slug: n for n, members in enumerate(circles) for slug in members}
    mapping: dict[str, int] = whole.graph["mapping"]
    places = tuple(
        Place(
            slug,
            layer[mapping[slug]],
            circle_of.get(slug),
            tuple(sorted(nx.descendants(graph, slug))),
            tuple(sorted(nx.ancestors(graph, slug))),
        )
        for slug in slugs
    )
    return PortfolioGraph(places, tuple(edges), tuple(circles))
