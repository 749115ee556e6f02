"""Packages against the destination: does what is required today run there, and which release to take?"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Final

from yoake.core.values.coordinates import NO_LINE, Coordinate, Line, line_key
from yoake.core.values.findings import Checks, Finding, PackageState

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.knowledge.models import Catalogue, TriedFact
    from yoake.core.knowledge.timeline import Timeline
    from yoake.core.scan.companions import Company
    from yoake.core.scan.findings import Builder
    from yoake.core.values.journeys import Span
    from yoake.core.values.modules import Module, Requirement, Stated
    from yoake.core.values.words import CheckState, Grade, StatedHow

_UNSAID: Final = "packages that nothing speaks against, and that nothing says run there"
_OBSERVED: Final = 2  # parts of what was observed: the line, and what is used


def package_findings(
    module: Module,
    stated: Mapping[Coordinate, Stated],
    builder: Builder,
    knowledge: Knowledge,
    checks: Checks,
    company: Company,
    clean: Mapping[Coordinate, CleanLines] | None = None,
) -> Iterator[tuple[PackageState, Finding | None]]:
    """Each package: does today's release run on the destination's runtime and go with its packages; does its range admit them?

    ``company``: who has to move along; ``clean``: coordinate → what this code needs of that package, where it was worked out.
    """
    weight = knowledge.effort.weights.package
    direct: dict[Coordinate, list[Requirement]] = {}
    for requirement in module.requirements:
        direct.setdefault(requirement.coordinate, []).append(requirement)
    locked = {entry.coordinate: entry.release for entry in reversed(module.locked) if not entry.nested}
    is_runtime = knowledge.ecosystems.is_runtime
    for coordinate in sorted({*(p for p in stated if not is_runtime(p)), *direct}):
        asked = _Asked(
            coordinate=coordinate,
            wanted=direct.get(coordinate, []),
            said=stated.get(coordinate),
            exact=locked.get(coordinate),
            module=module.path,
        )
        pinned = knowledge.ecosystems.exact(asked.coordinate, asked.specifier) if asked.specifier else None
        asked = replace(asked, pinned=asked.exact or pinned or "")
        state, finding = _package(asked, builder, company, knowledge)
        why = (_UNSAID if state.release else state.note) if state.state == "unknown" else ""
        checks.add("package", state.state, weight, state.file, module.path, why)
        held = (clean or {}).get(coordinate)
        yield (
            replace(
                state,
                direct=coordinate in direct,
                wanted=asked.specifier,
                exact=asked.exact or "",
                clean=held.lines if held is not None else (),
                breaks=held.breaks if held is not None else (),
            ),
            finding,
        )


@dataclass(frozen=True, slots=True)
class CleanLines:
    """Lines of a package on which everything this code uses of it is offered, and the first losses of the others."""

    lines: tuple[Line, ...]
    breaks: tuple[tuple[Line, str], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Asked:
    """One package as the module asks for it. ``exact``: what a lock file says; ``pinned``: that, or the one release its range admits."""

    coordinate: Coordinate
    wanted: list[Requirement]
    said: Stated | None
    exact: str | None
    module: str
    pinned: str = ""

    @property
    def specifier(self) -> str:
        """The range of the requirement that counts: run time before groups."""
        return next((r.specifier for r in sorted(self.wanted, key=lambda r: r.group != "") if r.specifier), "")

    def state(
        self, state: CheckState, note: str, suggestion: str = "", *, grade: Grade = "none", release: str = ""
    ) -> PackageState:
        line = self.said.line if self.said else NO_LINE
        how: StatedHow = self.said.how if self.said else "not stated"
        file, number = self.at
        judged = release or self.pinned
        return PackageState(
            coordinate=self.coordinate,
            module=self.module,
            line=line,
            how=how,
            state=state,
            note=note,
            file=file,
            line_number=number,
            suggestion=suggestion,
            grade=grade,
            release=judged,
        )

    @property
    def at(self) -> tuple[str, int]:
        if self.said and self.said.file:
            return self.said.file, self.said.line_number
        return (self.wanted[0].file, self.wanted[0].line) if self.wanted else ("", 0)


def _package(
    asked: _Asked, builder: Builder, company: Company, knowledge: Knowledge
) -> tuple[PackageState, Finding | None]:
    if asked.coordinate in company.moving:
        state, finding = _moving(asked, company, builder, knowledge)
        runtime = knowledge.ecosystems.runtime_of(asked.coordinate)
        if not company.moving[asked.coordinate].is_claimed or runtime is None or runtime not in builder.spans:
            return state, finding
        there, unfit = _against_runtime(asked, builder, knowledge)  # what is only claimed says nothing of the runtime
        return there, unfit or finding
    span = builder.spans.get(asked.coordinate)
    if span is None or line_key(span.goal) == line_key(span.today):
        refused = company.refused_by(asked.coordinate, asked.pinned) if asked.pinned else None
        if refused is not None:
            return _refused(asked, refused, company, builder, knowledge)
        return _staying(asked, company, builder, knowledge)
    name = asked.coordinate.name
    stale = [
        r
        for r in asked.wanted
        if r.specifier and not knowledge.ecosystems.admits(asked.coordinate, r.specifier, span.goal)
    ]
    if not stale:
        return asked.state("holds", f"moves to {span.goal}", grade="hard", release=span.goal), None
    finding = builder.single(
        asked.coordinate,
        "package",
        f"requirement {name}",
        f"{name} {stale[0].specifier} keeps {span.goal} out",
        span.goal,
        [(r.file, r.line, f"{r.name} {r.specifier}") for r in stale],
        remedy=f"Let the requirement admit {name} {span.goal} at that hop.",
        evidence=("read from the manifest",),
    )
    return asked.state("fails", finding.title, grade="hard"), finding


def _moving(asked: _Asked, company: Company, builder: Builder, knowledge: Knowledge) -> tuple[PackageState, Finding]:
    """A package whose line does not go with the destination."""
    companion = company.moving[asked.coordinate]
    release = company.release_for(asked.coordinate, companion.goal) if companion.goal else ""
    subject = f"{knowledge.spoken(companion.against)} {company.goals[companion.against]}"
    title = f"{asked.coordinate.name} {asked.exact or asked.specifier or companion.today} does not go with {subject}"
    if companion.is_claimed:
        title = f"nobody says that {asked.coordinate.name} {companion.today} goes with {subject}"
    remedy = f"It moves with {subject}, to {release or companion.goal} or later: {companion.constraint.text}."
    if not companion.goal:
        remedy = f"No release goes with it ({companion.constraint.text}): replace it or drop it."
    said = (title, remedy, companion.bites_at)
    record = knowledge.catalogues.get(asked.coordinate)
    finding = _unfit(asked, record, said, companion.is_claimed, builder, knowledge, against=companion.against)
    why = companion.constraint.text
    if companion.is_claimed:
        return asked.state("unknown", why, release, release=asked.pinned), finding
    return asked.state("fails", why, release, grade="hard", release=asked.pinned), finding


def _refused(
    asked: _Asked, refused: tuple[Coordinate, str], company: Company, builder: Builder, knowledge: Knowledge
) -> tuple[PackageState, Finding]:
    """A package of which a later release of the same line goes with the destination, and the one that is asked for does not."""
    against, wanted = refused
    named = f"{asked.coordinate.name} {asked.pinned}"
    subject = f"{knowledge.spoken(against)} {company.goals[against]}"
    release = company.release_for(asked.coordinate, asked.said.line if asked.said is not None else NO_LINE)
    title = f"{named} does not go with {subject}"
    remedy = f"Move it to {release}: {named} needs {knowledge.spoken(against)} {wanted}."
    record = knowledge.catalogues.get(asked.coordinate)
    said = (title, remedy, builder.spans[against].goal)
    finding = _unfit(asked, record, said, False, builder, knowledge, against=against)
    note = f"{named} needs {knowledge.spoken(against)} {wanted}"
    return asked.state("fails", note, release, grade="hard", release=asked.pinned), finding


def _staying(
    asked: _Asked, company: Company, builder: Builder, knowledge: Knowledge
) -> tuple[PackageState, Finding | None]:
    """A package whose line goes with the packages of the destination: what decides is its runtime, where that moves too."""
    runtime = knowledge.ecosystems.runtime_of(asked.coordinate)
    if runtime is not None and runtime not in builder.spans and company.speaks_to(asked.coordinate):
        if asked.coordinate not in knowledge.catalogues:
            note = f"no release record of {asked.coordinate.short}, so nobody knows what it has to go with"
            return asked.state("unknown", note), None
        release = asked.pinned or company.release_for(
            asked.coordinate, asked.said.line if asked.said is not None else NO_LINE
        )
        said = company.spoken_of(asked.coordinate, release) if release else None
        if said is not None:
            subject = f"{knowledge.spoken(said[0])} {company.goals[said[0]]}"
            if said[1]:
                return asked.state("holds", f"{release} admits {subject}", grade="hard", release=release), None
            note = f"nothing speaks against {asked.coordinate.name} {release}, and nothing says that it goes with {subject}"
            return asked.state("unknown", note, release=release), None
    return _against_runtime(asked, builder, knowledge)


def _against_runtime(asked: _Asked, builder: Builder, knowledge: Knowledge) -> tuple[PackageState, Finding | None]:
    """A package the destination does not name: does a release its manifest admits run on the destination's runtime?"""
    runtime = knowledge.ecosystems.runtime_of(asked.coordinate)
    if runtime is None:
        return asked.state("unknown", f"nothing here reads packages of the kind of {asked.coordinate.short}"), None
    span, record = builder.spans.get(runtime), knowledge.catalogues.get(asked.coordinate)
    if span is None:
        note = f"the destination names no {knowledge.spoken(runtime)}: it stays as it is"
        return asked.state("holds", note, grade="hard"), None
    fact = knowledge.tried(asked.coordinate, asked.pinned, span.goal) if asked.pinned else None
    if fact is not None:
        return _as_tried(asked, fact, record, span.goal, builder, knowledge)
    if record is None or not knowledge.speaks_of(record, span.goal):
        return asked.state("unknown", f"no release record of {asked.coordinate.short}"), None
    fits, built = knowledge.fitting(record, span.goal), record.built.get(span.goal, ())
    ranged = knowledge.ecosystems.admitted(asked.coordinate, asked.specifier, fits)
    usable = [r for r in fits if r == asked.exact] if asked.exact else ranged
    compiled = bool(record.releases) and any(record.built.values()) and not any(r in built for r in usable)
    seen = observed_break(record, usable[-1], span.goal, knowledge) if usable and not compiled else None
    fact = knowledge.tried(asked.coordinate, usable[-1], span.goal) if usable else None
    if fact is not None:
        return _as_tried(asked, fact, record, span.goal, builder, knowledge)
    if usable and not compiled and seen is None:
        return _nothing_against(asked, record, usable[-1], span.goal, knowledge), None
    there = f"{knowledge.spoken(runtime)} {span.goal}"
    newest = _newest_that_may(record, built or fits, span.goal, knowledge)
    title, remedy = _words(asked, there, newest, compiled and bool(usable))
    if seen is not None:
        title = f"{asked.coordinate.name} {usable[-1]} cannot be imported on {there}: it uses {seen[1]}"
    bites = seen[0] if seen is not None else _first_unfit(record, span, asked, knowledge)
    finding = _unfit(asked, record, (title, remedy, bites), bool(usable), builder, knowledge)
    return asked.state(
        "fails", title, newest, grade="hard" if seen is None else "observed", release=(usable or [""])[-1]
    ), finding


