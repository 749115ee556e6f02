"""The queue of jobs: scans, and libraries to make known. A few run beside each other, each in a process of its own.

Jobs run where the executor says; this process alone writes what comes of them. A stop ends the job's process, so it works
whatever the job is doing. What was running when the program ended is taken up at the next start.
"""

from __future__ import annotations

import shutil
import threading
from collections.abc import Callable, Iterable
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any, Final

import structlog

from yoake.context.context import Context
from yoake.core.knowledge.models import TriedFact
from yoake.core.values.coordinates import Coordinate, Target, parse_target
from yoake.core.values.edits import Proposal
from yoake.core.values.errors import Conflict, NotFound, Stopped, YoakeError
from yoake.core.values.runs import RunOutcome
from yoake.runner.executor import BrokenJob, Executor, ProcessExecutor, Work
from yoake.runner.extraction import Extractor
from yoake.store.adopted_paths import adopted_paths
from yoake.store.applications import Application, application_by_id, said_lines
from yoake.store.crossings import slices_of
from yoake.store.database import Row
from yoake.store.edits import EditRequest, add_edit_job, edit_request, keep_proposal
from yoake.store.events import Event, add_event
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
from yoake.store.runs import RunRequest, add_run_job, run_request, run_settings
from yoake.store.scans import latest_scan
from yoake.store.waivers import live_waivers
from yoake.usecases.ask_edits import commit, edit_task
from yoake.usecases.ask_runs import keep_outcome, run_task, scanned_content
from yoake.usecases.compare_recording import RecordingCompared, keep_recording, recording_task
from yoake.usecases.count_calls import CallsCounted, ask_calls, calls_task, keep_calls
from yoake.usecases.keep_answers import AnswersTask, keep_answers, stale_applications
from yoake.usecases.look_up import LookedUp, LookUpTask, unknown_packages
from yoake.usecases.make_known import KnownTask, users_of
from yoake.usecases.next_lines import heading_beyond
from yoake.usecases.plan_waves import FoundOrder, keep_found, waves_task
from yoake.usecases.read_sides import SidesRead, ask_routes_after, keep_sides, routes_task
from yoake.usecases.record_scan import ScanRecord, keep
from yoake.usecases.scan import Control, Progress
from yoake.usecases.scan_task import ScanTask, scan_as_told
from yoake.usecases.track import replan
from yoake.usecases.try_release import TryTask

log = structlog.get_logger()

BESIDE: Final = 2
"""Jobs at the same time unless told otherwise: one that fetches does not hold up one that reads."""

_REST_AFTER: Final = 60.0  # seconds without work after which idle processes are given back
_CLOSES_WITHIN: Final = 10.0  # seconds for threads to see that their processes were ended
_COMMANDS_OF_A_RUN: Final = 12  # two sides with their steps and repeats
_NO_JOB: Final = 0  # for work that nobody asked for and nobody can stop
_UNCHANGED: Final = "unchanged since the last scan"


@dataclass(frozen=True, slots=True)
class QueueState:
    """How the queue is: jobs by state, threads that take them, and how many there should be."""

    waiting: int
    running: int
    failed: int
    threads: int
    beside: int


