"""The forecast of the portfolio by application: dates, chances of missing support ends, what drives them, and what was learnt."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Final

import numpy as np

from yoake.context.context import Context
from yoake.core.portfolio.capacity import NEVER
from yoake.core.portfolio.forecast import Factor, Simulated
from yoake.core.portfolio.learning import Calibration, Kept, Record, calibration
from yoake.core.portfolio.stages import Problem
from yoake.core.values.coordinates import Coordinate, Line
from yoake.store.watch import KeptWork, finished_forecasts, kept_work
from yoake.views.portfolio_stages import PortfolioProblem, Unplanned
from yoake.views.wave_bars import arrival_of
from yoake.views.wave_plans import Planned, planned

_MOST_DRIVERS: Final = 8
_WEEKS: Final = 156
_DRAWN: Final = 1_000  # runs that tell what drives the last day, and what is left from week to week
_BY_CHANCE: Final = 9.0  # three standard deviations, squared, of a correlation where there is none, times the runs
_NOTHING_YET: Final = Calibration(0, 0, 0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Miss:
    """The chance of standing on a line after its support has ended. ``coordinate``: its short form."""

    coordinate: str
    name: str
    line: str
    end: date
    chance: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ApplicationForecast:
    """When an application arrives; None where it does not come to that. ``margin``: days of its smallest slack at 80 %.

    ``promised``: the days are a vendor's word, which nothing was simulated for.
    """

    name: str
    slug: str
    team: str
    p50: date | None
    p80: date | None
    p95: date | None
    days: float
    promised: bool
    margin: int | None
    misses: list[Miss]


@dataclass(frozen=True, slots=True, kw_only=True)
class Driver:
    """A stage whose uncertainty moves the day on which everything has arrived. ``share``: of what moves it, as rank correlation."""

    key: str
    name: str
    number: int
    title: str
    team: str
    share: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ConePoint:
    """Days of work left at a Monday, at 10, 50 and 90 % of the runs."""

    week: date
    low: float
    middle: float
    high: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ArrivalPoint:
    """Applications that have arrived by a Monday, at 10, 50 and 90 % of the runs."""

    week: date
    low: int
    middle: int
    high: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Lesson:
    """What closed steps say of one group: how many, by which factor they took longer, and the one that the forecast uses."""

    group: str
    name: str
    steps: int
    own: float
    factor: float
    low: float
    high: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PortfolioForecast:
    """When all of it has arrived that does, how many applications ``never`` do by what is known today, and each line's end with the
    chance that somebody still stands on it."""

    p50: date | None
    p80: date | None
    p95: date | None
    never: int
    stages: int
    days: float
    misses: list[Miss]
    unplanned: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ForecastView:
    """The forecast: ``runs`` simulated in ``seconds``; ``cone``: work left from week to week; ``arrivals``: applications that have
    arrived by then; ``so_far``: the same of weeks gone by, and of now; ``factor``: of the whole, learnt; ``kept``: how often earlier
    forecasts held."""

    runs: int
    seconds: float
    today: date
    applications: list[ApplicationForecast]
    portfolio: PortfolioForecast
    drivers: list[Driver]
    cone: list[ConePoint]
    arrivals: list[ArrivalPoint]
    so_far: list[KeptWork]
    lessons: list[Lesson]
    steps_learnt: int
    factor: float
    kept: Calibration
    unplanned: list[Unplanned]


def forecast_view(context: Context) -> ForecastView:
    """The forecast of today's plan."""
    return forecast_of_plan(planned(context), calibrated(context), kept_work(context.db))


def calibrated(context: Context) -> Calibration:
    """How often the first forecast of a stage held, of those that are done since."""
    rows = []
    for kept, done in finished_forecasts(context.db):
        far = date.max - kept.made
        days = [(day - kept.made if day is not None else far).days for day in (kept.p50, kept.p80)]
        rows.append(Kept(days50=days[0], days80=days[1], took=(done - kept.made).days))
    return calibration(rows)


def work_now(plan: Planned) -> KeptWork:
    """What is left today."""
    inputs = plan.portfolio.inputs
    return KeptWork(
        made=inputs.today,
        days_left=_days(plan.portfolio.problem),
        arrived=len(inputs.arrived),
        applications=len(inputs.movers) + len(inputs.unplanned),
    )


def _days(problem: Problem) -> float:
    return round(sum(s.days50 for s in problem.stages), 2)


