"""What is done by itself, and what forecasts said week by week."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from dataclasses import asdict, dataclass
from datetime import date

from yoake.store.database import Database, Row


@dataclass(frozen=True, slots=True, kw_only=True)
class Watch:
    """Every how many days applications are scanned again, records looked up, a digest made, and applications
    scanned against the lines after their destinations; 0 for never. ``mail_to``: addresses
    that the digest goes to, with commas between. The times are those of the last time, as ISO text."""

    rescan_days: int = 0
    records_days: int = 0
    digest_days: int = 0
    next_days: int = 0
    mail_to: str = ""
    rescanned_at: str | None = None
    looked_up_at: str | None = None
    digest_at: str | None = None
    next_at: str | None = None
    version: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptForecast:
    """What a forecast said of a stage in the week of ``made``; ``late``: the chance of missing the worst of its support ends."""

    application: int
    stage: str
    made: date
    p50: date | None
    p80: date | None
    late: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptWork:
    """What was left in the week of ``made``: days of work at the 50 % estimate, and how many applications had arrived of all."""

    made: date
    days_left: float
    arrived: int
    applications: int


def read_watch(db: Database) -> Watch:
    """What is done by itself."""
    row = db.one("SELECT * FROM watch WHERE id = 1")
    if row is None:
        return Watch()
    return Watch(**{name: row[name] for name in Watch.__slots__})


def write_watch(connection: sqlite3.Connection, watch: Watch) -> None:
    """Say what is done by itself, and when it was done last."""
    connection.execute(
        "INSERT OR REPLACE INTO watch (id, rescan_days, records_days, digest_days, next_days, mail_to, "
        "rescanned_at, looked_up_at, digest_at, next_at, version) "
        "VALUES (1, :rescan_days, :records_days, :digest_days, :next_days, :mail_to, :rescanned_at, :looked_up_at, :digest_at, :next_at, :version)",
        asdict(watch),
    )


def has_work(db: Database, week: date) -> bool:
    """Whether it was kept what was left in a week."""
    return db.one("SELECT 1 FROM kept_work WHERE made = :made", {"made": week.isoformat()}) is not None


def keep_work(connection: sqlite3.Connection, work: KeptWork) -> None:
    """Keep what is left in a week."""
    connection.execute(
        "INSERT INTO kept_work (made, days_left, arrived, applications) VALUES (:made, :days_left, :arrived, :applications)",
        asdict(work) | {"made": work.made.isoformat()},
    )


def kept_work(db: Database) -> list[KeptWork]:
    """What was left, from the first week on."""
    return [
        KeptWork(**{**row, "made": date.fromisoformat(row["made"])})
        for row in db.all("SELECT * FROM kept_work ORDER BY made")
    ]


def keep_forecasts(connection: sqlite3.Connection, rows: Iterable[KeptForecast]) -> None:
    """Keep what a forecast says; what was kept for the same week stays."""
    connection.executemany(
        "INSERT OR IGNORE INTO kept_forecasts (application_id, stage_key, made, p50, p80, late) "
        "VALUES (:application, :stage, :made, :p50, :p80, :late)",
        [
            {
                "application": row.application,
                "stage": row.stage,
                "made": row.made.isoformat(),
                "p50": row.p50.isoformat() if row.p50 else None,
                "p80": row.p80.isoformat() if row.p80 else None,
                "late": row.late,
            }
            for row in rows
        ],
    )


def forecasts_before(db: Database, day: date) -> dict[tuple[int, str], KeptForecast]:
    """What the newest forecast up to a day said, by application and stage."""
    rows = db.all(
        "SELECT * FROM kept_forecasts WHERE made = (SELECT max(made) FROM kept_forecasts WHERE made <= :day)",
        {"day": day.isoformat()},
    )
    return {(row["application_id"], row["stage_key"]): _kept(row) for row in rows}


def _kept(row: Row) -> KeptForecast:
    return KeptForecast(
        application=row["application_id"],
        stage=row["stage_key"],
        made=date.fromisoformat(row["made"]),
        p50=date.fromisoformat(row["p50"]) if row["p50"] else None,
        p80=date.fromisoformat(row["p80"]) if row["p80"] else None,
        late=row["late"],
    )


def finished_forecasts(db: Database) -> list[tuple[KeptForecast, date]]:
    """The first forecast of each stage that is done since, with the day on which it was."""
    rows = db.all(
        "SELECT k.*, s.closed_at FROM kept_forecasts k JOIN application_destinations d ON d.application_id = k.application_id "
        "AND d.is_current = 1 JOIN steps s ON s.application_id = k.application_id AND s.destination_id = d.destination_id "
        "AND s.finding_key = k.stage_key AND s.state = 'closed' AND s.why <> 'no longer part of the path' "
        "WHERE k.made = (SELECT min(made) FROM kept_forecasts f WHERE f.application_id = k.application_id AND f.stage_key = k.stage_key) "
        "AND k.made <= s.closed_at ORDER BY s.closed_at"
    )
    return [(_kept(row), date.fromisoformat(row["closed_at"][:10])) for row in rows]


def reopened_since(db: Database, since: str) -> list[Row]:
    """Steps that were found again since a time, with their applications."""
    return db.all(
        "SELECT DISTINCT e.subject, a.name, a.slug FROM events e JOIN applications a ON a.id = e.application_id "
        "WHERE e.at >= :since AND e.after = 'reopened' AND a.removed_at IS NULL ORDER BY a.name, e.subject",
        {"since": since},
    )


def counted_events(db: Database, since: str) -> dict[str, int]:
    """What happened since a time, by what it is: how often."""
    rows = db.all("SELECT what, count(*) AS n FROM events WHERE at >= :since GROUP BY what", {"since": since})
    return {row["what"]: row["n"] for row in rows}


def clear_before(db: Database, since: str) -> dict[int, float]:
    """Application → the share known to hold at its last scan before a time."""
    rows = db.all(
        "SELECT s.application_id, coalesce(s.clear, 0) * s.known AS sure FROM scans s JOIN application_destinations d "
        "ON d.application_id = s.application_id AND d.destination_id = s.destination_id AND d.is_current = 1 "
        "WHERE s.id = (SELECT max(id) FROM scans WHERE application_id = s.application_id AND destination_id = s.destination_id "
        "AND taken_at < :since)",
        {"since": since},
    )
    return {row["application_id"]: row["sure"] for row in rows}


def beyond(db: Database, since: str) -> list[Row]:
    """Applications scanned against the lines after their destination since a time: what fails and warns there."""
    return db.all(
        "SELECT a.name, a.slug, d.targets, s.errors, s.warnings, s.taken_at FROM scans s "
        "JOIN applications a ON a.id = s.application_id JOIN destinations d ON d.id = s.destination_id "
        "WHERE a.removed_at IS NULL AND d.after_id IS NOT NULL AND s.id = (SELECT max(id) FROM scans WHERE application_id = s.application_id "
        "AND destination_id = s.destination_id) AND s.taken_at >= :since ORDER BY s.errors DESC, a.name",
        {"since": since},
    )
