"""Waves: the stages of a portfolio in weeks, how far that can be from the best, and why each stage is where it is."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Final, Protocol, TypeVar

import numpy as np

from yoake.core.portfolio.capacity import NEVER, Numbers
from yoake.core.portfolio.near_quarter import begin_near
from yoake.core.portfolio.prices import SHARES, TeamBound, team_bound
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

T = TypeVar("T")
Clock = Callable[[], float]
"""Seconds that have gone by."""

_PRICES_UNTIL: Final = 0.6  # of the time: the bounds of the teams
_PROGRAMS_UNTIL: Final = 0.75  # of the time: programs with whole stages
_MOST: Final = 5.0  # seconds for one of those: after that little is gained
_ENOUGH: Final = 0.002  # of the best: nobody looks for a better plan after that


class Each(Protocol):
    """Asks a question of every team, in turn or beside one another."""

    def __call__(self, ask: Callable[[int], T], teams: Iterable[int]) -> Iterable[T]:
        """The answers, in the order of the teams."""


def _in_turn(ask: Callable[[int], T], teams: Iterable[int]) -> Iterable[T]:
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

    A little of the time goes to exchanges, then each team is asked what it costs at least, and those in doubt for whole stages of the
    near quarter; where these begin their stages is tried as an order, and exchanged again. ``each`` may ask teams beside one another.
    """
    first = quick_waves(problem, known)
    if first.best or not problem.stages:
        return first
    found = by_exchange(problem, Found(first.order, first.table), lambda: clock() < seconds * 0.05)
    teams = _Teams(problem, clock, each)
    bounds = teams.bounds(found, seconds * _PRICES_UNTIL)
    bound = sum(b.cost for b in bounds)
    found = _best_parts(problem, [found, *_as_begun(problem, found, [b.begins for b in bounds])])
    if found.table.cost - bound > _ENOUGH * bound:
        begins = teams.near(found, bounds, seconds * _PROGRAMS_UNTIL)
        found = _best_parts(problem, [found, *_as_begun(problem, found, begins)])
        found = by_exchange(problem, found, lambda: clock() < seconds, seed=2)
    return Waves(found.order, found.table, bound, found.table.cost <= bound + 1e-6)


class _Teams:
    """What is asked of one team at a time."""

    def __init__(self, problem: Problem, clock: Clock, each: Each) -> None:
        self.problem, self.clock, self.each = problem, clock, each
        self.earliest = earliest_live(problem)
        self.own: list[list[int]] = [[] for _ in problem.teams]
        for i, team in enumerate(problem.team):
            self.own[team].append(i)

    def bounds(self, found: Found, deadline: float) -> list[TeamBound]:
        """What each team's stages cost at least: if each stage were alone, or by prices where a plan costs more than that."""
        problem, earliest = self.problem, self.earliest
        bounds = [TeamBound(sum(problem.cost(i, earliest[i]) for i in held), {}) for held in self.own]
        unsure = [t for t in range(len(bounds)) if self._doubt(t, found, bounds) > _ENOUGH * self._cost(t, found)]

        def one(team: int) -> TeamBound:
            never = sum(problem.cost(i, NEVER) for i in self.own[team] if earliest[i] >= NEVER)
            known = self._cost(team, found) - never
            made = team_bound(problem, team, earliest, self._last(team, found), known, lambda: self.clock() < deadline)
            return TeamBound(max(made.cost + never, bounds[team].cost), made.begins)

        for team, made in zip(unsure, self.each(one, unsure), strict=True):
            bounds[team] = made
        return bounds

    def near(self, found: Found, bounds: Sequence[TeamBound], deadline: float) -> list[dict[int, list[float]]]:
        """Where programs with whole stages in the near quarter begin them, those teams first of which least is sure."""
        unsure = [t for t in range(len(bounds)) if self._doubt(t, found, bounds) > _ENOUGH * self._cost(t, found)]

        def one(team: int) -> dict[int, list[float]]:
            left = min(deadline - self.clock(), _MOST)
            return begin_near(self.problem, team, self.earliest, self._last(team, found), left) if left > 0 else {}

        return list(self.each(one, sorted(unsure, key=lambda t: -self._doubt(t, found, bounds))))

    def _cost(self, team: int, found: Found) -> float:
        return sum(self.problem.cost(i, found.table.live[i]) for i in self.own[team])

    def _doubt(self, team: int, found: Found, bounds: Sequence[TeamBound]) -> float:
        return self._cost(team, found) - bounds[team].cost

    def _last(self, team: int, found: Found) -> float:
        begun = [found.table.start[i] for i in self.own[team] if found.table.start[i] < NEVER]
        return max(begun, default=self.problem.axis.now)


def _as_begun(problem: Problem, found: Found, teams: Sequence[dict[int, list[float]]]) -> list[Found]:
    """Orders in which stages begin there by and by (by such points: Phillips, Stein and Wein, 1998); what nothing is said of goes by
    the plan that is known."""
    begins = {i: at for held in teams for i, at in held.items()}
    if not begins:
        return []
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
    borders = [curve.worked_all(np.arange(len(days) + 1.0)) for curve, days in zip(problem.curves, found, strict=True)]
    for i, (start, ready) in enumerate(zip(table.start, table.ready, strict=True)):
        team = problem.team[i]
        first, last = int(min(start, len(found[team]))), int(min(ready, len(found[team]) - 1)) + 1
        if ready >= NEVER or first >= last:
            continue
        curve = problem.curves[team]
        within = np.clip(borders[team][first : last + 1], curve.worked(start), curve.worked(ready))
        found[team][first:last] += np.diff(within)
    return found
