"""The search keeps its promises: as good as trying everything, through states that stand, without lines nobody needs."""

from __future__ import annotations

import random
from itertools import pairwise, product

from hypothesis import example, given, settings
from hypothesis import strategies as st

from yoake.core.planning.compare import in_one_stage
from yoake.core.planning.improve import improve
from yoake.core.planning.placement import place_packages
from yoake.core.planning.search import find_path
from yoake.core.planning.search_space import MILLI, TICKS, Cost, SearchSpace, State, Track, cost_of
from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.errors import TooLarge

OBJECTIVES = ("work", "stages", "danger")
PLENTY = 10**6


def rows(size: int, value) -> tuple[tuple[int, ...], ...]:
    return tuple(tuple(value(i, j) if i < j else 0 for j in range(size)) for i in range(size))


def random_track(rng: random.Random, c: int, *, goal: bool, most: int, narrow: bool) -> Track:
    size = rng.randint(1, most)
    costly = rng.random() < (0.8 if goal else 0.3)
    bites = [0] + [rng.choice([0, rng.randint(1, 4000)]) if costly else 0 for _ in range(size - 1)]
    ready = [rng.randint(0, size) for _ in range(size)]
    return Track(
        coordinate=Coordinate(f"pkg:generic/c{c:02}"),
        lines=tuple(Line(n) for n in range(size)),
        goal=size - 1 if goal else None,
        edits=rows(size, lambda i, j: sum(bites[x] for x in range(i + 1, j + 1) if ready[x] > i)),
        ready=rows(size, lambda i, j: sum(bites[x] for x in range(i + 1, j + 1) if ready[x] <= i)),
        crossed=rows(size, lambda i, j: j - i if goal else 1),
        step=tuple(
            tuple(i < j and (not narrow or j - i <= 2 or rng.random() < 0.3) for j in range(size)) for i in range(size)
        ),
        ends=tuple(rng.choice([None, rng.randint(-200, 400) * 2 * MILLI]) if goal else None for _ in range(size)),
    )


def random_problem(seed: int, most: int = 5) -> SearchSpace:
    rng = random.Random(seed)  # noqa: S311  problems to search, no secrets
    count = rng.randint(1, 4)
    goals = rng.randint(1, min(3, count))
    narrow, dense = rng.random() < 0.5, rng.choice([0.5, 0.7, 0.9])
    tracks = [random_track(rng, c, goal=c < goals, most=most, narrow=narrow) for c in range(count)]
    fits = {}
    for a in range(count):
        for b in range(a + 1, count):
            if rng.random() < 0.6:
                held = [
                    [rng.random() < dense or i == j == 0 for j in range(len(tracks[b].lines))]
                    for i in range(len(tracks[a].lines))
                ]
                fits[a, b] = tuple(sum(1 << j for j, ok in enumerate(row) if ok) for row in held)
                fits[b, a] = tuple(
                    sum(1 << i for i, row in enumerate(held) if row[j]) for j in range(len(tracks[b].lines))
                )
    order = ((0, 1),) if goals > 1 and rng.random() < 0.2 else ()
    return SearchSpace(
        tracks=tuple(tracks),
        fits=fits,
        base=500,
        kappa=0.1,
        days_per_week=2.0,
        before=rng.randint(0, 3000),
        triples={},
        order=order,
    )


def exhaustive(space: SearchSpace, objective: str) -> tuple[int, int, int] | None:
    """The best cost over all paths, by keeping every label that no other beats in everything."""
    ranges = [range(t.top + 1) for t in space.tracks]
    states = sorted((s for s in product(*ranges) if s == space.start or space.stands(s)), key=sum)
    labels: dict[State, list[Cost]] = {space.start: [cost_of(space, [space.start])]}
    best: tuple[int, int, int] | None = None
    for here in states:
        for cost in labels.get(here, []):
            if space.arrived(here):
                best = min(filter(None, (best, cost.by(objective))))
                continue
            for there in states:
                if sum(there) > sum(here) and space.may_move(here, there):
                    work = cost.work + space.work(here, there)
                    dark = cost.dark + space.dark(here, cost.work * TICKS, work * TICKS)
                    made = Cost(work, cost.stages + 1, dark)
                    known = labels.setdefault(there, [])
                    if not any(k.work <= made.work and k.stages <= made.stages and k.dark <= made.dark for k in known):
                        known.append(made)
    return best


@settings(max_examples=150, deadline=None)
@given(st.integers(0, 10**6))
def test_the_search_is_as_good_as_trying_everything(seed: int) -> None:
    space = random_problem(seed)
    for objective in OBJECTIVES:
        found = find_path(space, objective, PLENTY)
        assert (found.cost.by(objective) if found else None) == exhaustive(space, objective)


@settings(max_examples=150, deadline=None)
@given(st.integers(0, 10**6))
@example(498)  # less work in all, done earlier: more days in the dark
def test_no_path_passes_a_state_that_does_not_stand_or_jumps_where_it_may_not(seed: int) -> None:
    space = random_problem(seed, most=6)
    for objective in OBJECTIVES:
        found = find_path(space, objective, PLENTY)
        if found is None:
            continue
        settled = place_packages(space, found.states, objective)
        for path in (found.states, settled):
            assert path[0] == space.start
            assert space.arrived(path[-1])
            assert all(space.stands(state) for state in path[1:])
            assert all(space.may_move(here, there) for here, there in pairwise(path))
        assert cost_of(space, settled).by(objective)[:2] <= found.cost.by(objective)[:2]


