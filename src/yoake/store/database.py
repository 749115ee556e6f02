"""One SQLite file: one writer, read-only readers, migrations each in the transaction that records it.

A file that cannot be ours, that is newer than this program or damaged is refused before anything is written to it.
"""

from __future__ import annotations

import os
import sqlite3
import threading
import time
from collections.abc import Callable, Iterator, Mapping
from contextlib import closing, contextmanager
from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path
from typing import Any, Final

from yoake.core.values.errors import BadRecords, YoakeError

Row = sqlite3.Row
Connection = sqlite3.Connection
Values = Mapping[str, Any]
Tap = Callable[[str, float], None]
"""Told of each statement and the seconds it took."""

_BUSY_SECONDS: Final = 30.0
_CACHE_KIB: Final = 8_192  # for each connection; the system keeps the file's pages anyway
_HEADER: Final = b"SQLite format 3\0"
_RESTORE: Final = (
    "Put a backup in its place (they lie in “backups” beside it; “yoake check” says which files are sound)."
)


class Database:
    """The records. ``read`` answers from a read-only connection of this thread; ``write`` is one transaction.

    Raises BadRecords for a file that it does not understand or must not write to. ``read_only``: nothing is prepared, and
    every write fails.
    """

    def __init__(self, path: Path, tap: Tap | None = None, *, read_only: bool = False) -> None:
        self.path = path
        self.tap = tap
        self.changes = 0  # transactions that were kept, by this process: the only one that writes
        self._lock = threading.RLock()
        self._readers_lock = threading.Lock()  # of its own: a first read must not wait for a writer
        self._local = threading.local()
        self._readers: list[sqlite3.Connection] = []
        at = examine(path)
        if read_only:
            self._writer = self._reader()
            return
        with _told(path):
            path.parent.mkdir(parents=True, exist_ok=True)
            if at and at < newest_schema():
                back_up(
                    path, path.parent / "backups" / f"{path.stem}-schema-{at}-{time.strftime('%Y%m%d-%H%M%S')}.sqlite"
                )
            self._writer = sqlite3.connect(path, timeout=_BUSY_SECONDS, isolation_level=None, check_same_thread=False)
            try:
                self._prepare()
            except BaseException:
                self._writer.close()
                raise

    def _prepare(self) -> None:
        self._writer.row_factory = sqlite3.Row
        self._writer.execute("PRAGMA journal_mode=WAL")
        self._writer.execute("PRAGMA synchronous=NORMAL")
        self._writer.execute("PRAGMA foreign_keys=ON")
        self._writer.execute(f"PRAGMA cache_size=-{_CACHE_KIB:d}")
        at = self._writer.execute("PRAGMA user_version").fetchone()[0]
        for number, script in _scripts():
            if number > at:
                self._migrate(number, script)

    def _migrate(self, number: int, script: str) -> None:
        try:
            self._writer.executescript(f"BEGIN IMMEDIATE;\n{script}\nPRAGMA user_version = {number:d};\nCOMMIT;")
        except sqlite3.Error as error:
            if self._writer.in_transaction:
                self._writer.execute("ROLLBACK")
            raise BadRecords(
                f"{self.path} could not be brought to schema {number}: {error}. It is as it was before, and a copy lies in "
                f"{self.path.parent / 'backups'}. Please report this; an older Yoake still reads the file."
            ) from error

    @contextmanager
    def write(self, *, counts: bool = True) -> Iterator[sqlite3.Connection]:
        """A transaction: everything in it is kept, or nothing. Raises BadRecords when the file cannot be written.

        ``counts``: whether it changes anything that a screen shows (see ``changes``).
        """
        with self._lock:
            if self._writer.in_transaction:
                yield self._writer
                return
            began = time.monotonic()
            with _told(self.path):
                self._writer.execute("BEGIN IMMEDIATE")
                try:
                    yield self._writer
                except BaseException:
                    if self._writer.in_transaction:  # a full disk has ended it already
                        self._writer.execute("ROLLBACK")
                    raise
                self._writer.execute("COMMIT")
            self.changes += counts
            if self.tap is not None:
                self.tap("(a transaction)", time.monotonic() - began)

    def _reader(self) -> sqlite3.Connection:
        reader: sqlite3.Connection | None = getattr(self._local, "reader", None)
        if reader is None:
            reader = sqlite3.connect(
                f"{self.path.resolve().as_uri()}?mode=ro", uri=True, timeout=_BUSY_SECONDS, check_same_thread=False
            )
            reader.row_factory = sqlite3.Row
            reader.execute(f"PRAGMA cache_size=-{_CACHE_KIB:d}")
            self._local.reader = reader
            with self._readers_lock:
                self._readers.append(reader)
        return reader

    def all(self, sql: str, values: Values | None = None) -> list[Row]:
        """All rows of a query."""
        began = time.monotonic()
        with _told(self.path):
            rows = self._reader().execute(sql, values or {}).fetchall()
        if self.tap is not None:
            self.tap(sql, time.monotonic() - began)
        return rows

    def one(self, sql: str, values: Values | None = None) -> Row | None:
        """The first row of a query, or None."""
        began = time.monotonic()
        with _told(self.path):
            row: Row | None = self._reader().execute(sql, values or {}).fetchone()
        if self.tap is not None:
            self.tap(sql, time.monotonic() - began)
        return row

    def close(self) -> None:
        """Close every connection."""
        with self._lock:
            for reader in self._readers:
                reader.close()
            self._writer.close()


