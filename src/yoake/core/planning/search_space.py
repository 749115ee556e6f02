"""The search as arithmetic: coordinates with numbered lines, which lines go together, and what each move costs.

Everything is whole numbers, so that two ways of adding up the same path are equal: work in thousandths of a day (``MILLI`` to
a day), time in ticks of which one thousandth of a day of work takes ``TICKS``. Line 0 of a coordinate is today's.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import TYPE_CHECKING, Final

if TYPE_CHECKING:
    from yoake.core.values.coordinates import Coordinate, Line

MILLI: Final = 1000
TICKS: Final = 7  # a week of the calendar holds ``days_per_week`` days of work; counting in sevenths keeps ticks whole
State = tuple[int, ...]
Pair = tuple[int, int]


@dataclass(frozen=True, kw_only=True)
class Track:
    """One tracked coordinate. ``goal`` is None where any line will do.

    ``edits[i][j]``: work that goes with a move from line i to line j; ``ready[i][j]``: work for the same move that line i
    already allows; ``crossed[i][j]``: lines crossed; ``step[i][j]``: whether its project supports that jump. ``ends``: ticks
    from today until each line loses support, None where that is not known.
    """

    coordinate: Coordinate
    lines: tuple[Line, ...]
    goal: int | None
    edits: tuple[tuple[int, ...], ...]
    ready: tuple[tuple[int, ...], ...]
    crossed: tuple[tuple[int, ...], ...]
    step: tuple[tuple[bool, ...], ...]
    ends: tuple[int | None, ...]

    @property
    def top(self) -> int:
        """The last line that is looked at."""
        return len(self.lines) - 1 if self.goal is None else self.goal


@dataclass(frozen=True, kw_only=True)
class SearchSpace:
    """What is searched. ``fits[a, b][i]``: the lines of b that go with line i of a, as a bit mask (both directions present).

    ``triples``: (a, b, c) → allowed combinations of lines, for what depends on three coordinates. ``base`` is the work of any
    stage, ``kappa`` the share added for each further line crossed, ``before`` the work that comes ahead of all moves.
    ``order``: pairs (a, b) where a must have arrived before b moves.
    """

    tracks: tuple[Track, ...]
    fits: Mapping[Pair, tuple[int, ...]]
    base: int
    kappa: float
    days_per_week: float
    before: int = 0
    triples: Mapping[tuple[int, int, int], frozenset[tuple[int, int, int]]] = field(default_factory=dict)
    order: tuple[Pair, ...] = ()

    @property
    def start(self) -> State:
        """Today."""
        return (0,) * len(self.tracks)

    def arrived(self, state: State) -> bool:
        """Whether every coordinate with a goal stands on it."""
        return all(t.goal is None or state[c] == t.goal for c, t in enumerate(self.tracks))

    def stands(self, state: State) -> bool:
        """Whether all lines of a state go together."""
        for (a, b), rows in self.fits.items():
            if a < b and not rows[state[a]] >> state[b] & 1:
                return False
        return all((state[a], state[b], state[c]) in ok for (a, b, c), ok in self.triples.items())

    def may_move(self, here: State, there: State) -> bool:
        """Whether one stage can go from one state to another, apart from whether the other stands."""
        if here == there:
            return False
        for c, track in enumerate(self.tracks):
            i, j = here[c], there[c]
            if j < i or (j != i and not track.step[i][j]):
                return False
        return all(
            there[b] == here[b] or self.tracks[a].goal is None or here[a] == self.tracks[a].goal for a, b in self.order
        )

    def work(self, here: State, there: State) -> int:
        """base + ready + edits × (1 + κ(n − 1)), rounded (DESIGN 4.6)."""
        edits = ready = crossed = 0
        for track, i, j in zip(self.tracks, here, there, strict=True):
            if i != j:
                edits += track.edits[i][j]
                ready += track.ready[i][j]
                crossed += track.crossed[i][j]
        return self.price(edits, ready, crossed)

    def price(self, edits: int, ready: int, crossed: int) -> int:
        """Work of a stage from its sums."""
        return self.base + ready + round(edits * (1 + self.kappa * (max(crossed, 1) - 1)))

    def dark(self, state: State, since: int, until: int) -> int:
        """Ticks without support between two points of time while standing on a state; each line counts for itself."""
        total = 0
        for track, i in zip(self.tracks, state, strict=True):
            end = track.ends[i]
            if end is not None and until > end:
                total += until - max(since, end)
        return total


@dataclass(frozen=True, slots=True)
class Cost:
    """What a path costs: thousandths of days of work, stages, ticks in the dark."""

    work: int
    stages: int
    dark: int

    def by(self, objective: str) -> tuple[int, int, int]:
        """The order in which an objective compares: work, stages or danger."""
        if objective == "work":
            return (self.work, self.stages, self.dark)
        if objective == "stages":
            return (self.stages, self.work, self.dark)
        return (self.dark, self.work, self.stages)


def cost_of(space: SearchSpace, states: Sequence[State]) -> Cost:
    """The cost of a path given by the states it stops at, today's first."""
    work, dark = space.before, space.dark(states[0], 0, space.before * TICKS)
    for here, there in pairwise(states):
        stage = space.work(here, there)
        dark += space.dark(here, work * TICKS, (work + stage) * TICKS)
        work += stage
    return Cost(work, len(states) - 1, dark)
