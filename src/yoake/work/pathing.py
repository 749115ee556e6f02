"""The path of one application: stages with dates and steps, slack, what happened."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import date

from yoake.core.path.dates import standing
from yoake.core.path.model import plan_from_json
from yoake.store.steps import events_of
from yoake.work.office import Office
from yoake.work.reading import read_application
from yoake.work.stepping import StepView, work
from yoake.work.views import ApplicationRow, spoken


@dataclass(frozen=True, slots=True)
class MoveView:
    """One move of a stage."""

    coordinate: str
    name: str
    start: str
    goal: str
    support_ends: date | None
    kind: str


@dataclass(frozen=True, slots=True)
class StageView:
    """One stage of the ladder; number 0 is what can be done before any version moves."""

    number: int
    moves: list[MoveView]
    state: dict[str, str]
    reasons: list[str]
    steps: list[StepView]
    lines_crossed: int
    effort50: float
    effort80: float
    reached50: float
    starts: date
    arrives50: date
    arrives80: date


@dataclass(frozen=True, slots=True)
class SlackView:
    """Slack of one line."""

    coordinate: str
    name: str
    line: str
    support_ends: date | None
    left80: date | None
    slack: int | None


@dataclass(frozen=True, slots=True)
class EventView:
    """Something that happened."""

    at: str
    who: str
    subject: str
    what: str
    why: str
    before: str | None
    after: str | None


@dataclass(frozen=True, slots=True)
class PathView:
    """The Path screen: the ladder of stages with dates, slack and history."""

    application: ApplicationRow
    heading: str
    emphasis: str
    base_days: float
    kappa: float
    stages: list[StageView]
    slacks: list[SlackView]
    events: list[EventView]


def path(office: Office, slug: str) -> PathView:
    """The path of one application, hop by hop."""
    application, row, scan = read_application(office, slug)
    events = [
        EventView(e["at"], e["who"], e["subject"], e["what"], e["why"], e["before"], e["after"])
        for e in events_of(office.db, application.id)
    ]
    table = office.knowledge.effort
    if scan is None:
        return PathView(
            row, "There is no path before the first scan.", "", table.stage_base_days, table.kappa, [], [], events
        )
    plan = plan_from_json(json.loads(scan["summary"])["plan"])
    held = standing(
        plan, {view.coordinate: view.line for view in row.today}, office.knowledge, office.today, row.days_per_week
    )
    slug_steps = work(office, slug)
    stages = [
        _before(plan.before.p50, plan.before.p80, dict(plan.today), slug_steps, office.today, held.before_until50)
    ]
    for stage, dates in zip(plan.stages, held.stages, strict=True):
        moves = [_move(office, m.coordinate, m.start, m.goal) for m in stage.moves]
        stages.append(
            StageView(
                stage.number,
                moves,
                dict(stage.state),
                list(stage.reasons),
                [s for s in slug_steps if s.stage == stage.number],
                stage.lines_crossed,
                stage.effort.p50,
                stage.effort.p80,
                stage.reached.p50,
                dates.starts50,
                dates.arrives50,
                dates.arrives80,
            )
        )
    slacks = [
        SlackView(r.coordinate, spoken(r.coordinate), r.line, r.support_ends, r.left80, r.slack) for r in held.lines
    ]
    heading, emphasis = _path_heading(row, len(plan.stages))
    return PathView(row, heading, emphasis, table.stage_base_days, table.kappa, stages, slacks, events)


def _path_heading(row: ApplicationRow, count: int) -> tuple[str, str]:
    goal = ", ".join(row.destination_lines)
    if not row.lanes:
        return f"No path: it is not known what this stands on, so not how {goal} is reached.", ""
    if count == 0:
        return f"It stands on {goal} already, or past it.", ""
    days = f"{row.effort50:.1f} days of work" if row.effort50 >= 1 else "less than a day of work"
    stages = "one stage" if count == 1 else f"{count} stages"
    arrival = f", arriving {row.arrival50:%-d %b %Y}" if row.arrival50 else ""
    return f"Hop by hop to {goal}.", f"{stages[:1].upper()}{stages[1:]}, {days}{arrival}."


def _before(
    p50: float, p80: float, state: dict[str, str], steps: list[StepView], today: date, until: date
) -> StageView:
    return StageView(0, [], state, [], [s for s in steps if s.stage == 0], 0, p50, p80, p50, today, until, until)


def _move(office: Office, purl: str, start: str, goal: str) -> MoveView:
    facts = office.knowledge.line_facts(purl, goal)
    return MoveView(purl, spoken(purl), start, goal, facts.support_ends if facts else None, facts.kind if facts else "")
