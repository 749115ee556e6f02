"""Processes that read source files, a batch at a time, each within limits of time and memory."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from multiprocessing.connection import wait
from typing import TYPE_CHECKING, Final

from yoake.runner.child import Child, Lost

if TYPE_CHECKING:
    from yoake.runner.reading import Item, Read

_LOOK_EVERY: Final = 0.1  # seconds between two looks at the clock and at a stop


@dataclass(frozen=True, slots=True)
class ReadLimits:
    """What reading one file may take. A file of 5 MB takes about 3 s and 600 MB; what takes more is built to do so."""

    seconds: float = 25.0
    memory: int = 1024**3


@dataclass
class _Busy:
    """A reader at work."""

    child: Child
    batch: list[Item]
    since: float


class Readers:
    """A few readers, started when there is work; one that ends is replaced, and its batch is read file by file."""

    def __init__(self, count: int, limits: ReadLimits) -> None:
        self.count = count
        self.limits = limits
        self._idle: list[Child] = []
        self._busy: list[_Busy] = []

    def run(self, batches: Iterable[list[Item]], stopped: Callable[[], bool]) -> Iterator[list[Read]]:
        """What was read of each batch, in the order in which they are ready. A stop drops what is in hand."""
        waiting = iter(batches)
        again: deque[list[Item]] = deque()  # single files of a batch that a reader did not survive

        def refill() -> None:
            while len(self._busy) < self.count and (batch := again.popleft() if again else next(waiting, None)):
                self._give(batch)

        try:
            while not stopped():
                refill()
                if not self._busy:
                    return
                done: list[list[Read]] = []
                for busy, rows in self._ready():
                    if rows is not None:
                        done.append(rows)
                    elif len(busy.batch) > 1:
                        again.extend([item] for item in busy.batch)
                    else:
                        done.append([_failed(busy.batch[0], self._why(busy))])
                refill()  # readers go on while what came is looked at
                yield from done
        finally:
            self._drop_busy()

    def close(self) -> None:
        """End all readers."""
        self._drop_busy()
        while self._idle:
            self._idle.pop().kill()

    def _give(self, batch: list[Item]) -> None:
        while self._idle:
            child = self._idle.pop()
            try:
                child.send(batch)
            except Lost:
                child.kill()  # it ended while it had nothing to do
                continue
            self._busy.append(_Busy(child, batch, time.monotonic()))
            return
        child = Child("yoake.reader", "serve", memory=self.limits.memory, leads=False)
        self._busy.append(_Busy(child, batch, time.monotonic()))
        try:
            child.send(batch)
        except Lost:
            return  # seen by the next look: nothing more comes from it

    def _ready(self) -> list[tuple[_Busy, list[Read] | None]]:
        """Readers that answered (with what they read), ended, or took too long (with None)."""
        connections = {busy.child.connection: busy for busy in self._busy}
        ready = set(wait(list(connections), _LOOK_EVERY))
        found: list[tuple[_Busy, list[Read] | None]] = []
        for connection, busy in connections.items():
            if connection in ready:
                try:
                    rows = busy.child.receive()
                except Lost:
                    busy.child.kill()
                    rows = None
                else:
                    self._idle.append(busy.child)
            elif time.monotonic() - busy.since > self.limits.seconds:
                busy.child.kill()
                rows = None
            else:
                continue
            self._busy.remove(busy)
            found.append((busy, rows))
        return found

    def _why(self, busy: _Busy) -> str:
        if time.monotonic() - busy.since > self.limits.seconds:
            return f"takes more than {self.limits.seconds:.0f} s to read"
        return f"cannot be read: the reader ended, probably for want of memory (it has {self.limits.memory >> 20} MB)"

    def _drop_busy(self) -> None:
        for busy in self._busy:
            busy.child.kill()
        self._busy.clear()


def _failed(item: Item, why: str) -> Read:
    path, _, digest = item
    return path, digest, "", why
