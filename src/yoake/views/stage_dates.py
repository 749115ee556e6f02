"""Dates of stages as the plan of the portfolio has them, for the views of one application."""

from __future__ import annotations

from yoake.context.context import Context, DatesOfStages
from yoake.core.values.plans import StageDates
from yoake.store.teams import list_teams
from yoake.views.wave_plans import Planned, plan_at_hand

_NONE: DatesOfStages = ({}, "")


def stage_dates(context: Context) -> DatesOfStages:
    """Application → number of a stage → its dates, with the mark of the plan they are of.

    None before somebody said who is in a team: until then the plan knows no more than each application's own days a week.
    """
    if not any(team.people for team in list_teams(context.db)):
        return _NONE
    plan = plan_at_hand(context)
    if plan is None:
        return _NONE
    key = plan.identity
    dates: dict[str, dict[int, StageDates]] = context.planned_dates.get(key, lambda: _dates(plan))
    return dates, plan.portfolio.mark


def _dates(plan: Planned) -> dict[str, dict[int, StageDates]]:
    problem, axis = plan.portfolio.problem, plan.portfolio.problem.axis
    rows: dict[tuple[str, int], list[int]] = {}
    for i, stage in enumerate(problem.stages):
        if stage.number:
            rows.setdefault((stage.application, stage.number), []).append(i)
    found: dict[str, dict[int, StageDates]] = {}
    for (slug, number), held in rows.items():
        starts = axis.starts(min(plan.waves.table.start[i] for i in held))
        p50, p80 = (axis.ends(t) for t in plan.simulated.quantiles(held, (0.5, 0.8)))
        if starts is not None and p50 is not None and p80 is not None:
            found.setdefault(slug, {})[number] = StageDates(starts, max(starts, p50), max(starts, p80))
    return found
