"""Where packages without a goal stand along a path: no more moves than needed, as late as possible, then the newest that fits.

The search only finds what such moves cost at least; several lines usually do. This chooses among them without costing more.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from yoake.core.planning.search_space import SearchSpace, State, cost_of

_Rank = tuple[int, int, int, int]


def place_packages(space: SearchSpace, states: Sequence[State], objective: str = "work") -> tuple[State, ...]:
    """The same path with every free coordinate settled; costs no more by the first two figures of ``objective``.

    Less work in all may still be done earlier, while a line stands in the dark; then the coordinate stays as it was.
    """
    path = list(states)
    cost = cost_of(space, path).by(objective)[:2]
    for c, track in enumerate(space.tracks):
        if track.goal is None:
            chosen = _settled(space, path, c)
            settled = [(*state[:c], i, *state[c + 1 :]) for state, i in zip(path, chosen, strict=True)]
            if (made := cost_of(space, settled).by(objective)[:2]) <= cost:
                path, cost = settled, made
    return tuple(path)


def _settled(space: SearchSpace, path: Sequence[State], c: int) -> list[int]:
    """Lines of one coordinate along the path, by the cheapest chain of (work, moves, stages away from today, newness)."""
    track = space.tracks[c]
    best: dict[int, tuple[_Rank, list[int]]] = {path[0][c]: ((0, 0, 0, 0), [path[0][c]])}
    for here, there in pairwise(path):
        edits, crossed = _others(space, here, there, c)
        still = space.price(edits, 0, crossed)
        others = here[:c] == there[:c] and here[c + 1 :] == there[c + 1 :]
        reached: dict[int, tuple[_Rank, list[int]]] = {}
        for j in range(len(track.lines)):
            if not space.stands((*there[:c], j, *there[c + 1 :])):
                continue
            for i, (rank, chain) in best.items():
                if j < i or (j > i and not track.step[i][j]) or (others and j == i):
                    continue
                moved = j != i
                work = space.price(edits + track.edits[i][j], track.ready[i][j], crossed + moved) - still
                grown = (rank[0] + work, rank[1] + moved, rank[2] + (j != 0), rank[3] - j)
                if j not in reached or grown < reached[j][0]:
                    reached[j] = (grown, [*chain, j])
        best = reached
    return min(best.values())[1] if best else [state[c] for state in path]


def _others(space: SearchSpace, here: State, there: State, c: int) -> tuple[int, int]:
    """Edits and lines crossed by the other coordinates of a stage."""
    edits = crossed = 0
    for d, track in enumerate(space.tracks):
        if d != c and here[d] != there[d]:
            edits += track.edits[here[d]][there[d]]
            crossed += track.crossed[here[d]][there[d]]
    return edits, crossed
