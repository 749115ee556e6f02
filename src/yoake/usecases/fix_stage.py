"""Put a stage on a day by hand, see first what slips, and let it go again."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Final

from yoake.context.context import Context
from yoake.core.portfolio.forecast import simulate
from yoake.core.portfolio.stages import Problem
from yoake.core.portfolio.timetable import Timetable, place
from yoake.core.values.errors import BadInput, NotFound
from yoake.store.applications import get_application
from yoake.store.events import Event, add_event
from yoake.store.waves import FixedStage, fix_stage, fixed_stages
from yoake.views.portfolio_stages import pose, with_fixed
from yoake.views.wave_bars import WaveBar, wave_bars
from yoake.views.wave_plans import indices, planned
from yoake.views.wave_stories import SlipView, slip_views

_RUNS: Final = 1_000  # of the forecast of a move that one only looks at


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveView:
    """What comes of putting a stage on a day: where it then is, what slips, and by how much the plan gets dearer."""

    bar: WaveBar
    slips: list[SlipView]
    dearer: float
    misses: int
    misses_now: int


def look_at_move(context: Context, key: str, begins: date | None) -> MoveView:
    """What would come of it; nothing is kept. Raises NotFound, and BadInput for a day that is past."""
    plan = planned(context)
    if key not in plan.portfolio.problem.index:
        raise NotFound("There is no such stage in the plan any more. It may be done, or its path was changed.")
    _check(context, begins)
    stage = plan.portfolio.problem.stages[plan.portfolio.problem.index[key]]
    inputs = with_fixed(plan.portfolio.inputs, stage.application, stage_part(key), begins)
    portfolio = pose(context, inputs)
    problem = portfolio.problem
    keys = [plan.portfolio.problem.stages[i].key for i in plan.waves.order]
    table = place(problem, indices(problem, keys))
    simulated = simulate(problem, table, plan.lessons.learnt, _RUNS)
    i = problem.index[key]
    return MoveView(
        bar=wave_bars(problem, table, simulated, [i])[0],
        slips=slip_views(problem, plan.waves.table, table, but=i),
        dearer=round(table.cost - plan.waves.table.cost, 2),
        misses=_misses(problem, table),
        misses_now=_misses(plan.portfolio.problem, plan.waves.table),
    )


def _misses(problem: Problem, table: Timetable) -> int:
    """Lines that are left only after their support ended, of those whose end lies ahead."""
    today = problem.axis.today
    return sum(
        table.live[i] > end + 1e-9
        for i, stage in enumerate(problem.stages)
        for due, end in zip(stage.dues, problem.ends[i], strict=True)
        if due.end >= today
    )


def stage_part(key: str) -> str:
    """The key of a stage within its application, without its address and its team."""
    return key.split("|")[1] if "|" in key else key


def _check(context: Context, begins: date | None) -> None:
    if begins is not None and begins < context.today:
        raise BadInput(f"{begins:%-d %b %Y} is past: a stage is put on a day from today on.")


def put_on_day(context: Context, key: str, begins: date | None, who: str, why: str) -> None:
    """Put a stage on a day, or with None let it go. Raises NotFound, and BadInput for a day that is past."""
    _check(context, begins)
    slug, part = key.split("|", maxsplit=1)[0], stage_part(key)
    application = get_application(context.db, slug)
    problem = planned(context).portfolio.problem
    if begins is not None and key not in problem.index:
        raise NotFound("There is no such stage in the plan any more. It may be done, or its path was changed.")
    with context.db.write() as connection:
        before = fixed_stages(context.db).get((application.id, part))
        fixed = FixedStage(begins=begins, by_whom=who, why=why, at=context.stamp) if begins is not None else None
        fix_stage(connection, application.id, part, fixed)
        event = Event(
            at=context.stamp,
            who=who,
            application=application.id,
            subject=f"stage {part.removeprefix('stage:')}",
            what="put on a day",
            before=before.begins.isoformat() if before is not None else None,
            after=begins.isoformat() if begins is not None else None,
            why=why,
        )
        add_event(connection, event)
