"""Make a path cheaper by small changes, until none helps: for problems too large to prove the best."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from yoake.core.planning.search_space import SearchSpace, State, cost_of

_ROUNDS = 200  # each round makes the path strictly cheaper; far fewer are needed
States = tuple[State, ...]


def improve(space: SearchSpace, states: States, objective: str) -> States:
    """A path of the same start and arrival that costs no more by an objective."""
    best, price = states, cost_of(space, states).by(objective)
    for _ in range(_ROUNDS):
        found = min(
            ((cost_of(space, other).by(objective), other) for other in _neighbours(space, best)),
            default=(price, best),
        )
        if found[0] >= price:
            return best
        price, best = found
    return best


def _neighbours(space: SearchSpace, states: States) -> Iterator[States]:
    """Paths that stand, one change away."""
    for at in range(1, len(states)):
        here, there = states[at - 1], states[at]
        for middle in _between(here, there):
            if space.stands(middle) and _moves(space, here, middle, there):
                yield (*states[:at], middle, *states[at:])
    for at in range(1, len(states) - 1):
        before, after = states[at - 1], states[at + 1]
        if _moves(space, before, after):
            yield (*states[:at], *states[at + 1 :])
        for other in _shifted(before, states[at], after):
            if space.stands(other) and _moves(space, before, other, after):
                yield (*states[:at], other, *states[at + 1 :])
    yield from _last_shifted(space, states)


def _moves(space: SearchSpace, *states: State) -> bool:
    return all(space.may_move(a, b) for a, b in pairwise(states))


def _between(here: State, there: State) -> Iterator[State]:
    """States on the way of one stage: one coordinate ahead of the others, or one behind."""
    for c, (i, j) in enumerate(zip(here, there, strict=True)):
        for k in range(i + 1, j + 1):
            yield (*here[:c], k, *here[c + 1 :])
        for k in range(i, j):
            yield (*there[:c], k, *there[c + 1 :])


def _shifted(before: State, state: State, after: State) -> Iterator[State]:
    for c in range(len(state)):
        for k in range(before[c], after[c] + 1):
            if k != state[c]:
                yield (*state[:c], k, *state[c + 1 :])


def _last_shifted(space: SearchSpace, states: States) -> Iterator[States]:
    """The last state with another line of a coordinate that has no goal."""
    before, last = states[-2:] if len(states) > 1 else (states[0], states[0])
    for c, track in enumerate(space.tracks):
        for k in range(before[c], len(track.lines)) if track.goal is None and len(states) > 1 else ():
            other = (*last[:c], k, *last[c + 1 :])
            if k != last[c] and space.stands(other) and _moves(space, before, other):
                yield (*states[:-1], other)
