"""Teams with their people, and the days on which somebody is away or nothing goes live."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

from yoake.core.portfolio.capacity import Person
from yoake.core.values.errors import NotFound
from yoake.store.database import Database, Row

DayKind = Literal["absence", "holiday", "freeze"]


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredTeam:
    """A team of which somebody said who is in it. ``features``: share of its days that features take."""

    id: int
    name: str
    features: float
    version: int
    people: tuple[Person, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class DaysOff:
    """Days from ``first`` to ``last``: an absence of a person (or of a whole team), a holiday or a freeze. An empty ``team``: everybody.

    ``application``: the address of the one application that a freeze is for. ``calendar``: the file it was read from.
    """

    id: int = 0
    kind: DayKind
    team: str = ""
    person: str = ""
    application: str = ""
    first: date
    last: date
    title: str = ""
    calendar: str = ""


def _day(text: str | None) -> date | None:
    return date.fromisoformat(text) if text else None


def list_teams(db: Database) -> list[StoredTeam]:
    """Teams by name, with their people."""
    people: dict[int, list[Person]] = {}
    for row in db.all("SELECT team_id, name, days, since, until FROM team_people ORDER BY team_id, name"):
        person = Person(name=row["name"], days=row["days"], since=_day(row["since"]), until=_day(row["until"]))
        people.setdefault(row["team_id"], []).append(person)
    return [
        StoredTeam(
            id=row["id"],
            name=row["name"],
            features=row["features"],
            version=row["version"],
            people=tuple(people.get(row["id"], ())),
        )
        for row in db.all("SELECT id, name, features, version FROM teams ORDER BY name")
    ]


def team_named(db: Database, name: str) -> StoredTeam | None:
    """A team of which somebody said who is in it."""
    return next((team for team in list_teams(db) if team.name.lower() == name.lower()), None)


def put_team(connection: sqlite3.Connection, name: str, features: float, people: Sequence[Person]) -> None:
    """Say who is in a team, in place of what was said before."""
    connection.execute(
        "INSERT INTO teams (name, features) VALUES (:name, :features) "
        "ON CONFLICT (name) DO UPDATE SET features = :features, version = version + 1",
        {"name": name, "features": features},
    )
    number = connection.execute("SELECT id FROM teams WHERE name = :name", {"name": name}).fetchone()["id"]
    connection.execute("DELETE FROM team_people WHERE team_id = :team", {"team": number})
    connection.executemany(
        "INSERT INTO team_people (team_id, name, days, since, until) VALUES (:team, :name, :days, :since, :until)",
        [
            {
                "team": number,
                "name": person.name,
                "days": person.days,
                "since": person.since.isoformat() if person.since else None,
                "until": person.until.isoformat() if person.until else None,
            }
            for person in people
        ],
    )


def drop_team(connection: sqlite3.Connection, name: str) -> None:
    """Forget who is in a team; its applications stay its own."""
    connection.execute("DELETE FROM teams WHERE name = :name", {"name": name})


def list_days_off(db: Database) -> list[DaysOff]:
    """All of them, by their first day."""
    return [
        _days_off(row)
        for row in db.all(
            "SELECT d.*, coalesce(a.slug, '') AS slug FROM days_off d LEFT JOIN applications a ON a.id = d.application_id "
            "ORDER BY d.first, d.id"
        )
    ]


def _days_off(row: Row) -> DaysOff:
    return DaysOff(
        id=row["id"],
        kind=row["kind"],
        team=row["team"],
        person=row["person"],
        application=row["slug"],
        first=date.fromisoformat(row["first"]),
        last=date.fromisoformat(row["last"]),
        title=row["title"],
        calendar=row["calendar"],
    )


def add_days_off(connection: sqlite3.Connection, days: DaysOff) -> int:
    """Add days; returns their number."""
    cursor = connection.execute(
        "INSERT INTO days_off (kind, team, person, application_id, first, last, title, calendar) VALUES (:kind, :team, :person, "
        "(SELECT id FROM applications WHERE slug = :slug), :first, :last, :title, :calendar)",
        {
            "kind": days.kind,
            "team": days.team,
            "person": days.person,
            "slug": days.application,
            "first": days.first.isoformat(),
            "last": days.last.isoformat(),
            "title": days.title,
            "calendar": days.calendar,
        },
    )
    return int(cursor.lastrowid or 0)


def drop_days_off(connection: sqlite3.Connection, number: int) -> None:
    """Take days back."""
    connection.execute("DELETE FROM days_off WHERE id = :id", {"id": number})


def drop_calendar(connection: sqlite3.Connection, calendar: str) -> int:
    """Take back all days that were read from a calendar file; returns how many."""
    return connection.execute("DELETE FROM days_off WHERE calendar = :calendar", {"calendar": calendar}).rowcount


def days_off(db: Database, number: int) -> DaysOff:
    """Days by their number. Raises NotFound."""
    row = db.one(
        "SELECT d.*, coalesce(a.slug, '') AS slug FROM days_off d LEFT JOIN applications a ON a.id = d.application_id WHERE d.id = :id",
        {"id": number},
    )
    if row is None:
        raise NotFound(f"There are no days off number {number}.")
    return _days_off(row)


def shares_of_teams(db: Database) -> dict[int, dict[str, float]]:
    """Application → team → share, for applications of more than one team."""
    found: dict[int, dict[str, float]] = {}
    for row in db.all(
        "SELECT application_id, team, share FROM application_teams ORDER BY application_id, share DESC, team"
    ):
        found.setdefault(row["application_id"], {})[row["team"]] = row["share"]
    return found


def put_shares(connection: sqlite3.Connection, application_id: int, shares: Mapping[str, float]) -> None:
    """Say which teams share an application, in place of what was said before; none: it is its own team's alone."""
    connection.execute("DELETE FROM application_teams WHERE application_id = :id", {"id": application_id})
    connection.executemany(
        "INSERT INTO application_teams (application_id, team, share) VALUES (:id, :team, :share)",
        [{"id": application_id, "team": team, "share": share} for team, share in shares.items()],
    )
