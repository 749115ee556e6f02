"""Where jobs run: in processes of this machine, or on an existing cluster. The server alone writes what comes of them.

A job is a ``Work``: a class by name and a picklable task. The process makes one instance of the class, with what Yoake is
equipped with, and calls it with each task it is given, so that what was read once (knowledge, caches) serves the next job too.
"""

from __future__ import annotations

import contextlib
import os
import threading
import time
import traceback
from collections.abc import Callable
from dataclasses import dataclass
from importlib import import_module
from multiprocessing.connection import Connection
from typing import Any, Final, Protocol

from yoake.core.values.errors import LimitReached, Stopped, YoakeError
from yoake.runner.child import Child, Lost

_LOOK_EVERY: Final = 0.1  # seconds between two looks at a stop and at the clock
_FAT: Final = (
    600 * 1024**2
)  # bytes in use after a job: a process above it is replaced, so memory goes back to the system
_TRIES: Final = 2  # a process that was lost is replaced once; what is lost twice is the job's doing
_NICE: Final = 10  # steps behind the server, which has the same processors


@dataclass(frozen=True, slots=True)
class Limits:
    """What one job may take: seconds and bytes of memory for its process; readers have limits of their own."""

    seconds: float = 3600.0
    memory: int = 6 * 1024**3


@dataclass(frozen=True, slots=True)
class Work:
    """What to run: ``module:class``, and the task it is called with; ``seconds`` where it may take other than the limit."""

    what: str
    task: object
    seconds: float | None = None


class BrokenJob(Exception):
    """A job failed in a way nobody foresaw; ``trace`` is its traceback, without values."""

    def __init__(self, said: str, trace: str = "") -> None:
        super().__init__(said)
        self.trace = trace


class Executor(Protocol):
    """Runs jobs somewhere else. May be called from several threads at once."""

    def run(self, work: Work, say: Callable[[Any], None], stopped: Callable[[], bool]) -> Any:
        """The result. Raises Stopped, LimitReached, what the work raises, or BrokenJob."""

    def rest(self) -> None:
        """Give back what is held while there is nothing to do."""

    def close(self) -> None:
        """End everything at once."""


class ProcessExecutor:
    """Jobs in child processes, each leading a group of its own that ends with it."""

    def __init__(self, limits: Limits | None = None) -> None:
        self.limits = limits or Limits()
        self._lock = threading.Lock()
        self._idle: list[Child] = []
        self._busy: set[Child] = set()
        self._closed = False

    def run(self, work: Work, say: Callable[[Any], None], stopped: Callable[[], bool]) -> Any:
        for attempt in range(1, _TRIES + 1):
            child = self._take()
            try:
                result, size = self._watch(child, work, say, stopped)
            except Lost as error:
                self._drop(child)
                if self._closed:
                    raise Stopped("Yoake was closed.") from error
                if attempt == _TRIES:
                    raise LimitReached(
                        f"The process of this job ended twice{f' (signal {error.signal})' if error.signal else ''}, probably for want "
                        "of memory on this machine. Scan a subfolder, or give the machine more memory, and try again."
                    ) from error
            except BaseException:
                self._drop(child)
                raise
            else:
                self._put_back(child, size)
                if isinstance(result, Exception):
                    raise result
                return result
        raise AssertionError("unreachable")

    def _watch(
        self, child: Child, work: Work, say: Callable[[Any], None], stopped: Callable[[], bool]
    ) -> tuple[Any, int]:
        """(what came of it, an error included; bytes the process then uses). Raises Lost, Stopped, LimitReached."""
        end = time.monotonic() + (work.seconds or self.limits.seconds)
        child.send(work)
        while True:
            if child.waiting(_LOOK_EVERY):
                kind, body = child.receive()
                if kind == "done":
                    return body  # type: ignore[no-any-return]
                say(body)
            if stopped():
                raise Stopped("Stopped. What the last finished scan found is still here.")
            if time.monotonic() > end:
                raise LimitReached(
                    f"This took longer than the limit of {self.limits.seconds / 60:.0f} minutes and was ended. Scan a subfolder, or "
                    "raise YOAKE_JOB_MINUTES and try again."
                )

    def _take(self) -> Child:
        with self._lock:
            if self._closed:
                raise Stopped("Yoake was closed.")
            child = self._idle.pop() if self._idle else Child("yoake.worker", "serve", memory=self.limits.memory)
            self._busy.add(child)
            return child

    def _put_back(self, child: Child, size: int) -> None:
        with self._lock:
            self._busy.discard(child)
            if size <= _FAT and not self._closed:
                self._idle.append(child)
                return
        child.kill()

    def _drop(self, child: Child) -> None:
        with self._lock:
            self._busy.discard(child)
        child.kill()

    def rest(self) -> None:
        with self._lock:
            idle, self._idle = self._idle, []
        for child in idle:
            child.kill()

    def close(self) -> None:
        with self._lock:
            self._closed = True
            every = [*self._idle, *self._busy]
            self._idle.clear()
        for child in every:
            child.kill()


def serve(connection: Connection, kit: object) -> None:
    """What runs in a child: jobs, one after the other, until the connection ends. ``kit``: handed to each class that does them."""
    with contextlib.suppress(OSError, AttributeError):  # whoever looks at a screen comes first
        os.nice(_NICE)
    workers: dict[str, Callable[..., Any]] = {}
    lock = threading.Lock()

    def tell(kind: str, body: object) -> None:
        with lock:
            connection.send((kind, body))

    while True:
        work: Work = connection.recv()
        tell("done", (run_here(work, workers, kit, tell), _memory_in_use()))


def run_here(
    work: Work, workers: dict[str, Callable[..., Any]], kit: object, tell: Callable[[str, object], None]
) -> object:
    """Run a job in this process; an error is returned, not raised. ``workers`` keeps instances between jobs."""
    try:
        if work.what not in workers:
            module, _, name = work.what.partition(":")
            workers[work.what] = getattr(import_module(module), name)(kit)
        return workers[work.what](work.task, tell)
    except YoakeError as error:
        return error
    except MemoryError:
        return LimitReached(
            "This needs more memory than one job may take. Scan a subfolder, or raise YOAKE_JOB_MEMORY and try again."
        )
    except Exception as error:  # noqa: BLE001  whatever it is, the job has failed and the process lives on
        return BrokenJob(f"{type(error).__name__}: {error}"[:500], "".join(traceback.format_exception(error)))


def _memory_in_use() -> int:
    """Bytes this process holds now; 0 where the system does not tell."""
    try:
        with open("/proc/self/statm", "rb") as handle:  # noqa: PTH123  read after every job, nothing else
            return int(handle.read().split()[1]) * 4096
    except (OSError, ValueError, IndexError):
        return 0
