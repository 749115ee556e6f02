"""Plans of the portfolio with their forecasts, as last made: at once by rules and what is known, better once the job has been there."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

from yoake.context.context import Context
from yoake.core.portfolio.forecast import Simulated, simulate
from yoake.core.portfolio.learning import Closed, Lessons, learn
from yoake.core.portfolio.stages import Problem
from yoake.core.portfolio.waves import Waves, plan_waves, quick_waves
from yoake.core.values.coordinates import Coordinate
from yoake.store.waves import closed_with_minutes, newest_order, wave_order
from yoake.views.portfolio_stages import PortfolioProblem, portfolio_problem, portfolio_stamp

SMALL: Final = 60
"""Stages up to which a plan is made while one waits for it."""

_AT_ONCE: Final = 1.0  # seconds for that


@dataclass(frozen=True, slots=True, kw_only=True)
class Planned:
    """A plan of the portfolio with its forecast. ``final``: nobody looks for a better one any more. ``identity``: tells it from others."""

    portfolio: PortfolioProblem
    waves: Waves
    simulated: Simulated
    seconds: float
    lessons: Lessons
    final: bool
    identity: str = ""


def planned(context: Context, *, fresh: bool = False) -> Planned:
    """Today's plan, made again only when something it depends on changed.

    Of a large portfolio the plan of a moment ago is given while a new one is made behind, unless ``fresh`` is asked for.
    """
    stamp = _stamp(context)
    held: tuple[tuple[object, ...], Planned] | None = context.last_plan
    if held is not None and held[0] == stamp:
        return held[1]
    if held is not None and not fresh and _large(held[1]) and held[1].portfolio.inputs.today == context.today:
        if context.renewing is None or context.renewing.done():
            context.renewing = context.behind.submit(planned, context, fresh=True)
        return held[1]
    with context.planning:
        held = context.last_plan
        if held is not None and held[0] == stamp:
            return held[1]
        portfolio = portfolio_problem(context)
        lessons = lessons_of(context)
        key = (portfolio.mark, stamp[1], lessons.steps, round(lessons.whole.mean, 6))
        made: Planned = context.planned.get(
            key, lambda: replace(_make(context, portfolio, lessons), identity=repr(key))
        )
        context.last_plan = (stamp, made)
        return made


def is_renewed(context: Context) -> bool:
    """Whether a newer plan is being made behind the one that is given."""
    held = context.last_plan
    return held is not None and held[0] != _stamp(context)


def _large(plan: Planned) -> bool:
    return len(plan.portfolio.problem.stages) > SMALL


def _stamp(context: Context) -> tuple[object, ...]:
    newest = newest_order(context.db)
    return (portfolio_stamp(context), newest.at if newest is not None else "")


def plan_at_hand(context: Context) -> Planned | None:
    """The plan where it is quickly made; of a large portfolio the one that was made last, None before the first."""
    held = context.last_plan
    if held is not None and _large(held[1]):
        last: Planned = held[1]
        return last
    if len(portfolio_problem(context).problem.stages) <= SMALL:
        return planned(context)
    if context.renewing is None:
        context.renewing = context.behind.submit(planned, context, fresh=True)
    return None


def _make(context: Context, portfolio: PortfolioProblem, lessons: Lessons) -> Planned:
    problem = portfolio.problem
    kept = wave_order(context.db, portfolio.mark)
    if kept is not None:
        order = indices(problem, kept.stages)
        made = quick_waves(problem, order)
        bound = made.bound if made.best else kept.bound
        waves, final = Waves(made.order, made.table, bound, made.best or kept.best), True
    elif len(problem.stages) <= SMALL:
        waves, final = plan_at_once(problem), True
    else:
        newest = newest_order(context.db)
        waves = quick_waves(problem, indices(problem, newest.stages) if newest is not None else ())
        final = waves.best
    began = time.perf_counter()
    simulated = simulate(problem, waves.table, lessons.learnt)
    return Planned(
        portfolio=portfolio,
        waves=waves,
        simulated=simulated,
        seconds=time.perf_counter() - began,
        lessons=lessons,
        final=final,
    )


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
            ecosystem=context.ecosystems.language_of(Coordinate(row["coordinate"])) if row["coordinate"] else "",
            team=row["team"],
        )
        for row in closed_with_minutes(context.db)
    ]
