"""Packages that the destination does not name and that move with it, because their line does not go with it (DESIGN 4.6).

`react` 19 takes `react-dom` along, Angular's core its router, Django what states which Django it is for: all of it from release
records, without a list. What their own new lines take away breaks the application as well, so the scan looks at them too.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence, Set
from dataclasses import dataclass
from datetime import date
from typing import TYPE_CHECKING, Final

from yoake.core.knowledge.compatibility import Compatibility, Constraint
from yoake.core.values.coordinates import NO_LINE, Coordinate, Line, line_key
from yoake.core.values.journeys import Span

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.values.modules import Requirement, Stated

_ROUNDS: Final = 8  # how far one that moves takes others along; families seen were three deep
_STATED: Final = "stated"
_FAR: Final = Line("99999")  # a line that nobody has seen


@dataclass(frozen=True, slots=True, kw_only=True)
class Companion:
    """A package that does not stay: from ``today`` to ``goal``, the nearest line that goes with everything, empty where none does.

    ``against`` is the coordinate it does not go with, from whose line ``bites_at`` on; ``constraint`` says why.
    """

    coordinate: Coordinate
    today: Line
    goal: Line
    against: Coordinate
    bites_at: Line
    constraint: Constraint

    @property
    def is_claimed(self) -> bool:
        """Whether only what its authors support speaks against it, and nothing that would refuse it."""
        return self.constraint.grade == _STATED


class Company:
    """What goes with the packages of a destination. ``spans``: its coordinates in one module, runtimes among them."""

    def __init__(self, spans: Mapping[Coordinate, Span], knowledge: Knowledge) -> None:
        self.knowledge = knowledge
        ecosystems = knowledge.ecosystems
        self.spans = {p: s for p, s in spans.items() if s.today < s.goal}
        self.goals = {p: s.goal for p, s in spans.items() if not ecosystems.is_runtime(p)}
        self.compatibility = Compatibility(
            knowledge, date.max, stands={p: s.today for p, s in spans.items()}, leading=self.goals
        )
        self._runtimes = {ecosystems.language_of(p): s.goal for p, s in spans.items() if ecosystems.is_runtime(p)}
        self.moving: dict[Coordinate, Companion] = {}
        self._spoken: dict[tuple[str, str], bool] = {}

    def gather(self, today: Mapping[Coordinate, Stated], wanted: Sequence[Requirement]) -> dict[Coordinate, Companion]:
        """Those of the packages a module asks for that do not stay on their line, and where they go.

        ``today``: lines that are known; of the others what their range admits counts: one of it that goes is enough to stay.
        """
        if not any(p in self.spans for p in self.goals):
            return {}
        ranges: dict[Coordinate, str] = {}
        for requirement in wanted:
            ranges[requirement.coordinate] = ranges.get(requirement.coordinate) or requirement.specifier
        held = sorted(p for p in ranges if p not in self.goals and p in self.knowledge.catalogues)
        for _ in range(_ROUNDS):
            moved = [p for p in held if self._moves(p, today.get(p), ranges[p])]
            if not moved:
                break
        return self.moving

    def _moves(self, coordinate: Coordinate, stated: Stated | None, wanted: str) -> bool:
        """Whether a package has to go further than it is so far."""
        before = self.moving.get(coordinate)
        if (before is not None and not before.goal) or not any(self._speak(coordinate, other) for other in self.goals):
            return False
        lines = [before.goal] if before is not None else self._standing(coordinate, stated, wanted)
        if before is None and len(lines) == 1:
            self.compatibility.stands[coordinate] = lines[0]
        broken = [min(self._broken(coordinate, line), key=lambda c: c.grade == _STATED, default=None) for line in lines]
        constraint = broken[-1] if broken and None not in broken else None
        if constraint is None:
            return False
        today = before.today if before is not None else lines[0]
        goal = next(
            (x for x in self._later(coordinate, lines[-1]) if next(self._broken(coordinate, x), None) is None), NO_LINE
        )
        first = before.constraint if before is not None else constraint
        against = first.subject if first.owner == coordinate else first.owner
        bites = before.bites_at if before is not None else self._bites(coordinate, lines[-1], against)
        self.moving[coordinate] = Companion(
            coordinate=coordinate, today=today, goal=goal, against=against, bites_at=bites, constraint=first
        )
        if goal:
            self.spans[coordinate] = Span(today, goal)
            self.goals[coordinate] = goal
        return True

    def _standing(self, coordinate: Coordinate, stated: Stated | None, wanted: str) -> list[Line]:
        """The line a package stands on; where only a range says so, every line with a release that it admits, oldest first."""
        if stated is not None and stated.how != "range":
            return [stated.line]
        held = self.compatibility
        admitted = self.knowledge.ecosystems.admitted(coordinate, wanted, held.usable(coordinate)) if wanted else ()
        return sorted({self.knowledge.line_of(coordinate, release) for release in admitted}, key=line_key)

    def _speak(self, one: Coordinate, other: Coordinate) -> bool:
        """Whether some release of one of the two says something of the other."""
        if one == other:
            return False
        pair = (one, other) if one < other else (other, one)
        if pair not in self._spoken:
            names = {p: p.name for p in pair}
            self._spoken[pair] = any(
                names[b] in d.peers or names[b] in d.needs or any(names[b] == n for n, _, _ in d.needs_when)
                for a, b in (pair, pair[::-1])
                for d in self.compatibility.details(a).values()
            ) or any(self.compatibility.go_in_step(a, b) for a, b in (pair, pair[::-1]))
        return self._spoken[pair]

    def _later(self, coordinate: Coordinate, today: Line) -> list[Line]:
        return [x for x in self.compatibility.lines(coordinate) if x > today]

    def _broken(self, coordinate: Coordinate, line: Line) -> Iterator[Constraint]:
        """What keeps a line of a package from standing with everything that is decided, either way."""
        language = self.knowledge.language_of(coordinate)
        runtime = self._runtimes.get(language)
        for other, goal in self.goals.items():
            if other in self.spans and self.knowledge.language_of(other) == language and self._speak(coordinate, other):
                yield from self.compatibility.between(coordinate, line, other, goal, runtime).broken
                yield from self.compatibility.between(other, goal, coordinate, line, runtime).broken

    def _bites(self, coordinate: Coordinate, line: Line, against: Coordinate) -> Line:
        """The first line on the way of ``against`` with which this line of a package does not go."""
        span = self.spans[against]
        runtime = self._runtimes.get(self.knowledge.language_of(coordinate))
        on_the_way = [x for x in self.knowledge.lines(against) if span.today < x <= span.goal]
        between = self.compatibility.between
        for x in on_the_way:
            if (
                between(coordinate, line, against, x, runtime).broken
                or between(against, x, coordinate, line, runtime).broken
            ):
                return x
        return span.goal

    def refused_by(self, coordinate: Coordinate, release: str) -> tuple[Coordinate, str] | None:
        """(coordinate of the destination, range) of the first that one release does not admit, None where it admits all or says nothing."""
        asked = self._asked(coordinate, release)
        admits = self.compatibility.admits
        return next(((p, w) for p, ranges in asked.items() for w in ranges if not admits(p, w, self.goals[p])), None)

    def spoken_of(self, coordinate: Coordinate, release: str) -> tuple[Coordinate, bool] | None:
        """(a coordinate of the destination that a release asks for, whether its range ends somewhere); None when it asks for none.

        A range without an end lets in lines that nobody had seen when it was written, and says nothing of them.
        """
        admits = self.knowledge.ecosystems.admits
        asked = self._asked(coordinate, release)
        open_ = [p for p, ranges in asked.items() if all(admits(p, w, _FAR) for w in ranges)]
        return (open_[0], False) if open_ else next(((p, True) for p in asked), None)

    def _asked(self, coordinate: Coordinate, release: str) -> dict[Coordinate, tuple[str, ...]]:
        runtime = self._runtimes.get(self.knowledge.language_of(coordinate))
        asked = self.compatibility.asks(coordinate, release, runtime)
        return {p: ranges for p, ranges in asked.items() if p in self.goals and p in self.spans}

    def release_for(self, coordinate: Coordinate, line: Line) -> str:
        """The newest release of a line that goes with everything that is decided."""
        runtime = self._runtimes.get(self.knowledge.language_of(coordinate))
        return self.compatibility.choose(coordinate, line, self.goals, runtime)

    def speaks_to(self, coordinate: Coordinate) -> bool:
        """Whether something moves that a package of this kind could speak of."""
        language = self.knowledge.language_of(coordinate)
        return any(p in self.spans and self.knowledge.language_of(p) == language for p in self.goals)


def possible_companions(coordinates: Iterable[Coordinate], knowledge: Knowledge) -> Set[Coordinate]:
    """Coordinates with rules of which some release may have to move with these; the texts that their rules look at are read."""
    found, ecosystems = set(coordinates), knowledge.ecosystems
    named = {(ecosystems.language_of(p), p.name) for p in found if not ecosystems.is_runtime(p)}
    spoken = {language for language, _ in named}
    for coordinate, file in knowledge.rule_files.items():
        language = ecosystems.language_of(coordinate)
        if language not in spoken or coordinate in found or not any(rule.text is not None for rule in file.rules):
            continue  # a record is read only where it can matter
        record = knowledge.catalogues.get(coordinate)
        asked = {(language, n) for d in record.details for n in (*d.peers, *d.needs)} if record is not None else set()
        if named & asked:
            found.add(coordinate)
    return found