def _as_tried(
    asked: _Asked, fact: TriedFact, record: Catalogue | None, goal: Line, builder: Builder, knowledge: Knowledge
) -> tuple[PackageState, Finding | None]:
    """What came of it when the release was really run there says more than anything else."""
    named = f"{asked.coordinate.name} {fact.release}"
    if fact.runs:
        return asked.state("holds", f"{named} {fact.story}", grade="tried", release=fact.release), None
    runtime = knowledge.ecosystems.runtime_of(asked.coordinate)
    there = f"{knowledge.spoken(runtime) if runtime is not None else ''} {goal}".strip()
    newest = _newest_that_may(record, knowledge.fitting(record, goal), goal, knowledge) if record is not None else ""
    title = f"{named} does not run on {there}: {fact.note}"
    _, remedy = _words(asked, there, newest, usable=False)
    finding = _unfit(asked, record, (title, remedy, goal), False, builder, knowledge)
    return asked.state("fails", title, newest, grade="tried", release=fact.release), finding


def _unfit(
    asked: _Asked,
    record: Catalogue | None,
    said: tuple[str, str, Line],
    usable: bool,
    builder: Builder,
    knowledge: Knowledge,
    *,
    against: Coordinate | None = None,
) -> Finding:
    """The finding of a package that does not run on the destination. ``said``: title, remedy and the line at which it bites.

    ``usable``: its metadata would let it; ``against``: what it does not go with, where that is not its runtime.
    """
    title, remedy, bites = said
    runtime = knowledge.ecosystems.runtime_of(asked.coordinate)
    coordinate = against or (runtime if runtime is not None else asked.coordinate)
    file, number = asked.at
    return builder.single(
        coordinate,
        "package",
        f"release {asked.coordinate.name}",
        title,
        bites,
        [(file, number, f"{asked.coordinate.name} {asked.exact or asked.specifier}")],
        remedy=remedy,
        level="warning" if usable else "error",
        evidence=(f"release record of {asked.coordinate.short}: {record.how}, {record.as_of}",)
        if record is not None
        else (),
        confidence="likely" if usable else "certain",
    )


