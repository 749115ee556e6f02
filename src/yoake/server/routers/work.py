"""Routes of work: steps, and what people set on them."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import Query
from pydantic import Field

from yoake.server.answers import view_router
from yoake.server.bodies import Body, Day, Named, Problem, Version
from yoake.server.deps import ContextDep, Limit, Number, Offset, Who
from yoake.usecases.change_steps import MOST_AT_ONCE, StepsChanged, change_steps
from yoake.usecases.suggest_minutes import SuggestedMinutes, suggest_minutes
from yoake.usecases.track import change_step_fields
from yoake.views.work import StepQuery, StepView, WorkView, one_step, work
from yoake.views.work_groups import By, WorkGroups, work_groups

router = view_router(tags=["work"])
Words = Annotated[str, Query(max_length=200, description="Words that all must match.")]


class StepChange(Body):
    """What to set on a step; what is left out stays, an empty due date is none."""

    owner: Named | None = None
    due: Day | None = None
    note: str | None = Field(None, max_length=4000)
    spent: float | None = Field(None, ge=0, le=600_000, allow_inf_nan=False, description="Minutes it took, in all.")
    version: Version | None = Field(None, description="The version that was edited; another one is a conflict.")


@router.get("/work")
def get_work(
    context: ContextDep,
    who: Who,
    slug: Annotated[str | None, Query(max_length=120, description="Only steps of this application.")] = None,
    whose: Literal["everyone", "me", "nobody"] = "everyone",
    state: Literal["open", "closed", "waived", "all"] = "open",
    q: Words = "",
    stage: Annotated[int | None, Query(ge=0, le=10_000, description="Only steps of this stage.")] = None,
    owner: Annotated[
        str | None, Query(max_length=200, description="Only steps of this person; empty: of nobody.")
    ] = None,
    offset: Offset = 0,
    limit: Limit = 100,
) -> WorkView:
    """A window of the steps that fit, the most urgent first, and how the work stands in all."""
    return work(
        context, StepQuery(slug=slug, whose=whose, me=who, state=state, text=q, stage=stage, owner=owner), offset, limit
    )


@router.get("/step-groups")
def get_work_groups(
    context: ContextDep,
    who: Who,
    by: By = "stage",
    slug: Annotated[str | None, Query(max_length=120, description="Only steps of this application.")] = None,
    whose: Literal["everyone", "me", "nobody"] = "everyone",
    state: Literal["open", "closed", "waived", "all"] = "open",
    q: Words = "",
) -> WorkGroups:
    """The steps that fit by stage or by person, with what each waits for: what can be done now first."""
    return work_groups(context, StepQuery(slug=slug, whose=whose, me=who, state=state, text=q), by)


class NamedStep(Body):
    """A step as it was when it was chosen."""

    id: Annotated[int, Field(ge=1, le=2**63 - 1)]
    version: Version


class StepsChange(Body):
    """What to set on several steps; what is left out stays, an empty due date is none."""

    steps: list[NamedStep] = Field(min_length=1, max_length=MOST_AT_ONCE)
    owner: Named | None = None
    due: Day | None = None


@router.patch("/steps")
def patch_steps(change: StepsChange, context: ContextDep, who: Who) -> StepsChanged:
    """Set owner or due date of several steps at once; those that somebody else changed meanwhile stay as they are."""
    fields = change.model_dump(exclude_unset=True, exclude={"steps"})
    return change_steps(context, [(step.id, step.version) for step in change.steps], fields, who)


@router.get("/steps/{number}")
def get_one_step(number: Number, context: ContextDep) -> StepView:
    """One step."""
    return one_step(context, number)


@router.get("/steps/{number}/suggested-minutes")
def get_suggested(number: Number, context: ContextDep) -> SuggestedMinutes:
    """How long a closed step may have taken, by its commits; nothing is written."""
    return suggest_minutes(context, number)


class StepConflict(Problem):
    """Two people changed one step: nothing was written; ``current`` is how it is now."""

    current: StepView | None = None


@router.patch("/steps/{number}", responses={409: {"model": StepConflict}})
def patch_step(number: Number, change: StepChange, context: ContextDep, who: Who) -> StepView:
    """Set owner, due date, note or the minutes it took."""
    fields = change.model_dump(exclude_unset=True, exclude={"version", "spent"})
    change_step_fields(context, number, fields, who, change.version, change.spent)
    return one_step(context, number)
