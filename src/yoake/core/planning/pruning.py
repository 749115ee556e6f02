"""Which lines are worth stopping on: a search need not look at a line when another serves every later purpose as well.

Only coordinates without a goal are thinned out. Nothing is lost by it: a path that stops on a line left out can be changed
into one that does not and costs no more.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from yoake.core.planning.search_space import SearchSpace, Track

Dominance = tuple[tuple[int, ...], ...]
"""For each coordinate and line: the later lines that are at least as good to stand on, as a bit mask."""


def rows_of(space: SearchSpace, c: int) -> list[tuple[int, ...]]:
    """For each line of a coordinate, what it goes with of every other one."""
    pairs = sorted(pair for pair in space.fits if pair[0] == c)
    return [tuple(space.fits[pair][i] for pair in pairs) for i in range(len(space.tracks[c].lines))]


def dominance(space: SearchSpace) -> Dominance:
    """Later lines that may stand in for each line, coordinate by coordinate."""
    bound = {c for triple in space.triples for c in triple} | {c for pair in space.order for c in pair}
    return tuple(
        _dominance_of(track, rows_of(space, c)) if track.goal is None and c not in bound else (0,) * len(track.lines)
        for c, track in enumerate(space.tracks)
    )


def _dominance_of(track: Track, rows: list[tuple[int, ...]]) -> tuple[int, ...]:
    found = []
    for i in range(len(rows)):
        mask = 0
        for j in range(i + 1, len(rows)):
            if all(_covers(rows[j], rows[k]) for k in range(i, j)) and _no_worse(track, i, j):
                mask |= 1 << j
        found.append(mask)
    return tuple(found)


def _covers(wide: tuple[int, ...], narrow: tuple[int, ...]) -> bool:
    return all(n & ~w == 0 for w, n in zip(wide, narrow, strict=True))


def _no_worse(track: Track, i: int, j: int) -> bool:
    """Whether moving on from j costs no more than moving on from i, and j keeps its support at least as long."""
    ends = track.ends[i], track.ends[j]
    lasts = ends[1] is None or (ends[0] is not None and ends[1] >= ends[0])
    return lasts and all(
        track.edits[j][k] <= track.edits[i][k]
        and track.ready[j][k] <= track.ready[i][k]
        and track.crossed[j][k] <= track.crossed[i][k]
        and (track.step[j][k] or not track.step[i][k])
        for k in range(j + 1, len(track.lines))
    )


def stops_of(space: SearchSpace) -> tuple[int, ...]:
    """Lines of each coordinate that a search stops on, as a bit mask; today's always among them."""
    found = []
    bound = {c for triple in space.triples for c in triple} | {c for pair in space.order for c in pair}
    for c, track in enumerate(space.tracks):
        every = (1 << (track.top + 1)) - 1
        found.append(_thinned(track, rows_of(space, c)) if track.goal is None and c not in bound else every)
    return tuple(found)


def _thinned(track: Track, rows: list[tuple[int, ...]]) -> int:
    """Today's line and those that no other line, equally cheap to come to and to leave, covers."""
    kept = 1
    if track.ends[0] is None and not any(_allows_more(rows[j], rows[0]) for j in range(1, len(rows))):
        return kept
    for i in range(1, len(rows)):
        rivals = (j for j in range(1, len(rows)) if j != i and _interchangeable(track, i, j))
        if not any(_stands_in(rows, i, j) for j in rivals):
            kept |= 1 << i
    return kept


def _stands_in(rows: list[tuple[int, ...]], i: int, j: int) -> bool:
    """Whether line j serves wherever i does; of equals the newer one stays. Lines between must be served too, since no
    path goes back to them."""
    between = range(min(i, j) + 1, max(i, j))
    serves = _covers(rows[j], rows[i]) and all(_covers(rows[j], rows[k]) for k in between)
    return serves and (rows[j] != rows[i] or j > i)


def _allows_more(wide: tuple[int, ...], narrow: tuple[int, ...]) -> bool:
    return any(w & ~n for w, n in zip(wide, narrow, strict=True))


def _interchangeable(track: Track, i: int, j: int) -> bool:
    """Whether two lines cost the same to reach from any line before both, to leave to any line after both, and nothing between."""
    low, high = min(i, j), max(i, j)
    same = range(low), range(high + 1, len(track.lines))
    return (
        track.ends[i] == track.ends[j]
        and track.edits[low][high] == track.ready[low][high] == 0
        and track.step[low][high]
        and all(_costs(track, k, i) == _costs(track, k, j) for k in same[0])
        and all(_costs(track, i, k) == _costs(track, j, k) for k in same[1])
    )


def _costs(track: Track, i: int, j: int) -> tuple[int, int, int, bool]:
    return track.edits[i][j], track.ready[i][j], track.crossed[i][j], track.step[i][j]
