"""Adopted paths: one for each set of modules, application and destination."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from yoake.store.database import Database


def adopted_paths(db: Database, application_id: int, destination_id: int) -> dict[str, dict[str, Any]]:
    """Set name → adopted path."""
    rows = db.all(
        "SELECT * FROM adopted_paths WHERE application_id = :application AND destination_id = :destination",
        {"application": application_id, "destination": destination_id},
    )
    return {row["set_name"]: dict(row) for row in rows}


def put_adopted(connection: sqlite3.Connection, values: Mapping[str, Any]) -> None:
    """Adopt a path; what was adopted before for the same set is replaced."""
    connection.execute(
        "INSERT OR REPLACE INTO adopted_paths "
        "(application_id, destination_id, set_name, choice, shape, plan, finished, by_whom, why, adopted_at, version) "
        "VALUES (:application, :destination, :set_name, :choice, :shape, :plan, :finished, :by, :why, :at, :version)",
        values,
    )


def drop_adopted(connection: sqlite3.Connection, application_id: int, destination_id: int, set_name: str) -> None:
    """Take an adopted path back."""
    connection.execute(
        "DELETE FROM adopted_paths WHERE application_id = :application AND destination_id = :destination AND set_name = :set_name",
        {"application": application_id, "destination": destination_id, "set_name": set_name},
    )
