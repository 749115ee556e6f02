"""Routes of work: steps, and what people set on them."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel, Field

from yoake.server.deps import OfficeDep, Who
from yoake.work.stepping import StepView, one_step, work
from yoake.work.tracking import change_step_fields

router = APIRouter(tags=["work"])


class StepChange(BaseModel):
    """What to set on a step; what is left out stays, an empty due date is none."""

    owner: str | None = Field(None, max_length=120)
    due: str | None = Field(None, max_length=20)
    note: str | None = Field(None, max_length=4000)


@router.get("/work")
def get_work(office: OfficeDep) -> list[StepView]:
    """Steps of all applications."""
    return work(office)


@router.patch("/steps/{number}")
def patch_step(number: int, change: StepChange, office: OfficeDep, who: Who) -> StepView:
    """Set owner, due date or note."""
    change_step_fields(office, number, change.model_dump(exclude_unset=True), who)
    return one_step(office, number)
