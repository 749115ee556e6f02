"""What every way pays alike: releases that a stage takes, and the days that go with them (DESIGN 4.6)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from yoake.core.readiness.effort import Samples, unseen
from yoake.core.values.coordinates import Coordinate, Line, line_key

if TYPE_CHECKING:
    from yoake.core.planning.problem import Problem
    from yoake.core.planning.search_space import State
    from yoake.core.values.plans import Settled


def state_of(problem: Problem, state: State) -> tuple[tuple[Coordinate, Line], ...]:
    """(coordinate, line) of every tracked coordinate."""
    return tuple((t.coordinate, t.lines[i]) for t, i in zip(problem.space.tracks, state, strict=True))


def settled_at(problem: Problem, state: State, taken: dict[Coordinate, str]) -> tuple[Settled, ...]:
    """What a stage does with each package that a manifest asks for. ``taken``: releases of the stage before, which this renews."""
    packages = problem.settling.settle(dict(state_of(problem, state)), taken)
    taken.update({p.coordinate: p.release for p in packages if p.release})
    return packages


def releases_of(problem: Problem, state: State, packages: Sequence[Settled]) -> tuple[tuple[Coordinate, str], ...]:
    """(coordinate, release) that stands for each line of a state: what was settled, else the newest of the line that runs there."""
    lines = dict(state_of(problem, state))
    settled = {p.coordinate: p.release for p in packages if p.release}
    found = []
    for coordinate, line in lines.items():
        if coordinate in settled:
            found.append((coordinate, settled[coordinate]))
        elif problem.knowledge.ecosystems.is_runtime(coordinate):
            found.append((coordinate, _captured(problem, coordinate, line)))
        else:
            home = problem.knowledge.ecosystems.runtime_of(coordinate)
            runtime = lines.get(home) if home is not None else None
            release = problem.compatibility.choose(coordinate, line, lines, runtime)
            found.append((coordinate, release or line))
    return tuple(found)


def _captured(problem: Problem, coordinate: Coordinate, line: Line) -> str:
    head = problem.knowledge.heads.get(coordinate)
    return next((c.release for c in head.lines if c.line == line), line) if head is not None else line


def spread_of(problem: Problem, crossed: int, moved: int) -> Samples:
    """The factor by which a stage may take more or less than what is seen of it. ``moved``: coordinates that it moves."""
    around = problem.journey.around
    return unseen(
        problem.knowledge.effort.unseen,
        problem.journey.name,
        crossed=crossed,
        packages=max(moved - 1, 0),
        unknown=1 - around.known if around.known is not None else 0.0,
        tested=around.tests > 0,
    )


def days_unseen(problem: Problem, here: State, there: State) -> float:
    """Days for what no scan sees: each line of the destination's coordinates, and each major of a framework among them."""
    table, days = problem.knowledge.effort.unseen, 0.0
    for track, i, j in zip(problem.space.tracks, here, there, strict=True):
        if i == j or track.coordinate not in problem.journey.spans:
            continue
        days += table.line_days * track.crossed[i][j]
        if track.coordinate in problem.knowledge.lifecycles and not track.coordinate.is_runtime:
            days += table.major_days * (line_key(track.lines[j])[0] - line_key(track.lines[i])[0])
    return days


def days_of_packages(problem: Problem, packages: Sequence[Settled], before: Sequence[Settled]) -> float:
    """Days for packages that come along, a short look each, and for those that have to be replaced from this stage on."""
    table = problem.knowledge.effort
    stuck = {p.coordinate for p in before if p.state == "none"}
    along = sum(p.moves and p.coordinate not in problem.places for p in packages)
    replaced = sum(p.state == "none" and p.coordinate not in stuck for p in packages)
    return (along * table.review_minutes + replaced * table.kinds["package"][2]) / table.minutes_per_day


def newly_lost(lost: Mapping[Line, str], start: Line, goal: Line) -> bool:
    """Whether a line lacks something this code uses that the line before it still had; names come back, so only both ends count."""
    return goal in lost and lost.get(start) != lost[goal]
