"""Steps counted by stage and by person."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import Any

from yoake.store.database import Database
from yoake.store.steps import MOST_COUNTED, WantedSteps
from yoake.store.waivers import IN_FORCE


@dataclass(frozen=True, slots=True)
class GroupCount:
    """Steps of one stage of an application (``owner`` empty), or of one person (``application_id`` 0): how many, their minutes,
    how many are past their date, and how many were found again."""

    application_id: int
    stage: int
    owner: str
    steps: int
    minutes: float
    late: int = 0
    again: int = 0


def open_by_stage(db: Database, today: date, application_id: int | None) -> list[GroupCount]:
    """Steps to do of all stages, or those of one application: what is accepted left out."""
    values = {"today": today.isoformat(), "application": application_id}
    one = "" if application_id is None else "AND s.application_id = :application "
    waived = _counted(
        db,
        "SELECT s.application_id, s.stage, count(*) AS n, sum(s.minutes) AS minutes FROM waivers w CROSS JOIN steps s "
        "ON s.application_id = w.application_id AND s.finding_key = w.finding_key AND s.live = 1 "
        f"WHERE {IN_FORCE} {one}GROUP BY s.application_id, s.stage",
        values,
    )
    late = _counted(
        db,
        "SELECT s.application_id, s.stage, count(*) AS n, 0.0 AS minutes FROM steps s INDEXED BY steps_due "
        f"WHERE s.due IS NOT NULL AND s.live = 1 AND s.due < :today {one}GROUP BY s.application_id, s.stage",
        values,
    )
    again = _counted(
        db,
        "SELECT s.application_id, s.stage, count(*) AS n, 0.0 AS minutes FROM steps s INDEXED BY steps_again "
        f"WHERE s.state = 'reopened' AND s.live = 1 {one}GROUP BY s.application_id, s.stage",
        values,
    )
    found = []
    nothing = (0, 0.0)
    rows = db.all(f"SELECT application_id, stage, steps, minutes FROM step_groups s WHERE 1 {one}", values)
    for number, stage, steps, minutes in map(tuple, rows):
        key = (number, stage)
        less, spared = waived.get(key, nothing)
        if steps > less:
            counts = (late.get(key, nothing)[0], again.get(key, nothing)[0])
            found.append(GroupCount(number, stage, "", steps - less, minutes - spared, *counts))
    return found


def _counted(db: Database, sql: str, values: Mapping[str, Any]) -> dict[tuple[int, int], tuple[int, float]]:
    return {(row["application_id"], row["stage"]): (row["n"], row["minutes"]) for row in db.all(sql, values)}


def count_groups(db: Database, wanted: WantedSteps, *, by_owner: bool) -> list[GroupCount]:
    """The steps that fit by owner, or by application and stage; of more than ``MOST_COUNTED`` those that come first."""
    key = "0 AS application_id, 0 AS stage, owner" if by_owner else "'' AS owner, application_id, stage"
    rows = db.all(
        f"SELECT {key}, count(*) AS n, sum(minutes) AS minutes, sum(coalesce(due, '9999') < :today AND live = 1) AS late, "
        f"sum(state = 'reopened') AS again FROM (SELECT s.owner, s.application_id, s.stage, s.minutes, s.due, s.live, s.state "
        f"{wanted.source} WHERE {wanted.where} LIMIT {MOST_COUNTED}) "
        f"GROUP BY {'owner COLLATE NOCASE' if by_owner else 'application_id, stage'}",
        wanted.values,
    )
    return [
        GroupCount(
            application_id=r["application_id"],
            stage=r["stage"],
            owner=r["owner"],
            steps=r["n"],
            minutes=r["minutes"] or 0.0,
            late=r["late"],
            again=r["again"],
        )
        for r in rows
    ]
