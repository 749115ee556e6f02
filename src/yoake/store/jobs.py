"""Jobs: work that was asked for, and how it ended. What was running when the process died is marked at the next start."""

from __future__ import annotations

import sqlite3

from yoake.store.database import Database, Row


def add_job(connection: sqlite3.Connection, application_id: int, batch: str, who: str, at: str) -> int:
    """Ask for a scan; a waiting or running one of the same application is returned instead."""
    row = connection.execute(
        "SELECT id FROM jobs WHERE kind = 'scan' AND application_id = :application AND state IN ('waiting', 'running')",
        {"application": application_id},
    ).fetchone()
    if row is not None:
        return int(row["id"])
    cursor = connection.execute(
        "INSERT INTO jobs (kind, application_id, batch, state, who, asked_at) VALUES ('scan', :application, :batch, 'waiting', :who, :at)",
        {"application": application_id, "batch": batch, "who": who, "at": at},
    )
    return int(cursor.lastrowid or 0)


def add_knowing(connection: sqlite3.Connection, kind: str, subject: str, who: str, at: str) -> int:
    """Ask for something to be found out: ``knowledge`` of a library, or a ``trial`` of a release; a waiting or running request for
    the same is returned instead."""
    row = connection.execute(
        "SELECT id FROM jobs WHERE kind = :kind AND subject = :subject AND state IN ('waiting', 'running')",
        {"kind": kind, "subject": subject},
    ).fetchone()
    if row is not None:
        return int(row["id"])
    cursor = connection.execute(
        "INSERT INTO jobs (kind, subject, batch, state, who, asked_at) VALUES (:kind, :subject, :at, 'waiting', :who, :at)",
        {"kind": kind, "subject": subject, "who": who, "at": at},
    )
    return int(cursor.lastrowid or 0)


def add_application_job(connection: sqlite3.Connection, kind: str, application_id: int, who: str, at: str) -> int:
    """Ask for the packages of an application to be looked up (``records``), or for a scan against the lines after its destination (``next``).

    A waiting or running request for the same is returned instead.
    """
    held = {"application": application_id, "who": who, "at": at, "kind": kind}
    row = connection.execute(
        "SELECT id FROM jobs WHERE kind = :kind AND application_id = :application AND state IN ('waiting', 'running')",
        held,
    ).fetchone()
    if row is not None:
        return int(row["id"])
    cursor = connection.execute(
        "INSERT INTO jobs (kind, application_id, batch, state, who, asked_at) VALUES (:kind, :application, :at, 'waiting', :who, :at)",
        held,
    )
    return int(cursor.lastrowid or 0)


def set_job(connection: sqlite3.Connection, job_id: int, state: str, at: str, problem: str = "") -> None:
    """How a job ended; ``waiting`` puts it back."""
    connection.execute(
        "UPDATE jobs SET state = :state, problem = :problem, ended_at = :at WHERE id = :id",
        {"state": state, "problem": problem, "at": at, "id": job_id},
    )


def take_next(connection: sqlite3.Connection, at: str) -> Row | None:
    """The oldest waiting job, which is running from now on; None when nothing waits.

    Packages are looked up only after the scan that tells which ones there are.
    """
    row: Row | None = connection.execute(
        "UPDATE jobs SET state = 'running', problem = '', started_at = :at "
        "WHERE id = (SELECT id FROM jobs j WHERE state = 'waiting' AND (kind <> 'records' OR NOT EXISTS (SELECT 1 FROM jobs s "
        "WHERE s.kind = 'scan' AND s.application_id = j.application_id AND s.state IN ('waiting', 'running'))) "
        "ORDER BY id LIMIT 1) RETURNING *",
        {"at": at},
    ).fetchone()
    return row


def stop_waiting(connection: sqlite3.Connection, job_id: int, at: str) -> bool:
    """Stop a job that did not begin; False when it is not waiting."""
    cursor = connection.execute(
        "UPDATE jobs SET state = 'stopped', ended_at = :at WHERE id = :id AND state = 'waiting'",
        {"id": job_id, "at": at},
    )
    return cursor.rowcount == 1


def count_jobs(db: Database) -> dict[str, int]:
    """State → number of jobs."""
    return {row["state"]: row["n"] for row in db.all("SELECT state, count(*) AS n FROM jobs GROUP BY state")}


def get_job(db: Database, job_id: int) -> Row | None:
    """One job."""
    return db.one("SELECT * FROM jobs WHERE id = :id", {"id": job_id})


def recent_jobs(db: Database, most: int = 200) -> list[Row]:
    """Unfinished jobs and the newest finished ones, newest first."""
    return db.all(
        "SELECT j.*, a.slug, a.name AS application FROM jobs j LEFT JOIN applications a ON a.id = j.application_id "
        "ORDER BY (j.state IN ('waiting', 'running')) DESC, j.id DESC LIMIT :most",
        {"most": most},
    )


def last_job_of(db: Database, application_id: int | None = None) -> dict[int, Row]:
    """Application → its newest scan job; of one application when it is named."""
    rows = db.all(
        "SELECT j.* FROM applications a JOIN jobs j "
        "ON j.id = (SELECT max(id) FROM jobs WHERE kind = 'scan' AND application_id = a.id) "
        "WHERE :id IS NULL OR a.id = :id",
        {"id": application_id},
    )
    return {row["application_id"]: row for row in rows}


def requeue_interrupted(connection: sqlite3.Connection) -> int:
    """Put what was running back into the queue; returns how many."""
    cursor = connection.execute(
        "UPDATE jobs SET state = 'waiting', problem = 'started again after the program ended', started_at = NULL WHERE state = 'running'"
    )
    return cursor.rowcount
