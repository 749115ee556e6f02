"""Applications, their sources and destinations."""

from __future__ import annotations

import json
import re
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from yoake.core.values.coordinates import Target, parse_target
from yoake.core.values.errors import NotFound
from yoake.core.values.words import SourceKind
from yoake.store.database import Database, Row


@dataclass(frozen=True, slots=True)
class Source:
    """Where the content comes from."""

    kind: SourceKind
    location: str
    ref: str = ""
    subfolder: str = ""


@dataclass(frozen=True, slots=True)
class Destination:
    """A named set of lines."""

    id: int
    name: str
    targets: tuple[Target, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Application:
    """What a team ships, with its current destination."""

    id: int
    slug: str
    name: str
    owner: str
    team: str
    days_per_week: float | None
    source: Source
    destination: Destination
    removed_at: str | None
    open_steps: int = 0
    version: int = 1


_SELECT = """
SELECT a.id, a.slug, a.name, a.owner, a.team, a.days_per_week, a.removed_at, a.open_steps, a.version,
       s.kind, s.location, s.ref, s.subfolder, d.id AS destination_id, d.name AS destination, d.targets
FROM applications a
JOIN sources s ON s.id = a.source_id
JOIN application_destinations ad ON ad.application_id = a.id AND ad.is_current = 1
JOIN destinations d ON d.id = ad.destination_id
"""


def _application(row: Row) -> Application:
    return Application(
        id=row["id"],
        slug=row["slug"],
        name=row["name"],
        owner=row["owner"],
        team=row["team"],
        days_per_week=row["days_per_week"],
        source=Source(row["kind"], row["location"], row["ref"], row["subfolder"]),
        destination=Destination(row["destination_id"], row["destination"], _targets(row["targets"])),
        removed_at=row["removed_at"],
        open_steps=row["open_steps"],
        version=row["version"],
    )


def _targets(text: str) -> tuple[Target, ...]:
    return tuple(parse_target(entry) for entry in json.loads(text))


def list_applications(db: Database) -> list[Application]:
    """All applications that were not removed, by name."""
    return [_application(row) for row in db.all(_SELECT + "WHERE a.removed_at IS NULL ORDER BY a.name, a.id")]


def get_application(db: Database, slug: str) -> Application:
    """One application by its slug, removed ones too. Raises NotFound."""
    row = db.one(_SELECT + "WHERE a.slug = :slug", {"slug": slug})
    if row is None:
        raise NotFound(f"There is no application “{slug}”. The Horizon lists those that there are.")
    return _application(row)


def get_applications(db: Database, slugs: Sequence[str]) -> list[Application]:
    """Applications by their slugs, in that order. Raises NotFound, naming those that there are not."""
    where = "WHERE a.slug IN (SELECT value FROM json_each(:slugs))"
    rows = db.all(f"{_SELECT} {where}", {"slugs": json.dumps(list(slugs))})
    held = {row["slug"]: _application(row) for row in rows}
    missing = [slug for slug in slugs if slug not in held]
    if missing:
        raise NotFound(f"There is no application “{'”, “'.join(missing[:3])}”. The Horizon lists those that there are.")
    return [held[slug] for slug in slugs]


def application_by_id(db: Database, number: int) -> Application:
    """One application by its number. Raises NotFound."""
    row = db.one(_SELECT + "WHERE a.id = :id", {"id": number})
    if row is None:
        raise NotFound(f"There is no application number {number}.")
    return _application(row)


def free_slug(connection: sqlite3.Connection, name: str) -> str:
    """An address for a name that no other application has."""
    stem = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:60] or "application"
    slug, number = stem, 1
    while connection.execute("SELECT 1 FROM applications WHERE slug = :slug", {"slug": slug}).fetchone():
        number += 1
        slug = f"{stem}-{number}"
    return slug


def add_application(
    connection: sqlite3.Connection, name: str, source: Source, destination_id: int, *, owner: str, team: str, at: str
) -> int:
    """Add an application; returns its number."""
    values = {"kind": source.kind, "location": source.location, "ref": source.ref, "subfolder": source.subfolder}
    connection.execute(
        "INSERT OR IGNORE INTO sources (kind, location, ref, subfolder) VALUES (:kind, :location, :ref, :subfolder)",
        values,
    )
    found = connection.execute(
        "SELECT id FROM sources WHERE kind = :kind AND location = :location AND ref = :ref AND subfolder = :subfolder",
        values,
    ).fetchone()
    cursor = connection.execute(
        "INSERT INTO applications (slug, name, owner, team, source_id, taken_in) VALUES (:slug, :name, :owner, :team, :source, :at)",
        {
            "slug": free_slug(connection, name),
            "name": name,
            "owner": owner,
            "team": team,
            "source": found["id"],
            "at": at,
        },
    )
    number = int(cursor.lastrowid or 0)
    set_destination(connection, number, destination_id)
    return number


