"""What happened, by whom and when: an appended record that nobody changes."""

from __future__ import annotations

import sqlite3
from dataclasses import asdict, dataclass
from typing import Any

from yoake.store.database import Database, Row, escaped

_SELECT = (
    "SELECT e.id, e.at, e.who, e.subject, e.what, e.why, e.before, e.after, a.slug, a.name AS application FROM events e "
    "LEFT JOIN applications a ON a.id = e.application_id"
)

_WORDS = "e.subject || ' ' || e.what || ' ' || e.why || ' ' || coalesce(e.before, '') || ' ' || coalesce(e.after, '')"


@dataclass(frozen=True, slots=True)
class WantedEvents:
    """Which events: of a person, an application, from and to a day, with words."""

    who: str = ""
    slug: str = ""
    since: str = ""
    until: str = ""
    text: str = ""

    @property
    def where(self) -> str:
        """The condition on ``e`` and ``a``."""
        parts = ["1"]
        if self.who:
            parts.append("e.who = :who")
        if self.slug:
            parts.append("a.slug = :slug")
        if self.since:
            parts.append("e.at >= :since")
        if self.until:
            parts.append("e.at < :until || 'U'")  # after every time of that day, which begins with “T”
        if self.text:
            parts.append(f"({_WORDS}) LIKE :text ESCAPE '\\'")
        return " AND ".join(parts)

    @property
    def values(self) -> dict[str, Any]:
        """What the queries are bound to."""
        return {
            "who": self.who,
            "slug": self.slug,
            "since": self.since,
            "until": self.until,
            "text": f"%{escaped(self.text)}%",
        }


def event_window(db: Database, wanted: WantedEvents, offset: int, limit: int) -> list[Row]:
    """A window of the events that fit, newest first."""
    return db.all(
        f"{_SELECT} WHERE {wanted.where} ORDER BY e.id DESC LIMIT :limit OFFSET :offset",
        {**wanted.values, "limit": limit, "offset": offset},
    )


def count_events(db: Database, wanted: WantedEvents) -> int:
    """How many events fit."""
    row = db.one(
        f"SELECT count(*) AS n FROM events e LEFT JOIN applications a ON a.id = e.application_id WHERE {wanted.where}",
        wanted.values,
    )
    return int(row["n"]) if row is not None else 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """What happened to ``subject``, when, by whom (empty: by Yoake itself) and why, from what to what; ``minutes`` spent on it."""

    at: str
    subject: str
    what: str
    who: str = ""
    application: int | None = None
    why: str = ""
    before: str | None = None
    after: str | None = None
    minutes: float | None = None


def add_event(connection: sqlite3.Connection, event: Event) -> int:
    """Append what happened, in the transaction that makes the change. Returns its number, the version of what it wrote."""
    cursor = connection.execute(
        "INSERT INTO events (at, who, application_id, subject, what, why, before, after, minutes) "
        "VALUES (:at, :who, :application, :subject, :what, :why, :before, :after, :minutes)",
        asdict(event),
    )
    return int(cursor.lastrowid or 0)


def newest_event(db: Database, application_id: int) -> int:
    """The number of the newest event of an application: it grows with everything that people or scans change there."""
    row = db.one("SELECT max(id) AS id FROM events WHERE application_id = :id", {"id": application_id})
    return int(row["id"] or 0) if row is not None else 0


def events_of(db: Database, application_id: int, most: int = 100) -> list[Row]:
    """The newest events of an application."""
    return db.all(
        "SELECT * FROM events WHERE application_id = :id ORDER BY id DESC LIMIT :most",
        {"id": application_id, "most": most},
    )


def newest_event_of(db: Database, application_id: int, subject: str, what: str) -> Row | None:
    """The newest event of one kind."""
    return db.one(
        "SELECT * FROM events WHERE application_id = :id AND subject = :subject AND what = :what ORDER BY id DESC LIMIT 1",
        {"id": application_id, "subject": subject, "what": what},
    )


def newest_of_all(db: Database) -> int:
    """The number of the newest event: it grows with everything that people or scans change."""
    row = db.one("SELECT max(id) AS id FROM events")
    return int(row["id"] or 0) if row is not None else 0
