"""A plan against the calendar: dates at a capacity, slack of each line, margin, runway and time in the dark."""

from __future__ import annotations

import math
from collections.abc import Mapping
from datetime import date, timedelta
from typing import TYPE_CHECKING, Final

from yoake.core.values.plans import LineSlack, Plan, Stage, StageDates, Standing

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.values.coordinates import Coordinate, Line, Lines

_CENTURY: Final = 36_525  # days; what takes longer will not be done, and a calendar ends


def after(today: date, days: float, days_per_week: float) -> date:
    """The date at which ``days`` of work are done at a capacity; a century ahead when it would be later than that."""
    return today + timedelta(days=min(math.ceil(days / days_per_week * 7), _CENTURY))


def standing(
    plan: Plan,
    today_lines: Lines,
    knowledge: Knowledge,
    today: date,
    days_per_week: float,
    planned: Mapping[int, StageDates] | None = None,
) -> Standing:
    """The plan with dates counted from ``today``; ``today_lines`` are the lines stood on (coordinate → line).

    ``planned``: dates of stages by their number, where the portfolio was put into weeks; those count.
    """
    dates = _stage_dates(plan, today, days_per_week)
    if planned:
        dates = [planned.get(stage.number, held) for stage, held in zip(plan.stages, dates, strict=True)]
    by_number = {stage.number: held for stage, held in zip(plan.stages, dates, strict=True)}
    rows = []
    for coordinate, start in plan.today:
        since: Stage | None = None
        for line, stage in stays(plan, coordinate, start):
            rows.append(
                _slack(
                    coordinate=coordinate,
                    line=line,
                    since=since,
                    left=stage,
                    knowledge=knowledge,
                    today=today,
                    dates=by_number,
                )
            )
            since = stage
    ends = [
        f.support_ends for p, line in today_lines.items() if (f := knowledge.line_facts(p, line)) and f.support_ends
    ]
    slacks = [row.slack for row in rows if row.slack is not None]
    first = min(ends, default=None)
    past = first is not None and first < today
    whole50, whole80 = (after(today, days, days_per_week) for days in (plan.total.p50, plan.total.p80))
    if planned and dates:
        whole50, whole80 = max(d.arrives50 for d in dates), max(d.arrives80 for d in dates)
    return Standing(
        margin=min(slacks, default=None),
        runway=(first - today).days if first is not None and not past else None,
        unsupported_since=first if past else None,
        lines=tuple(rows),
        stages=tuple(dates),
        before_until50=after(today, plan.before.p50, days_per_week),
        arrival50=whole50,
        arrival80=whole80,
        dark_days=_dark(plan, knowledge, today, by_number, whole50),
    )


def dark_days(plan: Plan, knowledge: Knowledge, today: date, days_per_week: float) -> int:
    """Days from today until arrival that each line is stood on without support, at 50 %, added up."""
    dates = _stage_dates(plan, today, days_per_week)
    by_number = {stage.number: held for stage, held in zip(plan.stages, dates, strict=True)}
    return _dark(plan, knowledge, today, by_number, after(today, plan.total.p50, days_per_week))


def _dark(plan: Plan, knowledge: Knowledge, today: date, dates: Mapping[int, StageDates], arrival: date) -> int:
    dark = 0
    for coordinate, start in plan.today:
        since = today
        for line, stage in stays(plan, coordinate, start):
            until = dates[stage.number].arrives50 if stage is not None else arrival
            facts = knowledge.line_facts(coordinate, line)
            if facts is not None and facts.support_ends is not None:
                dark += max(0, (until - max(facts.support_ends, since)).days)
            since = until
    return dark


def stays(plan: Plan, coordinate: Coordinate, line: Line) -> list[tuple[Line, Stage | None]]:
    """The lines of one coordinate in order, each with the stage that leaves it (None for the last).

    Where several sets of modules move the same coordinate, each set's line counts from where that set stood.
    """
    found: list[tuple[Line, Stage | None]] = []
    for stage in plan.stages:
        for move in stage.moves:
            if move.coordinate == coordinate:
                found.append((move.start, stage))
                line = move.goal
    return [*found, (line, None)]


def _slack(
    coordinate: Coordinate,
    line: Line,
    since: Stage | None,
    left: Stage | None,
    knowledge: Knowledge,
    today: date,
    dates: Mapping[int, StageDates],
) -> LineSlack:
    facts = knowledge.line_facts(coordinate, line)
    end = facts.support_ends if facts else None
    left50 = dates[left.number].arrives50 if left is not None else None
    left80 = dates[left.number].arrives80 if left is not None else None
    slack = (max(end, today) - left80).days if end is not None and left80 is not None else None
    since50 = dates[since.number].arrives50 if since is not None else None
    return LineSlack(
        coordinate=coordinate, line=line, support_ends=end, since50=since50, left50=left50, left80=left80, slack=slack
    )


def _stage_dates(plan: Plan, today: date, days_per_week: float) -> list[StageDates]:
    found = []
    begin = plan.before.p50
    for stage in plan.stages:
        found.append(
            StageDates(
                after(today, begin, days_per_week),
                after(today, stage.reached.p50, days_per_week),
                after(today, stage.reached.p80, days_per_week),
            )
        )
        begin = stage.reached.p50
    return found
