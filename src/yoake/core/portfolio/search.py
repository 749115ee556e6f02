"""Which order is best: a rule to begin with, every order where there are few stages, exchanges where there are many."""

from __future__ import annotations

import heapq
import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Final

from yoake.core.portfolio.stages import WAITING_DAY, Problem
from yoake.core.portfolio.timetable import Placing, Timetable, earliest_live, place, sequence

FEW: Final = 12
"""Stages up to which every order is looked through."""

_MOST_STATES: Final = 400_000  # that the search through all orders keeps; beyond it what was found is not called best
_MEMORY: Final = 60  # tries ago
_STRIDE: Final = 6  # stages of an order between two marks
_NEVER: Final = 1e9
_EPS: Final = 1e-9

Running = Callable[[], bool]
"""Whether there is time left."""


@dataclass(frozen=True, slots=True)
class Found:
    """An order with its timetable; ``best``: every other order was ruled out."""

    order: tuple[int, ...]
    table: Timetable
    best: bool = False


def by_rule(problem: Problem) -> list[int]:
    """Stages by how little time is left for them and for all that waits for them, dear lateness first; then short ones."""
    last = _latest(problem)
    ahead = _ahead(problem)
    return sequence(problem, sorted(range(len(problem.stages)), key=lambda i: (last[i], -ahead[i], i)))


def _latest(problem: Problem) -> list[float]:
    """When a stage should begin at the latest so that it and all after it leave their lines in time."""
    last = [float("inf")] * len(problem.stages)
    for i in reversed(sequence(problem, range(len(problem.stages)))):
        curve = problem.curves[problem.team[i]]
        pace = max(curve.worked(curve.edges[1] + 12) / max(curve.edges[1] + 12 - curve.edges[0], 1e-6), 1e-6)
        until = min([*problem.ends[i], *(last[j] for j in problem.after[i])], default=float("inf"))
        last[i] = until - problem.effort[i] / pace
    return last


def _ahead(problem: Problem) -> list[float]:
    """Late lines per day of work: what one gains by doing this first."""
    worth = [s.late * len(s.dues) + WAITING_DAY for s in problem.stages]
    total, work = list(worth), list(problem.effort)
    for i in reversed(sequence(problem, range(len(problem.stages)))):
        for j in problem.after[i]:
            total[i] += total[j]
            work[i] += work[j]
    return [t / max(w, 1e-6) for t, w in zip(total, work, strict=True)]


def by_worth(problem: Problem) -> list[int]:
    """Stages by late lines per day of work, with all that waits for them: right where everything is late already."""
    ahead = _ahead(problem)
    return sequence(problem, sorted(range(len(problem.stages)), key=lambda i: (-ahead[i], i)))


def by_urgency(problem: Problem) -> list[int]:
    """Like ``by_rule``, but what cannot be in time any more goes by its worth."""
    last, ahead = _latest(problem), _ahead(problem)
    now = problem.axis.now
    return sequence(
        problem,
        sorted(
            range(len(last)), key=lambda i: (-ahead[i] * (1.0 if last[i] <= now else 1.0 / (1.0 + last[i] - now)), i)
        ),
    )


def best_of(problem: Problem, orders: Sequence[Sequence[int]]) -> Found:
    """The cheapest of these orders."""
    found = [Found(tuple(order), place(problem, order)) for order in orders]
    return min(found, key=lambda f: f.table.cost)


def every_order(problem: Problem, part: Sequence[int], first: Found, least: Sequence[float]) -> Found:
    """The best of all orders of a part, by looking through them with what cannot win left out.

    ``first``: an order that is known; ``least``: what each stage of the problem costs at least.

    Two beginnings that have placed the same stages and left the same gaps are alike: only the cheaper is gone on with.
    """
    walk = _Walk(problem, part, first, least)
    whole = walk.on(sum(walk.least[i] for i in part if not walk.placing.placed[i]))
    return Found(walk.best, place(problem, walk.best), whole)


class _Walk:
    def __init__(self, problem: Problem, part: Sequence[int], first: Found, least: Sequence[float]) -> None:
        self.problem, self.part = problem, part
        self.placing = Placing(problem, undo=True)
        fixed = [i for i in part if problem.fixed[i] is not None]
        self.order = sequence(problem, fixed)
        for i in self.order:
            self.placing.put(i)
        self.least = least
        self.best, self.cost = tuple(first.order), first.table.cost
        self.seen: dict[tuple[object, ...], float] = {}

    def on(self, rest: float) -> bool:
        """Go on from here; False where that was given up. ``rest``: what the stages not placed yet cost at least."""
        placing, table = self.placing, self.placing.table
        if len(self.order) == len(self.part):
            if table.cost < self.cost - _EPS:
                self.best, self.cost = tuple(self.order), table.cost
            return True
        if table.cost + rest >= self.cost - _EPS:
            return True
        key = _left(placing, self.part)
        if self.seen.get(key, float("inf")) <= table.cost + _EPS:
            return True
        if len(self.seen) >= _MOST_STATES:
            return False
        self.seen[key] = table.cost
        before, placed = self.problem.before, placing.placed
        for i in sorted(
            (i for i in self.part if not placed[i] and all(placed[j] for j in before[i])), key=placing.earliest
        ):
            placing.put(i)
            self.order.append(i)
            whole = self.on(rest - self.least[i])
            self.order.pop()
            placing.take()
            if not whole:
                return False
        return True


def least_costs(problem: Problem) -> list[float]:
    """What each stage costs at least, if its team did nothing else."""
    return [problem.cost(i, at) for i, at in enumerate(earliest_live(problem))]


