"""One SQLite file: one writer, read-only readers, migrations each in the transaction that records it."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from importlib.resources import files
from pathlib import Path
from typing import Any, Final

Row = sqlite3.Row
Values = Mapping[str, Any]
_BUSY_SECONDS: Final = 30.0


class Database:
    """The records. ``read`` answers from a read-only connection of this thread; ``write`` is one transaction."""

    def __init__(self, path: Path) -> None:
        path.parent.mkdir(parents=True, exist_ok=True)
        self.path = path
        self._writer = sqlite3.connect(path, timeout=_BUSY_SECONDS, isolation_level=None, check_same_thread=False)
        self._writer.row_factory = sqlite3.Row
        self._writer.execute("PRAGMA journal_mode=WAL")
        self._writer.execute("PRAGMA synchronous=NORMAL")
        self._writer.execute("PRAGMA foreign_keys=ON")
        self._lock = threading.RLock()
        self._readers_lock = threading.Lock()  # of its own: a first read must not wait for a writer
        self._local = threading.local()
        self._readers: list[sqlite3.Connection] = []
        self._migrate()

    def _migrate(self) -> None:
        with self._lock:
            at = self._writer.execute("PRAGMA user_version").fetchone()[0]
            for number, script in _scripts():
                if number <= at:
                    continue
                self._writer.executescript(f"BEGIN IMMEDIATE;\n{script}\nPRAGMA user_version = {number:d};\nCOMMIT;")

    @contextmanager
    def write(self) -> Iterator[sqlite3.Connection]:
        """A transaction: everything in it is kept, or nothing."""
        with self._lock:
            if self._writer.in_transaction:
                yield self._writer
                return
            self._writer.execute("BEGIN IMMEDIATE")
            try:
                yield self._writer
            except BaseException:
                self._writer.execute("ROLLBACK")
                raise
            self._writer.execute("COMMIT")

    def _reader(self) -> sqlite3.Connection:
        reader: sqlite3.Connection | None = getattr(self._local, "reader", None)
        if reader is None:
            reader = sqlite3.connect(
                f"{self.path.resolve().as_uri()}?mode=ro", uri=True, timeout=_BUSY_SECONDS, check_same_thread=False
            )
            reader.row_factory = sqlite3.Row
            self._local.reader = reader
            with self._readers_lock:
                self._readers.append(reader)
        return reader

    def all(self, sql: str, values: Values | None = None) -> list[Row]:
        """All rows of a query."""
        return self._reader().execute(sql, values or {}).fetchall()

    def one(self, sql: str, values: Values | None = None) -> Row | None:
        """The first row of a query, or None."""
        row: Row | None = self._reader().execute(sql, values or {}).fetchone()
        return row

    def close(self) -> None:
        """Close every connection."""
        with self._lock:
            for reader in self._readers:
                reader.close()
            self._writer.close()


def _scripts() -> list[tuple[int, str]]:
    folder = files("yoake.store") / "migrations"
    found = [
        (int(entry.name[:4]), entry.read_text("utf-8")) for entry in folder.iterdir() if entry.name.endswith(".sql")
    ]
    return sorted(found)
