"""Waves: the stages of a portfolio in weeks, how far that can be from the best, and why each stage is where it is."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from yoake.core.portfolio.bound import GRIDS, SHARES, Clock, TeamBound, team_bound
from yoake.core.portfolio.capacity import NEVER, Numbers
from yoake.core.portfolio.search import (
    FEW,
    Found,
    best_of,
    by_exchange,
    by_rule,
    by_urgency,
    by_worth,
    every_order,
    least_costs,
)
from yoake.core.portfolio.stages import Problem
from yoake.core.portfolio.timetable import Timetable, earliest_live, place, sequence

Each = Callable[[Callable[[int], TeamBound | None], Iterable[int]], Iterable[TeamBound | None]]
"""Asks a question of every team, in turn or beside one another."""

_MOST: Final = 5.0  # seconds for a program with whole stages: after that little is gained
_ENOUGH: Final = 0.002  # of the best: nobody looks for a better plan after that


def _in_turn(ask: Callable[[int], TeamBound | None], teams: Iterable[int]) -> Iterable[TeamBound | None]:
    return map(ask, teams)


@dataclass(frozen=True, slots=True)
class Waves:
    """A plan of the portfolio. ``bound``: no plan costs less, None while that is not known; ``best``: none is better."""

    order: tuple[int, ...]
    table: Timetable
    bound: float | None
    best: bool

    @property
    def gap(self) -> float | None:
        """By what share this may cost more than the best plan; None while that is not known."""
        if self.best:
            return 0.0
        if self.bound is None:
            return None
        cost = self.table.cost
        return max(0.0, cost - self.bound) / max(self.bound, 1e-9) if cost > 1e-9 else 0.0


def quick_waves(problem: Problem, known: Sequence[int] = ()) -> Waves:
    """A plan at once: the best of three rules and of an order that is known, and of all where there are few stages."""
    orders = [by_rule(problem), by_worth(problem), by_urgency(problem)]
    if known:
        orders.append(sequence(problem, known))
    found = _few(problem, best_of(problem, orders))
    return Waves(found.order, found.table, found.table.cost if found.best else None, found.best)


def _few(problem: Problem, found: Found) -> Found:
    """The same plan, the best in every part that has few stages."""
    place_of = {i: n for n, i in enumerate(found.order)}
    least = least_costs(problem)
    order: list[int] = []
    best = True
    for part in problem.parts():
        held = sorted(part, key=place_of.__getitem__)
        if sum(problem.cost(i, found.table.live[i]) - least[i] for i in part) <= 1e-6:
            pass  # nothing of it could be live any sooner
        elif len(part) > FEW:
            best = False
        else:
            own = every_order(problem, part, Found(tuple(held), place(problem, held)), least)
            held, best = list(own.order), best and own.best
        order += held
    whole = sequence(problem, order)
    return Found(tuple(whole), place(problem, whole), best)


def plan_waves(
    problem: Problem, clock: Clock, seconds: float, known: Sequence[int] = (), each: Each = _in_turn
) -> Waves:
    """The best plan found within about ``seconds``, with how far it can be from the best.

    A little of the time goes to exchanges, most of it to the programs of the teams, which ``each`` may run beside one another;
    what these would do is tried as an order, and exchanged again.
    """
    first = quick_waves(problem, known)
    if first.best or not problem.stages:
        return first
    found = by_exchange(problem, Found(first.order, first.table), lambda: clock() < seconds * 0.05)
    bounds = _bounds(problem, found, seconds * 0.65, clock, each)
    bound = sum(b.cost for b in bounds)
    found = _best_parts(problem, [found, *_as_begun(problem, found, bounds)])
    if found.table.cost - bound > _ENOUGH * bound:
        found = by_exchange(problem, found, lambda: clock() < seconds, seed=2)
    return Waves(found.order, found.table, bound, found.table.cost <= bound + 1e-6)


def _bounds(problem: Problem, found: Found, deadline: float, clock: Clock, each: Each) -> list[TeamBound]:
    """What each team's stages cost at least: if each stage were alone, then by its program, finer where most is in doubt."""
    earliest = earliest_live(problem)
    teams = range(len(problem.teams))
    own: list[list[int]] = [[] for _ in teams]
    for i, team in enumerate(problem.team):
        own[team].append(i)
    bounds = [TeamBound(sum(problem.cost(i, earliest[i]) for i in held), {}) for held in own]
    costs = [sum(problem.cost(i, found.table.live[i]) for i in held) for held in own]
    never = [sum(problem.cost(i, NEVER) for i in held if earliest[i] >= NEVER) for held in own]

    def doubt(team: int) -> float:
        return costs[team] - bounds[team].cost

    for grid, whole, until in (*((grid, False, deadline * 0.85) for grid in GRIDS), (GRIDS[0], True, deadline)):

        def one(
            team: int, grid: tuple[float, float] = grid, whole: bool = whole, until: float = until
        ) -> TeamBound | None:
            if clock() > until:
                return None
            begun = [found.table.start[i] for i in own[team] if found.table.start[i] < NEVER]
            last = max(begun, default=problem.axis.now)
            until = min(until, clock() + _MOST) if whole else until
            return team_bound(problem, team, earliest, last, grid, until, clock, whole=whole)

        unsure = sorted((t for t in teams if doubt(t) > _ENOUGH * costs[t]), key=lambda t: -doubt(t))
        for team, made in zip(unsure, each(one, unsure), strict=True):
            if made is not None:
                cost = max(made.cost + never[team], bounds[team].cost)
                bounds[team] = TeamBound(cost, made.begins or bounds[team].begins)
    return bounds


def _as_begun(problem: Problem, found: Found, bounds: Sequence[TeamBound]) -> list[Found]:
    """Orders in which the programs would begin; what they say nothing of goes by the plan that is known."""
    begins = {i: at for bound in bounds for i, at in bound.begins.items()}
    place_of = {i: n for n, i in enumerate(found.order)}
    orders = []
    for share in range(len(SHARES)):
        at = {i: begins[i][share] if i in begins else found.table.start[i] for i in range(len(problem.stages))}
        order = sequence(problem, sorted(at, key=lambda i, at=at: (at[i], place_of[i])))  # type: ignore[misc]
        orders.append(Found(tuple(order), place(problem, order)))
    return orders


def _best_parts(problem: Problem, found: Sequence[Found]) -> Found:
    """The cheapest of these plans for every part by itself."""
    order: list[int] = []
    for part in problem.parts():
        cheapest = min(found, key=lambda f: sum(problem.cost(i, f.table.live[i]) for i in part))
        place_of = {i: n for n, i in enumerate(cheapest.order)}
        order += sorted(part, key=place_of.__getitem__)
    order = sequence(problem, order)
    return Found(tuple(order), place(problem, order))


def used(problem: Problem, table: Timetable) -> list[Numbers]:
    """Days of work by team and week: what the stages placed there take."""
    found = [np.zeros(len(days)) for days in problem.weekly]
    for i, (start, ready) in enumerate(zip(table.start, table.ready, strict=True)):
        if ready >= NEVER:
            continue
        curve, weeks = problem.curves[problem.team[i]], found[problem.team[i]]
        for week in range(int(start), min(int(ready) + 1, len(weeks))):
            weeks[week] += max(0.0, curve.worked(min(ready, week + 1)) - curve.worked(max(start, week)))
    return found
