"""When nothing leads to the destination: a smallest set of constraints that cannot hold together, and what would release it.

The set is minimal: each constraint is taken away in turn, and stays away when there is still no way without it. Every
release that is offered has been tried.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from yoake.core.knowledge.compatibility import Constraint
from yoake.core.planning.search import find_path
from yoake.core.values.errors import TooLarge
from yoake.core.values.journeys import Span

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.planning.problem import Journey, Problem
    from yoake.core.planning.search_space import Pair, SearchSpace
    from yoake.core.values.coordinates import Coordinate, Line, Target

_TRIES = 8_000  # entries a single try may look at; the tries are many and the problems small


@dataclass(frozen=True, slots=True)
class Release:
    """One thing that would open a way. ``what``: line, package, stay, pin, avoid or order; ``coordinate`` and ``line`` say which
    (for an order: what was to arrive first, and what afterwards)."""

    what: str
    coordinate: Coordinate
    line: str
    text: str


@dataclass(frozen=True, slots=True)
class Conflict:
    """Constraints that cannot hold together, and the smallest changes that release them."""

    constraints: tuple[Constraint, ...]
    releases: tuple[Release, ...]


def explain_conflict(problem: Problem) -> Conflict:
    """Why there is no path for a setting whose search found none."""
    kept = _smallest(problem)
    touched = {c for pair in kept for c in pair}
    return Conflict(_told(problem, kept), tuple(_releases(problem, touched)))


def conflicting(problem: Problem) -> tuple[Constraint, ...]:
    """The constraints alone, without what would release them, which takes many more searches."""
    return _told(problem, _smallest(problem))


def _smallest(problem: Problem) -> list[Pair]:
    return _minimal(problem.space, sorted({pair for pair in problem.space.fits if pair[0] < pair[1]}))


def _told(problem: Problem, kept: Sequence[Pair]) -> tuple[Constraint, ...]:
    constraints = [c for pair in kept for c in _in_words(problem, pair)]
    return tuple(dict.fromkeys((*_bent(problem), *constraints, *_policies(problem, kept))))


def _passable(space: SearchSpace) -> bool:
    """Whether some path arrives; a search that was cut short counts as none."""
    try:
        return find_path(space, "stages", _TRIES) is not None
    except TooLarge:
        return False


def _minimal(space: SearchSpace, pairs: Sequence[Pair]) -> list[Pair]:
    """Pairs whose relations, taken together, already leave no way; empty when the steps alone do."""
    kept = list(pairs)
    for pair in pairs:
        fewer = [p for p in kept if p != pair]
        if not _passable(_only(space, fewer)):
            kept = fewer
    return kept


def _only(space: SearchSpace, pairs: Iterable[Pair]) -> SearchSpace:
    both = {pair for a, b in pairs for pair in ((a, b), (b, a))}
    triples = {key: rows for key, rows in space.triples.items() if (key[1], key[2]) in both}
    return replace(space, fits={p: rows for p, rows in space.fits.items() if p in both}, triples=triples)


def _in_words(problem: Problem, pair: Pair) -> list[Constraint]:
    """What a relation says where it hurts: at the goals, for the newest line that there is."""
    a, b = pair
    tracks = problem.space.tracks
    i, j = tracks[a].top, tracks[b].top
    runtime = _goal_runtime(problem)
    found = problem.broken(a, i, b, j, runtime)
    if found:
        return found
    # the goals go together: what stands in between does not
    for x, y in ((0, j), (i, 0)):
        if between := problem.broken(a, x, b, y, runtime):
            return between
    pairs = ((x, y) for x in range(len(tracks[a].lines)) for y in range(len(tracks[b].lines)))
    return next((some for x, y in pairs if (some := problem.broken(a, x, b, y, runtime))), [])


def _goal_runtime(problem: Problem) -> Line | None:
    for track in problem.space.tracks:
        if track.coordinate.startswith("pkg:generic/") and track.goal is not None:
            return track.lines[track.goal]
    return None


def _policies(problem: Problem, kept: Sequence[Pair]) -> list[Constraint]:
    """Policies that belong to the conflict: with every jump allowed there would be a way."""
    if _passable(_any_step(_only(problem.space, kept))) and not _passable(_only(problem.space, kept)):
        return [
            Constraint(t.coordinate, t.coordinate, "stated", text, "lifecycle")
            for t in problem.space.tracks
            if t.goal and (text := problem.knowledge.policy_against(t.coordinate, t.lines[0], t.lines[t.goal]))
        ]
    return []


def _any_step(space: SearchSpace) -> SearchSpace:
    tracks = tuple(
        replace(t, step=tuple(tuple(i < j for j in range(len(t.lines))) for i in range(len(t.lines))))
        for t in space.tracks
    )
    return replace(space, tracks=tracks)


def _bent(problem: Problem) -> list[Constraint]:
    """What a person asked for, where it alone closes the way."""
    shape = problem.journey.shape
    asked = [*(("pin", t) for t in shape.pins), *(("avoid", t) for t in shape.avoid)]
    found = []
    for what, target in asked:
        if _opens(problem, _without(problem.journey, what, target)):
            coordinate = target.coordinate
            text = f"{target} is {'pinned' if what == 'pin' else 'to be avoided'}"
            found.append(Constraint(coordinate, coordinate, "asked", text, "asked for by a person"))
    if shape.order and _opens(problem, replace(problem.journey, shape=replace(shape, order=()))):
        first, then = shape.order[0]
        text = f"{first.short} is to arrive before {then.short} moves"
        found.append(Constraint(first, then, "asked", text, "asked for by a person"))
    return found


def _without(journey: Journey, what: str, target: Target) -> Journey:
    shape = journey.shape
    if what == "pin":
        return replace(journey, shape=replace(shape, pins=tuple(t for t in shape.pins if t != target)))
    return replace(journey, shape=replace(shape, avoid=tuple(t for t in shape.avoid if t != target)))


def _opens(problem: Problem, journey: Journey) -> bool:
    return _passable(problem.asked_otherwise(journey).space)


def _releases(problem: Problem, touched: set[int]) -> Iterable[Release]:
    """Changes that were tried and open a way, the smallest first."""
    journey, knowledge = problem.journey, problem.knowledge
    tracks = problem.space.tracks
    shape = journey.shape
    for what, target in [*(("pin", t) for t in shape.pins), *(("avoid", t) for t in shape.avoid)]:
        if _opens(problem, _without(journey, what, target)):
            yield Release(
                what, target.coordinate, target.line, f"no longer {'pin' if what == 'pin' else 'avoid'} {target}"
            )
    if shape.order and _opens(problem, replace(journey, shape=replace(shape, order=()))):
        yield Release("order", *shape.order[0], "no longer ask for that order")
    for c in sorted(touched or range(len(tracks)), key=lambda c: tracks[c].coordinate):
        track = tracks[c]
        name = track.coordinate.short
        if track.coordinate not in journey.spans:
            dropped = replace(shape, dropped=shape.dropped | {track.coordinate})
            if _opens(problem, replace(journey, shape=dropped)):
                yield Release(
                    "package", track.coordinate, "", f"replace {name} by another package, carry it yourself, or drop it"
                )
            continue
        nearer = _nearer_line(problem, track.coordinate, knowledge)
        if nearer is not None:
            yield Release(
                "line",
                track.coordinate,
                nearer,
                f"arrive at {name} {nearer} instead of {journey.spans[track.coordinate].goal}",
            )
        staying = replace(shape, out=shape.out | {track.coordinate})
        if _opens(problem, replace(journey, shape=staying)):
            yield Release(
                "stay",
                track.coordinate,
                track.lines[0],
                f"leave {name} out of the destination: it moves only if others need it",
            )


def _nearer_line(problem: Problem, coordinate: Coordinate, knowledge: Knowledge) -> str | None:
    """The newest earlier line of a coordinate of the destination to which there is a way."""
    journey = problem.journey
    span = journey.spans[coordinate]
    track = problem.space.tracks[problem.places[coordinate]]
    for line in reversed(track.lines[1:-1]):
        spans = {**journey.spans, coordinate: Span(span.today, line)}
        if _opens(problem, replace(journey, spans=spans)):
            return line
    return None