def forecast_of_plan(plan: Planned, kept: Calibration = _NOTHING_YET, so_far: Sequence[KeptWork] = ()) -> ForecastView:
    """The forecast of a plan. ``kept``: how often earlier ones held; ``so_far``: what was left in weeks before this one."""
    problem, simulated = plan.portfolio.problem, plan.simulated
    axis = problem.axis
    rows: dict[str, list[int]] = {}
    for i, stage in enumerate(problem.stages):
        rows.setdefault(stage.application, []).append(i)
    applications = [_application(plan.portfolio, simulated, slug, held) for slug, held in rows.items()]
    whole = arrival_of(problem, simulated)
    return ForecastView(
        runs=simulated.live.shape[1],
        seconds=round(plan.seconds, 3),
        today=axis.today,
        applications=sorted(applications, key=lambda a: (a.p80 is not None, -(a.p80 or date.min).toordinal(), a.name)),
        portfolio=PortfolioForecast(
            p50=whole.p50,
            p80=whole.p80,
            p95=whole.p95,
            never=whole.never,
            stages=len(problem.stages),
            days=_days(problem),
            misses=_misses(plan.portfolio, simulated, range(len(problem.stages))),
            unplanned=len(plan.portfolio.inputs.unplanned),
        ),
        drivers=_drivers(problem, simulated),
        cone=_cone(problem, simulated),
        arrivals=_arrivals(plan, list(rows.values())),
        so_far=[*(w for w in so_far if w.made < axis.today), work_now(plan)],
        lessons=_lessons(plan),
        steps_learnt=plan.lessons.steps,
        factor=round(float(np.exp(plan.lessons.whole.mean)), 3),
        kept=kept,
        unplanned=list(plan.portfolio.inputs.unplanned),
    )


def _application(portfolio: PortfolioProblem, simulated: Simulated, slug: str, rows: list[int]) -> ApplicationForecast:
    problem, axis = portfolio.problem, portfolio.problem.axis
    p50, p80, p95 = (axis.ends(t) for t in simulated.quantiles(rows))
    slacks = []
    for i in rows:
        left = axis.ends(float(simulated.by_stage[i][1]))
        slacks += [(max(due.end, axis.today) - left).days for due in problem.stages[i].dues if left is not None]
    first = problem.stages[rows[0]]
    return ApplicationForecast(
        name=first.name,
        slug=slug,
        team=first.team,
        p50=p50,
        p80=p80,
        p95=p95,
        days=round(sum(problem.stages[i].days50 for i in rows), 2),
        promised=all(problem.stages[i].waits is not None for i in rows),
        margin=min(slacks, default=None),
        misses=_misses(portfolio, simulated, rows),
    )


def _misses(portfolio: PortfolioProblem, simulated: Simulated, rows: range | list[int]) -> list[Miss]:
    """Support ends with the chance that one of these stages leaves the line only after it, the nearest first."""
    problem = portfolio.problem
    held: dict[tuple[Coordinate, Line, date], list[tuple[int, float]]] = {}
    for i in rows:
        for due, end in zip(problem.stages[i].dues, problem.ends[i], strict=True):
            held.setdefault((due.coordinate, due.line, due.end), []).append((i, end))
    found = []
    for (coordinate, line, day), stages in held.items():
        missed = np.logical_or.reduce([simulated.live[i] > at + 1e-9 for i, at in stages])
        found.append(
            Miss(
                coordinate=coordinate.short,
                name=portfolio.ecosystems.spoken(coordinate),
                line=line,
                end=day,
                chance=round(float(missed.mean()), 4),
            )
        )
    return sorted(found, key=lambda m: (m.end, m.coordinate, m.line))


def _drivers(problem: Problem, simulated: Simulated) -> list[Driver]:
    """Stages whose own day goes with the day on which everything has arrived (rank correlation, squared and made shares)."""
    if not problem.stages:
        return []
    arriving = simulated.arriving
    drawn = simulated.live[:, :_DRAWN]
    last = drawn[arriving].max(axis=0, initial=0.0)
    finite = last < NEVER
    if finite.sum() < 10 or float(last[finite].std()) < 1e-9:
        return []
    whole = _ranks(last[finite])
    marks = [
        (float(np.corrcoef(_ranks(drawn[i][finite]), whole)[0, 1]) ** 2, i)
        for i in _moving(drawn[arriving][:, finite], last[finite], arriving)
    ]
    total = sum(mark for mark, _ in marks) or 1.0
    stages = problem.stages
    return [
        Driver(
            key=stages[i].key,
            name=stages[i].name,
            number=stages[i].number,
            title=stages[i].title,
            team=stages[i].team,
            share=round(mark / total, 4),
        )
        for mark, i in sorted(marks, reverse=True)[:_MOST_DRIVERS]
    ]