@dataclass
class Queue:
    """Runs waiting jobs. ``version`` grows with every change that a watcher may show."""

    context: Context
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
                for application_id in stale_applications(self.context):
                    if self.closing or count_jobs(self.context.db).get("waiting"):
                        return
                    self._renew_answers(application_id, _NO_JOB)
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
            self._set(job, "done", self._work(row["kind"], row, job))
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

    def _work(self, kind: str, row: Row, job: int) -> str:
        """Do what a job asks for; returns a word on what came of it."""
        about, who = row["application_id"], row["who"]
        kinds: dict[str, Callable[[], str]] = {
            "knowledge": lambda: self._make_known(Coordinate(row["subject"]), who, job),
            "trial": lambda: self._try(row["subject"], who, job),
            "waves": lambda: self._plan_waves(job),
            "edits": lambda: self._edit(about, who, job),
            "branch": lambda: self._edit(about, who, job),
            "run": lambda: self._run_tests(about, who, job),
            "routes": lambda: self._read_routes(about, job),
            "calls": lambda: self._count_calls(about, who, job),
            "recording": lambda: self._compare_recording(about, who, job),
            "next": lambda: self._scan_beyond(about, job),
            "records": lambda: self._look_up(about, who, job),
        }
        return kinds.get(kind, lambda: self._scan(about, job))()

    def _scan(self, application_id: int, job: int) -> str:
        application = application_by_id(self.context.db, application_id)
        task = task_of(self.context, application, self.workers)
        record = self._execute("yoake.usecases.scan_task:ScanWorker", task, job)
        if record is None:
            return _UNCHANGED
        _keep(self.context, application, record)
        self._renew_answers(application_id, job)
        ask_routes_after(self.context, application_id)
        return ""

    def _read_routes(self, application_id: int, job: int) -> str:
        """Read the routes of both sides of a crossing; returns a word on what came of it."""
        found: SidesRead = self._execute(
            "yoake.usecases.read_sides:RoutesWorker", routes_task(self.context, application_id), job
        )
        return keep_sides(self.context, application_id, found)

    def _count_calls(self, application_id: int, who: str, job: int) -> str:
        """Count the calls in the logs that wait; returns a word on what came of it."""
        task = calls_task(self.context, application_id)
        found: CallsCounted = self._of_files("yoake.usecases.count_calls:CallsWorker", task, task.logs, job)
        told = keep_calls(self.context, application_id, found, who)
        if calls_task(self.context, application_id).logs:
            ask_calls(self.context, application_id, who)
            self._changed()
        return told

    def _compare_recording(self, application_id: int, who: str, job: int) -> str:
        """Ask both sides what was recorded; returns a word on what came of it."""
        task = recording_task(self.context, application_id)
        worker = "yoake.usecases.compare_recording:RecordingWorker"
        found: RecordingCompared = self._of_files(worker, task, task.recordings, job)
        return keep_recording(self.context, application_id, found, who)

    def _of_files(self, worker: str, task: object, files: Iterable[Path], job: int) -> Any:
        """What a worker makes of files that were handed over. One that cannot be read goes, and says why."""
        try:
            return self._execute(worker, task, job)
        except YoakeError:
            for file in files:
                file.unlink(missing_ok=True)
            raise

    def _scan_beyond(self, application_id: int, job: int) -> str:
        """Scan an application against the lines after its destination; its own scans, plan and steps stay as they are."""
        application = heading_beyond(self.context, application_id)
        if application is None:
            return "no line is known after its destination"
        task = task_of(self.context, application, self.workers)
        record = self._execute("yoake.usecases.scan_task:ScanWorker", task, job)
        if record is None:
            return _UNCHANGED
        keep(self.context, application, record)
        return ""

    def _renew_answers(self, application_id: int, job: int) -> None:
        """Make the slow views at once, where the scan ran; without them the scan is kept all the same."""
        task = AnswersTask(self.context.home.folder, application_id)
        try:
            keep_answers(
                self.context, application_id, self._execute("yoake.usecases.keep_answers:AnswersWorker", task, job)
            )
        except (BrokenJob, YoakeError) as error:
            log.warning("views are made when they are looked at", application=application_id, problem=str(error))

    def _make_known(self, coordinate: Coordinate, who: str, job: int) -> str:
        """Build a library's timeline and record in the person's own knowledge folder, then scan what uses it."""
        task = KnownTask(self.context.home.folder, coordinate, self.context.today)
        self._execute("yoake.usecases.make_known:KnownWorker", task, job)
        self.context.look_again()  # what uses it is scanned again at once, and must not meet the old knowledge
        users = users_of(self.context, coordinate)
        if users:
            self.ask(users, who)
        return ""

    def _try(self, subject: str, who: str, job: int) -> str:
        """Try a release, then scan what uses it; returns a word on what came of it."""
        wanted, _, on = subject.rpartition(" ")
        name, _, release = wanted.rpartition("@")
        coordinate = Coordinate(name)
        task = TryTask(self.context.home.folder, coordinate, release, parse_target(on), self.context.today)
        fact: TriedFact = self._execute("yoake.usecases.try_release:TryWorker", task, job)
        self.context.look_again()
        users = users_of(self.context, coordinate)
        if users:
            self.ask(users, who)
        return f"{coordinate.name} {release} {fact.story}"

    def _look_up(self, application_id: int, who: str, job: int) -> str:
        """Look up the packages of an application that have no record, then scan what uses them; returns a word on what came of it."""
        application = application_by_id(self.context.db, application_id)
        missing = unknown_packages(self.context, application)
        if not missing:
            return "every package has its record already"
        task = LookUpTask(self.context.home.folder, missing, self.context.today)
        done: LookedUp = self._execute("yoake.usecases.look_up:LookUpWorker", task, job)
        self.context.look_again()
        users = {a.id: a for coordinate in missing for a in users_of(self.context, coordinate)}
        if done.found and users:
            self.ask(list(users.values()), who)
        return done.story

    def _edit(self, application_id: int, who: str, job: int) -> str:
        """Propose edits and keep them, or commit them; returns a word on what came of it."""
        application = application_by_id(self.context.db, application_id)
        request = edit_request(self.context.db, job)
        task = edit_task(self.context, application, request)
        proposal: Proposal = self._execute("yoake.usecases.edit:EditWorker", task, job)
        if request.branch:
            allowed = run_settings(self.context.db, application_id) is not None
            said = commit(
                application,
                proposal,
                request.branch,
                locks=allowed,
                stopped=lambda: job in self._stops or self.closing,
            )
            with self.context.db.write() as connection:
                event = Event(
                    at=self.context.stamp,
                    who=who,
                    application=application.id,
                    subject="edits",
                    what="committed",
                    after=said,
                )
                add_event(connection, event)
            return said
        with self.context.db.write() as connection:
            keep_proposal(connection, application.id, request.scope, proposal, who, self.context.stamp)
        changed = sum(f.outcome == "changed" for f in proposal.files)
        return f"{changed} files can be changed"

    def _run_tests(self, application_id: int, who: str, job: int) -> str:
        """Run an application's tests on both sides and keep what came of them; returns why there is no answer, if so."""
        application = application_by_id(self.context.db, application_id)
        request = run_request(self.context.db, job)
        task = run_task(self.context, application, request, job)
        scanned = scanned_content(self.context, application)
        seconds = _COMMANDS_OF_A_RUN * task.limits.seconds
        outcome: RunOutcome = self._execute("yoake.usecases.run:RunWorker", task, job, seconds)
        return keep_outcome(self.context, application, request, outcome, scanned, who)

    def _plan_waves(self, job: int) -> str:
        """Look for a better plan of the portfolio and keep it; returns a word on how good it is."""
        found: FoundOrder = self._execute("yoake.usecases.plan_waves:WavesWorker", waves_task(self.context), job)
        return keep_found(self.context, found)

    def _execute(self, what: str, task: object, job: int, seconds: float | None = None) -> Any:
        return self.executor.run(
            Work(what, task, seconds), self._sayer(job), lambda: self.closing or job in self._stops
        )

    def _sayer(self, job: int) -> Callable[[Progress], None]:
        def say(progress: Progress) -> None:
            self.progress[job] = asdict(progress)
            self.version += 1

        return say

    def _set(self, job: int, state: str, problem: str = "") -> None:
        with self.context.db.write() as connection:
            set_job(connection, job, state, self.context.stamp, problem)
        self.version += 1


