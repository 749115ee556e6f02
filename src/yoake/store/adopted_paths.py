"""Adopted paths: one for each set of modules, application and destination."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from yoake.core.values.journeys import Shape
from yoake.core.values.plans import Plan
from yoake.formats.records import PLAN, SHAPE, TEXTS
from yoake.store.database import Database


@dataclass(frozen=True, slots=True, kw_only=True)
class AdoptedPath:
    """What a set of modules was put on: the option, how the search was bent, the plan as it was then, and stages reached since.

    ``version`` is the number of the event that wrote it.
    """

    set_name: str
    choice: str
    shape: Shape
    plan: Plan
    finished: tuple[str, ...]
    by_whom: str
    why: str
    adopted_at: str
    version: int = 0


def adopted_paths(db: Database, application_id: int, destination_id: int) -> dict[str, AdoptedPath]:
    """Set name → adopted path. Raises BadRecords."""
    rows = db.all(
        "SELECT * FROM adopted_paths WHERE application_id = :application AND destination_id = :destination",
        {"application": application_id, "destination": destination_id},
    )
    return {
        row["set_name"]: AdoptedPath(
            set_name=row["set_name"],
            choice=row["choice"],
            shape=SHAPE.read(row["shape"]),
            plan=PLAN.read(row["plan"]),
            finished=TEXTS.read(row["finished"]),
            by_whom=row["by_whom"],
            why=row["why"],
            adopted_at=row["adopted_at"],
            version=row["version"],
        )
        for row in rows
    }


def put_adopted(connection: sqlite3.Connection, application_id: int, destination_id: int, path: AdoptedPath) -> None:
    """Adopt a path; what was adopted before for the same set is replaced."""
    connection.execute(
        "INSERT OR REPLACE INTO adopted_paths "
        "(application_id, destination_id, set_name, choice, shape, plan, finished, by_whom, why, adopted_at, version) "
        "VALUES (:application, :destination, :set_name, :choice, :shape, :plan, :finished, :by, :why, :at, :version)",
        {
            "application": application_id,
            "destination": destination_id,
            "set_name": path.set_name,
            "choice": path.choice,
            "shape": SHAPE.write(path.shape),
            "plan": PLAN.write(path.plan),
            "finished": TEXTS.write(path.finished),
            "by": path.by_whom,
            "why": path.why,
            "at": path.adopted_at,
            "version": path.version,
        },
    )


def every_adopted(db: Database) -> set[tuple[int, int]]:
    """(application, destination) for which a path was adopted."""
    rows = db.all("SELECT DISTINCT application_id, destination_id FROM adopted_paths")
    return {(row["application_id"], row["destination_id"]) for row in rows}


def drop_adopted(connection: sqlite3.Connection, application_id: int, destination_id: int, set_name: str) -> None:
    """Take an adopted path back."""
    connection.execute(
        "DELETE FROM adopted_paths WHERE application_id = :application AND destination_id = :destination AND set_name = :set_name",
        {"application": application_id, "destination": destination_id, "set_name": set_name},
    )
