"""Waivers: findings that somebody accepted on purpose, until a day or for good."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from datetime import date
from typing import Any, Final

from yoake.store.database import Database, Row

IN_FORCE: Final = "(w.until IS NULL OR w.until >= :today)"
"""Condition on a waiver ``w``: it has not run out (`formats.waivers.in_force` in SQL)."""


def waivers_of(db: Database, application_id: int) -> dict[str, Row]:
    """Finding key → waiver."""
    rows = db.all("SELECT * FROM waivers WHERE application_id = :id", {"id": application_id})
    return {row["finding_key"]: row for row in rows}


def live_waivers(db: Database, application_id: int, today: date) -> set[str]:
    """Keys of findings that are accepted today: waivers that have not run out."""
    rows = db.all(
        f"SELECT w.finding_key FROM waivers w WHERE w.application_id = :id AND {IN_FORCE}",  # noqa: S608  a constant
        {"id": application_id, "today": today.isoformat()},
    )
    return {row["finding_key"] for row in rows}


def put_waiver(connection: sqlite3.Connection, values: Mapping[str, Any]) -> None:
    """Accept a finding on purpose (application, key, by, why, until, version); a waiver that is there is written over."""
    connection.execute(
        "INSERT OR REPLACE INTO waivers (application_id, finding_key, by_whom, why, until, version) "
        "VALUES (:application, :key, :by, :why, :until, :version)",
        values,
    )


def drop_waiver(connection: sqlite3.Connection, application_id: int, key: str) -> None:
    """Take a waiver back."""
    connection.execute(
        "DELETE FROM waivers WHERE application_id = :application AND finding_key = :key",
        {"application": application_id, "key": key},
    )
