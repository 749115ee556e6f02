"""From an application's evidence to the problem that is searched: which coordinates, which lines, what each move costs."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from functools import cached_property
from itertools import combinations
from typing import TYPE_CHECKING

from yoake.core.knowledge.compatibility import Compatibility, Constraint
from yoake.core.planning.pricing import newly_lost
from yoake.core.planning.search_space import MILLI, Pair, SearchSpace, Track
from yoake.core.planning.settling import Settling, Wish, wishes_of
from yoake.core.readiness.estimate import mean_days
from yoake.core.values.coordinates import Coordinate, Line, Lines, line_key
from yoake.core.values.journeys import Shape, Span, Surroundings

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.knowledge.models import LineFacts
    from yoake.core.values.findings import Finding, PackageState

_MOST_TRACKED = 60  # packages of one set; more than that is no application but a mirror


@dataclass(frozen=True, kw_only=True)
class Journey:
    """What one set of modules travels with. ``spans``: the destination's coordinates; ``findings``: open work only; ``around``: tests,
    and how much is known; ``wishes``: what manifests ask for, where that is more than the packages that are searched;
    ``unplaced``: lines of the destination for what nobody says where it stands today."""

    name: str
    spans: Mapping[Coordinate, Span]
    packages: Sequence[PackageState]
    findings: Sequence[Finding]
    today: date
    days_per_week: float
    shape: Shape = field(default_factory=Shape)
    around: Surroundings = field(default_factory=Surroundings)
    wishes: tuple[Wish, ...] = ()
    unplaced: Lines = field(default_factory=dict)


@dataclass(frozen=True)
class Problem:
    """The problem with the names and reasons that go with its numbers."""

    journey: Journey
    knowledge: Knowledge
    compatibility: Compatibility
    space: SearchSpace
    before: tuple[Finding, ...]

    @cached_property
    def settling(self) -> Settling:
        """Who settles the packages of the journey’s manifests."""
        today = {
            t.coordinate: t.lines[0] for t in self.space.tracks if self.knowledge.ecosystems.is_runtime(t.coordinate)
        }
        return Settling(
            self.compatibility, self.journey.wishes or wishes_of(self.journey.packages), today, self.journey.unplaced
        )

    @cached_property
    def places(self) -> dict[str, int]:
        """Purl → number of the coordinate."""
        return {track.coordinate: c for c, track in enumerate(self.space.tracks)}

    def broken(self, a: int, i: int, b: int, j: int, runtime: Line | None = None) -> list[Constraint]:
        """Constraints, both ways, that line i of a and line j of b break. What runs today runs: of two that stay, only what a newer
        runtime asks of them, and today's does not."""
        one, other = self.space.tracks[a], self.space.tracks[b]
        if i == 0 and j == 0:
            today = self._todays_runtime(one)
            if runtime is None or today is None or runtime == today:
                return []
            known = self._unmet(one, i, other, j, today)
            return [constraint for constraint in self._unmet(one, i, other, j, runtime) if constraint not in known]
        if runtime is None:
            runtime = self._runtime_line(one, i) or self._runtime_line(other, j)
        return self._unmet(one, i, other, j, runtime)

    def _todays_runtime(self, track: Track) -> Line | None:
        home = self.knowledge.ecosystems.runtime_of(track.coordinate)
        at = self.places.get(home) if home is not None else None
        return self.space.tracks[at].lines[0] if at is not None else None

    def _unmet(self, one: Track, i: int, other: Track, j: int, runtime: Line | None) -> list[Constraint]:
        ways = ((one, i, other, j), (other, j, one, i))
        return [
            constraint
            for owner, x, subject, y in ways
            for constraint in self.compatibility.between(
                owner.coordinate, owner.lines[x], subject.coordinate, subject.lines[y], runtime
            ).broken
        ]

    def asked_otherwise(self, journey: Journey) -> Problem:
        """The same problem for another journey of the same day, with the answers that are known already."""
        return pose_problem(journey, self.knowledge, compatibility=self.compatibility)

    def _runtime_line(self, track: Track, i: int) -> Line | None:
        return track.lines[i] if self.knowledge.ecosystems.is_runtime(track.coordinate) else None