def _moving(drawn: np.ndarray, last: np.ndarray, stages: list[int]) -> list[int]:
    """Stages whose day goes with the last one more than chance would have it: of thousands each seems to, a little."""
    own = drawn - drawn.mean(axis=1, keepdims=True)
    with np.errstate(divide="ignore", invalid="ignore"):
        shares = (own @ (last - last.mean())) ** 2 / ((own**2).sum(axis=1) * ((last - last.mean()) ** 2).sum())
    return [stages[n] for n in np.flatnonzero(shares >= _BY_CHANCE / len(last))]


def _ranks(values: np.ndarray) -> np.ndarray:
    ranks = np.empty(len(values))
    ranks[np.argsort(values, kind="stable")] = np.arange(len(values))
    return ranks


def _cone(problem: Problem, simulated: Simulated) -> list[ConePoint]:
    """Work left from week to week: stages that are not live yet, in days, over the runs."""
    if not problem.stages:
        return []
    axis = problem.axis
    effort = np.asarray([s.days50 for s in problem.stages])
    weeks = _weeks(problem, simulated)
    drawn = simulated.live[:, :_DRAWN]
    finished = np.clip(drawn, 0, weeks + 1).astype(np.int32)
    found = []
    left = np.zeros((weeks + 2, drawn.shape[1]))
    runs = np.arange(left.shape[1])
    for i, days in enumerate(effort):
        left[finished[i], runs] += days  # each run once
    open_work = np.flip(np.cumsum(np.flip(left, axis=0), axis=0), axis=0)
    for week in range(weeks + 1):
        low, middle, high = np.quantile(open_work[week], (0.1, 0.5, 0.9))
        point = ConePoint(week=axis.week(week), low=round(low, 2), middle=round(middle, 2), high=round(high, 2))
        found.append(point)
    return found


def _weeks(problem: Problem, simulated: Simulated) -> int:
    """Weeks until everything has arrived at 95 %, and a little."""
    last = simulated.quantiles(simulated.arriving, (0.95,)) or [1.0]
    return min(_WEEKS, int(min(max(last[0], 1), _WEEKS)) + 2)


def _arrivals(plan: Planned, applications: list[list[int]]) -> list[ArrivalPoint]:
    """Applications whose last stage is live by each week, over the runs, with those that have arrived already."""
    problem, simulated = plan.portfolio.problem, plan.simulated
    if not applications:
        return []
    weeks = _weeks(problem, simulated)
    count = min(simulated.live.shape[1], _DRAWN)
    arrived = np.zeros((weeks + 2, count))
    runs = np.arange(count)
    for rows in applications:
        last = simulated.live[rows, :count].max(axis=0)
        arrived[np.clip(np.ceil(last), 0, weeks + 1).astype(np.int32), runs] += 1
    by_then = len(plan.portfolio.inputs.arrived) + np.cumsum(arrived, axis=0)
    found = []
    for week in range(weeks + 1):
        low, middle, high = np.quantile(by_then[week], (0.1, 0.5, 0.9))
        found.append(ArrivalPoint(week=problem.axis.week(week), low=int(low), middle=int(middle), high=int(high)))
    return found


def _lessons(plan: Planned) -> list[Lesson]:
    lessons = plan.lessons
    groups = (("team", lessons.teams), ("kind", lessons.kinds), ("ecosystem", lessons.ecosystems))
    return [_lesson(group, name, record) for group, held in groups for name, record in held.items()]


def _lesson(group: str, name: str, record: Record) -> Lesson:
    factor: Factor = record.factor
    low, high = (float(np.exp(factor.mean + sign * 1.2816 * factor.deviation)) for sign in (-1, 1))
    return Lesson(
        group=group,
        name=name,
        steps=record.count,
        own=round(float(np.exp(record.own)), 3),
        factor=round(float(np.exp(factor.mean)), 3),
        low=round(low, 3),
        high=round(high, 3),
    )
