"""Look for a better plan of the portfolio, in a process of its own, and keep the order that was found."""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import UTC, datetime
from datetime import time as clock_time
from pathlib import Path
from typing import Final, TypeVar

from yoake.context.context import Context
from yoake.context.kit import Kit
from yoake.core.portfolio.stages import Problem
from yoake.core.portfolio.waves import Waves, plan_waves
from yoake.runner.home import Home
from yoake.store.database import Database
from yoake.store.waves import WaveOrder, keep_order, newest_order
from yoake.usecases.progress import Progress
from yoake.views.portfolio_stages import pose, read_inputs
from yoake.views.wave_plans import indices

T = TypeVar("T")

SECONDS: Final = 55.0
"""How long a better plan is looked for: what a team gains after a minute is less than a day."""


def search(problem: Problem, seconds: float, known: tuple[str, ...] = ()) -> Waves:
    """The best plan found in some seconds, the programs of the teams beside one another."""
    began = time.perf_counter()
    with ThreadPoolExecutor(max(os.cpu_count() or 1, 1)) as threads:

        def each(ask: Callable[[int], T], teams: Iterable[int]) -> Iterable[T]:
            return threads.map(ask, teams)

        return plan_waves(problem, lambda: time.perf_counter() - began, seconds, indices(problem, known), each)


@dataclass(frozen=True, slots=True)
class WavesTask:
    """The portfolio below a home, on a day."""

    home: Path
    day: datetime


@dataclass(frozen=True, slots=True)
class FoundOrder:
    """What was found, for which state of things."""

    mark: str
    order: WaveOrder


class WavesWorker:
    """Plans in a process of its own, which reads the records and writes nothing."""

    def __init__(self, kit: Kit) -> None:
        self.kit = kit

    def __call__(self, task: WavesTask, tell: Callable[[str, object], None]) -> FoundOrder:
        """The order that was found."""
        os.dup2(2, 1)  # the solver prints to standard output now and then, which is not the place for it
        home = Home(task.home)
        context = Context(home=home, db=Database(home.records, read_only=True), kit=self.kit, clock=lambda: task.day)
        try:
            portfolio = pose(context, read_inputs(context))
            newest = newest_order(context.db)
        finally:
            context.db.close()
        problem = portfolio.problem
        tell("said", Progress(f"planning {len(problem.stages)} stages"))
        began = time.perf_counter()
        waves = search(problem, SECONDS, newest.stages if newest is not None else ())
        keys = tuple(problem.stages[i].key for i in waves.order)
        at = datetime.now(UTC).isoformat(timespec="seconds")
        return FoundOrder(
            portfolio.mark,
            WaveOrder(stages=keys, bound=waves.bound, best=waves.best, seconds=time.perf_counter() - began, at=at),
        )


def waves_task(context: Context) -> WavesTask:
    """The portfolio as it is now, as a task."""
    return WavesTask(context.home.folder, datetime.combine(context.today, clock_time(12), UTC))


def keep_found(context: Context, found: FoundOrder) -> str:
    """Keep an order; returns a word on how good it is."""
    with context.db.write() as connection:
        keep_order(connection, found.mark, found.order)
    return "no plan is better" if found.order.best else f"the best of {found.order.seconds:.0f} seconds"