def _left(placing: Placing, part: Sequence[int]) -> tuple[object, ...]:
    """All of a beginning that what follows depends on: what is placed, the gaps, and when what is waited for is live."""
    gaps = []
    for team in dict.fromkeys(placing.problem.team[i] for i in part):
        lanes, merged = placing.lanes.get(team, []), []
        for lane in lanes:
            joined: list[tuple[float, float]] = []
            for first, last in lane:
                if joined and first <= joined[-1][1] + 1e-7:
                    joined[-1] = (joined[-1][0], round(last, 7))
                else:
                    joined.append((round(first, 7), round(last, 7)))
            merged.append(tuple(joined))
        gaps.append(tuple(sorted(merged)))
    after = placing.problem.after
    waited = tuple(
        round(placing.table.live[i], 7)
        if placing.placed[i] and any(not placing.placed[j] for j in after[i])
        else placing.placed[i]
        for i in part
    )
    return (tuple(gaps), waited)


def by_exchange(problem: Problem, found: Found, running: Running, seed: int = 1) -> Found:
    """Better orders, by taking a stage to another place among those of its team, as long as there is time.

    The same seed and the same number of tries give the same order.
    """
    draw = random.Random(seed)  # noqa: S311 - no secret hangs on it
    place_of = {i: n for n, i in enumerate(found.order)}
    parts = [sorted(part, key=place_of.__getitem__) for part in problem.parts() if len(part) > 1]
    if not parts:
        return found
    least = least_costs(problem)
    held = [_Climb(problem, order, least) for order in parts]
    weights = [len(order) for order in parts]
    while running():
        climb = held[draw.choices(range(len(parts)), weights)[0]]
        moved = _moved(problem, climb.order, climb.start, draw)
        if moved is not None:
            climb.try_this(moved)
    order = sequence(problem, [*(i for climb in held for i in climb.best), *found.order])
    return Found(tuple(order), place(problem, order))


@dataclass(frozen=True, slots=True)
class _Mark:
    """How the lanes of a part were before the stage at a position of its order, and what all before it costs."""

    lanes: dict[int, list[list[tuple[float, float]]]]
    cost: float
    least: float  # of what comes after


class _Climb:
    """Goes on from an order that is no worse than this or than the one some tries ago (late acceptance; Burke and Bykov, 2017).

    Only what comes after the first change is placed again, and no further than it can still be taken.
    """

    def __init__(self, problem: Problem, order: Sequence[int], least: Sequence[float]) -> None:
        self.problem, self.least = problem, least
        self.order: list[int] = list(order)
        whole = sum(least[i] for i in order)
        self.marks = [_Mark({}, 0.0, whole)]
        self.start, self.live, self.cost = [0.0] * len(problem.stages), [0.0] * len(problem.stages), 0.0
        made = self._placed(self.order, 0, float("inf"))
        if made is not None:
            self.start, self.live, self.cost, self.marks = made
        self.best, self.best_cost = list(self.order), self.cost
        self.earlier = [self.cost] * _MEMORY
        self.tries = 0

    def _placed(
        self, order: Sequence[int], at: int, limit: float
    ) -> tuple[list[float], list[float], float, list[_Mark]] | None:
        """The order placed from a position on: (start, live, cost, marks); None where it costs more than ``limit``."""
        first = at // _STRIDE
        mark = self.marks[first]
        placing = Placing.on(self.problem, mark.lanes, self.start, self.live, mark.cost)
        marks, left = self.marks[: first + 1], mark.least
        for n in range(first * _STRIDE, len(order)):
            if n % _STRIDE == 0 and n // _STRIDE == len(marks):
                marks.append(_Mark(placing.copied_lanes(), placing.table.cost, left))
            placing.put(order[n])
            left -= self.least[order[n]]
            if placing.table.cost + left > limit + _EPS:
                return None
        return placing.table.start, placing.table.live, placing.table.cost, marks

    def try_this(self, moved: list[int]) -> None:
        """Take another order where it is good enough."""
        slot = self.tries % _MEMORY
        changed = next((n for n, (a, b) in enumerate(zip(self.order, moved, strict=True)) if a != b), None)
        if changed is not None:
            made = self._placed(moved, changed, max(self.cost, self.earlier[slot]))
            if made is not None:
                self.start, self.live, self.cost, self.marks = made
                self.order = moved
                if self.cost < self.best_cost - _EPS:
                    self.best, self.best_cost = list(moved), self.cost
        self.earlier[slot] = self.cost
        self.tries += 1


def _moved(problem: Problem, order: Sequence[int], start: Sequence[float], draw: random.Random) -> list[int] | None:
    """One stage before or after another of its team, near it in time; a whole run of one path goes along now and then."""
    i = order[draw.randrange(len(order))]
    team = problem.team[i]
    mates = [j for j in order if problem.team[j] == team and j != i]
    if not mates:
        return None
    here = start[i]
    far = min(int(draw.expovariate(0.15)), len(mates) - 1)
    j = heapq.nsmallest(far + 1, mates, key=lambda j: abs(start[j] - here) if start[j] < _NEVER else _NEVER)[-1]
    along = {i}
    if draw.random() < 0.35:
        before = start[j] < here
        own = problem.stages[i]
        for k in order:
            other = problem.stages[k]
            same = (other.application, other.set_name, other.team) == (own.application, own.set_name, own.team)
            if same and (other.number <= own.number if before else other.number >= own.number) and k != j:
                along.add(k)
    rest = [k for k in order if k not in along]
    at = rest.index(j) + (0 if start[j] < here else 1)
    return sequence(problem, [*rest[:at], *(k for k in order if k in along), *rest[at:]])
