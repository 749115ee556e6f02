"""What one route drags along, as a picture of parts that can be cut off."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from yoake.context.context import Context
from yoake.core.crossing.parts import Needs, PartChoice, edges_among
from yoake.store.crossing_parts import part_choices, part_graph
from yoake.store.crossings import StoredCrossing
from yoake.views.route_needs import needs_of

_MOST: Final = 80
"""Parts that one still tells apart; of more, the nearest and longest are shown."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PartBox:
    """A part in its place: ``depth`` steps from the handler; ``others``: further routes that need it."""

    file: str
    line: int
    name: str
    lines: int
    depth: int
    others: int
    choice: PartChoice


@dataclass(frozen=True, slots=True, kw_only=True)
class PartLine:
    """One part names another: positions in the list of boxes."""

    source: int
    target: int


@dataclass(frozen=True, slots=True, kw_only=True)
class PartsPicture:
    """The parts of a route. ``brought`` and ``whole``: lines with what is cut off, and if nothing were; ``more`` parts are not shown."""

    route: str
    boxes: list[PartBox]
    arrows: list[PartLine]
    brought: int
    whole: int
    more: int


def parts_picture(context: Context, crossing: StoredCrossing, route: str) -> PartsPicture | None:
    """What one route reaches; None where its handler is not in the source."""
    graph = part_graph(context.db, crossing.application_id)
    choices = part_choices(context.db, crossing.application_id)
    reached = graph.reached(route, choices)
    if not reached:
        return None
    others = _needed(needs_of(context, crossing))
    nearest = sorted(reached, key=lambda each: (each.depth, -graph.nodes[each.at].part.lines))
    shown = nearest[:_MOST]
    at = {each.at: position for position, each in enumerate(shown)}
    boxes = []
    for each in shown:
        part = graph.nodes[each.at].part
        boxes.append(
            PartBox(
                file=part.file,
                line=part.line,
                name=part.name,
                lines=part.lines,
                depth=each.depth,
                others=max(others[part] - 1, 0),
                choice=each.choice,
            )
        )
    return PartsPicture(
        route=route,
        boxes=boxes,
        arrows=[PartLine(source=at[a], target=at[b]) for a, b in edges_among(graph, shown)],
        brought=sum(part.lines for part in graph.needs(route, choices).parts),
        whole=sum(part.lines for part in graph.needs(route, {}).parts),
        more=len(reached) - len(shown),
    )


def _needed(needs: Mapping[str, Needs]) -> Counter[object]:
    return Counter(part for each in needs.values() for part in (*each.parts, *each.bridged, *each.left))
