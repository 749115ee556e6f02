"""Proposed edits and what jobs about edits were asked for."""

from __future__ import annotations

import sqlite3
import zlib
from dataclasses import dataclass

from yoake.core.values.edits import Proposal
from yoake.core.values.errors import BadRecords
from yoake.formats.proposals import read_proposal, write_proposal
from yoake.formats.records import TEXTS
from yoake.store.database import Database


@dataclass(frozen=True, slots=True)
class EditRequest:
    """What is asked for. ``scope``: which changes in words of a link (``now``, or the number of a stage); ``keys``: the findings, empty for
    all that are safe today; ``left_out``: paths of files; ``branch``: where to commit, empty to propose only."""

    scope: str
    keys: tuple[str, ...] = ()
    left_out: tuple[str, ...] = ()
    branch: str = ""


@dataclass(frozen=True, slots=True)
class KeptProposal:
    """The newest proposal of an application, for whom and when."""

    scope: str
    proposal: Proposal
    who: str
    at: str


def add_edit_job(connection: sqlite3.Connection, application_id: int, request: EditRequest, who: str, at: str) -> int:
    """Ask for edits; a waiting or running request of the same kind for the same application is returned instead."""
    kind = "branch" if request.branch else "edits"
    held = {"kind": kind, "application": application_id, "who": who, "at": at}
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
    job = int(cursor.lastrowid or 0)
    connection.execute(
        "INSERT INTO edit_jobs (job_id, scope, keys, left_out, branch) VALUES (:job, :scope, :keys, :left, :branch)",
        {
            "job": job,
            "scope": request.scope,
            "keys": TEXTS.write(request.keys),
            "left": TEXTS.write(request.left_out),
            "branch": request.branch,
        },
    )
    return job


def edit_request(db: Database, job_id: int) -> EditRequest:
    """What a job was asked for. Raises BadRecords when that is not written down."""
    row = db.one("SELECT * FROM edit_jobs WHERE job_id = :job", {"job": job_id})
    if row is None:
        raise BadRecords(f"What job {job_id} was asked for is not written down. Ask for the edits again.")
    return EditRequest(row["scope"], TEXTS.read(row["keys"]), TEXTS.read(row["left_out"]), row["branch"])


def keep_proposal(
    connection: sqlite3.Connection, application_id: int, scope: str, proposal: Proposal, who: str, at: str
) -> None:
    """Keep the newest proposal of an application."""
    connection.execute(
        "INSERT INTO edit_proposals (application_id, scope, body, who, at) VALUES (:application, :scope, :body, :who, :at) "
        "ON CONFLICT (application_id) DO UPDATE SET scope = :scope, body = :body, who = :who, at = :at",
        {
            "application": application_id,
            "scope": scope,
            "body": zlib.compress(write_proposal(proposal).encode(), 6),
            "who": who,
            "at": at,
        },
    )


def kept_proposal(db: Database, application_id: int) -> KeptProposal | None:
    """The newest proposal of an application."""
    row = db.one("SELECT * FROM edit_proposals WHERE application_id = :application", {"application": application_id})
    if row is None:
        return None
    return KeptProposal(row["scope"], read_proposal(zlib.decompress(row["body"]).decode()), row["who"], row["at"])


def last_edit_job(db: Database, application_id: int) -> tuple[str, str, str, str] | None:
    """(kind, state, what came of it, branch) of the newest job about edits of an application."""
    row = db.one(
        "SELECT j.kind, j.state, j.problem, e.branch FROM jobs j JOIN edit_jobs e ON e.job_id = j.id "
        "WHERE j.application_id = :application ORDER BY j.id DESC LIMIT 1",
        {"application": application_id},
    )
    return (row["kind"], row["state"], row["problem"], row["branch"]) if row is not None else None
