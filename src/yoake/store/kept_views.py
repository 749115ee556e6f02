"""Filters that people keep under a name."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from yoake.store.database import Database, Row


def keep_view(connection: sqlite3.Connection, values: Mapping[str, Any]) -> None:
    """Keep a filter (screen, name, query, by, at, version); the same name is written over."""
    connection.execute(
        "INSERT INTO kept_views (screen, name, query, by_whom, kept_at, version) VALUES (:screen, :name, :query, :by, :at, :version) "
        "ON CONFLICT (screen, name) DO UPDATE "
        "SET query = excluded.query, by_whom = excluded.by_whom, kept_at = excluded.kept_at, version = excluded.version",
        values,
    )


def kept_views(db: Database, screen: str) -> list[Row]:
    """Kept filters of one screen by name."""
    return db.all("SELECT * FROM kept_views WHERE screen = :screen ORDER BY name", {"screen": screen})


def drop_view(connection: sqlite3.Connection, screen: str, name: str) -> None:
    """Forget a kept filter."""
    connection.execute(
        "DELETE FROM kept_views WHERE screen = :screen AND name = :name", {"screen": screen, "name": name}
    )
