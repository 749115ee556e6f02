"""The kinds of jobs that Yoake has: each runs its task in a process of its own, and keeps what comes of it."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import Final

import structlog

from yoake.core.values.coordinates import Coordinate, parse_target
from yoake.core.values.errors import YoakeError
from yoake.runner.executor import BrokenJob
from yoake.store.applications import application_by_id
from yoake.store.edits import edit_request, keep_proposal
from yoake.store.events import Event, add_event
from yoake.store.runs import run_request, run_settings
from yoake.usecases.ask_edits import commit, edit_task
from yoake.usecases.ask_runs import run_task, scanned_content
from yoake.usecases.compare_recording import RecordingWorker, keep_recording, recording_task
from yoake.usecases.count_calls import CallsWorker, ask_calls, calls_task, keep_calls
from yoake.usecases.edit import EditWorker
from yoake.usecases.keep_answers import AnswersTask, keep_answers, stale_applications
from yoake.usecases.keep_run import keep_outcome
from yoake.usecases.keep_scan import keep
from yoake.usecases.look_up import LookUpTask, LookUpWorker, unknown_packages
from yoake.usecases.make_answers import AnswersWorker
from yoake.usecases.make_known import KnownTask, KnownWorker, users_of
from yoake.usecases.next_lines import heading_beyond
from yoake.usecases.plan_waves import WavesWorker, keep_found, waves_task
from yoake.usecases.queue import JobAtWork, JobKinds, R, T, Worker
from yoake.usecases.read_sides import RoutesWorker, ask_routes_after, keep_sides, routes_task
from yoake.usecases.run import RunWorker
from yoake.usecases.scan_task import ScanWorker
from yoake.usecases.scan_tasks import UNCHANGED, keep_as_decided, task_of
from yoake.usecases.try_release import TryTask, TryWorker

log = structlog.get_logger()

_COMMANDS_OF_A_RUN: Final = 12  # two sides with their steps and repeats


def _scan(job: JobAtWork) -> str:
    application = application_by_id(job.context.db, job.application_id)
    record = job.execute(ScanWorker, task_of(job.context, application, job.queue.workers))
    if record is None:
        return UNCHANGED
    keep_as_decided(job.context, application, record)
    _renew_answers(job, job.application_id)
    ask_routes_after(job.context, job.application_id)
    return ""


def _read_routes(job: JobAtWork) -> str:
    """Read the routes of both sides of a crossing."""
    found = job.execute(RoutesWorker, routes_task(job.context, job.application_id))
    return keep_sides(job.context, job.application_id, found)


def _count_calls(job: JobAtWork) -> str:
    """Count the calls in the logs that wait."""
    task = calls_task(job.context, job.application_id)
    found = _of_files(job, CallsWorker, task, task.logs)
    told = keep_calls(job.context, job.application_id, found, job.who)
    if calls_task(job.context, job.application_id).logs:
        ask_calls(job.context, job.application_id, job.who)
        job.queue.look()
    return told


def _compare_recording(job: JobAtWork) -> str:
    """Ask both sides what was recorded."""
    task = recording_task(job.context, job.application_id)
    worker = RecordingWorker
    found = _of_files(job, worker, task, task.recordings)
    return keep_recording(job.context, job.application_id, found, job.who)


def _of_files(job: JobAtWork, worker: Worker[T, R], task: T, files: Iterable[Path]) -> R:
    """What a worker makes of files that were handed over. One that cannot be read goes, and says why."""
    try:
        return job.execute(worker, task)
    except YoakeError:
        for file in files:
            file.unlink(missing_ok=True)
        raise


def _scan_beyond(job: JobAtWork) -> str:
    """Scan an application against the lines after its destination; its own scans, plan and steps stay as they are."""
    application = heading_beyond(job.context, job.application_id)
    if application is None:
        return "no line is known after its destination"
    record = job.execute(ScanWorker, task_of(job.context, application, job.queue.workers))
    if record is None:
        return UNCHANGED
    keep(job.context, application, record)
    return ""


def _renew_answers(job: JobAtWork, application_id: int) -> None:
    """Make the slow views at once, where the scan ran; without them the scan is kept all the same."""
    task = AnswersTask(job.context.home.folder, application_id)
    try:
        keep_answers(job.context, application_id, job.execute(AnswersWorker, task))
    except (BrokenJob, YoakeError) as error:
        log.warning("views are made when they are looked at", application=application_id, problem=str(error))


def _renew_stale_answers(job: JobAtWork) -> None:
    """Renew kept views that a new day or new knowledge made stale."""
    for application_id in stale_applications(job.context):
        if job.unwanted:
            return
        _renew_answers(job, application_id)


def _make_known(job: JobAtWork) -> str:
    """Build a library's timeline and record in the person's own knowledge folder, then scan what uses it."""
    coordinate = Coordinate(job.subject)
    task = KnownTask(job.context.home.folder, coordinate, job.context.today)
    job.execute(KnownWorker, task)
    job.context.look_again()  # what uses it is scanned again at once, and must not meet the old knowledge
    users = users_of(job.context, coordinate)
    if users:
        job.queue.ask(users, job.who)
    return ""


def _try(job: JobAtWork) -> str:
    """Try a release, then scan what uses it."""
    wanted, _, on = job.subject.rpartition(" ")
    name, _, release = wanted.rpartition("@")
    coordinate = Coordinate(name)
    task = TryTask(job.context.home.folder, coordinate, release, parse_target(on), job.context.today)
    fact = job.execute(TryWorker, task)
    job.context.look_again()
    users = users_of(job.context, coordinate)
    if users:
        job.queue.ask(users, job.who)
    return f"{coordinate.name} {release} {fact.story}"


def _look_up(job: JobAtWork) -> str:
    """Look up the packages of an application that have no record, then scan what uses them."""
    application = application_by_id(job.context.db, job.application_id)
    missing = unknown_packages(job.context, application)
    if not missing:
        return "every package has its record already"
    task = LookUpTask(job.context.home.folder, missing, job.context.today)
    done = job.execute(LookUpWorker, task)
    job.context.look_again()
    users = {a.id: a for coordinate in missing for a in users_of(job.context, coordinate)}
    if done.found and users:
        job.queue.ask(list(users.values()), job.who)
    return done.story


def _edit(job: JobAtWork) -> str:
    """Propose edits and keep them, or commit them."""
    context = job.context
    application = application_by_id(context.db, job.application_id)
    request = edit_request(context.db, job.number)
    task = edit_task(context, application, request)
    proposal = job.execute(EditWorker, task)
    if request.branch:
        allowed = run_settings(context.db, application.id) is not None
        writers = context.kit.clients.locks
        said = commit(application, proposal, request.branch, writers, locks=allowed, stopped=job.is_stopped)
        with context.db.write() as connection:
            event = Event(
                at=context.stamp,
                who=job.who,
                application=application.id,
                subject="edits",
                what="committed",
                after=said,
            )
            add_event(connection, event)
        return said
    with context.db.write() as connection:
        keep_proposal(connection, application.id, request.scope, proposal, job.who, context.stamp)
    changed = sum(f.outcome == "changed" for f in proposal.files)
    return f"{changed} files can be changed"


def _run_tests(job: JobAtWork) -> str:
    """Run an application's tests on both sides and keep what came of them; says why there is no answer, if so."""
    application = application_by_id(job.context.db, job.application_id)
    request = run_request(job.context.db, job.number)
    task = run_task(job.context, application, request, job.number)
    scanned = scanned_content(job.context, application)
    seconds = _COMMANDS_OF_A_RUN * task.limits.seconds
    outcome = job.execute(RunWorker, task, seconds)
    return keep_outcome(job.context, application, request, outcome, scanned, job.who)


def _plan_waves(job: JobAtWork) -> str:
    """Look for a better plan of the portfolio and keep it; says how good it is."""
    found = job.execute(WavesWorker, waves_task(job.context))
    return keep_found(job.context, found)


JOBS: Final = JobKinds(
    {
        "scan": _scan,
        "next": _scan_beyond,
        "knowledge": _make_known,
        "trial": _try,
        "records": _look_up,
        "edits": _edit,
        "branch": _edit,
        "run": _run_tests,
        "routes": _read_routes,
        "calls": _count_calls,
        "recording": _compare_recording,
        "waves": _plan_waves,
    },
    _renew_stale_answers,
)
"""Every kind of job, by the name under which it is stored."""
