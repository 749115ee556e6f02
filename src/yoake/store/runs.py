"""Runs: whether and how an application’s code may be run, what came of it, and who looked at what."""

from __future__ import annotations

import sqlite3
import zlib
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from yoake.core.proof.comparing import counted
from yoake.core.proof.gates import Look
from yoake.core.values.errors import BadRecords
from yoake.core.values.runs import RunOutcome, Verdict
from yoake.formats.records import TEXTS, Codec
from yoake.store.database import Database, Row

_OUTCOME: Final[Codec[RunOutcome]] = Codec(RunOutcome, "run")
_COUNTS: Final[Codec[dict[Verdict, int]]] = Codec(dict[Verdict, int], "count of tests")
KEPT_RUNS: Final = 40
"""Runs of one stage whose tests are kept."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RunSettings:
    """That an application’s code may be run, and how. ``command``: its words, empty for what its files say; ``beside``: packages that it
    needs and no file asks for; ``minutes``: the longest that one command may take; ``asks``: paths that the command, a server then, is asked for."""

    module: str
    command: tuple[str, ...]
    beside: tuple[str, ...]
    minutes: float
    who: str
    at: str
    asks: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class RunRequest:
    """What a job runs: the stage of the plan that is the new side (0: today’s state alone), and the branch its code is on, as name@commit;
    empty for the source as it is."""

    stage: int
    stage_key: str
    branch: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RunHead:
    """A run without its tests."""

    id: int
    stage: int
    stage_key: str
    branch: str
    content: str
    problem: str
    counts: Mapping[Verdict, int]
    who: str
    at: str


def run_settings(db: Database, application_id: int) -> RunSettings | None:
    """How an application’s code is run; None where nobody turned it on."""
    row = db.one("SELECT * FROM run_settings WHERE application_id = :application", {"application": application_id})
    if row is None:
        return None
    command, beside = TEXTS.read(row["command"]), TEXTS.read(row["beside"])
    return RunSettings(
        module=row["module"],
        command=command,
        beside=beside,
        minutes=row["minutes"],
        who=row["who"],
        at=row["at"],
        asks=TEXTS.read(row["asks"]),
    )


def put_run_settings(connection: sqlite3.Connection, application_id: int, settings: RunSettings | None) -> None:
    """Turn runs on, with these settings, or off."""
    connection.execute("DELETE FROM run_settings WHERE application_id = :id", {"id": application_id})
    if settings is not None:
        connection.execute(
            "INSERT INTO run_settings VALUES (:id, :module, :command, :beside, :minutes, :who, :at, :asks)",
            {
                "id": application_id,
                "module": settings.module,
                "command": TEXTS.write(settings.command),
                "beside": TEXTS.write(settings.beside),
                "minutes": settings.minutes,
                "who": settings.who,
                "at": settings.at,
                "asks": TEXTS.write(settings.asks),
            },
        )


def add_run_job(connection: sqlite3.Connection, application_id: int, request: RunRequest, who: str, at: str) -> int:
    """Ask for a run; one of the same application that waits or runs already is returned instead."""
    held = {"application": application_id, "who": who, "at": at}
    row = connection.execute(
        "SELECT id FROM jobs WHERE kind = 'run' AND application_id = :application AND state IN ('waiting', 'running')",
        held,
    ).fetchone()
    if row is not None:
        return int(row["id"])
    cursor = connection.execute(
        "INSERT INTO jobs (kind, application_id, batch, state, who, asked_at) VALUES ('run', :application, :at, 'waiting', :who, :at)",
        held,
    )
    job = int(cursor.lastrowid or 0)
    connection.execute(
        "INSERT INTO run_jobs VALUES (:job, :stage, :key, :branch)",
        {"job": job, "stage": request.stage, "key": request.stage_key, "branch": request.branch},
    )
    return job


def run_request(db: Database, job_id: int) -> RunRequest:
    """What a job runs. Raises BadRecords when that is not written down."""
    row = db.one("SELECT * FROM run_jobs WHERE job_id = :job", {"job": job_id})
    if row is None:
        raise BadRecords(f"What job {job_id} was to run is not written down. Ask for the run again.")
    return RunRequest(row["stage"], row["stage_key"], row["branch"])


def last_run_job(db: Database, application_id: int) -> Row | None:
    """The newest job about runs of an application, with what it runs."""
    return db.one(
        "SELECT j.id, j.state, j.problem, r.stage, r.branch FROM jobs j JOIN run_jobs r ON r.job_id = j.id "
        "WHERE j.application_id = :application ORDER BY j.id DESC LIMIT 1",
        {"application": application_id},
    )


def keep_run(
    connection: sqlite3.Connection,
    application_id: int,
    destination_id: int,
    request: RunRequest,
    outcome: RunOutcome,
    content: str,
    problem: str,
    who: str,
    at: str,
) -> int:
    """Keep what came of a run; the oldest of the same stage are dropped. Returns its number."""
    values = {
        "application": application_id,
        "destination": destination_id,
        "stage": request.stage,
        "key": request.stage_key,
        "branch": request.branch,
        "content": content,
        "problem": problem,
        "counts": _COUNTS.write(dict(counted(outcome.tests))),
        "body": zlib.compress(_OUTCOME.write(outcome).encode(), 6),
        "who": who,
        "at": at,
        "kept": KEPT_RUNS,
    }
    cursor = connection.execute(
        "INSERT INTO runs (application_id, destination_id, stage, stage_key, branch, content, problem, counts, body, who, at) "
        "VALUES (:application, :destination, :stage, :key, :branch, :content, :problem, :counts, :body, :who, :at)",
        values,
    )
    connection.execute(
        "DELETE FROM runs WHERE application_id = :application AND destination_id = :destination AND stage_key = :key AND id NOT IN "
        "(SELECT id FROM runs WHERE application_id = :application AND destination_id = :destination AND stage_key = :key "
        "ORDER BY id DESC LIMIT :kept)",
        values,
    )
    return int(cursor.lastrowid or 0)


def runs_of(db: Database, application_id: int, destination_id: int) -> list[RunHead]:
    """All runs of an application to a destination, the newest first."""
    rows = db.all(
        "SELECT id, stage, stage_key, branch, content, problem, counts, who, at FROM runs "
        "WHERE application_id = :application AND destination_id = :destination ORDER BY id DESC",
        {"application": application_id, "destination": destination_id},
    )
    return [_head(row) for row in rows]


def _head(row: Row) -> RunHead:
    return RunHead(
        id=row["id"],
        stage=row["stage"],
        stage_key=row["stage_key"],
        branch=row["branch"],
        content=row["content"],
        problem=row["problem"],
        counts=_COUNTS.read(row["counts"]),
        who=row["who"],
        at=row["at"],
    )


def run_of(db: Database, application_id: int, run_id: int) -> tuple[RunHead, RunOutcome] | None:
    """One run with its tests."""
    row = db.one(
        "SELECT * FROM runs WHERE id = :id AND application_id = :application",
        {"id": run_id, "application": application_id},
    )
    return (_head(row), _OUTCOME.read(zlib.decompress(row["body"]).decode())) if row is not None else None


def put_look(connection: sqlite3.Connection, application_id: int, look: Look) -> None:
    """Keep that somebody looked; a later look at the same takes its place."""
    connection.execute(
        "INSERT OR REPLACE INTO looks VALUES (:application, :finding, :places, :files, :note, :who, :at)",
        {
            "application": application_id,
            "finding": look.finding,
            "places": look.places,
            "files": TEXTS.write(look.files),
            "note": look.note,
            "who": look.who,
            "at": look.at,
        },
    )


def take_look_back(connection: sqlite3.Connection, application_id: int, finding: str) -> bool:
    """Forget a look; False where there was none."""
    held = {"application": application_id, "finding": finding}
    cursor = connection.execute(
        "DELETE FROM looks WHERE application_id = :application AND finding_key = :finding", held
    )
    return cursor.rowcount == 1


def looks_of(db: Database, application_id: int) -> dict[str, Look]:
    """Finding → who looked at it."""
    rows = db.all("SELECT * FROM looks WHERE application_id = :application", {"application": application_id})
    return {
        r["finding_key"]: Look(
            finding=r["finding_key"],
            who=r["who"],
            note=r["note"],
            at=r["at"],
            places=r["places"],
            files=TEXTS.read(r["files"]),
        )
        for r in rows
    }