def pose_problem(
    journey: Journey, knowledge: Knowledge, *, lenient: bool = False, compatibility: Compatibility | None = None
) -> Problem:
    """The problem of one set of modules. ``compatibility``: one of the same day that was used already, with its answers."""
    if compatibility is None:
        stands = {p.coordinate: p.line for p in journey.packages if p.line} | {
            coordinate: span.today for coordinate, span in journey.spans.items()
        }
        compatibility = Compatibility(knowledge, journey.today, lenient=lenient, stands=stands, leading=journey.spans)
    packages = _tracked_packages(journey, knowledge, compatibility)
    before = [f for f in journey.findings if _safe_now(f) or not _waits_for_a_move(f, journey)]
    done = {f.key for f in before}
    ahead = [f for f in journey.findings if f.key not in done]
    costs = _Costs(ahead, knowledge, frozenset(p.coordinate.name for p in packages))
    tracks = [_goal_track(p, s, journey, knowledge, costs) for p, s in sorted(journey.spans.items())]
    tracks += [_package_track(p, journey, compatibility, costs) for p in packages]
    draft = Problem(journey, knowledge, compatibility, _problem(tracks, journey, knowledge, before), tuple(before))
    return Problem(journey, knowledge, compatibility, _related(draft), tuple(before))


def _safe_now(finding: Finding) -> bool:
    return finding.window.state == "now" and finding.kind not in ("toolchain", "package")


def _waits_for_a_move(finding: Finding, journey: Journey) -> bool:
    """Whether a finding has to do with a line that the journey crosses: of the destination, or of a package that moves along."""
    span = journey.spans.get(finding.coordinate)
    if finding.bites_at is None:
        return False
    if span is None:
        asked_for = {w.coordinate for w in journey.wishes} or {p.coordinate for p in journey.packages if p.direct}
        return finding.coordinate in asked_for
    return span.today < finding.bites_at <= span.goal


def _tracked_packages(journey: Journey, knowledge: Knowledge, compatibility: Compatibility) -> list[PackageState]:
    """Direct packages with a known line and a release record."""
    found: dict[str, PackageState] = {}
    for package in journey.packages:
        coordinate = package.coordinate
        if not package.direct or coordinate in journey.spans or coordinate in journey.shape.dropped:
            continue
        home = knowledge.ecosystems.runtime_of(coordinate)
        if (home is None or home not in journey.spans) and not _linked(coordinate, journey, knowledge, compatibility):
            continue
        if not package.line or coordinate not in knowledge.catalogues:
            continue
        if coordinate not in found or package.line < found[coordinate].line:
            found[coordinate] = package
    return [found[p] for p in sorted(found)][:_MOST_TRACKED]


def _linked(coordinate: Coordinate, journey: Journey, knowledge: Knowledge, compatibility: Compatibility) -> bool:
    """Whether a package says something of a coordinate that travels."""
    record = knowledge.catalogues.get(coordinate)
    names = {p.name for p in journey.spans}
    named = record is not None and any(names & {*d.needs, *d.peers} for d in record.details)
    return named or any(compatibility.go_in_step(coordinate, p) for p in journey.spans)


class _Costs:
    """Work by coordinate and the line it bites at, with the lines from which it can be done ahead."""

    def __init__(self, findings: Sequence[Finding], knowledge: Knowledge, tracked: frozenset[str]) -> None:
        self.knowledge = knowledge
        self._items: dict[str, list[tuple[str, frozenset[str], int]]] = {}
        self.release: dict[str, int] = {}
        for finding in findings:
            work = round(mean_days(finding, knowledge.effort) * MILLI)
            if finding.kind == "package" and finding.symbol.startswith("release "):
                name = finding.symbol.removeprefix("release ")
                if name in tracked:
                    self.release[name] = self.release.get(name, 0) + work
                    continue
            both = frozenset(finding.window.both) if finding.kind not in ("toolchain", "package") else frozenset()
            self._items.setdefault(finding.coordinate, []).append((finding.bites_at or "", both, work))

    def matrices(self, coordinate: Coordinate, lines: Sequence[Line]) -> tuple[list[list[int]], list[list[int]]]:
        """(edits, ready) for every move between two of these lines."""
        size = len(lines)
        edits, ready = ([[0] * size for _ in range(size)] for _ in range(2))
        for at, both, work in self._items.get(coordinate, ()):
            bites = line_key(at)
            for i in range(size):
                if line_key(lines[i]) >= bites:
                    continue
                where = ready if lines[i] in both else edits
                for j in range(i + 1, size):
                    if line_key(lines[j]) >= bites:
                        where[i][j] += work
        return edits, ready


