"""Steps as Work and Path show them."""

from __future__ import annotations

from dataclasses import dataclass

from yoake.store.database import Row
from yoake.store.steps import all_steps, get_step, waivers_of
from yoake.work.office import Office
from yoake.work.staging import is_stage


@dataclass(frozen=True, slots=True)
class StepView:
    """A step as Work and Path show it. ``missing`` says what is needed to close it."""

    id: int
    application: str
    slug: str
    team: str
    finding_key: str
    stage: int
    title: str
    state: str
    why: str
    missing: str
    owner: str
    due: str | None
    note: str
    places: int
    minutes: float
    closed_at: str | None
    waived: bool


def _missing(row: Row) -> str:
    """What is needed to close a step."""
    if row["state"] == "closed":
        return ""
    if row["state"] == "not seen":
        return str(row["why"])
    if is_stage(row["finding_key"]):
        return "a scan that reads these lines as today's"
    if row["places"] != 1:
        return f"a scan that finds none of its {row['places']} places"
    return "a scan that no longer finds its place"


def step_view(row: Row, waived: bool) -> StepView:
    """One stored step."""
    return StepView(
        row["id"],
        row["application"],
        row["slug"],
        row["team"],
        row["finding_key"],
        row["stage"],
        row["title"],
        row["state"],
        row["why"],
        _missing(row),
        row["owner"],
        row["due"],
        row["note"],
        row["places"],
        row["minutes"],
        row["closed_at"],
        waived,
    )


def work(office: Office, slug: str | None = None) -> list[StepView]:
    """Steps of all applications, or of one: what can be done first comes first."""
    waived = {
        (r["application_id"], r["finding_key"])
        for r in office.db.all("SELECT application_id, finding_key FROM waivers")
    }
    return [step_view(row, (row["application_id"], row["finding_key"]) in waived) for row in all_steps(office.db, slug)]


def one_step(office: Office, number: int) -> StepView:
    """One step. Raises NotFound."""
    row = get_step(office.db, number)
    return step_view(row, row["finding_key"] in waivers_of(office.db, row["application_id"]))
