"""Steps, waivers and events. Steps are never ticked: scans open and close them."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from datetime import date
from typing import Any

from yoake.core.errors import NotFound
from yoake.store.database import Database, Row


def steps_of(db: Database, application_id: int, destination_id: int) -> list[Row]:
    """Steps of one application and destination, in path order."""
    return db.all(
        "SELECT * FROM steps WHERE application_id = :application AND destination_id = :destination ORDER BY stage, id",
        {"application": application_id, "destination": destination_id},
    )


def all_steps(db: Database, slug: str | None = None) -> list[Row]:
    """Steps of all applications, or of one, towards their current destinations."""
    return db.all(
        "SELECT st.*, a.slug, a.name AS application, a.team, a.owner AS application_owner FROM steps st "
        "JOIN applications a ON a.id = st.application_id AND a.removed_at IS NULL "
        "JOIN application_destinations ad ON ad.application_id = a.id AND ad.destination_id = st.destination_id AND ad.is_current = 1 "
        "WHERE :slug IS NULL OR a.slug = :slug ORDER BY st.stage, a.name, st.id",
        {"slug": slug},
    )


def get_step(db: Database, number: int) -> Row:
    """One step. Raises NotFound."""
    row = db.one(
        "SELECT st.*, a.slug, a.name AS application, a.team, a.owner AS application_owner FROM steps st "
        "JOIN applications a ON a.id = st.application_id WHERE st.id = :id",
        {"id": number},
    )
    if row is None:
        raise NotFound(f"There is no step {number}.")
    return row


def put_step(connection: sqlite3.Connection, values: Mapping[str, Any]) -> None:
    """Add a step or renew what a scan says of it; owner, due and note are a person's and stay."""
    connection.execute(
        "INSERT INTO steps (application_id, destination_id, finding_key, stage, title, state, why, places, minutes, files, opened_at) "
        "VALUES (:application, :destination, :key, :stage, :title, :state, :why, :places, :minutes, :files, :at) "
        "ON CONFLICT (application_id, destination_id, finding_key) DO UPDATE SET stage = :stage, title = :title, state = :state, "
        "why = :why, places = :places, minutes = :minutes, files = :files, closed_at = NULL",
        values,
    )


def set_step_state(connection: sqlite3.Connection, step_id: int, state: str, why: str, closed_at: str | None) -> None:
    """What a scan says of a step that it no longer finds."""
    connection.execute(
        "UPDATE steps SET state = :state, why = :why, closed_at = :closed WHERE id = :id",
        {"state": state, "why": why, "closed": closed_at, "id": step_id},
    )


def set_stage(connection: sqlite3.Connection, step_id: int, stage: int) -> None:
    """Which stage of the plan a step goes with."""
    connection.execute("UPDATE steps SET stage = :stage WHERE id = :id", {"stage": stage, "id": step_id})


def change_step(connection: sqlite3.Connection, step_id: int, field: str, value: str | None) -> None:
    """Set owner, due or note."""
    statement = {
        "owner": "UPDATE steps SET owner = :value WHERE id = :id",
        "due": "UPDATE steps SET due = :value WHERE id = :id",
        "note": "UPDATE steps SET note = :value WHERE id = :id",
    }[field]
    connection.execute(statement, {"value": value, "id": step_id})


def waivers_of(db: Database, application_id: int) -> dict[str, Row]:
    """Finding key → waiver."""
    rows = db.all("SELECT * FROM waivers WHERE application_id = :id", {"id": application_id})
    return {row["finding_key"]: row for row in rows}


def live_waivers(db: Database, application_id: int, today: date) -> set[str]:
    """Keys of findings that are accepted today: waivers that have not run out."""
    rows = db.all(
        "SELECT finding_key FROM waivers WHERE application_id = :id AND (until IS NULL OR until >= :today)",
        {"id": application_id, "today": today.isoformat()},
    )
    return {row["finding_key"] for row in rows}


def put_waiver(
    connection: sqlite3.Connection, application_id: int, key: str, by: str, why: str, until: str | None
) -> None:
    """Accept a finding on purpose."""
    connection.execute(
        "INSERT OR REPLACE INTO waivers VALUES (:application, :key, :by, :why, :until)",
        {"application": application_id, "key": key, "by": by, "why": why, "until": until},
    )


def drop_waiver(connection: sqlite3.Connection, application_id: int, key: str) -> None:
    """Take a waiver back."""
    connection.execute(
        "DELETE FROM waivers WHERE application_id = :application AND finding_key = :key",
        {"application": application_id, "key": key},
    )


def add_event(connection: sqlite3.Connection, values: Mapping[str, Any]) -> None:
    """Append what happened: who, when, why, from, to."""
    full = {"who": "", "application": None, "why": "", "before": None, "after": None, "minutes": None, **values}
    connection.execute(
        "INSERT INTO events (at, who, application_id, subject, what, why, before, after, minutes) "
        "VALUES (:at, :who, :application, :subject, :what, :why, :before, :after, :minutes)",
        full,
    )


def events_of(db: Database, application_id: int, most: int = 100) -> list[Row]:
    """The newest events of an application."""
    return db.all(
        "SELECT * FROM events WHERE application_id = :id ORDER BY id DESC LIMIT :most",
        {"id": application_id, "most": most},
    )