def set_destination(connection: sqlite3.Connection, application_id: int, destination_id: int) -> None:
    """Make a destination the current one of an application; earlier ones are kept."""
    values = {"application": application_id, "destination": destination_id}
    connection.execute("UPDATE application_destinations SET is_current = 0 WHERE application_id = :application", values)
    connection.execute(
        "INSERT INTO application_destinations (application_id, destination_id, is_current) VALUES (:application, :destination, 1) "
        "ON CONFLICT (application_id, destination_id) DO UPDATE SET is_current = 1",
        values,
    )


def change_application(connection: sqlite3.Connection, application_id: int, field: str, value: object) -> None:
    """Set one of owner, team, name, days_per_week, removed_at."""
    statement = {
        "owner": "UPDATE applications SET owner = :value WHERE id = :id",
        "team": "UPDATE applications SET team = :value WHERE id = :id",
        "name": "UPDATE applications SET name = :value WHERE id = :id",
        "days_per_week": "UPDATE applications SET days_per_week = :value WHERE id = :id",
        "removed_at": "UPDATE applications SET removed_at = :value WHERE id = :id",
    }[field]
    connection.execute(statement, {"value": value, "id": application_id})


def touch_application(connection: sqlite3.Connection, application_id: int) -> None:
    """What people set on an application is another version now."""
    connection.execute("UPDATE applications SET version = version + 1 WHERE id = :id", {"id": application_id})


def list_destinations(db: Database) -> list[tuple[Destination, int]]:
    """Destinations with the number of applications that head for each."""
    rows = db.all(
        "SELECT d.id, d.name, d.targets, COUNT(a.id) AS users FROM destinations d "
        "LEFT JOIN application_destinations ad ON ad.destination_id = d.id AND ad.is_current = 1 "
        "LEFT JOIN applications a ON a.id = ad.application_id AND a.removed_at IS NULL "
        "WHERE d.after_id IS NULL GROUP BY d.id ORDER BY users DESC, d.name"
    )
    return [(Destination(r["id"], r["name"], _targets(r["targets"])), r["users"]) for r in rows]


def ensure_destination(connection: sqlite3.Connection, name: str, targets: tuple[Target, ...]) -> int:
    """The number of the destination of this name; made when it is new, its lines replaced when given."""
    row = connection.execute("SELECT id FROM destinations WHERE name = :name", {"name": name}).fetchone()
    shown = json.dumps([str(target) for target in targets])
    if row is None:
        cursor = connection.execute(
            "INSERT INTO destinations (name, targets) VALUES (:name, :targets)", {"name": name, "targets": shown}
        )
        return int(cursor.lastrowid or 0)
    if targets:
        connection.execute(
            "UPDATE destinations SET targets = :targets WHERE id = :id", {"targets": shown, "id": row["id"]}
        )
    return int(row["id"])


def destination_after(connection: sqlite3.Connection, destination: Destination, targets: tuple[Target, ...]) -> int:
    """The number of the lines that come after a destination; their own are replaced. It is in no list of destinations."""
    shown = json.dumps([str(target) for target in targets])
    row = connection.execute("SELECT id FROM destinations WHERE after_id = :id", {"id": destination.id}).fetchone()
    if row is not None:
        values = {"targets": shown, "id": row["id"]}
        connection.execute("UPDATE destinations SET targets = :targets WHERE id = :id", values)
        return int(row["id"])
    cursor = connection.execute(
        "INSERT INTO destinations (name, targets, after_id) VALUES (:name, :targets, :id)",
        {"name": f"\n{destination.id}", "targets": shown, "id": destination.id},
    )
    return int(cursor.lastrowid or 0)


def said_lines(db: Database, application_id: int) -> list[Target]:
    """Today's lines that a person gave."""
    rows = db.all(
        "SELECT coordinate, line FROM said_lines WHERE application_id = :id ORDER BY coordinate", {"id": application_id}
    )
    return [parse_target(f"{row['coordinate']}@{row['line']}") for row in rows]


def say_line(connection: sqlite3.Connection, application_id: int, target: Target | None, short: str) -> None:
    """Keep (or with None forget) what a person says today's line is."""
    values = {"id": application_id, "coordinate": short, "line": target.line if target else ""}
    connection.execute("DELETE FROM said_lines WHERE application_id = :id AND coordinate = :coordinate", values)
    if target is not None:
        connection.execute(
            "INSERT INTO said_lines (application_id, coordinate, line) VALUES (:id, :coordinate, :line)", values
        )


def archive_locations(db: Database) -> set[str]:
    """Where the archives lie that applications come from, removed ones too: they may be brought back."""
    return {row["location"] for row in db.all("SELECT location FROM sources WHERE kind = 'archive'")}


def count_applications(db: Database) -> tuple[int, int, int]:
    """(applications that are looked after, their steps to do, their steps closed)."""
    row = db.one(
        "SELECT count(*) AS applications, coalesce(sum(open_steps), 0) AS open, coalesce(sum(closed_steps), 0) AS closed "
        "FROM applications WHERE removed_at IS NULL"
    )
    return (row["applications"], row["open"], row["closed"]) if row is not None else (0, 0, 0)
