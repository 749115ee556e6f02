"""What the command line answered before. Only light modules are imported here: the point is not to start the rest."""

from __future__ import annotations

import sqlite3
import zlib
from pathlib import Path
from typing import Final

UNKEPT: Final = sqlite3.Error
"""What a damaged, locked or full file raises; whoever asks does without."""

_KEPT: Final = 100
_LARGEST: Final = 64 * 1024 * 1024  # characters of an answer that is worth keeping


class Answers:
    """What was answered before, in one SQLite file under the home folder."""

    def __init__(self, file: Path) -> None:
        file.parent.mkdir(parents=True, exist_ok=True)
        self._db = sqlite3.connect(file, timeout=5, isolation_level=None)
        self._db.execute("PRAGMA journal_mode=WAL")
        self._db.execute(
            "CREATE TABLE IF NOT EXISTS answers (id INTEGER PRIMARY KEY, key TEXT UNIQUE, code INTEGER, body BLOB)"
        )

    def find(self, key: str) -> tuple[int, str] | None:
        """(exit code, text) of a kept answer."""
        row = self._db.execute("SELECT code, body FROM answers WHERE key = :key", {"key": key}).fetchone()
        return (row[0], zlib.decompress(row[1]).decode()) if row else None

    def keep(self, key: str, code: int, text: str) -> None:
        """Keep an answer; the oldest make room."""
        if len(text) > _LARGEST:
            return
        body = zlib.compress(text.encode(), 1)
        self._db.execute(
            "INSERT OR REPLACE INTO answers (key, code, body) VALUES (:key, :code, :body)",
            {"key": key, "code": code, "body": body},
        )
        self._db.execute("DELETE FROM answers WHERE id <= (SELECT max(id) FROM answers) - :kept", {"kept": _KEPT})

    def close(self) -> None:
        """Close the file."""
        self._db.close()
