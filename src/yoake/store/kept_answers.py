"""Answers that take long to make, kept with a mark of all they depend on."""

from __future__ import annotations

import sqlite3

from yoake.store.database import Database


def kept_answer(db: Database, application_id: int, name: str, mark: str) -> bytes | None:
    """The packed answer, when it was kept under this very mark."""
    row = db.one(
        "SELECT body FROM kept_answers WHERE application_id = :application AND name = :name AND mark = :mark",
        {"application": application_id, "name": name, "mark": mark},
    )
    return bytes(row["body"]) if row is not None else None


def keep_answer(connection: sqlite3.Connection, application_id: int, name: str, mark: str, body: bytes) -> None:
    """Keep an answer in place of the earlier one."""
    connection.execute(
        "INSERT OR REPLACE INTO kept_answers VALUES (:application, :name, :mark, :body)",
        {"application": application_id, "name": name, "mark": mark, "body": body},
    )


def kept_marks(db: Database) -> dict[tuple[int, str], str]:
    """(application, name) → the mark under which an answer is kept."""
    rows = db.all("SELECT application_id, name, mark FROM kept_answers")
    return {(row["application_id"], row["name"]): row["mark"] for row in rows}
