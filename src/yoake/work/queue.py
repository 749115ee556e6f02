"""The queue of scans and of libraries to make known: one at a time; progress to watch, a stop, nothing lost when killed."""

from __future__ import annotations

import threading
from dataclasses import asdict, dataclass, field
from typing import Any

import structlog

from yoake.core.coordinates import Coordinate
from yoake.core.errors import Stopped, YoakeError
from yoake.runner.extraction import Extractor, FactsCache
from yoake.store.applications import Application, application_by_id, said_lines
from yoake.store.database import Row
from yoake.store.jobs import add_building, add_job, get_job, next_job, requeue_interrupted, set_job
from yoake.store.scans import latest_scan
from yoake.work.making_known import make_known, users_of
from yoake.work.office import Office
from yoake.work.recording import identity_of, record_scan
from yoake.work.scanning import Control, Progress, scan_snapshot
from yoake.work.sources import open_snapshot

log = structlog.get_logger()


@dataclass
class Queue:
    """Runs waiting jobs in a thread of its own. ``version`` grows with every change that a watcher may show."""

    office: Office
    workers: int | None = None
    progress: dict[int, dict[str, Any]] = field(default_factory=dict)
    version: int = 0
    _wake: threading.Event = field(default_factory=threading.Event)
    _stops: set[int] = field(default_factory=set)
    closing: bool = False
    _thread: threading.Thread | None = None

    def start(self) -> None:
        """Take up what an ended process left, then wait for work."""
        with self.office.db.write() as connection:
            requeue_interrupted(connection)
        self._thread = threading.Thread(target=self._run, name="scans", daemon=True)
        self._thread.start()
        self._wake.set()

    def close(self) -> None:
        """Stop after the file in hand; an unfinished job waits for the next start."""
        self.closing = True
        self._wake.set()
        if self._thread is not None:
            self._thread.join(timeout=30)

    def ask(self, applications: list[Application], who: str) -> list[int]:
        """Ask for scans; one of the same application that waits or runs already is returned instead of a second."""
        batch = self.office.stamp
        with self.office.db.write() as connection:
            jobs = [add_job(connection, a.id, batch, who, self.office.stamp) for a in applications]
        self._changed()
        return jobs

    def ask_known(self, coordinate: Coordinate, who: str) -> int:
        """Ask for a library to be made known; what uses it is scanned again afterwards."""
        with self.office.db.write() as connection:
            job = add_building(connection, coordinate.purl, who, self.office.stamp)
        self._changed()
        return job

    def stop(self, job_id: int) -> None:
        """Stop a job that waits or runs."""
        row = get_job(self.office.db, job_id)
        if row is not None and row["state"] == "waiting":
            with self.office.db.write() as connection:
                set_job(connection, job_id, "stopped", self.office.stamp)
        self._stops.add(job_id)
        self._changed()

    def _changed(self) -> None:
        self.version += 1
        self._wake.set()

    def _run(self) -> None:
        extractor = Extractor(FactsCache(self.office.home.facts), self.workers)
        try:
            while not self.closing:
                row = next_job(self.office.db)
                if row is None:
                    self._wake.wait()
                    self._wake.clear()
                    continue
                self._one(row, extractor)
        finally:
            extractor.close()
            extractor.cache.close()

    def _one(self, row: Row, extractor: Extractor) -> None:
        job: int = row["id"]
        self._set(job, "running")
        try:
            control = self._control(job)
            if row["kind"] == "knowledge":
                self._make_known(Coordinate(row["subject"]), row["who"], control)
                self._set(job, "done")
            else:
                said = scan_application(self.office, row["application_id"], extractor, control)
                self._set(job, "done", said)
        except Stopped as error:
            self._set(job, "waiting" if self.closing else "stopped", str(error))
        except YoakeError as error:
            self._set(job, "failed", str(error))
        except Exception as error:
            log.exception("scan failed", job=job)
            self._set(
                job,
                "failed",
                f"Something unexpected happened ({type(error).__name__}: {error}). The last finished scan is kept.",
            )
        self._stops.discard(job)
        self.progress.pop(job, None)
        self.version += 1

    def _make_known(self, coordinate: Coordinate, who: str, control: Control) -> None:
        """Build a library's timeline and record in the person's own knowledge folder, then scan what uses it."""
        make_known(self.office, coordinate, control)
        users = users_of(self.office, coordinate)
        if users:
            self.ask(users, who)

    def _control(self, job: int) -> Control:
        def say(progress: Progress) -> None:
            self.progress[job] = asdict(progress)
            self.version += 1

        return Control(say, lambda: self.closing or job in self._stops)

    def _set(self, job: int, state: str, problem: str = "") -> None:
        with self.office.db.write() as connection:
            set_job(connection, job, state, self.office.stamp, problem)
        self.version += 1


def scan_application(office: Office, application_id: int, extractor: Extractor, control: Control) -> str:
    """Scan one application for its current destination; returns a word on what came of it."""
    application = application_by_id(office.db, application_id)
    knowledge = office.knowledge
    said = said_lines(office.db, application.id)
    for target in (*application.destination.targets, *said):
        knowledge.check_target(target)
    control.say(Progress("fetching"))
    snapshot = open_snapshot(application.source, office.home)
    try:
        latest = latest_scan(office.db, application.id, application.destination.id)
        identity = identity_of(knowledge, application.destination.targets, said)
        if latest is not None and latest["snapshot"] == snapshot.identity and latest["knowledge"] == identity:
            return "unchanged since the last scan"
        scanned = scan_snapshot(
            snapshot, knowledge, application.destination.targets, said, extractor, control, application.name
        )
    finally:
        snapshot.close()
    if latest is not None and latest["snapshot"] == scanned.identity and latest["knowledge"] == identity:
        return "unchanged since the last scan"
    record_scan(office, application, scanned, said)
    return ""