def examine(path: Path) -> int:
    """The schema number of a file of records, 0 when there is none yet; nothing is written. Raises BadRecords."""
    if not path.exists() or path.stat().st_size == 0:
        return 0
    _check_header(path)
    if not os.access(path, os.W_OK) or not os.access(path.parent, os.W_OK):
        raise BadRecords(
            f"{path} or its folder may not be written to. Give its owner the right to write, or start as that user."
        )
    with (
        _told(path),
        closing(sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro", uri=True, timeout=_BUSY_SECONDS)) as db,
    ):
        at = int(db.execute("PRAGMA user_version").fetchone()[0])
        tables = {row[0] for row in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    if at > newest_schema():
        raise BadRecords(
            f"{path} was written by a newer Yoake (schema {at}; this one knows {newest_schema()}). Nothing was changed. Start that "
            "version, or put back the backup it made before its migration."
        )
    if (at == 0 and tables) or (at > 0 and not {"applications", "scans", "jobs"} <= tables):
        raise BadRecords(
            f"{path} is a database, but not one of Yoake’s. Nothing was changed. Set YOAKE_HOME to another folder."
        )
    return at


def _check_header(path: Path) -> None:
    """The file's own first page: what it is, and whether all of it is there (SQLite file format, section 1.3)."""
    try:
        with path.open("rb") as handle:
            head = handle.read(100)
    except OSError as error:
        raise BadRecords(f"{path} cannot be read: {error.strerror}.") from error
    if len(head) < 100 or not head.startswith(_HEADER):
        raise BadRecords(f"{path} is no SQLite database, or its beginning is damaged. Nothing was changed. {_RESTORE}")
    page = int.from_bytes(head[16:18], "big")
    size = (65_536 if page == 1 else page) * int.from_bytes(head[28:32], "big")
    if size > path.stat().st_size and head[24:28] == head[92:96]:
        raise BadRecords(
            f"{path} is cut short: {path.stat().st_size:,} of {size:,} bytes are there. Nothing was changed. {_RESTORE}"
        )


@dataclass(frozen=True, slots=True)
class Checked:
    """What an examination of a file found: its schema, and its faults in words (none: it is sound)."""

    path: Path
    schema: int
    faults: tuple[str, ...]


def check(path: Path) -> Checked:
    """Read a whole file of records and say whether it is sound. Nothing is written, nothing raised."""
    try:
        at = examine(path)
        if not at:
            return Checked(path, 0, ("there are no records here",))
        with _told(path), closing(sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro", uri=True)) as db:
            faults = [row[0] for row in db.execute("PRAGMA integrity_check(20)") if row[0] != "ok"]
            broken = [
                f"{row[0]} row {row[1]} names a {row[2]} that is not there"
                for row in db.execute("PRAGMA foreign_key_check")
            ]
    except YoakeError as error:
        return Checked(path, 0, (str(error),))
    return Checked(path, at, (*faults, *broken[:20]))


def back_up(path: Path, into: Path) -> None:
    """A whole, compact copy of the records as they are now, while others go on writing. Raises BadRecords."""
    examine(path)
    if into.exists():
        raise BadRecords(f"{into} is there already; nothing was written over. Name another file.")
    into.parent.mkdir(parents=True, exist_ok=True)
    partial = into.with_name(into.name + ".part")
    partial.unlink(missing_ok=True)
    with (
        _told(into),
        closing(sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro", uri=True, timeout=_BUSY_SECONDS)) as db,
    ):
        db.execute("VACUUM INTO :into", {"into": str(partial)})
    partial.replace(into)


def escaped(word: str) -> str:
    """A word for LIKE with ESCAPE '\\', in which nothing stands for anything else."""
    return word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")


@contextmanager
def _told(path: Path) -> Iterator[None]:
    """Errors of SQLite in words that say what to do."""
    try:
        yield
    except sqlite3.DatabaseError as error:
        said = str(error)
        if "full" in said or "disk I/O" in said:
            raise BadRecords(
                f"The disk that holds {path} is full or cannot be written to ({said}). Nothing of this change was kept; what was "
                "kept before is still there. Make room, then try again."
            ) from error
        if "readonly" in said or "unable to open" in said:
            raise BadRecords(
                f"{path} cannot be opened or written ({said}). Check its rights and those of its folder."
            ) from error
        if "locked" in said:
            raise BadRecords(f"{path} is held by another program ({said}). Close that, then try again.") from error
        if "malformed" in said or "not a database" in said:
            raise BadRecords(f"{path} is damaged ({said}). {_RESTORE}") from error
        raise


def newest_schema() -> int:
    """The number of the last migration."""
    return _scripts()[-1][0]


def _scripts() -> list[tuple[int, str]]:
    folder = files("yoake.store") / "migrations"
    found = [
        (int(entry.name[:4]), entry.read_text("utf-8")) for entry in folder.iterdir() if entry.name.endswith(".sql")
    ]
    return sorted(found)
