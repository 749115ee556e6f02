"""What keeps two lines from standing together, from release records and lifecycles (DESIGN 4.6).

Grades: *hard* (the metadata of a release, or no build of a compiled package), *stated* (support that the project claims;
binding for coordinates whose lifecycle lists runtimes, and wherever a later line claims what this one does not),
*observed* (its own code, read by Yoake), *tried* (really installed and used). Silence is no constraint.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date
from typing import TYPE_CHECKING, Final

from yoake.core.values.coordinates import NO_LINE, Coordinate, Line, Lines, line_key

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.knowledge.models import Catalogue, ReleaseFacts
    from yoake.core.values.words import ConstraintGrade

_FIXES: Final = 12  # releases of one minor that are looked at before a line is said not to fit
_SAME: Final = 4  # releases of one line with the same number, before two packages are said to go in step
_MOSTLY: Final = 0.8  # of the releases of that line


@dataclass(frozen=True, slots=True, order=True)
class Constraint:
    """Why a line of ``owner`` does not stand with a line of ``subject``; ``source`` says who says so."""

    owner: Coordinate
    subject: Coordinate
    grade: ConstraintGrade
    text: str
    source: str


@dataclass(frozen=True, slots=True)
class Relation:
    """The constraints that two lines break."""

    broken: tuple[Constraint, ...] = ()


class Compatibility:
    """Answers whether lines go together. ``lenient`` takes only metadata and lifecycles for binding, not claims and observations.

    ``stands``: lines of today, as far as they are known; ``leading``: what the destination names, with which others go in step.
    """

    def __init__(
        self,
        knowledge: Knowledge,
        today: date,
        *,
        lenient: bool = False,
        stands: Lines | None = None,
        leading: Collection[Coordinate] = (),
    ) -> None:
        self.knowledge = knowledge
        self.stands = dict(stands or {})
        self.leading = frozenset(leading)
        self.today = today
        self.lenient = lenient
        self._releases: dict[tuple[Coordinate, Line], tuple[str, ...]] = {}
        self._details: dict[Coordinate, dict[str, ReleaseFacts]] = {}
        self._lines: dict[Coordinate, list[Line]] = {}
        self._admitted: dict[tuple[Coordinate, str, Line], bool] = {}
        self._in_step: dict[tuple[Coordinate, Coordinate], bool] = {}
        self._below: dict[tuple[Coordinate, str, Coordinate, Line], str] = {}

    def releases(self, coordinate: Coordinate, line: Line) -> tuple[str, ...]:
        """Releases of a line that can be had, oldest first; empty when no record names them."""
        key = (coordinate, line)
        if key not in self._releases:
            record = self.knowledge.catalogues.get(coordinate)
            names = record.releases if record is not None else ()
            own = [r for r in names if self.knowledge.line_of(coordinate, r) == line]
            details = self.details(coordinate)
            kept = [r for r in own if not (r in details and self.is_gone(details[r]))]
            self._releases[key] = tuple(sorted(kept or own, key=line_key))
        return self._releases[key]

    def is_gone(self, facts: ReleaseFacts) -> bool:
        """Whether a release was withdrawn, or is not there yet."""
        return bool(facts.withdrawn) or (facts.released is not None and facts.released > self.today)

    def details(self, coordinate: Coordinate) -> dict[str, ReleaseFacts]:
        """Release → its metadata, as far as the record has it."""
        if coordinate not in self._details:
            record = self.knowledge.catalogues.get(coordinate)
            self._details[coordinate] = {d.release: d for d in record.details} if record is not None else {}
        return self._details[coordinate]

    def lines(self, coordinate: Coordinate) -> list[Line]:
        """Lines a record names, oldest first."""
        if coordinate not in self._lines:
            record = self.knowledge.catalogues.get(coordinate)
            names = {self.knowledge.line_of(coordinate, r) for r in record.releases} if record is not None else set()
            self._lines[coordinate] = sorted(names, key=line_key)
        return self._lines[coordinate]

    def newest(self, coordinate: Coordinate, line: Line, runtime: Line | None = None) -> str:
        """The release that stands for a line: the newest that runs on a line of its runtime; empty when none is known."""
        releases = self.releases(coordinate, line)
        record = self.knowledge.catalogues.get(coordinate)
        if runtime is not None and record is not None and self.knowledge.speaks_of(record, runtime):
            fits = frozenset(self.knowledge.fitting(record, runtime))
            releases = tuple(r for r in releases if r in fits) or releases
        return releases[-1] if releases else ""

    def choose(self, coordinate: Coordinate, line: Line, state: Lines, runtime: Line | None) -> str:
        """The newest release of a line that goes with the lines of a state; empty when none is known."""
        record = self.knowledge.catalogues.get(coordinate)
        fits = (
            frozenset(self.knowledge.fitting(record, runtime)) if record is not None and runtime is not None else None
        )
        details = self.details(coordinate)
        for release in reversed(self.releases(coordinate, line)):
            asked = details.get(release)
            runs = fits is None or release in fits
            if runs and (asked is None or self._goes_with(asked, coordinate, state, runtime)):
                return release
        return self.newest(coordinate, line, runtime)

    def _goes_with(self, facts: ReleaseFacts, coordinate: Coordinate, state: Lines, runtime: Line | None) -> bool:
        return all(
            self.admits(other, wanted, line)
            for other, line in state.items()
            if other != coordinate and self.knowledge.language_of(other) == self.knowledge.language_of(coordinate)
            for wanted in self._ranges(facts, other, runtime)
        )

    def states(self, coordinate: Coordinate, line: Line, runtime: Line) -> bool:
        """Whether a line claims a line of its runtime."""
        home = self.knowledge.ecosystems.runtime_of(coordinate)
        held = self.knowledge.line_facts(coordinate, line)
        listed = held is not None and runtime in held.runs_on
        return listed or (home is not None and runtime in self._claims(coordinate, line, f"{home.short}@"))

    def between(
        self, owner: Coordinate, line: Line, subject: Coordinate, other: Line, runtime: Line | None
    ) -> Relation:
        """What a line of ``owner`` says against a line of ``subject``. ``runtime`` decides conditional requirements."""
        ecosystems = self.knowledge.ecosystems
        if ecosystems.is_runtime(owner):
            return Relation()
        if ecosystems.is_runtime(subject):
            if ecosystems.language_of(owner) != ecosystems.language_of(subject):
                return Relation()
            return Relation(tuple(self._against_runtime(owner, line, subject, other)))
        return Relation(tuple(self._against_package(owner, line, subject, other, runtime)))

    # runtimes

    def _against_runtime(self, owner: Coordinate, line: Line, subject: Coordinate, other: Line) -> list[Constraint]:
        record = self.knowledge.catalogues.get(owner)
        if any(self.knowledge.ran(owner, r, other) for r in self.releases(owner, line)):
            return []  # some release of this line was really run there
        found = []
        if record is not None and self.knowledge.speaks_of(record, other):
            found.extend(self._hard(record, owner, line, subject, other))
        if not found:
            seen = (self.tried(owner, line, other) or self.observed(owner, line, other)) if not self.lenient else None
            found.extend([seen] if seen is not None else [])
        if not found:
            found.extend(self._stated(owner, line, subject, other))
        return found

    def _hard(
        self, record: Catalogue, owner: Coordinate, line: Line, subject: Coordinate, other: Line
    ) -> list[Constraint]:
        name, shown = self.knowledge.spoken(owner), self.knowledge.spoken(subject)
        source = f"release record of {owner.short}, {record.as_of}"
        own = self.releases(owner, line)
        if not own:
            return []
        fits = frozenset(self.knowledge.fitting(record, other))
        usable = [r for r in own if r in fits]
        if not usable:
            facts = self._facts_of(owner, line)
            wanted = (
                f" needs {shown} {facts.runs}" if facts is not None and facts.runs else f" is not for {shown} {other}"
            )
            return [Constraint(owner, subject, "hard", f"{name} {line}{wanted}", source)]
        if self._compiled(record, own) and not set(usable) & set(record.built.get(other, ())):
            return [Constraint(owner, subject, "hard", f"{name} {line} has no build for {shown} {other}", source)]
        return []

    def _compiled(self, record: Catalogue, own: Sequence[str]) -> bool:
        """Whether a line is built apart for some lines of its runtime and not for others."""
        held = [frozenset(built) for built in record.built.values()]
        return any(any(r in built for r in own) for built in held)

    def observed(self, owner: Coordinate, line: Line, other: Line) -> Constraint | None:
        """That the code of a line cannot be imported on a line of its runtime, as far as it was looked at."""
        facts, runtime = self._facts_of(owner, line), self.knowledge.ecosystems.runtime_of(owner)
        if facts is None or runtime is None or len(facts.observed) != 2 or other < facts.observed[0]:
            return None
        name, shown = self.knowledge.spoken(owner), self.knowledge.spoken(runtime)
        text = f"{name} {line} cannot be imported on {shown} {other}: it uses {facts.observed[1]}"
        return Constraint(owner, runtime, "observed", text, f"Yoake’s reading of {name} {facts.release}")

    def tried(self, owner: Coordinate, line: Line, other: Line) -> Constraint | None:
        """That the newest release of a line was really tried on a line of its runtime, and did not run."""
        releases, runtime = self.releases(owner, line), self.knowledge.ecosystems.runtime_of(owner)
        fact = self.knowledge.tried(owner, releases[-1], other) if releases else None
        if fact is None or fact.runs or runtime is None:
            return None
        name, shown = self.knowledge.spoken(owner), self.knowledge.spoken(runtime)
        text = f"{name} {fact.release} does not run on {shown} {other}: {fact.note}"
        return Constraint(owner, runtime, "tried", text, f"tried on {fact.as_of:%-d %b %Y}")

    def _facts_of(self, owner: Coordinate, line: Line) -> ReleaseFacts | None:
        details = self.details(owner)
        return next((details[r] for r in reversed(self.releases(owner, line)) if r in details), None)

    def _stated(self, owner: Coordinate, line: Line, subject: Coordinate, other: Line) -> list[Constraint]:
        name, shown = self.knowledge.spoken(owner), self.knowledge.spoken(subject)
        held = self.knowledge.line_facts(owner, line)
        lifecycle = self.knowledge.lifecycles.get(owner)
        if held is not None and held.runs_on and lifecycle is not None:
            if other in held.runs_on:
                return []
            return [
                Constraint(
                    owner, subject, "stated", _range_text(name, line, shown, held.runs_on, other), lifecycle.source
                )
            ]
        claimed = self._claims(owner, line, f"{subject.short}@")
        if (
            self.lenient
            or not claimed
            or other in claimed
            or not self._claimed_later(owner, line, f"{subject.short}@", other)
        ):
            return []
        source = f"classifiers of {name} {self.newest(owner, line)}"
        return [Constraint(owner, subject, "stated", _range_text(name, line, shown, claimed, other), source)]

    def _claims(self, owner: Coordinate, line: Line, prefix: str) -> tuple[str, ...]:
        """Lines of a coordinate that the newest release of a line claims to support."""
        facts = self._facts_of(owner, line)
        states = facts.states if facts is not None else ()
        named = [s.removeprefix(prefix) for s in states if s.startswith(prefix)]
        owned = self.knowledge.ecosystems.of(owner)
        shortest = owned.lines.runtime if owned is not None and prefix == f"{owned.runtime.short}@" else 1
        return tuple(sorted((x for x in named if len(line_key(x)) >= shortest), key=line_key))

    def _claimed_later(self, owner: Coordinate, line: Line, prefix: str, other: Line) -> bool:
        """Whether a later line claims it: then this one’s silence means something."""
        later = [x for x in self.lines(owner) if x > line]
        return any(other in self._claims(owner, x, prefix) for x in later)

    # packages

    def _against_package(
        self, owner: Coordinate, line: Line, subject: Coordinate, other: Line, runtime: Line | None
    ) -> list[Constraint]:
        if self.knowledge.language_of(owner) != self.knowledge.language_of(subject):
            return []
        facts = self._facts_of(owner, line)
        if facts is None:
            return []
        name, source = self.knowledge.spoken(owner), f"metadata of {owner.name} {facts.release}"
        found = []
        unmet = self._unmet(facts, subject, other, runtime)
        if unmet and all(self._unmet(fix, subject, other, runtime) for fix in self._other_fixes(owner, line, facts)):
            for wanted in unmet:
                text = f"{name} {line} needs {self.knowledge.spoken(subject)} {wanted}"
                found.append(Constraint(owner, subject, "hard", text, source))
        below = self._unmet_below(facts, subject, other) if not found else None
        if below and all(self._unmet_below(fix, subject, other) for fix in self._other_fixes(owner, line, facts)):
            brought, wanted = below
            spoken = self.knowledge.spoken
            text = f"{name} {line} brings {spoken(brought)}, which needs {spoken(subject)} {wanted}"
            found.append(Constraint(owner, subject, "hard", text, f"{source}, and of {brought.name}"))
        claimed = self._claims(owner, line, f"{subject.short}@")
        silent = self.lenient or not claimed or other in claimed
        if not found and not silent and self._claimed_later(owner, line, f"{subject.short}@", other):
            text = _range_text(name, line, self.knowledge.spoken(subject), claimed, other)
            found.append(Constraint(owner, subject, "stated", text, f"classifiers of {name} {facts.release}"))
        if not found and not self.lenient and not claimed and (later := self._named_later(owner, line, subject, other)):
            text = f"{name} {line} names no {self.knowledge.spoken(subject)}; {name} {later[0]} needs {later[1]}"
            found.append(Constraint(owner, subject, "stated", text, f"metadata of {name}"))
        if not found and not self.lenient and self._falls_behind(owner, facts, line, subject, other, runtime):
            shown = self.knowledge.spoken(subject)
            text = f"{name} {line} goes in step with {shown} {line}, and there is a {name} {other} for {shown} {other}"
            found.append(Constraint(owner, subject, "stated", text, f"releases of {name} and {shown}"))
        return found

    def _falls_behind(
        self, owner: Coordinate, facts: ReleaseFacts, line: Line, subject: Coordinate, other: Line, runtime: Line | None
    ) -> bool:
        """Whether a package that says nothing of another has stood on its line so far, goes in step with it, and has a line for ``other``."""
        stands = self.stands.get(owner)
        return (
            stands is not None
            and subject in self.leading
            and stands == self.stands.get(subject)
            and line < other
            and other in self.lines(owner)
            and not self._ranges(facts, subject, runtime)
            and self.go_in_step(owner, subject)
        )

    def go_in_step(self, one: Coordinate, other: Coordinate) -> bool:
        """Whether two packages share their line numbers: one describes the other, both are of one publisher's scope, or their releases
        have the same numbers throughout."""
        if (one, other) not in self._in_step:
            self._in_step[one, other] = self._shares_numbers(one, other)
        return self._in_step[one, other]

    def _shares_numbers(self, one: Coordinate, other: Coordinate) -> bool:
        owner = self.knowledge.ecosystems.of(one)
        if owner is None or not owner.nested or self.knowledge.ecosystems.of(other) is not owner:
            return False
        names = [p.name for p in (one, other)]
        if described := owner.described(names[0]):
            return described == names[1]
        if owner.described(names[1]):
            return False
        scopes = [name.rpartition("/")[0] for name in names]
        if scopes[0] and scopes[0] == scopes[1]:
            return True
        newest = max(set(self.lines(one)) & set(self.lines(other)), default=NO_LINE)
        held = [{r for r in self.releases(p, newest) if line_key(r)[1:] != (0, 0)} for p in (one, other)]
        both = len(held[0] & held[1])
        return both >= _SAME and both >= _MOSTLY * len(held[0] | held[1])

    def _named_later(self, owner: Coordinate, line: Line, subject: Coordinate, other: Line) -> tuple[str, str] | None:
        """(line, range) of the first later line of a package that names another, where this one names it not at all: it was made for
        what is there today if that range leaves today’s line out and lets ``other`` in."""
        facts, stands = self._facts_of(owner, line), self.stands.get(subject)
        if facts is None or stands is None or subject not in self.leading or other <= stands:
            return None
        said = {*facts.needs, *facts.peers, *(n for n, _, _ in facts.needs_when)}
        if said & {p.name for p in self.leading}:
            return None  # it speaks of what the destination names, so its silence about this says nothing
        for x in self.lines(owner):
            held = self._facts_of(owner, x) if x > line else None
            ranges = self._ranges(held, subject, None) if held is not None else []
            if ranges:
                suits = self.admits(subject, ranges[0], other) and not self.admits(subject, ranges[0], stands)
                return (x, ranges[0]) if suits else None
        return None

    def _unmet(self, facts: ReleaseFacts, subject: Coordinate, line: Line, runtime: Line | None) -> list[str]:
        """What a release asks of a package that no release of a line fulfils."""
        return [wanted for wanted in self._ranges(facts, subject, runtime) if not self.admits(subject, wanted, line)]

    def _unmet_below(self, facts: ReleaseFacts, subject: Coordinate, line: Line) -> tuple[Coordinate, str] | None:
        """(a peer that a release brings in, range) where no release of that peer that it takes goes with a line of a package."""
        owner = self.knowledge.ecosystems.of(subject)
        if owner is None or not owner.nested:
            return None
        for name, wanted in facts.peers.items():
            peer = owner.package(name)
            if name not in facts.optional and peer != subject and peer in self.knowledge.catalogues:
                key = (peer, wanted, subject, line)
                if key not in self._below:
                    self._below[key] = self._refused_by_all(peer, wanted, subject, line)
                if self._below[key]:
                    return peer, self._below[key]
        return None

    def _refused_by_all(self, peer: Coordinate, wanted: str, subject: Coordinate, line: Line) -> str:
        """What the newest release of a range asks of a package, where none of that range goes with a line of it; else empty."""
        details = self.details(peer)
        unmet = ""
        for release in self.knowledge.ecosystems.admitted(peer, wanted, self.usable(peer)):
            facts = details.get(release)
            asked = self._unmet(facts, subject, line, None) if facts is not None else []
            if not asked:
                return ""
            unmet = asked[0]
        return unmet

    def _other_fixes(self, owner: Coordinate, line: Line, newest: ReleaseFacts) -> list[ReleaseFacts]:
        """Releases of the same minor before the newest: a family that pins itself exactly does not always publish all its members."""
        minor, details = line_key(newest.release)[:2], self.details(owner)
        held = [r for r in self.releases(owner, line) if line_key(r)[:2] == minor and r != newest.release]
        return [details[r] for r in held[:-_FIXES:-1] if r in details]

    def usable(self, coordinate: Coordinate) -> list[str]:
        """Releases of a package that can be had, oldest first."""
        record, details = self.knowledge.catalogues.get(coordinate), self.details(coordinate)
        names = record.releases if record is not None else ()
        return sorted((r for r in names if not (r in details and self.is_gone(details[r]))), key=line_key)

    def asks(self, coordinate: Coordinate, release: str, runtime: Line | None) -> dict[Coordinate, tuple[str, ...]]:
        """What a release asks of other packages, coordinate → ranges; of one without a record of its own, what its line's newest asks."""
        owner = self.knowledge.ecosystems.of(coordinate)
        facts = self.details(coordinate).get(release) or self._facts_of(
            coordinate, self.knowledge.line_of(coordinate, release)
        )
        if owner is None or facts is None:
            return {}
        named = [*facts.peers, *([] if owner.nested else [*facts.needs, *(name for name, _, _ in facts.needs_when)])]
        subjects = dict.fromkeys(owner.package(name) for name in named)  # in the order of the record, each time
        asked = {subject: tuple(self._ranges(facts, subject, runtime)) for subject in subjects}
        return {subject: ranges for subject, ranges in asked.items() if ranges}

    def _ranges(self, facts: ReleaseFacts, subject: Coordinate, runtime: Line | None) -> list[str]:
        """What a release asks of another package. Where packages bring their own copies of what they need, only peers bind."""
        owner = self.knowledge.ecosystems.of(subject)
        if owner is None:
            return []
        if owner.nested:
            return [w for name, w in facts.peers.items() if w and owner.package(name) == subject]
        plain = [w for name, w in facts.needs.items() if w and owner.package(name) == subject]
        when = [
            w
            for name, w, marker in facts.needs_when
            if w and owner.package(name) == subject and owner.condition_holds(marker, runtime)
        ]
        return [*plain, *when]

    def admits(self, subject: Coordinate, wanted: str, line: Line) -> bool:
        """Whether a range lets some release of a line in."""
        key = (subject, wanted, line)
        if key not in self._admitted:
            ecosystems, releases = self.knowledge.ecosystems, self.releases(subject, line)
            self._admitted[key] = (
                bool(ecosystems.admitted(subject, wanted, releases))
                if releases
                else ecosystems.admits(subject, wanted, line)
            )
        return self._admitted[key]

    def conditional(self, owner: Coordinate, line: Line, subject: Coordinate) -> bool:
        """Whether what a line asks of a package depends on the runtime."""
        facts = self._facts_of(owner, line)
        home = self.knowledge.ecosystems.of(subject)
        return (
            facts is not None
            and home is not None
            and any(home.package(name) == subject for name, _, _ in facts.needs_when)
        )


def _range_text(name: str, line: Line, shown: str, claimed: Sequence[str], other: Line) -> str:
    """“Django 4.2 ends at Python 3.12”, and the like."""
    if other > claimed[-1]:
        return f"{name} {line} ends at {shown} {claimed[-1]}"
    if other < claimed[0]:
        return f"{name} {line} starts at {shown} {claimed[0]}"
    return f"{name} {line} does not state {shown} {other}"
