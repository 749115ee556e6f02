"""What bears on the waves of a portfolio: stages that people fixed, orders that were found, what-ifs, and what others move."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from yoake.core.values.errors import NotFound
from yoake.store.database import Database, Row


@dataclass(frozen=True, slots=True, kw_only=True)
class FixedStage:
    """A stage that a person put on a day."""

    begins: date
    by_whom: str
    why: str
    at: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WaveOrder:
    """An order of stages as it was found, with what no plan costs less than, and the seconds it took."""

    stages: tuple[str, ...]
    bound: float | None
    best: bool
    seconds: float
    at: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Outside:
    """An application that somebody else moves. ``promised`` and ``chase``: days; ``arrived``: their release is here since."""

    vendor: str
    contact: str
    asked: date | None
    answer: str
    promised: date | None
    chase: date | None
    arrived: date | None
    version: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Weight:
    """How much an application counts: the share of the days that its features take, and what a late day costs."""

    features: float
    late: float


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredWhatIf:
    """A what-if that was kept: ``changes`` as JSON."""

    id: int
    name: str
    changes: str
    by_whom: str
    at: str
    version: int


def fixed_stages(db: Database) -> dict[tuple[int, str], FixedStage]:
    """(application, key of the stage) → the day it was put on."""
    return {
        (row["application_id"], row["stage_key"]): FixedStage(
            begins=date.fromisoformat(row["begins"]), by_whom=row["by_whom"], why=row["why"], at=row["at"]
        )
        for row in db.all("SELECT * FROM fixed_stages")
    }


def fix_stage(connection: sqlite3.Connection, application_id: int, key: str, fixed: FixedStage | None) -> None:
    """Put a stage on a day, or with None let it go."""
    connection.execute(
        "DELETE FROM fixed_stages WHERE application_id = :id AND stage_key = :key", {"id": application_id, "key": key}
    )
    if fixed is not None:
        connection.execute(
            "INSERT INTO fixed_stages (application_id, stage_key, begins, by_whom, why, at) VALUES (:id, :key, :begins, :by, :why, :at)",
            {
                "id": application_id,
                "key": key,
                "begins": fixed.begins.isoformat(),
                "by": fixed.by_whom,
                "why": fixed.why,
                "at": fixed.at,
            },
        )


def wave_order(db: Database, mark: str) -> WaveOrder | None:
    """The order that was found for a state of things."""
    row = db.one("SELECT * FROM wave_orders WHERE mark = :mark", {"mark": mark})
    return _order(row) if row is not None else None


def newest_order(db: Database) -> WaveOrder | None:
    """The order that was found last, for whatever state of things."""
    row = db.one("SELECT * FROM wave_orders ORDER BY at DESC LIMIT 1")
    return _order(row) if row is not None else None


def _order(row: Row) -> WaveOrder:
    return WaveOrder(
        stages=tuple(json.loads(row["stages"])),
        bound=row["bound"],
        best=bool(row["best"]),
        seconds=row["seconds"],
        at=row["at"],
    )


def keep_order(connection: sqlite3.Connection, mark: str, order: WaveOrder) -> None:
    """Keep an order that was found; of those before only the newest few stay."""
    connection.execute(
        "INSERT OR REPLACE INTO wave_orders (mark, stages, bound, best, seconds, at) VALUES (:mark, :stages, :bound, :best, :seconds, :at)",
        {
            "mark": mark,
            "stages": json.dumps(order.stages),
            "bound": order.bound,
            "best": int(order.best),
            "seconds": order.seconds,
            "at": order.at,
        },
    )
    connection.execute(
        "DELETE FROM wave_orders WHERE mark NOT IN (SELECT mark FROM wave_orders ORDER BY at DESC LIMIT 8)"
    )


def weights_of(db: Database) -> dict[int, Weight]:
    """Application → how much it counts."""
    rows = db.all("SELECT id, features, late_cost FROM applications WHERE removed_at IS NULL")
    return {row["id"]: Weight(features=row["features"], late=row["late_cost"]) for row in rows}


def set_weight(connection: sqlite3.Connection, application_id: int, weight: Weight) -> None:
    """Say how much an application counts."""
    connection.execute(
        "UPDATE applications SET features = :features, late_cost = :late, version = version + 1 WHERE id = :id",
        {"features": weight.features, "late": weight.late, "id": application_id},
    )


def outside_applications(db: Database) -> dict[int, Outside]:
    """Applications that somebody else moves."""
    return {row["application_id"]: _outside(row) for row in db.all("SELECT * FROM outside_applications")}


def _outside(row: Row) -> Outside:
    days = {
        name: date.fromisoformat(row[name]) if row[name] else None for name in ("asked", "promised", "chase", "arrived")
    }
    return Outside(vendor=row["vendor"], contact=row["contact"], answer=row["answer"], version=row["version"], **days)


def put_outside(connection: sqlite3.Connection, application_id: int, outside: Outside | None) -> None:
    """Say that somebody else moves an application, and how that stands; None: it is ours."""
    connection.execute("DELETE FROM outside_applications WHERE application_id = :id", {"id": application_id})
    if outside is not None:
        connection.execute(
            "INSERT INTO outside_applications (application_id, vendor, contact, asked, answer, promised, chase, arrived, version) "
            "VALUES (:id, :vendor, :contact, :asked, :answer, :promised, :chase, :arrived, :version)",
            {
                "id": application_id,
                "vendor": outside.vendor,
                "contact": outside.contact,
                "answer": outside.answer,
                "version": outside.version,
                **{
                    name: day.isoformat() if (day := getattr(outside, name)) else None
                    for name in ("asked", "promised", "chase", "arrived")
                },
            },
        )


def list_what_ifs(db: Database) -> list[StoredWhatIf]:
    """What-ifs that were kept, by name."""
    return [_what_if(row) for row in db.all("SELECT * FROM what_ifs ORDER BY name")]


def what_if_by_id(db: Database, number: int) -> StoredWhatIf:
    """One what-if. Raises NotFound."""
    row = db.one("SELECT * FROM what_ifs WHERE id = :id", {"id": number})
    if row is None:
        raise NotFound(f"There is no what-if number {number}.")
    return _what_if(row)


def _what_if(row: Row) -> StoredWhatIf:
    return StoredWhatIf(
        id=row["id"],
        name=row["name"],
        changes=row["changes"],
        by_whom=row["by_whom"],
        at=row["at"],
        version=row["version"],
    )


def keep_what_if(connection: sqlite3.Connection, name: str, changes: str, by_whom: str, at: str) -> int:
    """Keep a what-if under a name, in place of an earlier one of that name; returns its number."""
    connection.execute(
        "INSERT INTO what_ifs (name, changes, by_whom, at) VALUES (:name, :changes, :by, :at) "
        "ON CONFLICT (name) DO UPDATE SET changes = :changes, by_whom = :by, at = :at, version = version + 1",
        {"name": name, "changes": changes, "by": by_whom, "at": at},
    )
    return int(connection.execute("SELECT id FROM what_ifs WHERE name = :name", {"name": name}).fetchone()["id"])


def drop_what_if(connection: sqlite3.Connection, number: int) -> None:
    """Throw a what-if away."""
    connection.execute("DELETE FROM what_ifs WHERE id = :id", {"id": number})


def required_libraries(db: Database) -> list[tuple[int, int]]:
    """(library, application that requires one of its modules directly), by their newest scans."""
    rows = db.all(
        "WITH newest AS MATERIALIZED (SELECT ad.application_id AS id, (SELECT max(s.id) FROM scans s WHERE s.application_id = ad.application_id "
        "AND s.destination_id = ad.destination_id) AS scan FROM application_destinations ad JOIN applications a ON a.id = ad.application_id "
        "WHERE ad.is_current = 1 AND a.removed_at IS NULL) "
        "SELECT DISTINCT l.id AS library, u.id AS user FROM newest l JOIN offered o ON o.scan_id = l.scan "
        "JOIN packages p ON p.coordinate = o.coordinate AND p.direct = 1 JOIN newest u ON u.scan = p.scan_id WHERE u.id <> l.id "
        "ORDER BY l.id, u.id"
    )
    return [(row["library"], row["user"]) for row in rows]


def closed_with_minutes(db: Database) -> Sequence[Row]:
    """Closed steps on which people said how long they took: estimated and spent minutes, kind, coordinate, team."""
    return db.all(
        "SELECT s.minutes, s.spent, s.kind, s.coordinate, s.title, s.closed_at, a.team, a.name AS application, a.slug FROM steps s "
        "INDEXED BY steps_spent JOIN applications a ON a.id = s.application_id WHERE s.spent > 0 AND s.state = 'closed' ORDER BY s.closed_at"
    )