def _goal_track(coordinate: Coordinate, span: Span, journey: Journey, knowledge: Knowledge, costs: _Costs) -> Track:
    """A coordinate of the destination: its lines from today's to the destination's, without those nobody stops on."""
    every = knowledge.lines(coordinate)
    pinned = {t.line for t in journey.shape.pins if t.coordinate == coordinate}
    avoided = {t.line for t in journey.shape.avoid if t.coordinate == coordinate}
    ahead = [x for x in every if span.today < x <= span.goal]
    steady = any(f.kind == "long-term" for f in _facts(knowledge, coordinate, ahead))
    kept = [
        x
        for x in ahead
        if x not in avoided
        and (
            x == span.goal
            or x in pinned
            or _worth_a_stop(knowledge.line_facts(coordinate, x), journey.today, steady=steady)
        )
    ]
    lines = (span.today, *kept)
    edits, ready = costs.matrices(coordinate, lines)
    crossed = [[sum(1 for x in every if a < x <= b) or 1 for b in lines] for a in lines]
    goal = None if coordinate in journey.shape.out else len(lines) - 1
    step = [
        [i < j and _supported(knowledge, coordinate, a, b) and not _skips(pinned, a, b) for j, b in enumerate(lines)]
        for i, a in enumerate(lines)
    ]
    return _track(
        coordinate=coordinate,
        lines=lines,
        goal=goal,
        edits=edits,
        ready=ready,
        crossed=crossed,
        step=step,
        journey=journey,
        knowledge=knowledge,
    )


def _facts(knowledge: Knowledge, coordinate: Coordinate, lines: Sequence[Line]) -> list[LineFacts]:
    return [f for x in lines if (f := knowledge.line_facts(coordinate, x)) is not None]


def _worth_a_stop(facts: LineFacts | None, today: date, *, steady: bool) -> bool:
    """No previews; and where a project keeps long-term lines, no short-lived line that is out of support."""
    if facts is None:
        return True
    if facts.kind == "preview" or (facts.released is not None and facts.released > today):
        return False
    ended = facts.support_ends is not None and facts.support_ends < today
    return not (steady and facts.kind == "current" and ended)


def _skips(pinned: set[Line], a: Line, b: Line) -> bool:
    return any(a < x < b for x in pinned)


def _supported(knowledge: Knowledge, coordinate: Coordinate, start: Line, goal: Line) -> bool:
    """Whether the project's policy allows this jump."""
    return knowledge.policy_against(coordinate, start, goal) is None


def _package_track(package: PackageState, journey: Journey, compatibility: Compatibility, costs: _Costs) -> Track:
    """A package that the destination does not name: any line from today's on, none of them a goal unless pinned."""
    coordinate = package.coordinate
    avoided = {t.line for t in journey.shape.avoid if t.coordinate == coordinate}
    pin = next((t.line for t in journey.shape.pins if t.coordinate == coordinate), None)
    later = [x for x in compatibility.lines(coordinate) if x > package.line and x not in avoided]
    if pin is not None:
        later = [x for x in later if x <= pin]
    lines = (package.line, *[x for x in later if _released(compatibility, coordinate, x, journey.today)])
    size = len(lines)
    lost = dict(package.breaks)
    kinds = compatibility.knowledge.effort
    each = round(kinds.kinds["removed"][1] / kinds.minutes_per_day * MILLI)
    due = costs.release.get(coordinate.name, 0)
    edits, ready = costs.matrices(coordinate, lines)
    for i, a in enumerate(lines):
        for j, b in enumerate(lines):
            unread = not edits[i][j] and not ready[i][j] and i < j and newly_lost(lost, a, b)
            edits[i][j] += (due if i == 0 < j else 0) + each * int(unread)
    crossed = [[int(i < j) for j in range(size)] for i in range(size)]
    step = [
        [i < j and _supported(compatibility.knowledge, coordinate, a, b) for j, b in enumerate(lines)]
        for i, a in enumerate(lines)
    ]
    goal = lines.index(pin) if pin in lines else None
    return _track(
        coordinate=coordinate,
        lines=lines,
        goal=goal,
        edits=edits,
        ready=ready,
        crossed=crossed,
        step=step,
        journey=journey,
        knowledge=compatibility.knowledge,
    )


