"""Bytes of source files → facts, on all cores, with what was read before kept by content hash."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import chain, islice, takewhile
from typing import TYPE_CHECKING, Final, Protocol

from yoake.core.values.facts import FileFacts, facts_from_json
from yoake.runner.readers import Readers, ReadLimits
from yoake.runner.reading import Item, Read, read_here

if TYPE_CHECKING:
    from yoake.core.contract.registry import Registry

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


class KnownFacts(Protocol):
    """Where facts are kept by the digest of their file: (facts as JSON, note)."""

    def get(self, digests: Sequence[str]) -> dict[str, tuple[str, str]]:
        """Digest → (facts as JSON, note), for those contents that are known."""

    def put(self, rows: Iterable[tuple[str, str, str]]) -> None:
        """Keep (digest, facts as JSON, note) of what was read."""


def _groups(items: Iterable[tuple[str, bytes]], stopped: Callable[[], bool]) -> Iterator[list[Item]]:
    """Files with their digests, as many at a time as are worth one look into the cache, until someone stops it."""
    waiting = takewhile(lambda _: not stopped(), items)
    while group := list(islice(waiting, _LOOKED_UP)):
        yield [(path, data, hashlib.sha256(data).hexdigest()) for path, data in group]


class Extractor:
    """Feeds files to readers, which are processes, and gives facts back as they come.

    A reader that dies, takes too long or wants too much memory costs the one file that did it, never the scan.
    """

    def __init__(
        self, cache: KnownFacts, ecosystems: Registry, workers: int | None = None, limits: ReadLimits | None = None
    ) -> None:
        self.cache = cache
        self.ecosystems = ecosystems
        self.readers = Readers(workers or os.cpu_count() or 1, limits or ReadLimits())

    def run(
        self, items: Iterable[tuple[str, bytes]], stopped: Callable[[], bool]
    ) -> Iterator[tuple[str, str, FileFacts | None, str]]:
        """(path, digest, facts or None, note) for every item, in the order in which they are ready."""
        batches = self._batches(items, stopped)
        first, second = next(batches, None), next(batches, None)
        if first is not None and second is None and sum(len(item[1]) for item in first.unread) < _ALONE:
            yield from first.known
            yield from self._finish(read_here(first.unread, self.ecosystems))
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
        self.cache.put((digest, body, note) for _, digest, body, note in rows)
        for path, digest, body, note in rows:
            yield path, digest, facts_from_json(body) if body else None, note

    def close(self) -> None:
        """Let the readers go."""
        self.readers.close()
