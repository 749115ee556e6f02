"""What travels: sets of modules, from which lines to which, and how a person bends the search for a path."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Final

from yoake.core.values.coordinates import Coordinate, Line, Lines, Target

if TYPE_CHECKING:
    from yoake.core.values.modules import Stated

STAYING: Final = ("hold", "retire", "rework-first")
"""Strategies that do not travel."""


@dataclass(frozen=True, slots=True)
class Span:
    """From today's line to the destination's, for one coordinate."""

    today: Line
    goal: Line


@dataclass(frozen=True, slots=True, kw_only=True)
class BroughtSlice:
    """Routes that move together: how many, the ``lines`` they bring that no slice before brought, and the keys of findings in those."""

    name: str
    routes: int
    lines: int
    findings: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Surroundings:
    """What decides whether a strategy fits. ``known``: share of checks that are known; ``tests``: files of tests; ``serves``: web
    frameworks it requires; ``generated``: files a generator left; ``used_by``: applications that require it; ``slices``: its routes as
    they would move, in their order; empty where none were read."""

    known: float | None = None
    tests: int = 0
    serves: tuple[Coordinate, ...] = ()
    generated: tuple[str, ...] = ()
    used_by: tuple[str, ...] = ()
    slices: tuple[BroughtSlice, ...] = ()


@dataclass(frozen=True, slots=True)
class ModuleSet:
    """Modules that travel together. ``name`` is the folder of their lock file, or of the first of them; empty for the root."""

    name: str
    modules: tuple[str, ...]
    spans: Mapping[Coordinate, Span]
    around: Surroundings
    unplaced: Lines = field(default_factory=dict)
    """Lines of the destination for what is asked for here and nobody says where it stands today: coordinate → line."""


@dataclass(frozen=True, slots=True)
class Shape:
    """How a person bends the search.

    ``pins``: lines to stop on (for a package: to end on); ``avoid``: lines never to stand on; ``order``: (coordinate, coordinate), the first
    arrives before the second moves; ``out``: coordinates of the destination left out; ``dropped``: packages not looked at.
    """

    pins: tuple[Target, ...] = ()
    avoid: tuple[Target, ...] = ()
    order: tuple[tuple[Coordinate, Coordinate], ...] = ()
    out: frozenset[Coordinate] = frozenset()
    dropped: frozenset[Coordinate] = frozenset()


def spans_of(today: Mapping[Coordinate, Stated], destination: Sequence[Target]) -> dict[Coordinate, Span]:
    """From where to where, for each coordinate of the destination that the module stands on."""
    return {t.coordinate: Span(today[t.coordinate].line, t.line) for t in destination if t.coordinate in today}
