"""Why a stage is where it is in the plan, what stands in the way of an earlier day, and what slips when something moves."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Final

from yoake.context.context import Context
from yoake.core.contract.registry import Registry
from yoake.core.portfolio.explanation import Held, held_by, if_first, slips
from yoake.core.portfolio.stages import Problem, WaveStage
from yoake.core.portfolio.timetable import Timetable
from yoake.core.values.errors import NotFound
from yoake.views.phrases import day_text, listed
from yoake.views.wave_bars import WaveBar, wave_bars
from yoake.views.wave_plans import planned

_MOST_NAMED: Final = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class SlipView:
    """A stage that would go live on another day; ``late``: it would miss a support end that it makes now."""

    key: str
    name: str
    number: int
    title: str
    team: str
    before: date | None
    after: date | None
    days: int | None
    late: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class StageStory:
    """Why a stage is where it is, what stands in the way of an earlier day, and what would slip if it came first."""

    bar: WaveBar
    why: str
    earlier: list[str]
    first: date | None
    first_slips: list[SlipView]
    dues: list[str]


def stage_story(context: Context, key: str) -> StageStory:
    """The story of one stage. Raises NotFound."""
    plan = planned(context)
    problem, table = plan.portfolio.problem, plan.waves.table
    if key not in problem.index:
        raise NotFound("There is no such stage in the plan any more. It may be done, or its path was changed.")
    i = problem.index[key]
    held = held_by(problem, table, i)
    first = if_first(problem, plan.waves.order, i)
    stage = problem.stages[i]
    return StageStory(
        bar=wave_bars(problem, table, plan.simulated, [i])[0],
        why=_why(problem, table, i, held, context.ecosystems),
        earlier=_earlier(problem, table, i, held),
        first=problem.axis.ends(first.live[i]),
        first_slips=slip_views(problem, table, first, but=i),
        dues=[
            f"leaves {context.ecosystems.spoken(d.coordinate)} {d.line}, supported until {day_text(d.end)}"
            for d in stage.dues
        ],
    )


def _called(stage: WaveStage) -> str:
    return f"{stage.name} {stage.number} ({stage.title})" if stage.number else f"{stage.name}, {stage.title}"


def _why(problem: Problem, table: Timetable, i: int, held: Held, ecosystems: Registry) -> str:
    stage, axis = problem.stages[i], problem.axis
    team = stage.team
    ends = [due for due in stage.dues if due.end >= axis.today]
    urgent = min(ends, key=lambda d: d.end, default=None)
    because = (
        f" It leaves {ecosystems.spoken(urgent.coordinate)} {urgent.line}, which ends {day_text(urgent.end)}."
        if urgent
        else ""
    )
    start = axis.starts(table.start[i])
    when = f"on {day_text(start)}" if start else "never"
    said = {
        "today": f"Nothing holds it: it begins {when}, as soon as somebody of {team} can.",
        "fixed": f"Somebody put it on {day_text(stage.fixed) if stage.fixed else when}.",
        "before": f"It begins {when}, once {listed([_called(problem.stages[j]) for j in held.stages])} is live.",
        "outside": f"It waits for {stage.waits[1] if stage.waits else team}.",
        "busy": f"It begins {when}: until then {team} works on what is dearer to leave late.",
        "capacity": f"{team} has no days for it.",
    }
    return said[held.by] + because


def _earlier(problem: Problem, table: Timetable, i: int, held: Held) -> list[str]:
    """What stands in the way of an earlier day, one sentence each."""
    axis, stages = problem.axis, problem.stages
    found = []
    if held.by == "fixed":
        found.append("A person put it on this day. Let it go, and it moves to where it costs least.")
    for j in held.stages[:_MOST_NAMED]:
        if held.by == "before":
            day = axis.ends(table.live[j])
            found.append(f"{_called(stages[j])} is live {'on ' + day_text(day) if day else 'never'}.")
        else:
            day = axis.ends(table.ready[j])
            found.append(
                f"{stages[j].team} works on {_called(stages[j])} until {day_text(day) if day else 'the end of time'}."
            )
    if held.by == "capacity":
        found.append(f"Say who is in {stages[i].team}, or how many days a week they have.")
    if held.by == "outside":
        found.append(f"Ask {stages[i].team} for a day, or chase the one that was promised.")
    if table.live[i] > table.ready[i] + 1e-6:
        found.append("It gets ready inside a freeze, and goes live after it.")
    return found


def slip_views(problem: Problem, before: Timetable, after: Timetable, but: int | None = None) -> list[SlipView]:
    """What slips from one timetable to another, the worst first."""
    axis = problem.axis
    return [
        SlipView(
            key=problem.stages[s.stage].key,
            name=problem.stages[s.stage].name,
            number=problem.stages[s.stage].number,
            title=problem.stages[s.stage].title,
            team=problem.stages[s.stage].team,
            before=axis.ends(s.before),
            after=axis.ends(s.after),
            days=_days_between(axis.ends(s.before), axis.ends(s.after)),
            late=s.late,
        )
        for s in slips(problem, before, after)
        if s.stage != but
    ]


def _days_between(before: date | None, after: date | None) -> int | None:
    return (after - before).days if before is not None and after is not None else None