def _nothing_against(asked: _Asked, record: Catalogue, release: str, goal: Line, knowledge: Knowledge) -> PackageState:
    """A package that nothing keeps from the destination: it holds where something says so, else it is not known."""
    grade = grade_of(record, release, goal, knowledge)
    if grade == "none":
        return asked.state(
            "unknown",
            f"nothing speaks against {asked.coordinate.name} {release}, and nothing says that it runs there",
            release=release,
        )
    words = {"hard": f"{release} is built for it", "stated": f"{release} states it"}
    return asked.state("holds", words[grade], grade=grade, release=release)


def grade_of(record: Catalogue, release: str, line: Line, knowledge: Knowledge) -> Grade:
    """What says that a release runs on a line of its runtime: *hard*, *stated* or *none*.

    That its metadata lets it run on any newer line says nothing: most projects never take such a limit back.
    """
    owner = knowledge.ecosystems.of(record.coordinate)
    if owner is None:
        return "none"
    if _built_apart(record, release, line):
        return "hard"
    facts = next((d for d in record.details if d.release == release), None)
    lifecycle = knowledge.line_facts(record.coordinate, knowledge.line_of(record.coordinate, release))
    listed = lifecycle is not None and line in lifecycle.runs_on
    claimed = facts is not None and f"{owner.runtime.short}@{line}" in facts.states
    return "stated" if listed or claimed or (owner.stated_by_range and facts is not None and facts.runs) else "none"


