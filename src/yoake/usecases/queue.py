"""The queue of jobs: a few run beside each other, each in a process of its own. What kinds of jobs there are is handed in.

Jobs run where the executor says; this process alone writes what comes of them. A stop ends the job's process, so it works
whatever the job is doing. What was running when the program ended is taken up at the next start.
"""

from __future__ import annotations

import shutil
import threading
from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, field
from typing import Any, Final, TypeVar

import structlog

from yoake.context.context import Context
from yoake.context.kit import Kit
from yoake.core.values.coordinates import Coordinate, Target
from yoake.core.values.errors import Conflict, NotFound, Stopped, YoakeError
from yoake.runner.executor import BrokenJob, Executor, ProcessExecutor, Work
from yoake.store.applications import Application
from yoake.store.database import Row
from yoake.store.edits import EditRequest, add_edit_job
from yoake.store.jobs import (
    add_application_job,
    add_job,
    add_knowing,
    count_jobs,
    get_job,
    requeue_interrupted,
    set_job,
    stop_waiting,
    take_next,
)
from yoake.store.runs import RunRequest, add_run_job
from yoake.usecases.progress import Progress

log = structlog.get_logger()

BESIDE: Final = 2
"""Jobs at the same time unless told otherwise: one that fetches does not hold up one that reads."""

_REST_AFTER: Final = 60.0  # seconds without work after which idle processes are given back
_CLOSES_WITHIN: Final = 10.0  # seconds for threads to see that their processes were ended
_NO_JOB: Final = 0  # for work that nobody asked for and nobody can stop


@dataclass(frozen=True, slots=True)
class QueueState:
    """How the queue is: jobs by state, threads that take them, and how many there should be."""

    waiting: int
    running: int
    failed: int
    threads: int
    beside: int


T = TypeVar("T")
R = TypeVar("R")
Worker = Callable[[Kit], Callable[[T, Callable[[str, object], None]], R]]
"""A class: made with the kit in a process of its own, its instance does one task after the other, and tells how far it is."""

Job = Callable[["JobAtWork"], str]
"""Does a job and keeps what comes of it; returns a word on that."""


@dataclass(frozen=True, slots=True)
class JobKinds:
    """What jobs there are, by the name of their kind. ``idle``: done while nobody asks for anything, as a job of its own that nobody
    can stop, and left at once when there is work."""

    by_name: Mapping[str, Job]
    idle: Callable[[JobAtWork], None]


