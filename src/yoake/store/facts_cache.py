"""Facts of source files by the hash of their bytes: what was read once is not read again."""

from __future__ import annotations

import logging
import sqlite3
import zlib
from collections.abc import Iterable, Sequence
from pathlib import Path

from yoake.core.values.facts import EXTRACTOR

log = logging.getLogger(__name__)


class FactsCache:
    """Facts by content hash and extractor, in one SQLite file under the home folder.

    A cache: what cannot be read or written costs time, never a scan. A damaged file is made anew.
    """

    def __init__(self, path: Path | None) -> None:
        self._path = path
        self._db: sqlite3.Connection | None = None
        if path is not None:
            path.parent.mkdir(parents=True, exist_ok=True)
            try:
                self._db = _open(path)
            except sqlite3.Error as error:
                self._renew(error)

    def get(self, digests: Sequence[str]) -> dict[str, tuple[str, str]]:
        """Digest → (facts as JSON, note), for those contents that are known."""
        if self._db is None or not digests:
            return {}
        places = ",".join("?" * len(digests))
        sql = f"SELECT digest, body, note FROM facts WHERE extractor = ? AND digest IN ({places})"  # noqa: S608  only question marks
        try:
            rows = self._db.execute(sql, (EXTRACTOR, *digests)).fetchall()
            return {digest: (zlib.decompress(body).decode(), note) for digest, body, note in rows}
        except (sqlite3.Error, zlib.error, UnicodeDecodeError) as error:
            self._renew(error)
            return {}

    def put(self, rows: Iterable[tuple[str, str, str]]) -> None:
        """Keep (digest, facts as JSON, note) of what was read, in one transaction."""
        if self._db is None:
            return
        values = [{"d": d, "e": EXTRACTOR, "b": zlib.compress(j.encode(), 1), "n": n} for d, j, n in rows if j]
        try:
            self._db.execute("BEGIN IMMEDIATE")
            self._db.executemany("INSERT OR REPLACE INTO facts VALUES (:d, :e, :b, :n)", values)
            self._db.execute("COMMIT")
        except sqlite3.Error as error:
            self._renew(error)

    def _renew(self, error: Exception) -> None:
        """Begin an empty cache where the old one is damaged; do without where even that fails."""
        log.warning("the cache of facts is set aside: %s", error)
        self.close()
        if self._path is None or isinstance(error, sqlite3.OperationalError):
            return  # locked, full or read-only: the file itself may be sound
        try:
            for ending in ("", "-wal", "-shm"):
                self._path.with_name(self._path.name + ending).unlink(missing_ok=True)
            self._db = _open(self._path)
        except (sqlite3.Error, OSError) as again:
            log.warning("there is no cache of facts: %s", again)

    def close(self) -> None:
        """Close the file."""
        db, self._db = self._db, None
        if db is not None:
            db.close()


def _open(path: Path) -> sqlite3.Connection:
    db = sqlite3.connect(path, timeout=30, isolation_level=None, check_same_thread=False)
    try:
        db.execute("PRAGMA journal_mode=WAL")
        db.execute("PRAGMA synchronous=NORMAL")
        db.execute(
            "CREATE TABLE IF NOT EXISTS facts "
            "(digest TEXT, extractor TEXT, body BLOB, note TEXT, PRIMARY KEY (digest, extractor)) WITHOUT ROWID"
        )
    except BaseException:
        db.close()
        raise
    return db
