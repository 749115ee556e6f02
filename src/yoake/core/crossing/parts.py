"""The parts of a source that routes reach, and what a route drags along when some of them are cut off."""

from __future__ import annotations

from collections import deque
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import Final

MOST_REACHED: Final = 3_000  # parts that one route may reach


class PartChoice(StrEnum):
    """What is to become of a part: brought along to the new side, used by both sides through a bridge, or left out."""

    BRING = "bring"
    BRIDGE = "bridge"
    LEAVE = "leave"


@dataclass(frozen=True, slots=True, order=True)
class Part:
    """A function or class of the source: where it stands, and how many lines it has."""

    file: str
    line: int
    name: str
    lines: int


@dataclass(frozen=True, slots=True)
class PartKey:
    """A part as choices name it: it stays the same when lines above it come or go."""

    file: str
    name: str


@dataclass(slots=True, kw_only=True)
class Needs:
    """Everything one handler reaches. ``bridged`` and ``left`` are parts that are cut off, with all that only they reach."""

    parts: set[Part] = field(default_factory=set)
    templates: set[str] = field(default_factory=set)
    settings: set[str] = field(default_factory=set)
    tables: set[str] = field(default_factory=set)
    packages: set[str] = field(default_factory=set)
    bridged: set[Part] = field(default_factory=set)
    left: set[Part] = field(default_factory=set)

    @property
    def files(self) -> set[str]:
        """The files in which its parts stand."""
        return {part.file for part in self.parts}


@dataclass(frozen=True, slots=True)
class PartNode:
    """A part, the parts it names (by their position), and what else it names itself."""

    part: Part
    reaches: tuple[int, ...] = ()
    templates: tuple[str, ...] = ()
    settings: tuple[str, ...] = ()
    tables: tuple[str, ...] = ()
    packages: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Reached:
    """A part as one route reaches it: its position, how many steps from the handler, and what is to become of it."""

    at: int
    depth: int
    choice: PartChoice


@dataclass(frozen=True, slots=True)
class PartGraph:
    """Every part that handlers reach. ``roots``: name of a route → position of its handler."""

    nodes: tuple[PartNode, ...] = ()
    roots: Mapping[str, int] = field(default_factory=dict)

    def and_of(self, other: PartGraph) -> PartGraph:
        """Both as one; where both have a route, this one's counts."""
        shift = len(self.nodes)
        moved = (replace(node, reaches=tuple(at + shift for at in node.reaches)) for node in other.nodes)
        roots = {name: at + shift for name, at in other.roots.items()} | dict(self.roots)
        return PartGraph((*self.nodes, *moved), roots)

    def reached(self, route: str, choices: Mapping[PartKey, PartChoice]) -> list[Reached]:
        """The parts that a route reaches, the nearest first. What is cut off is in it, what lies behind it is not. The handler itself
        is always brought."""
        root = self.roots.get(route)
        if root is None:
            return []
        found = {root: Reached(root, 0, PartChoice.BRING)}
        waiting = deque([root])
        while waiting and len(found) < MOST_REACHED:
            here = found[waiting.popleft()]
            if here.choice is not PartChoice.BRING:
                continue
            for at in self.nodes[here.at].reaches:
                if at not in found:
                    part = self.nodes[at].part
                    choice = choices.get(PartKey(part.file, part.name), PartChoice.BRING)
                    found[at] = Reached(at, here.depth + 1, choice)
                    waiting.append(at)
        return list(found.values())

    def needs(self, route: str, choices: Mapping[PartKey, PartChoice]) -> Needs:
        """What a route drags along."""
        found = Needs()
        for each in self.reached(route, choices):
            node = self.nodes[each.at]
            if each.choice is PartChoice.BRIDGE:
                found.bridged.add(node.part)
            elif each.choice is PartChoice.LEAVE:
                found.left.add(node.part)
            else:
                found.parts.add(node.part)
                found.templates.update(node.templates)
                found.settings.update(node.settings)
                found.tables.update(node.tables)
                found.packages.update(node.packages)
        return found

    def all_needs(self, choices: Mapping[PartKey, PartChoice] | None = None) -> dict[str, Needs]:
        """Route → what it drags along."""
        return {name: self.needs(name, choices or {}) for name in self.roots}


def edges_among(graph: PartGraph, reached: Sequence[Reached]) -> list[tuple[int, int]]:
    """(from, to) among parts that a route reaches, only from parts that are brought."""
    held = {each.at for each in reached}
    return [
        (each.at, at)
        for each in reached
        if each.choice is PartChoice.BRING
        for at in graph.nodes[each.at].reaches
        if at in held and at != each.at
    ]