@dataclass(kw_only=True)
class Queue:
    """Runs waiting jobs. ``version`` grows with every change that a watcher may show."""

    context: Context
    kinds: JobKinds
    workers: int | None = None
    beside: int = BESIDE
    executor: Executor = field(default_factory=ProcessExecutor)
    progress: dict[int, dict[str, Any]] = field(default_factory=dict)
    version: int = 0
    closing: bool = False
    _wake: threading.Condition = field(default_factory=threading.Condition)
    _stops: set[int] = field(default_factory=set)
    _threads: list[threading.Thread] = field(default_factory=list)
    _renewing: threading.Lock = field(default_factory=threading.Lock)
    _renewed: tuple[object, ...] | None = None

    def start(self) -> None:
        """Take up what an ended process left, then wait for work."""
        with self.context.db.write() as connection:
            requeue_interrupted(connection)
        shutil.rmtree(self.context.home.work, ignore_errors=True)  # of runs that an ended process left
        for number in range(self.beside):
            thread = threading.Thread(target=self._run, name=f"jobs-{number + 1}", daemon=True)
            self._threads.append(thread)
            thread.start()

    def close(self) -> None:
        """End what runs; an unfinished job waits for the next start."""
        self.closing = True
        self.executor.close()
        self._changed()
        for thread in self._threads:
            thread.join(timeout=_CLOSES_WITHIN)

    def state(self) -> QueueState:
        """How the queue is."""
        counted = count_jobs(self.context.db)
        alive = sum(1 for thread in self._threads if thread.is_alive())
        waiting, running, failed = (counted.get(state, 0) for state in ("waiting", "running", "failed"))
        return QueueState(waiting, running, failed, alive, self.beside)

    def ask(self, applications: list[Application], who: str) -> list[int]:
        """Ask for scans; one of the same application that waits or runs already is returned instead of a second."""
        batch = self.context.stamp
        with self.context.db.write() as connection:
            jobs = [add_job(connection, a.id, batch, who, self.context.stamp) for a in applications]
        self._changed()
        return jobs

    def ask_known(self, coordinate: Coordinate, who: str) -> int:
        """Ask for a library to be made known; what uses it is scanned again afterwards."""
        with self.context.db.write() as connection:
            job = add_knowing(connection, "knowledge", coordinate, who, self.context.stamp)
        self._changed()
        return job

    def ask_trial(self, coordinate: Coordinate, release: str, on: Target, who: str) -> int:
        """Ask for a release to be tried on a line of its runtime; what uses it is scanned again afterwards."""
        with self.context.db.write() as connection:
            job = add_knowing(connection, "trial", f"{coordinate}@{release} {on}", who, self.context.stamp)
        self._changed()
        return job

    def ask_look_up(self, applications: list[Application], who: str) -> list[int]:
        """Ask for release records of all packages of applications that have none; what uses them is scanned again afterwards."""
        with self.context.db.write() as connection:
            jobs = [add_application_job(connection, "records", a.id, who, self.context.stamp) for a in applications]
        self._changed()
        return jobs

    def ask_next(self, applications: list[Application], who: str) -> list[int]:
        """Ask for scans against the lines after the destinations of applications."""
        with self.context.db.write() as connection:
            jobs = [add_application_job(connection, "next", a.id, who, self.context.stamp) for a in applications]
        self._changed()
        return jobs

    def ask_edits(self, application: Application, request: EditRequest, who: str) -> int:
        """Ask for edits to be proposed and kept, or committed on a branch."""
        with self.context.db.write() as connection:
            job = add_edit_job(connection, application.id, request, who, self.context.stamp)
        self._changed()
        return job

    def ask_run(self, application: Application, request: RunRequest, who: str) -> int:
        """Ask for tests to be run on both sides of a stage."""
        with self.context.db.write() as connection:
            job = add_run_job(connection, application.id, request, who, self.context.stamp)
        self._changed()
        return job

    def ask_waves(self, mark: str, who: str) -> int:
        """Ask for a better plan of the portfolio as it is now, which ``mark`` names."""
        with self.context.db.write() as connection:
            job = add_knowing(connection, "waves", mark, who, self.context.stamp)
        self._changed()
        return job

    def look(self) -> None:
        """Look for jobs that a use case asked for."""
        self._changed()

    def is_stopped(self, job: int) -> bool:
        """Whether a running job is to end."""
        return self.closing or job in self._stops

    def stop(self, job_id: int) -> None:
        """Stop a job that waits or runs. Raises NotFound, and Conflict for one that has ended."""
        row = get_job(self.context.db, job_id)
        if row is None:
            raise NotFound(f"There is no job {job_id}.")
        with self.context.db.write() as connection:
            if stop_waiting(connection, job_id, self.context.stamp):
                self._changed()
                return
        row = get_job(self.context.db, job_id)
        if row is None or row["state"] != "running":
            raise Conflict(f"Job {job_id} has ended already.")
        self._stops.add(job_id)
        self._changed()

    def _changed(self) -> None:
        self.version += 1
        with self._wake:
            self._wake.notify_all()

    def _run(self) -> None:
        """What a thread does: take the oldest waiting job, see it through, and never end for a job's sake."""
        while not self.closing:
            try:
                row = self._take()
                if row is not None:
                    self._one(row)
                    continue
            except Exception:  # a full disk or a damaged file must not end the queue for good
                log.exception("the queue could not go on")
            with self._wake:
                idle = not self.closing and not self._wake.wait(timeout=_REST_AFTER)
            if idle:
                self._use_idle_time()

    def _use_idle_time(self) -> None:
        """Renew kept views that a new day or new knowledge made stale, as long as nobody asks for anything else."""
        if not self._renewing.acquire(blocking=False):
            return
        try:
            seen = (self.context.db.changes, self.context.today, self.context.knowledge.digest)
            if seen != self._renewed:
                idle = JobAtWork(self, _NO_JOB, 0, "", "")
                self.kinds.idle(idle)
                if idle.unwanted:
                    return
                self._renewed = seen
            self.executor.rest()
        except YoakeError as error:
            log.warning("kept views could not be renewed", problem=str(error))
        finally:
            self._renewing.release()

    def _take(self) -> Row | None:
        with self.context.db.write() as connection:
            return take_next(connection, self.context.stamp)

    def _one(self, row: Row) -> None:
        job: int = row["id"]
        self.version += 1
        try:
            do = self.kinds.by_name[row["kind"]]
            self._set(
                job, "done", do(JobAtWork(self, job, row["application_id"] or 0, row["who"], row["subject"] or ""))
            )
        except Stopped as error:
            self._set(job, "waiting" if self.closing else "stopped", "" if self.closing else str(error))
        except YoakeError as error:
            self._set(job, "failed", str(error))
        except BrokenJob as error:
            log.error("job failed", job=job, trace=error.trace)  # noqa: TRY400  its own traceback, from where it ran
            self._set(job, "failed", _unexpected(str(error)))
        except Exception as error:
            log.exception("job failed", job=job)
            self._set(job, "failed", _unexpected(f"{type(error).__name__}: {error}"))
        finally:
            self._stops.discard(job)
            self.progress.pop(job, None)
            self.version += 1

    def execute(self, worker: Worker[T, R], task: T, job: int, seconds: float | None = None) -> R:
        """What ``worker`` makes of a task in a process of its own. Raises what the task raises, and Stopped."""
        done: R = self.executor.run(
            Work(f"{worker.__module__}:{worker.__qualname__}", task, seconds),
            self._sayer(job),
            lambda: self.is_stopped(job),
        )
        return done

    def _sayer(self, job: int) -> Callable[[Progress], None]:
        def say(progress: Progress) -> None:
            self.progress[job] = asdict(progress)
            self.version += 1

        return say

    def _set(self, job: int, state: str, problem: str = "") -> None:
        with self.context.db.write() as connection:
            set_job(connection, job, state, self.context.stamp, problem)
        self.version += 1


@dataclass(frozen=True, slots=True)
class JobAtWork:
    """A job that runs: who asked for it, for which application (0: for none), about what."""

    queue: Queue
    number: int
    application_id: int
    who: str
    subject: str

    @property
    def context(self) -> Context:
        """Records, knowledge and clock."""
        return self.queue.context

    @property
    def unwanted(self) -> bool:
        """Whether what nobody asked for is to make room: somebody asks for something, or the queue closes."""
        return self.queue.closing or bool(count_jobs(self.context.db).get("waiting"))

    def execute(self, worker: Worker[T, R], task: T, seconds: float | None = None) -> R:
        """What ``worker`` makes of a task in a process of its own. Raises what the task raises, and Stopped."""
        return self.queue.execute(worker, task, self.number, seconds)

    def is_stopped(self) -> bool:
        """Whether it is to end."""
        return self.queue.is_stopped(self.number)


def _unexpected(said: str) -> str:
    return (
        f"Something unexpected happened ({said[:300]}). The last finished scan is kept, and the server’s log has the details. "
        "Scan again; if it fails again, take in the parts that work as subfolders."
    )
