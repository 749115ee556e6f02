"""Bytes of source files → facts, on all cores, with what was read before kept by content hash."""

from __future__ import annotations

import hashlib
import logging
import os
import sqlite3
import zlib
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import chain, islice, takewhile
from pathlib import Path
from typing import Final

from yoake.core.values.facts import EXTRACTOR, FileFacts, facts_from_json
from yoake.runner.readers import Readers, ReadLimits
from yoake.runner.reading import Item, Read, read_here

log = logging.getLogger(__name__)

_BATCH_BYTES: Final = 400_000  # worth a message to another process
_ALONE: Final = 100_000  # bytes read here: starting a process for them would take longer than reading
_LOOKED_UP: Final = 64  # files
Found = tuple[str, str, FileFacts | None, str]
"""path, digest, facts (None when it failed), note"""


@dataclass(slots=True)
class _Batch:
    """Files of about one message: what is known of some, and those still to be read."""

    known: list[Found] = field(default_factory=list)
    unread: list[Item] = field(default_factory=list)


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

    def put(self, rows: Iterable[Read]) -> None:
        """Keep what was read, in one transaction."""
        if self._db is None:
            return
        values = [{"d": d, "e": EXTRACTOR, "b": zlib.compress(j.encode(), 1), "n": n} for _, d, j, n in rows if j]
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


def _groups(items: Iterable[tuple[str, bytes]], stopped: Callable[[], bool]) -> Iterator[list[Item]]:
    """Files with their digests, as many at a time as are worth one look into the cache, until someone stops it."""
    waiting = takewhile(lambda _: not stopped(), items)
    while group := list(islice(waiting, _LOOKED_UP)):
        yield [(path, data, hashlib.sha256(data).hexdigest()) for path, data in group]


class Extractor:
    """Feeds files to readers, which are processes, and gives facts back as they come.

    A reader that dies, takes too long or wants too much memory costs the one file that did it, never the scan.
    """

    def __init__(self, cache: FactsCache, workers: int | None = None, limits: ReadLimits | None = None) -> None:
        self.cache = cache
        self.readers = Readers(workers or os.cpu_count() or 1, limits or ReadLimits())

    def run(
        self, items: Iterable[tuple[str, bytes]], stopped: Callable[[], bool]
    ) -> Iterator[tuple[str, str, FileFacts | None, str]]:
        """(path, digest, facts or None, note) for every item, in the order in which they are ready."""
        batches = self._batches(items, stopped)
        first, second = next(batches, None), next(batches, None)
        if first is not None and second is None and sum(len(item[1]) for item in first.unread) < _ALONE:
            yield from first.known
            yield from self._finish(read_here(first.unread))
            return
        waiting = chain([batch for batch in (first, second) if batch is not None], batches)
        known: list[Found] = []

        def unread() -> Iterator[list[Item]]:
            for batch in waiting:
                known.extend(batch.known)
                if batch.unread:
                    yield batch.unread

        for rows in self.readers.run(unread(), stopped):
            yield from known
            known.clear()
            yield from self._finish(rows)
        yield from known

    def _batches(self, items: Iterable[tuple[str, bytes]], stopped: Callable[[], bool]) -> Iterator[_Batch]:
        """What was read before, and what has to be read now, in portions worth a message to another process."""
        batch, size = _Batch(), 0
        for group in _groups(items, stopped):
            kept = self.cache.get([digest for _, _, digest in group])
            for path, data, digest in group:
                if digest in kept:
                    body, note = kept[digest]
                    batch.known.append((path, digest, facts_from_json(body), note))
                    continue
                batch.unread.append((path, data, digest))
                size += len(data)
                if size >= _BATCH_BYTES:
                    yield batch
                    batch, size = _Batch(), 0
        if batch.known or batch.unread:
            yield batch

    def _finish(self, rows: list[Read]) -> Iterator[Found]:
        self.cache.put(rows)
        for path, digest, body, note in rows:
            yield path, digest, facts_from_json(body) if body else None, note

    def close(self) -> None:
        """Let the readers go."""
        self.readers.close()
