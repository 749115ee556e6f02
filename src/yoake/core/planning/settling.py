"""Which release of every package a stage takes, so that all of them go together: those that the search moved, and everybody else.

The search looks at lines, and only at coordinates that decide something. Here each package that a manifest asks for gets one
release: what it stands on as long as that fits, else the nearest line that does. What packages ask of one another (peers, exact
pins of a family) binds. Where nothing fits, the package is left out and told, and the others go on without it.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Final

from yoake.core.planning.brought import BroughtPeers
from yoake.core.values.coordinates import NO_LINE, Coordinate, Line, Lines, Releases, line_key
from yoake.core.values.plans import Settled

if TYPE_CHECKING:
    from yoake.core.knowledge.compatibility import Compatibility
    from yoake.core.knowledge.models import Catalogue
    from yoake.core.values.findings import PackageState

_TRIES: Final = 4_000  # releases looked at before a package is left out; families of twenty take some hundred
_NUMBER: Final = re.compile(r"\d+(?:\.\d+)*")
_NEWEST: Final = 12  # releases of one minor that are looked at: fixes of fixes rarely change what a package asks for


@dataclass(frozen=True, slots=True)
class Wish:
    """A package that manifests ask for: the ranges they name, the release it stands on today, empty where no lock says it, and its line."""

    coordinate: Coordinate
    ranges: tuple[str, ...]
    exact: str
    line: Line = NO_LINE


def wishes_of(packages: Sequence[PackageState]) -> tuple[Wish, ...]:
    """What the manifests of one set ask for, a package once."""
    ranges: dict[Coordinate, list[str]] = {}
    exact: dict[Coordinate, str] = {}
    lines: dict[Coordinate, Line] = {}
    for package in packages:
        if package.direct:
            held = ranges.setdefault(package.coordinate, [])
            if package.wanted and package.wanted not in held:
                held.append(package.wanted)
            pinned = package.exact or ""
            exact[package.coordinate] = max(exact.get(package.coordinate, ""), pinned, key=line_key)
            lines.setdefault(package.coordinate, package.line)
    return tuple(
        Wish(coordinate, tuple(ranges[coordinate]), exact[coordinate], lines[coordinate])
        for coordinate in sorted(ranges)
    )


@dataclass
class _Part:
    """One package with the releases it may stand on, the best first. ``fixed``: its line is decided already."""

    wish: Wish
    choices: tuple[str, ...]
    fixed: bool
    asked_by: int = 0
    why: str = ""


@dataclass
class _Work:
    """What is being settled at one stage."""

    parts: dict[Coordinate, _Part]
    chosen: dict[Coordinate, str] = field(default_factory=dict)
    left_out: dict[Coordinate, str] = field(default_factory=dict)


class Settling:
    """Settles the packages of one set, stage by stage. ``today``: lines of runtimes as they stand: what runs there runs.
    ``goals``: lines of the destination that nothing goes past, of what nobody says where it stands."""

    def __init__(
        self,
        compatibility: Compatibility,
        wishes: Sequence[Wish],
        today: Lines | None = None,
        goals: Lines | None = None,
    ) -> None:
        self.held = compatibility
        self.goals = goals or {}
        self.today = today or {}
        self.knowledge = compatibility.knowledge
        self.wishes = tuple(w for w in wishes if not self.knowledge.ecosystems.is_runtime(w.coordinate))
        self._admitted: dict[tuple[str, str], frozenset[str]] = {}
        self._asks: dict[tuple[str, str, str | None], Mapping[Coordinate, tuple[str, ...]]] = {}
        self._names = frozenset(w.coordinate for w in self.wishes)
        self._brought = BroughtPeers(compatibility, self._names, self._admits)

    def settle(self, lines: Lines, before: Releases) -> tuple[Settled, ...]:
        """A release for each package at a stage. ``lines``: those of its state; ``before``: releases of the stage before it."""
        work = _Work({})
        silent: list[Settled] = []
        for wish in self.wishes:
            record = self.knowledge.catalogues.get(wish.coordinate)
            if record is None or not record.releases:
                silent.append(Settled(wish.coordinate, "", "unknown", "no release record"))
                continue
            stays = lines.get(wish.coordinate, wish.line) == wish.line
            if stays and self._is_preview(wish) and not self._refused_ahead(wish, lines):
                why = f"its record has no release that {', '.join(wish.ranges)} admits"
                silent.append(Settled(wish.coordinate, "", "unknown", why))
                continue
            work.parts[wish.coordinate] = self._part(wish, record, lines, before)
        for part in work.parts.values():
            for release in part.choices[:1]:
                for coordinate in self._asked(part.wish.coordinate, release, lines):
                    if coordinate in work.parts:
                        work.parts[coordinate].asked_by += 1
        for coordinate in sorted(work.parts, key=lambda p: (not work.parts[p].fixed, -work.parts[p].asked_by, p)):
            self._add(work, coordinate, lines)
        self._bring_peers(work, lines)
        said = (self._said(part, work, lines) for part in work.parts.values())
        stood = {w.coordinate: before.get(w.coordinate) or w.exact or ", ".join(w.ranges) for w in self.wishes}
        every = [replace(one, before=stood[one.coordinate]) for one in (*said, *silent)]
        return tuple(sorted(every, key=lambda s: s.coordinate))

    # previews

    def _is_preview(self, wish: Wish) -> bool:
        """Whether what is asked for is no release that the record has: a preview, mostly."""
        record = self.knowledge.catalogues[wish.coordinate]
        return bool(wish.ranges) and not any(self._in_ranges(wish, r) for r in record.releases)

    def _refused_ahead(self, wish: Wish, lines: Lines) -> bool:
        """Whether the release that a preview led to does not go with the lines of a stage: then it cannot stay either."""
        every = self.held.usable(wish.coordinate)
        release = next(iter(self._ahead(wish, {})), "")
        asked = self._asked(wish.coordinate, release, lines) if release in every else {}
        return any(
            other in lines and not self.held.admits(other, wanted, lines[other])
            for other, ranges in asked.items()
            for wanted in ranges
        )

    # what may be chosen

    def _part(self, wish: Wish, record: Catalogue, lines: Lines, before: Releases) -> _Part:
        coordinate = wish.coordinate
        line = lines.get(wish.coordinate)
        home = self.knowledge.ecosystems.runtime_of(wish.coordinate)
        runtime = lines.get(home) if home is not None else None
        fixed = line is not None
        names = self.held.releases(wish.coordinate, line) if line is not None else self._ahead(wish, before)
        fits = self._fitting(wish.coordinate, record, names, runtime)
        why = ""
        if not fits and runtime is not None and home is not None and names:
            why = f"no release up to {names[-1]} runs on {self.knowledge.spoken(home)} {runtime}: replace or drop it"
            fits = list(names)
        moved = home is not None and runtime is not None and self.today.get(home, runtime) != runtime
        ready = (
            self._ready(wish.coordinate, record, fits, runtime) if moved and runtime is not None else frozenset(fits)
        )
        kept = [r for r in fits if self._in_ranges(wish, r)]
        today = [wish.exact] if wish.exact in kept else []
        held = [r for r in (before.get(wish.coordinate),) if r in fits]
        onward: dict[str, list[str]] = {}
        for release in reversed(fits):
            minors = onward.setdefault(self.knowledge.line_of(coordinate, release), [])
            minors.append(release)
        rest = [r for name in sorted(onward, key=line_key) for r in _spread(onward[name])]
        wanted = (*today, *reversed(kept), *held, *rest)
        ordered = dict.fromkeys((*(r for r in wanted if r in ready), *wanted))
        return _Part(wish, tuple(ordered), fixed, why=why)

    def _ahead(self, wish: Wish, before: Releases) -> list[str]:
        """Releases that can be had, from the one it stands on: nobody goes back."""
        every = self.held.usable(wish.coordinate)
        goal = self.goals.get(wish.coordinate)
        if goal is not None:
            line = {r: line_key(self.knowledge.line_of(wish.coordinate, r)) for r in every}
            every = [r for r in every if line[r] <= line_key(goal)] or every
        floor = before.get(wish.coordinate) or wish.exact or next((r for r in every if self._in_ranges(wish, r)), "")
        if not floor and wish.ranges and (number := _NUMBER.search(wish.ranges[0])):
            floor = number.group()  # of a preview: what it led to comes after it
        return [r for r in every if line_key(r) >= line_key(floor)] or every[-1:]

    def _fitting(
        self, coordinate: Coordinate, record: Catalogue, names: Sequence[str], runtime: Line | None
    ) -> list[str]:
        if runtime is None or not self.knowledge.speaks_of(record, runtime):
            return list(names)
        fits = frozenset(self.knowledge.fitting(record, runtime))
        good = [r for r in names if r in fits and record.can_be_had(r, runtime)]
        tried = ((r, self.knowledge.tried(coordinate, r, runtime)) for r in good)
        return [r for r, fact in tried if fact is None or fact.runs]

    def _ready(self, coordinate: Coordinate, record: Catalogue, fits: Sequence[str], runtime: Line) -> frozenset[str]:
        """Releases that need not be built for a line of the runtime, or were seen to run there. What is only there as source was made for
        the tools of its time: of such releases two thirds could not be built on a newer line when it was tried."""
        built = frozenset(record.built.get(runtime, ()))
        return frozenset(r for r in fits if r in built or self.knowledge.ran(coordinate, r, runtime)) or frozenset(fits)

    def _in_ranges(self, wish: Wish, release: str) -> bool:
        return all(release in self._admits(wish.coordinate, wanted) for wanted in wish.ranges)

    def _admits(self, coordinate: Coordinate, wanted: str) -> frozenset[str]:
        key = (coordinate, wanted)
        if key not in self._admitted:
            releases = self.knowledge.catalogues[coordinate].releases
            self._admitted[key] = frozenset(self.knowledge.ecosystems.admitted(coordinate, wanted, releases))
        return self._admitted[key]

    # what goes together

    def _asked(self, coordinate: Coordinate, release: str, lines: Lines) -> Mapping[Coordinate, tuple[str, ...]]:
        """What a release asks of the other packages here: coordinate → ranges."""
        home = self.knowledge.ecosystems.runtime_of(coordinate)
        runtime = lines.get(home) if home is not None else None
        key = (coordinate, release, runtime)
        if key not in self._asks:
            asked = self.held.asks(coordinate, release, runtime)
            self._asks[key] = {p: ranges for p, ranges in asked.items() if p in self._names and p != coordinate}
        return self._asks[key]

    def _agree(self, one: Coordinate, release: str, other: Coordinate, with_: str, lines: Lines) -> bool:
        """Whether two releases ask nothing of each other that the other is not."""
        forth = self._asked(one, release, lines).get(other, ())
        back = self._asked(other, with_, lines).get(one, ())
        return all(with_ in self._admits(other, w) for w in forth) and all(
            release in self._admits(one, w) for w in back
        )

    def _against(self, work: _Work, coordinate: Coordinate, release: str, lines: Lines) -> Iterator[Coordinate]:
        """Chosen packages with which a release does not go."""
        return (
            other
            for other, chosen in work.chosen.items()
            if other != coordinate and not self._agree(coordinate, release, other, chosen, lines)
        )

    def _add(self, work: _Work, coordinate: Coordinate, lines: Lines) -> None:
        """Settle one more package: beside what is chosen already, else by choosing the packages it collides with anew."""
        part = work.parts[coordinate]
        fitting = next((r for r in part.choices if next(self._against(work, coordinate, r, lines), None) is None), None)
        if fitting is not None and (fitting == part.choices[0] or not self._movable(work, coordinate, lines)):
            work.chosen[coordinate] = fitting
            return
        circle = self._circle(work, coordinate, lines)
        rest = {p: r for p, r in work.chosen.items() if p not in circle}
        found = self._search(work, [coordinate, *circle], rest, lines)
        if found is not None and (
            fitting is None or self._moved(work, found) <= self._moved(work, {coordinate: fitting})
        ):
            work.chosen = {**rest, **found}
        elif fitting is not None:
            work.chosen[coordinate] = fitting
        else:
            work.left_out[coordinate] = self._obstacle(work, part, lines)

    def _movable(self, work: _Work, coordinate: Coordinate, lines: Lines) -> bool:
        """Whether some package that stands in the way of the best choice could stand elsewhere."""
        best = work.parts[coordinate].choices[0]
        return any(not work.parts[other].fixed for other in self._against(work, coordinate, best, lines))

    def _moved(self, work: _Work, chosen: Releases) -> int:
        """How many packages would leave their ranges."""
        return sum(
            not self._in_ranges(work.parts[p].wish, chosen.get(p, r)) for p, r in {**work.chosen, **chosen}.items()
        )

    def _circle(self, work: _Work, coordinate: Coordinate, lines: Lines) -> list[Coordinate]:
        """Packages that are chosen and tied to this one, directly or through others, and whose line is not decided."""
        found: dict[Coordinate, None] = {}
        front = [coordinate]
        while front:
            here = front.pop()
            for other in work.chosen:
                if (
                    other not in found
                    and other != coordinate
                    and not work.parts[other].fixed
                    and self._tied(here, other, work, lines)
                ):
                    found[other] = None
                    front.append(other)
        return list(found)

    def _tied(self, one: Coordinate, other: Coordinate, work: _Work, lines: Lines) -> bool:
        return any(
            b in self._asked(a, r, lines) for a, b in ((one, other), (other, one)) for r in _ends(work.parts[a].choices)
        )

    def _search(
        self, work: _Work, names: Sequence[Coordinate], rest: Releases, lines: Lines
    ) -> dict[Coordinate, str] | None:
        """Releases for some packages beside the others, the best first; None where there are none, or too many to look at."""
        domains = {
            p: [
                r
                for r in work.parts[p].choices
                if all(self._agree(p, r, other, chosen, lines) for other, chosen in rest.items())
            ]
            for p in names
        }
        tries = _TRIES

        def extend(chosen: dict[Coordinate, str], left: dict[Coordinate, list[str]]) -> dict[Coordinate, str] | None:
            nonlocal tries
            if not left:
                return chosen
            coordinate = min(left, key=lambda p: (len(left[p]), p))
            for release in left[coordinate]:
                tries -= 1
                if tries < 0:
                    return None
                narrowed = {
                    p: [r for r in held if self._agree(coordinate, release, p, r, lines)]
                    for p, held in left.items()
                    if p != coordinate
                }
                if all(narrowed.values()) and (done := extend({**chosen, coordinate: release}, narrowed)) is not None:
                    return done
            return None

        return extend({}, domains) if all(domains.values()) else None

    def _bring_peers(self, work: _Work, lines: Lines) -> None:
        """What is chosen brings in peers that no manifest names, and those ask for others. Where they fit nowhere, another release is taken of
        who brings them, or of one settled before; else who brings them goes."""
        self._brought.begin()
        settled = {p: r for p, r in work.chosen.items() if work.parts[p].fixed}
        for coordinate in [p for p in work.chosen if p not in settled]:
            said = self._obstacle_below(work, {**settled, coordinate: work.chosen[coordinate]}, coordinate, lines)
            before = [p for p in settled if not work.parts[p].fixed and self._brought.brings(p, settled[p])]
            for mover in (coordinate, *before) if said else ():
                if (
                    better := self._beside(work, {**settled, coordinate: work.chosen[coordinate]}, mover, lines)
                ) is not None:
                    work.chosen[mover] = better
                    said = ""
                    break
            if said:
                del work.chosen[coordinate]
                work.left_out[coordinate] = f"{said}: replace or drop it"
            settled = {p: work.chosen[p] for p in (*settled, coordinate) if p in work.chosen}

    def _beside(self, work: _Work, settled: Releases, mover: Coordinate, lines: Lines) -> str | None:
        """Another release of one of the settled packages with which all of them find a place for what they bring; None where there is none."""
        fitting = (
            r
            for r in work.parts[mover].choices
            if r != settled[mover]
            and next(self._against(work, mover, r, lines), None) is None
            and not self._obstacle_below(work, {**settled, mover: r}, mover, lines)
        )
        return next(fitting, None)

    def _obstacle_below(self, work: _Work, settled: Releases, coordinate: Coordinate, lines: Lines) -> str:
        """Why the settled releases cannot stand together, for what they bring in; empty when they can. ``coordinate``: the one that joins them.

        Those that are not settled yet and bring something are looked at when they join.
        """
        home = self.knowledge.ecosystems.runtime_of(coordinate)
        runtime = lines.get(home) if home is not None else None
        brings = {p: r for p, r in settled.items() if self._brought.brings(p, r)}
        quiet = {p: r for p, r in work.chosen.items() if p not in settled and not self._brought.brings(p, r)}
        return self._brought.obstacle({**quiet, **settled}, brings, runtime) if brings else ""

    # words

    def _obstacle(self, work: _Work, part: _Part, lines: Lines) -> str:
        """Why no release of a package goes with the others."""
        coordinate = part.wish.coordinate
        name = self.knowledge.spoken(coordinate)
        for release in sorted(part.choices, key=line_key, reverse=True):
            for other in self._against(work, coordinate, release, lines):
                for owner, r, subject in ((coordinate, release, other), (other, work.chosen[other], coordinate)):
                    taken = release if subject == coordinate else work.chosen[subject]
                    for wanted in self._asked(owner, r, lines).get(subject, ()):
                        if taken not in self._admits(subject, wanted):
                            said = f"{self.knowledge.spoken(owner)} {r} needs {self.knowledge.spoken(subject)} {wanted}"
                            return f"no release goes with the others ({said}): replace or drop it"
        return f"no release of {name} goes with the others: replace or drop it"

    def _said(self, part: _Part, work: _Work, lines: Lines) -> Settled:
        coordinate = part.wish.coordinate
        release = work.chosen.get(coordinate)
        if release is None:
            return Settled(coordinate, "", "none", work.left_out.get(coordinate, ""))
        if part.why:
            return Settled(coordinate, release, "none", part.why)
        if self._in_ranges(part.wish, release):
            return Settled(coordinate, release, "keeps", f"{release} fits already")
        return Settled(coordinate, release, "change", self._reason(part, work, lines))

    def _reason(self, part: _Part, work: _Work, lines: Lines) -> str:
        """Why a package leaves its range: who asks for it, or what today’s releases ask for."""
        coordinate = part.wish.coordinate
        today = [r for r in self.knowledge.catalogues[coordinate].releases if self._in_ranges(part.wish, r)]
        spoken = self.knowledge.spoken
        for other, chosen in work.chosen.items():
            for wanted in self._asked(other, chosen, lines).get(coordinate, ()):
                if today and not any(r in self._admits(coordinate, wanted) for r in today):
                    return f"{spoken(other)} {chosen} needs {spoken(coordinate)} {wanted}"
        for release in reversed(today):
            for other, ranges in self._asked(coordinate, release, lines).items():
                if other in work.chosen and any(work.chosen[other] not in self._admits(other, w) for w in ranges):
                    return f"{spoken(coordinate)} {release} needs {spoken(other)} {', '.join(ranges)}"
        wanted = ", ".join(part.wish.ranges) or part.wish.exact or "today’s range"
        home = self.knowledge.ecosystems.runtime_of(coordinate)
        line = lines.get(home) if home is not None else None
        record = self.knowledge.catalogues[coordinate]
        built = frozenset(record.built.get(line or NO_LINE, ()))
        if home is not None and work.chosen[coordinate] in built and not built.intersection(today):
            return f"{wanted} admits none that is built for {spoken(home)} {line}"
        return f"{wanted} admits none that fits"


def _spread(releases: Sequence[str]) -> list[str]:
    """Releases of a line, newest first: a minor's newest before all of the next minor's, then some of the older ones."""
    minors: dict[tuple[int, ...], list[str]] = {}
    for release in releases:
        minors.setdefault(line_key(release)[:2], []).append(release)
    return [*(held[0] for held in minors.values()), *(r for held in minors.values() for r in held[1:_NEWEST])]


def _ends(choices: Sequence[str]) -> tuple[str, ...]:
    """The best and the last of some choices: between them lies what a package asks of others."""
    return (choices[0], choices[-1]) if choices else ()