def _unexpected(said: str) -> str:
    return (
        f"Something unexpected happened ({said[:300]}). The last finished scan is kept, and the server’s log has the details. "
        "Scan again; if it fails again, take in the parts that work as subfolders."
    )


def task_of(context: Context, application: Application, workers: int | None = None) -> ScanTask:
    """A scan of one application for its current destination, as a task."""
    latest = latest_scan(context.db, application.id, application.destination.id)
    adopted = adopted_paths(context.db, application.id, application.destination.id)
    return ScanTask(
        context.home.folder,
        application.name,
        application.source,
        application.destination.targets,
        tuple(said_lines(context.db, application.id)),
        frozenset(live_waivers(context.db, application.id, context.today)),
        adopted,
        application.days_per_week,
        context.today,
        (latest.snapshot, latest.knowledge) if latest is not None else None,
        context.allowed,
        workers,
        {each.name: each.routes for each in slices_of(context.db, application.id)},
    )


def scan_application(context: Context, application_id: int, extractor: Extractor, control: Control) -> str:
    """Scan one application in this process, for its current destination; returns a word on what came of it."""
    application = application_by_id(context.db, application_id)
    record = scan_as_told(task_of(context, application), context.knowledge, extractor, control)
    if record is None:
        return _UNCHANGED
    _keep(context, application, record)
    return ""


def _keep(context: Context, application: Application, record: ScanRecord) -> None:
    """Store a scan; where people decided otherwise while it ran, the plan follows them."""
    keep(context, application, record)
    now = task_of(context, application)
    if now.waived != record.waived or now.adopted != record.adopted:
        replan(context, application)