def _built_apart(record: Catalogue, release: str, line: Line) -> bool:
    """Whether a release has a build for this line of its runtime and none for some newer one that it would run on.

    A build for any line would serve the newer one as well, and says nothing of what was tried.
    """
    newer = [other for other in record.built if other > line]
    lacks = any(release in record.fits.get(other, ()) and release not in record.built[other] for other in newer)
    return lacks and release in record.built.get(line, ())


def observed_break(record: Catalogue, release: str, line: Line, knowledge: Knowledge) -> tuple[Line, str] | None:
    """(line, what it uses) where the code of a release cannot be imported any more at ``line``; None when nothing is seen.

    Where only the newest release of its line was looked at, an older one is taken to be no better.
    """
    coordinate = record.coordinate
    own = knowledge.line_of(coordinate, release)
    looked = [d for d in record.details if d.release == release or knowledge.line_of(coordinate, d.release) == own]
    facts = next((d for d in looked if d.release == release), looked[-1] if looked else None)
    if facts is None or len(facts.observed) != _OBSERVED or line < facts.observed[0]:
        return None
    return Line(facts.observed[0]), facts.observed[1]


def _newest_that_may(record: Catalogue, releases: Sequence[str], line: Line, knowledge: Knowledge) -> str:
    """The newest release that nothing keeps from a line; empty when there is none."""
    for release in reversed(releases):
        fact = knowledge.tried(record.coordinate, release, line)
        if fact.runs if fact is not None else observed_break(record, release, line, knowledge) is None:
            return release
    return ""


def _words(asked: _Asked, there: str, newest: str, usable: bool) -> tuple[str, str]:
    """Title and remedy of a package that does not fit ``there``."""
    name, shown = asked.coordinate.name, asked.exact or asked.specifier or "any release"
    why = "has no wheel for" if usable else "does not run on"
    title = f"{name} {shown} {why} {there}"
    if not newest:
        return title, "No release fits: replace it, drop it, or stay on the older line with the part that needs it."
    return title, f"{newest} is the newest release for {there}."


def _first_unfit(record: Catalogue, span: Span, asked: _Asked, knowledge: Knowledge) -> Line:
    """The first line on the way on which no admitted release fits; the goal when it is the pinned one only."""
    for line in knowledge.runtime_lines(record):
        if span.today < line <= span.goal:
            fits = knowledge.fitting(record, line)
            if not knowledge.ecosystems.admitted(asked.coordinate, asked.specifier, fits):
                return line
    return span.goal


def clean_lines(timeline: Timeline, paths: Iterable[str], today: Line) -> CleanLines:
    """Lines on which every path that today's line offers is still offered."""
    position = timeline.floor(today)
    start = 0 if position is None else position
    every = (1 << len(timeline.lines)) - 1
    mask, lost = every, dict[int, str]()
    for path in sorted(set(paths)):
        there = _offered(timeline, path)
        if not there >> start & 1:
            continue
        for at in range(len(timeline.lines)):
            if not there >> at & 1:
                lost.setdefault(at, path)
        mask &= there
    breaks = tuple((timeline.names[at], lost[at]) for at in sorted(lost) if at > start)
    return CleanLines(tuple(timeline.lines_in(mask)), breaks)


def _offered(timeline: Timeline, path: str) -> int:
    """Lines on which nothing of ``path`` is known to be missing."""
    parts = path.split(".")
    mask = (1 << len(timeline.lines)) - 1
    for length in range(1, len(parts) + 1):
        answer = timeline.ask(".".join(parts[:length]))
        if not answer.offers:
            break  # never seen anywhere: nothing can be said of it
        mask &= answer.offers | answer.unknown
    return mask