@settings(max_examples=80, deadline=None)
@given(st.integers(0, 10**6))
def test_a_search_that_is_cut_short_still_arrives_and_says_that_it_proves_nothing(seed: int) -> None:
    space = random_problem(seed, most=6)
    try:
        hurried = find_path(space, "work", 12)
    except TooLarge:
        return
    if hurried is not None:
        assert space.arrived(hurried.states[-1])
        proven = find_path(space, "work", PLENTY)
        assert proven is not None
        assert proven.cost.by("work") <= hurried.cost.by("work")
        assert hurried.proven is (hurried.proven and hurried.cost == proven.cost)


@settings(max_examples=80, deadline=None)
@given(st.integers(0, 10**6))
def test_small_changes_never_make_a_path_dearer(seed: int) -> None:
    space = random_problem(seed)
    found = find_path(space, "stages", PLENTY)
    if found is not None:
        better = improve(space, found.states, "work")
        assert cost_of(space, better).by("work") <= found.cost.by("work")
        assert all(space.stands(state) for state in better[1:])


def line_of_tracks(*sizes: int, edits: int = 0) -> SearchSpace:
    tracks = tuple(
        Track(
            coordinate=Coordinate(f"pkg:generic/t{c}"),
            lines=tuple(Line(n) for n in range(size)),
            goal=size - 1,
            edits=rows(size, lambda i, j: edits * (j - i)),
            ready=rows(size, lambda i, j: 0),
            crossed=rows(size, lambda i, j: j - i),
            step=tuple(tuple(i < j for j in range(size)) for i in range(size)),
            ends=(None,) * size,
        )
        for c, size in enumerate(sizes)
    )
    return SearchSpace(tracks=tracks, fits={}, base=500, kappa=0.1, days_per_week=2.0)


def test_cheap_moves_share_a_stage_and_dear_ones_are_told_apart() -> None:
    cheap, dear = line_of_tracks(3, 3), line_of_tracks(3, 3, edits=20_000)
    assert find_path(cheap, "work").cost == Cost(500, 1, 0)
    assert find_path(dear, "work").cost.stages == 4
    assert find_path(dear, "stages").cost.stages == 1


def test_work_that_the_line_before_allows_is_not_multiplied() -> None:
    space = line_of_tracks(3, edits=1000)
    assert space.work((0,), (2,)) == 500 + round(2000 * 1.1)
    assert space.price(0, 2000, 2) == 2500


def test_days_in_the_dark_count_each_line_until_it_is_left() -> None:
    track = line_of_tracks(2).tracks[0]
    space = SearchSpace(
        tracks=(Track(**{**track.__dict__, "ends": (0, None)}),),
        fits={},
        base=500,
        kappa=0.1,
        days_per_week=2.0,
        before=1500,
    )
    assert find_path(space, "work").cost.dark == 7 * 2 * MILLI  # a week at two days of work a week


def chains(space: SearchSpace, path: tuple[State, ...], c: int) -> list[tuple[int, ...]]:
    """Every way in which one coordinate can go along a path whose other coordinates stay as they are."""
    found: list[tuple[int, ...]] = [(path[0][c],)]
    for here, there in pairwise(path):
        others = [d for d in range(len(here)) if d != c and here[d] != there[d]]
        found = [
            (*chain, j)
            for chain in found
            for j in range(chain[-1], len(space.tracks[c].lines))
            if (j == chain[-1] and others) or (j > chain[-1] and space.tracks[c].step[chain[-1]][j])
            if space.stands((*there[:c], j, *there[c + 1 :]))
        ]
    return found


@settings(max_examples=150, deadline=None)
@given(st.integers(0, 10**6))
def test_a_package_without_a_goal_is_put_where_no_other_way_along_the_path_is_better(seed: int) -> None:
    """Least work; then the fewest moves, the most stages on today's line, and the newest lines: all ways were tried."""
    space = random_problem(seed, most=4)
    free = [c for c, track in enumerate(space.tracks) if track.goal is None]
    found = find_path(space, "work", PLENTY)
    if found is None or len(free) != 1:
        return
    (c,) = free

    def rank(chain: tuple[int, ...]) -> tuple[int, int, int, int]:
        states = [(*state[:c], i, *state[c + 1 :]) for state, i in zip(found.states, chain, strict=True)]
        moves = sum(a != b for a, b in pairwise(chain))
        away = sum(i != 0 for i in chain[1:])
        return cost_of(space, states).work, moves, away, -sum(chain[1:])

    placed = tuple(state[c] for state in place_packages(space, found.states))
    assert rank(placed) == min(map(rank, chains(space, found.states, c)))


@settings(max_examples=100, deadline=None)
@given(st.integers(0, 10**6), st.booleans())
def test_one_stage_goes_from_today_to_the_goals_and_stops_nowhere_between(seed: int, by_policy: bool) -> None:
    """Without policies every such jump may be taken; with them only those that may be taken at all."""
    space = random_problem(seed, most=4)
    for track, narrowed in zip(space.tracks, in_one_stage(space, by_policy=by_policy).tracks, strict=True):
        if not any(t.goal for t in space.tracks):
            return
        for i, j in product(range(len(track.lines)), repeat=2):
            jump = i == 0 and j > 0 and (track.goal is None or j == track.goal)
            assert narrowed.step[i][j] == (jump and (track.step[0][j] or not by_policy))
