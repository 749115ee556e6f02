"""Why a stage moves what it moves: what ties moves together, and what keeps a line from staying."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yoake.core.values.plans import Reason

if TYPE_CHECKING:
    from yoake.core.knowledge.compatibility import Constraint
    from yoake.core.planning.problem import Problem
    from yoake.core.planning.search_space import State
    from yoake.core.values.coordinates import Line


def tied_constraints(problem: Problem, here: State, there: State) -> list[Constraint]:
    """What would be broken if one of the moves of a stage were left out, strongest grade first, without repeats."""
    found: dict[Constraint, None] = {}
    for c in _moved(here, there):
        for constraint in against_staying(problem, here, there, c):
            found.setdefault(constraint)
    order = {"hard": 0, "tried": 1, "stated": 2, "observed": 3}
    return sorted(found, key=lambda x: (order[x.grade], x.text))


def against_staying(problem: Problem, here: State, there: State, c: int) -> list[Constraint]:
    """Constraints broken if coordinate ``c`` stayed while the others of a stage moved."""
    runtime = _runtime_of(problem, there)
    return [
        constraint
        for d in range(len(there))
        if d != c  # one that stays counts too: it may ask for something else on a newer runtime
        for constraint in problem.broken(c, here[c], d, there[d], runtime)
    ]


def _runtime_of(problem: Problem, state: State) -> Line | None:
    runtimes = problem.knowledge.ecosystems.runtimes
    at = next((problem.places[r] for r in runtimes if r in problem.places), None)
    return problem.space.tracks[at].lines[state[at]] if at is not None else None


def _moved(here: State, there: State) -> list[int]:
    return [c for c in range(len(here)) if here[c] != there[c]]


def reasons_of(problem: Problem, here: State, there: State) -> tuple[str, ...]:
    """Sentences for one stage: its goal, what ties its moves, and what merely travels along."""
    said: dict[str, None] = {}
    moved = _moved(here, there)
    goals = [c for c in moved if problem.space.tracks[c].goal is not None]
    for c in goals:
        track = problem.space.tracks[c]
        name, line = problem.knowledge.spoken(track.coordinate), track.lines[there[c]]
        if there[c] == track.goal:
            said.setdefault(f"{name} {line} is the destination")
        elif (facts := problem.knowledge.line_facts(track.coordinate, line)) and facts.kind == "long-term":
            said.setdefault(f"{name} {line} is a long-term line")
    for c in moved:
        for constraint in against_staying(problem, here, there, c):
            said.setdefault(constraint.text)
    alone = [c for c in goals if not against_staying(problem, here, there, c)]
    if len(goals) > 1 and len(alone) == len(goals):
        said.setdefault("together: neither needs the other, and one stage costs less than two")
    return tuple(said)


def cell_reason(problem: Problem, here: State, there: State, c: int) -> Reason:
    """Why one coordinate stands where it stands after a stage."""
    track = problem.space.tracks[c]
    if there[c] != here[c]:
        forced = against_staying(problem, here, there, c)
        if forced:
            return Reason(forced[0].text, forced[0].grade, forced[0].source)
        if track.goal is not None:
            words = "the destination" if there[c] == track.goal else "a stop on the way"
            return Reason(f"{words}; nothing ties it to another move", "", "")
        return Reason("moves here because a later stage would cost more with it", "", "")
    if track.goal is not None and there[c] == track.goal:
        return Reason("has arrived", "", "")
    stated = _stated_support(problem, there, c)
    return (
        stated
        if stated is not None
        else Reason("stays: nothing known speaks against it; support is not stated", "", "")
    )


def _stated_support(problem: Problem, state: State, c: int) -> Reason | None:
    """What says that the line fits the runtime of the state."""
    track = problem.space.tracks[c]
    runtime = _runtime_of(problem, state)
    if runtime is None or problem.knowledge.ecosystems.is_runtime(track.coordinate):
        return None
    line = track.lines[state[c]]
    if problem.compatibility.states(track.coordinate, line, runtime):
        return Reason(
            f"stays: {problem.knowledge.spoken(track.coordinate)} {line} states support for {runtime}", "stated", ""
        )
    return None
