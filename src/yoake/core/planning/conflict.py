"""When nothing leads to the destination: a smallest set of constraints that cannot hold together, and what would release it.

The set is minimal: each constraint is taken away in turn, and stays away when there is still no way without it. Every
release that is offered has been tried.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from yoake.core.knowledge.base import Knowledge
from yoake.core.planning.constraints import Constraint
from yoake.core.planning.problem import Journey, Setting, policy_against, set_out
from yoake.core.planning.search import find_path
from yoake.core.planning.search_space import Pair, Problem
from yoake.core.scan.judge import Span
from yoake.core.values.coordinates import Coordinate, Target
from yoake.core.values.errors import TooLarge

_TRIES = 8_000  # entries a single try may look at; the tries are many and the problems small


@dataclass(frozen=True, slots=True)
class Release:
    """One thing that would open a way. ``what``: line, package, stay, pin, avoid or order; ``coordinate`` and ``line`` say which
    (for an order: what was to arrive first, and what afterwards)."""

    what: str
    coordinate: str
    line: str
    text: str


@dataclass(frozen=True, slots=True)
class NoWay:
    """Constraints that cannot hold together, and the smallest changes that release them."""

    constraints: tuple[Constraint, ...]
    releases: tuple[Release, ...]


def explain_no_way(setting: Setting) -> NoWay:
    """Why there is no path for a setting whose search found none."""
    shaped = _bent(setting)
    kept = _minimal(setting.problem, sorted({pair for pair in setting.problem.fits if pair[0] < pair[1]}))
    touched = {c for pair in kept for c in pair}
    constraints = [c for pair in kept for c in _in_words(setting, pair)]
    constraints += _policies(setting, kept)
    return NoWay(tuple(dict.fromkeys((*shaped, *constraints))), tuple(_releases(setting, touched)))


def _passable(problem: Problem) -> bool:
    """Whether some path arrives; a search that was cut short counts as none."""
    try:
        return find_path(problem, "stages", _TRIES) is not None
    except TooLarge:
        return False


def _minimal(problem: Problem, pairs: Sequence[Pair]) -> list[Pair]:
    """Pairs whose relations, taken together, already leave no way; empty when the steps alone do."""
    kept = list(pairs)
    for pair in pairs:
        fewer = [p for p in kept if p != pair]
        if not _passable(_only(problem, fewer)):
            kept = fewer
    return kept


def _only(problem: Problem, pairs: Iterable[Pair]) -> Problem:
    both = {pair for a, b in pairs for pair in ((a, b), (b, a))}
    triples = {key: rows for key, rows in problem.triples.items() if (key[1], key[2]) in both}
    return replace(problem, fits={p: rows for p, rows in problem.fits.items() if p in both}, triples=triples)


def _in_words(setting: Setting, pair: Pair) -> list[Constraint]:
    """What a relation says where it hurts: at the goals, for the newest line that there is."""
    a, b = pair
    tracks = setting.problem.tracks
    i, j = tracks[a].top, tracks[b].top
    runtime = _goal_runtime(setting)
    found = setting.broken(a, i, b, j, runtime)
    if found:
        return found
    # the goals go together: what stands in between does not
    for x, y in ((0, j), (i, 0)):
        if between := setting.broken(a, x, b, y, runtime):
            return between
    pairs = ((x, y) for x in range(len(tracks[a].lines)) for y in range(len(tracks[b].lines)))
    return next((some for x, y in pairs if (some := setting.broken(a, x, b, y, runtime))), [])


def _goal_runtime(setting: Setting) -> str | None:
    for track in setting.problem.tracks:
        if track.purl.startswith("pkg:generic/") and track.goal is not None:
            return track.lines[track.goal]
    return None


def _policies(setting: Setting, kept: Sequence[Pair]) -> list[Constraint]:
    """Policies that belong to the conflict: with every jump allowed there would be a way."""
    if _passable(_any_step(_only(setting.problem, kept))) and not _passable(_only(setting.problem, kept)):
        return [
            Constraint(t.purl, t.purl, "stated", text, "lifecycle")
            for t in setting.problem.tracks
            if t.goal and (text := policy_against(setting.knowledge, t.purl, t.lines[0], t.lines[t.goal]))
        ]
    return []


def _any_step(problem: Problem) -> Problem:
    tracks = tuple(
        replace(t, step=tuple(tuple(i < j for j in range(len(t.lines))) for i in range(len(t.lines))))
        for t in problem.tracks
    )
    return replace(problem, tracks=tracks)


def _bent(setting: Setting) -> list[Constraint]:
    """What a person asked for, where it alone closes the way."""
    shape = setting.journey.shape
    asked = [*(("pin", t) for t in shape.pins), *(("avoid", t) for t in shape.avoid)]
    found = []
    for what, target in asked:
        if _opens(setting, _without(setting.journey, what, target)):
            purl = target.coordinate.purl
            text = f"{target} is {'pinned' if what == 'pin' else 'to be avoided'}"
            found.append(Constraint(purl, purl, "asked", text, "asked for by a person"))
    if shape.order and _opens(setting, replace(setting.journey, shape=replace(shape, order=()))):
        first, then = shape.order[0]
        text = f"{Coordinate(first).short} is to arrive before {Coordinate(then).short} moves"
        found.append(Constraint(first, then, "asked", text, "asked for by a person"))
    return found


def _without(journey: Journey, what: str, target: Target) -> Journey:
    shape = journey.shape
    if what == "pin":
        return replace(journey, shape=replace(shape, pins=tuple(t for t in shape.pins if t != target)))
    return replace(journey, shape=replace(shape, avoid=tuple(t for t in shape.avoid if t != target)))


def _opens(setting: Setting, journey: Journey) -> bool:
    return _passable(set_out(journey, setting.knowledge, lenient=setting.compatibility.lenient).problem)


def _releases(setting: Setting, touched: set[int]) -> Iterable[Release]:
    """Changes that were tried and open a way, the smallest first."""
    journey, knowledge = setting.journey, setting.knowledge
    tracks = setting.problem.tracks
    shape = journey.shape
    for what, target in [*(("pin", t) for t in shape.pins), *(("avoid", t) for t in shape.avoid)]:
        if _opens(setting, _without(journey, what, target)):
            yield Release(
                what, target.coordinate.purl, target.line, f"no longer {'pin' if what == 'pin' else 'avoid'} {target}"
            )
    if shape.order and _opens(setting, replace(journey, shape=replace(shape, order=()))):
        yield Release("order", *shape.order[0], "no longer ask for that order")
    for c in sorted(touched or range(len(tracks)), key=lambda c: tracks[c].purl):
        track = tracks[c]
        name = Coordinate(track.purl).short
        if track.purl not in journey.spans:
            dropped = replace(shape, dropped=shape.dropped | {track.purl})
            if _opens(setting, replace(journey, shape=dropped)):
                yield Release(
                    "package", track.purl, "", f"replace {name} by another package, carry it yourself, or drop it"
                )
            continue
        nearer = _nearer_line(setting, track.purl, knowledge)
        if nearer is not None:
            yield Release(
                "line", track.purl, nearer, f"arrive at {name} {nearer} instead of {journey.spans[track.purl].goal}"
            )
        staying = replace(shape, out=shape.out | {track.purl})
        if _opens(setting, replace(journey, shape=staying)):
            yield Release(
                "stay",
                track.purl,
                track.lines[0],
                f"leave {name} out of the destination: it moves only if others need it",
            )


def _nearer_line(setting: Setting, purl: str, knowledge: Knowledge) -> str | None:
    """The newest earlier line of a coordinate of the destination to which there is a way."""
    journey = setting.journey
    span = journey.spans[purl]
    track = setting.problem.tracks[setting.places[purl]]
    for line in reversed(track.lines[1:-1]):
        spans = {**journey.spans, purl: Span(span.today, line)}
        if _opens(setting, replace(journey, spans=spans)):
            return line
    return None
