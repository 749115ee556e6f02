"""Bytes of source files → facts, on all cores, with what was read before kept by content hash."""

from __future__ import annotations

import codecs
import gc
import hashlib
import os
import re
import sqlite3
import zlib
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from itertools import islice, takewhile
from multiprocessing import get_context
from pathlib import Path
from typing import Final

from yoake.core.syntax.facts import EXTRACTOR, FileFacts, facts_from_json
from yoake.core.syntax.languages import read_source

_BATCH_BYTES: Final = 400_000
_LOOKED_UP: Final = 64  # files
_COOKIE: Final = re.compile(rb"^[ \t\f]*#.*?coding[:=][ \t]*([-\w.]+)")
Item = tuple[str, bytes, str]
"""path, content, digest"""
Read = tuple[str, str, str, str]
"""path, digest, facts as JSON (empty when it failed), reason"""


def normalise(data: bytes) -> tuple[bytes, str]:
    """Source bytes as UTF-8, and what had to be said about their encoding. Raises ValueError for binary content."""
    for mark, name in ((codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16")):
        if data.startswith(mark):
            return data.decode(name).encode(), "UTF-16"
    if b"\0" in data[:8192]:
        raise ValueError("binary content in a source file")
    cookie = next((m for m in map(_COOKIE.match, data.split(b"\n", 2)[:2]) if m), None)
    name = cookie.group(1).decode() if cookie else "utf-8"
    try:
        shown = data.decode(name)
    except LookupError:
        return data.decode("latin-1").encode(), f"unknown encoding “{name}”, read as Latin-1"
    except UnicodeDecodeError as error:
        return data.decode("latin-1").encode(), f"not valid {name} at byte {error.start}, read as Latin-1"
    return (data if name.lower() in ("utf-8", "utf8") else shown.encode()), ""


def quiet() -> None:
    """Set up a worker: trees and scopes are freed by counting, so the collector only costs time between batches."""
    gc.disable()
    gc.freeze()


def read_batch(items: list[Item]) -> list[Read]:
    """Facts of a few files; runs in a worker process. A file that fails says why and stops nobody."""
    done: list[Read] = []
    gc.collect()
    for path, data, digest in items:
        try:
            text, note = normalise(data)
            done.append((path, digest, read_source(path, text).to_json(), note))
        except (ValueError, RecursionError, MemoryError) as error:
            done.append((path, digest, "", str(error) or type(error).__name__))
    return done


class FactsCache:
    """Facts by content hash and extractor, in one SQLite file under the home folder."""

    def __init__(self, path: Path | None) -> None:
        self._db = None
        if path is not None:
            path.parent.mkdir(parents=True, exist_ok=True)
            self._db = sqlite3.connect(path, timeout=30, isolation_level=None, check_same_thread=False)
            self._db.execute("PRAGMA journal_mode=WAL")
            self._db.execute("PRAGMA synchronous=NORMAL")
            self._db.execute(
                "CREATE TABLE IF NOT EXISTS facts (digest TEXT, extractor TEXT, body BLOB, note TEXT, PRIMARY KEY (digest, extractor)) WITHOUT ROWID"
            )

    def get(self, digests: Sequence[str]) -> dict[str, tuple[str, str]]:
        """Digest → (facts as JSON, note), for those contents that are known."""
        if self._db is None or not digests:
            return {}
        places = ",".join("?" * len(digests))
        rows = self._db.execute(
            f"SELECT digest, body, note FROM facts WHERE extractor = ? AND digest IN ({places})",  # noqa: S608  only question marks
            (EXTRACTOR, *digests),
        )
        return {digest: (zlib.decompress(body).decode(), note) for digest, body, note in rows}

    def put(self, rows: Iterable[Read]) -> None:
        """Keep what was read, in one transaction."""
        if self._db is None:
            return
        values = [{"d": d, "e": EXTRACTOR, "b": zlib.compress(j.encode(), 1), "n": n} for _, d, j, n in rows if j]
        self._db.execute("BEGIN IMMEDIATE")
        try:
            self._db.executemany("INSERT OR REPLACE INTO facts VALUES (:d, :e, :b, :n)", values)
            self._db.execute("COMMIT")
        except BaseException:
            self._db.execute("ROLLBACK")
            raise

    def close(self) -> None:
        """Close the file."""
        if self._db is not None:
            self._db.close()


def _groups(items: Iterable[tuple[str, bytes]], stopped: Callable[[], bool]) -> Iterator[list[Item]]:
    """Files with their digests, as many at a time as are worth one look into the cache, until someone stops it."""
    waiting = takewhile(lambda _: not stopped(), items)
    while group := list(islice(waiting, _LOOKED_UP)):
        yield [(path, data, hashlib.sha256(data).hexdigest()) for path, data in group]


class Extractor:
    """Feeds files to worker processes and gives facts back as they come."""

    def __init__(self, cache: FactsCache, workers: int | None = None) -> None:
        self.cache = cache
        self.workers = workers or os.cpu_count() or 1
        self._pool: ProcessPoolExecutor | None = None
        self._open: set[Future[list[Read]]] = set()

    def run(
        self, items: Iterable[tuple[str, bytes]], stopped: Callable[[], bool]
    ) -> Iterator[tuple[str, str, FileFacts | None, str]]:
        """(path, digest, facts or None, note) for every item, in the order in which they are ready."""
        batch: list[Item] = []
        size = 0
        for group in _groups(items, stopped):
            known = self.cache.get([digest for _, _, digest in group])
            for path, data, digest in group:
                if digest in known:
                    yield path, digest, facts_from_json(known[digest][0]), known[digest][1]
                    continue
                batch.append((path, data, digest))
                size += len(data)
                if size >= _BATCH_BYTES:
                    yield from self._submit(batch)
                    batch, size = [], 0
        if batch and not self._open and self._pool is None:
            yield from self._finish(read_batch(batch))
        elif batch:
            yield from self._submit(batch)
        while self._open and not stopped():
            yield from self._collect()

    def _submit(self, batch: list[Item]) -> Iterator[tuple[str, str, FileFacts | None, str]]:
        if self._pool is None:
            self._pool = ProcessPoolExecutor(self.workers, mp_context=get_context("spawn"), initializer=quiet)
        self._open.add(self._pool.submit(read_batch, batch))
        while len(self._open) > self.workers * 2:
            yield from self._collect()

    def _collect(self) -> Iterator[tuple[str, str, FileFacts | None, str]]:
        ready, self._open = wait(self._open, return_when=FIRST_COMPLETED)
        for future in ready:
            yield from self._finish(future.result())

    def _finish(self, rows: list[Read]) -> Iterator[tuple[str, str, FileFacts | None, str]]:
        self.cache.put(rows)
        for path, digest, body, note in rows:
            yield path, digest, facts_from_json(body) if body else None, note

    def close(self) -> None:
        """Let the workers go, unfinished batches dropped."""
        if self._pool is not None:
            self._pool.shutdown(wait=True, cancel_futures=True)
            self._pool = None
        self._open = set()