def _released(compatibility: Compatibility, coordinate: Coordinate, line: Line, today: date) -> bool:
    details = compatibility.details(coordinate)
    dates = [d.released for r in compatibility.releases(coordinate, line) if (d := details.get(r)) and d.released]
    return not dates or min(dates) <= today


def _track(
    coordinate: Coordinate,
    lines: Sequence[Line],
    goal: int | None,
    edits: Sequence[Sequence[int]],
    ready: Sequence[Sequence[int]],
    crossed: Sequence[Sequence[int]],
    step: Sequence[Sequence[bool]],
    journey: Journey,
    knowledge: Knowledge,
) -> Track:
    ticks = journey.days_per_week * MILLI
    facts = [knowledge.line_facts(coordinate, x) for x in lines]
    ends = [
        round((f.support_ends - journey.today).days * ticks) if f is not None and f.support_ends else None
        for f in facts
    ]

    def grid(rows: Sequence[Sequence[int]]) -> tuple[tuple[int, ...], ...]:
        return tuple(tuple(row) for row in rows)

    steps = tuple(tuple(row) for row in step)
    return Track(
        coordinate=coordinate,
        lines=tuple(lines),
        goal=goal,
        edits=grid(edits),
        ready=grid(ready),
        crossed=grid(crossed),
        step=steps,
        ends=tuple(ends),
    )


def _problem(tracks: Sequence[Track], journey: Journey, knowledge: Knowledge, before: Sequence[Finding]) -> SearchSpace:
    table = knowledge.effort
    places = {track.coordinate: c for c, track in enumerate(tracks)}
    order = tuple((places[a], places[b]) for a, b in journey.shape.order if a in places and b in places)
    work = round(sum(mean_days(f, table) for f in before) * MILLI)
    return SearchSpace(
        tracks=tuple(tracks),
        fits={},
        base=round(table.stage_base_days * MILLI),
        kappa=table.kappa,
        days_per_week=journey.days_per_week,
        before=work,
        triples={},
        order=order,
    )


def _related(problem: Problem) -> SearchSpace:
    """The same problem with what goes with what."""
    space = problem.space
    fits: dict[Pair, tuple[int, ...]] = {}
    triples: dict[tuple[int, int, int], frozenset[tuple[int, int, int]]] = {}
    for a, b in combinations(range(len(space.tracks)), 2):
        one, other = space.tracks[a], space.tracks[b]
        home = problem.knowledge.ecosystems.runtime_of(one.coordinate)
        runtime = problem.places.get(home) if home is not None else None
        if runtime is not None and _conditional(problem, runtime, a, b):
            allowed = _combinations(problem, runtime, a, b)
            pairs = {(i, j) for _, i, j in allowed}
            if len(allowed) != len(pairs) * len(space.tracks[runtime].lines):
                triples[runtime, a, b] = allowed
            rows = [sum(1 << j for j in range(len(other.lines)) if (i, j) in pairs) for i in range(len(one.lines))]
        else:
            rows = [
                sum(1 << j for j in range(len(other.lines)) if not problem.broken(a, i, b, j))
                for i in range(len(one.lines))
            ]
        if any(row != (1 << len(other.lines)) - 1 for row in rows):
            fits[a, b] = tuple(rows)
            fits[b, a] = tuple(
                sum(1 << i for i in range(len(rows)) if rows[i] >> j & 1) for j in range(len(other.lines))
            )
    return SearchSpace(
        tracks=space.tracks,
        fits=fits,
        base=space.base,
        kappa=space.kappa,
        days_per_week=space.days_per_week,
        before=space.before,
        triples=triples,
        order=space.order,
    )


def _conditional(problem: Problem, runtime: int, a: int, b: int) -> bool:
    """Whether what two packages ask of each other depends on the runtime."""
    if runtime in (a, b):
        return False
    tracks = problem.space.tracks
    return any(
        problem.compatibility.conditional(owner.coordinate, x, subject.coordinate)
        for owner, subject in ((tracks[a], tracks[b]), (tracks[b], tracks[a]))
        for x in owner.lines
    )


def _combinations(problem: Problem, r: int, a: int, b: int) -> frozenset[tuple[int, int, int]]:
    tracks = problem.space.tracks
    return frozenset(
        (k, i, j)
        for k, line in enumerate(tracks[r].lines)
        for i in range(len(tracks[a].lines))
        for j in range(len(tracks[b].lines))
        if not problem.broken(a, i, b, j, line)
    )
