"""Steps as Work and Path show them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date

from yoake.context.context import Context
from yoake.core.values.plans import OLD_SIDE, StageDates
from yoake.core.values.words import StepState
from yoake.store.applications import get_application
from yoake.store.database import Row
from yoake.store.steps import (
    MOST_COUNTED,
    StepCounts,
    WantedSteps,
    count_steps,
    get_step,
    is_route,
    is_stage,
    narrowed,
    step_counts,
    step_window,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class StepView:
    """A step as Work and Path show it. ``missing`` says what is needed to close it.

    ``begins``, ``live``: of its stage as the portfolio was put into weeks, at 50 %; None where nobody said who is in its team.
    """

    id: int
    application: str
    slug: str
    team: str
    finding_key: str
    stage: int
    title: str
    state: StepState
    why: str
    missing: str
    owner: str
    due: str | None
    note: str
    places: int
    minutes: float
    closed_at: str | None
    waived: bool
    version: int
    spent: float = 0.0
    begins: date | None = None
    live: date | None = None


def _missing(row: Row) -> str:
    """What is needed to close a step."""
    if row["state"] == "closed":
        return ""
    if row["state"] == "not seen":
        return str(row["why"])
    if is_stage(row["finding_key"]):
        return "a scan that reads these lines as today's"
    if row["finding_key"] == OLD_SIDE:
        return "no route on the old side, and days without a call"
    if is_route(row["finding_key"]):
        return "a look at the code that finds the route no more"
    if row["kind"] == "behaviour":
        return "somebody’s look, said in Proof, or a scan that finds it no more"
    if row["places"] != 1:
        return f"a scan that finds none of its {row['places']} places"
    return "a scan that no longer finds its place"


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkView:
    """The Work screen: how much there is in all, and a window of the steps that fit.

    ``total`` counts those that fit; with ``more`` there are more than that.
    """

    open: int
    closed: int
    late: int
    again: int
    today: date
    total: int
    more: bool
    offset: int
    rows: list[StepView]


def step_view(row: Row, dates: Mapping[str, Mapping[int, StageDates]] | None = None) -> StepView:
    """One stored step. ``dates``: of stages, by application and number."""
    planned = (dates or {}).get(row["slug"], {}).get(row["stage"])
    return StepView(
        id=row["id"],
        application=row["application"],
        slug=row["slug"],
        team=row["team"],
        finding_key=row["finding_key"],
        stage=row["stage"],
        title=row["title"],
        state=row["state"],
        why=row["why"],
        missing=_missing(row),
        owner=row["owner"],
        due=row["due"],
        note=row["note"],
        places=row["places"],
        minutes=row["minutes"],
        closed_at=row["closed_at"],
        waived=bool(row["waived"]),
        version=row["version"],
        spent=row["spent"],
        begins=planned.starts50 if planned is not None else None,
        live=planned.arrives50 if planned is not None else None,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class StepQuery:
    """Which steps: of an application (none: all), whose (everyone, me, nobody), state (open, closed, waived, all), words, of a stage,
    of an owner (empty: of nobody)."""

    slug: str | None = None
    whose: str = "everyone"
    me: str = ""
    state: str = "open"
    text: str = ""
    stage: int | None = None
    owner: str | None = None


def wanted_steps(context: Context, query: StepQuery) -> WantedSteps:
    """What a query asks of the records. Raises NotFound for an unknown application."""
    number = get_application(context.db, query.slug).id if query.slug else None
    return WantedSteps(
        today=context.today,
        application_id=number,
        whose=query.whose,
        me=query.me,
        state=query.state,
        text=query.text,
        stage=query.stage,
        owner=query.owner,
    )


def work(context: Context, query: StepQuery, offset: int = 0, limit: int = 200) -> WorkView:
    """A window of the steps that fit, the most urgent first. Raises NotFound for an unknown application."""
    wanted = narrowed(context.db, wanted_steps(context, query))
    counts = step_counts(context.db, context.today, wanted.application_id)
    total = _total(context, query, wanted, counts)
    dates, _ = context.stage_dates
    rows = [step_view(row, dates) for row in step_window(context.db, wanted, offset, limit)]
    shown = min(total, MOST_COUNTED) if _filtered(query) else total
    return WorkView(
        open=counts.open,
        closed=counts.closed,
        late=counts.late,
        again=counts.again,
        today=context.today,
        total=shown,
        more=shown < total,
        offset=offset,
        rows=rows,
    )


def _filtered(query: StepQuery) -> bool:
    narrow = query.stage is not None or query.owner is not None
    return narrow or query.whose != "everyone" or bool(query.text.strip()) or query.state == "waived"


def _total(context: Context, query: StepQuery, wanted: WantedSteps, counts: StepCounts) -> int:
    """How many fit; what is counted already is not counted again."""
    if _filtered(query):
        return count_steps(context.db, wanted)
    if query.state == "open":
        return counts.open
    return counts.closed if query.state == "closed" else counts.open + counts.closed


def one_step(context: Context, number: int) -> StepView:
    """One step. Raises NotFound."""
    return step_view(get_step(context.db, number, context.today), context.stage_dates[0])
