"""Plans of the portfolio with their forecasts, as last made: at once by rules and what is known, better once the job has been there."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

from yoake.context.context import Context
from yoake.core.portfolio.forecast import RUNS, Learnt, Simulated, simulate
from yoake.core.portfolio.learning import Closed, Lessons, learn
from yoake.core.portfolio.stages import Problem
from yoake.core.portfolio.waves import Waves, plan_waves, quick_waves
from yoake.core.values.coordinates import Coordinate
from yoake.store.waves import closed_with_minutes, newest_order, wave_order
from yoake.views.portfolio_stages import PortfolioProblem, portfolio_problem

SMALL: Final = 60
"""Stages up to which a plan is made while one waits for it."""

_AT_ONCE: Final = 1.0  # seconds for that


@dataclass(frozen=True, slots=True)
class Planned:
    """A plan of the portfolio with its forecast. ``final``: nobody looks for a better one any more."""

    portfolio: PortfolioProblem
    waves: Waves
    simulated: Simulated
    seconds: float
    lessons: Lessons
    final: bool


def planned(context: Context) -> Planned:
    """Today's plan, made again only when something it depends on changed."""
    portfolio = portfolio_problem(context)
    kept = wave_order(context.db, portfolio.mark)
    lessons = lessons_of(context)
    key = (portfolio.mark, kept is not None, lessons.steps, round(lessons.whole.mean, 6))
    held: Planned = context.planned.get(key, lambda: _make(context, portfolio, lessons))
    context.last_plan = held
    return held


def plan_at_hand(context: Context) -> Planned | None:
    """Today's plan where it is quickly made; of a large portfolio the one that was made last, None before the first."""
    if len(portfolio_problem(context).problem.stages) <= SMALL:
        return planned(context)
    last: Planned | None = context.last_plan
    return last


def _make(context: Context, portfolio: PortfolioProblem, lessons: Lessons) -> Planned:
    problem = portfolio.problem
    kept = wave_order(context.db, portfolio.mark)
    if kept is not None:
        order = indices(problem, kept.stages)
        made = quick_waves(problem, order)
        best = made.best or (kept.best and len(order) == len(problem.stages))
        waves, final = Waves(made.order, made.table, made.bound if made.best else kept.bound, best), True
    elif len(problem.stages) <= SMALL:
        waves, final = plan_at_once(problem), True
    else:
        newest = newest_order(context.db)
        waves = quick_waves(problem, indices(problem, newest.stages) if newest is not None else ())
        final = waves.best
    began = time.perf_counter()
    simulated = simulate(problem, waves.table, lessons.learnt)
    return Planned(portfolio, waves, simulated, time.perf_counter() - began, lessons, final)


def replanned(plan: Planned, waves: Waves) -> Planned:
    """The same with another plan, and its forecast."""
    began = time.perf_counter()
    simulated = simulate(plan.portfolio.problem, waves.table, plan.lessons.learnt)
    return replace(plan, waves=waves, simulated=simulated, seconds=time.perf_counter() - began, final=True)


def plan_at_once(problem: Problem, known: Sequence[int] = ()) -> Waves:
    """A plan while one waits: whole for a few stages, the best that a second finds for more."""
    began = time.perf_counter()
    if len(problem.stages) <= SMALL:
        return plan_waves(problem, lambda: time.perf_counter() - began, _AT_ONCE, known)
    return quick_waves(problem, known)


def indices(problem: Problem, keys: Sequence[str]) -> list[int]:
    """Stages by their keys; those that are not there any more are left out, new ones come last."""
    known = [problem.index[key] for key in keys if key in problem.index]
    held = set(known)
    return [*known, *(i for i in range(len(problem.stages)) if i not in held)]


def lessons_of(context: Context) -> Lessons:
    """What closed steps say of the estimates."""
    return learn(closed_steps(context))


def closed_steps(context: Context) -> list[Closed]:
    """Closed steps on which somebody said how long they took."""
    return [
        Closed(
            estimated=row["minutes"],
            spent=row["spent"],
            kind=row["kind"],
            ecosystem=Coordinate(row["coordinate"]).type if row["coordinate"] else "",
            team=row["team"],
        )
        for row in closed_with_minutes(context.db)
    ]


def forecast_of(problem: Problem, waves: Waves, learnt: Learnt, runs: int = RUNS) -> Simulated:
    """The forecast of another plan."""
    return simulate(problem, waves.table, learnt, runs)
