"""Routes of proof: evidence of stages, runs on both sides with their logs, and looks at changed behaviour."""

from __future__ import annotations

import shlex
from dataclasses import dataclass
from pathlib import Path as FilePath
from typing import Annotated, Final

from fastapi import Form, Path, Query, Response, UploadFile
from pydantic import BaseModel, Field

from yoake.core.values.errors import BadInput, NotFound
from yoake.core.values.words import CommandKind
from yoake.formats.junit import MAX_FILE
from yoake.formats.sarif_reports import MAX_FILE as MAX_REPORT
from yoake.server.answers import view_router
from yoake.server.bodies import Body, Named
from yoake.server.deps import ContextDep, Number, QueueDep, Slug, Who
from yoake.store.applications import get_application
from yoake.store.jobs import get_job
from yoake.store.runs import RunSettings
from yoake.usecases.ask_runs import allow_runs, commands_of, forget_look, look_at_behaviour, run_requested
from yoake.usecases.bring_report import bring_report
from yoake.usecases.bring_results import bring_results
from yoake.usecases.preflight import PreflightItem, preflight
from yoake.usecases.run import paths_to_ask
from yoake.views.check_reports import ReportView, check_reports
from yoake.views.proof import proof, run_view
from yoake.views.proof_records import ProofView, RunView

router = view_router(prefix="/applications/{slug}", tags=["proof"])

_MOST_LOG: Final = 200_000  # bytes of a log that are sent at once
Key = Annotated[str, Path(min_length=1, max_length=500)]
LogName = Annotated[str, Path(pattern=r"^\d{1,18}-(old|new)\.log$")]


class Allowing(Body):
    """How an application's code is run. ``command`` and ``beside`` are words as in a shell, without one; empty: as its files say. ``asks``:
    paths, with spaces between, that the command is asked for, which is a server then."""

    allowed: bool
    module: Annotated[str, Field(max_length=500)] = ""
    command: Annotated[str, Field(max_length=1000)] = ""
    beside: Annotated[str, Field(max_length=1000)] = ""
    asks: Annotated[str, Field(max_length=2000)] = ""
    minutes: Annotated[float, Field(ge=0.1, le=600, allow_inf_nan=False)] = 30


class Running(Body):
    """Which stage is the new side (0: today alone), and the branch its code is on; empty: as it is."""

    stage: Annotated[int, Field(ge=0, le=1000)]
    branch: Named = ""


class Looking(Body):
    """What somebody saw who looked."""

    note: Annotated[str, Field(max_length=2000)] = ""


class RunAsked(BaseModel):
    """The job that was asked for."""

    job: int


@dataclass(frozen=True, slots=True)
class CommandView:
    """Something that can be run, and the file that says so."""

    name: str
    words: str
    kind: CommandKind
    why: str


@dataclass(frozen=True, slots=True)
class LogPart:
    """A part of a log: its text from where it was asked for, where it ends now, and whether the run goes on."""

    text: str
    end: int
    running: bool


@router.get("/proof")
def get_proof(slug: Slug, context: ContextDep) -> ProofView:
    """Stages against their evidence."""
    return proof(context, slug)


@router.get("/commands")
def get_commands(
    slug: Slug, context: ContextDep, module: Annotated[str, Query(max_length=500)] = ""
) -> list[CommandView]:
    """What the files of a module say can be run."""
    return [CommandView(c.name, shlex.join(c.words), c.kind, c.why) for c in commands_of(context, slug, module)]


@router.get("/preflight")
def get_preflight(
    slug: Slug, context: ContextDep, stage: Annotated[int, Query(ge=0, le=1000)] = 0
) -> list[PreflightItem]:
    """What a stage needs on this machine before it is begun."""
    return preflight(context, slug, stage)


@router.put("/runs/settings", status_code=204)
def put_settings(slug: Slug, allowing: Allowing, context: ContextDep, who: Who) -> Response:
    """Turn runs on, with these settings, or off."""
    settings = None
    if allowing.allowed:
        words, beside = _words(allowing.command, "command"), _words(allowing.beside, "list of packages")
        if any(word.startswith("-") for word in beside):
            raise BadInput("Packages are named as pip or npm take them, without options.")
        settings = RunSettings(
            module=allowing.module.strip("/"),
            command=words,
            beside=beside,
            minutes=allowing.minutes,
            who="",
            at="",
            asks=paths_to_ask(allowing.asks.split()),
        )
    allow_runs(context, slug, settings, who)
    return Response(status_code=204)


def _words(text: str, what: str) -> tuple[str, ...]:
    try:
        return tuple(shlex.split(text))
    except ValueError as error:
        raise BadInput(f"The {what} cannot be read as words: a quotation mark is left open.") from error


@router.post("/runs", status_code=202)
def post_run(slug: Slug, running: Running, context: ContextDep, queue: QueueDep, who: Who) -> RunAsked:
    """Run the tests on what stands before a stage and on the stage."""
    application, request = run_requested(context, slug, running.stage, running.branch)
    return RunAsked(job=queue.ask_run(application, request, who))


@router.get("/runs/{number}")
def get_run(slug: Slug, number: Number, context: ContextDep) -> RunView:
    """One run with its tests."""
    return run_view(context, slug, number)


@router.get("/logs/{name}")
def get_log(
    slug: Slug, name: LogName, context: ContextDep, start: Annotated[int, Query(ge=0, le=2**40)] = 0
) -> LogPart:
    """What a run has said so far."""
    application = get_application(context.db, slug)
    job = get_job(context.db, int(name.partition("-")[0]))
    path: FilePath = context.home.runs / name
    if job is None or job["application_id"] != application.id or job["kind"] != "run":
        raise NotFound(f"There is no log {name} of {application.name}.")
    if not path.is_file():  # this side has not begun yet, or never did
        return LogPart("", start, job["state"] in ("waiting", "running"))
    with path.open("rb") as handle:
        handle.seek(start)
        data = handle.read(_MOST_LOG)
    return LogPart(data.decode("utf-8", "replace"), start + len(data), job["state"] in ("waiting", "running"))


@router.put("/looks/{key}", status_code=204)
def put_look(slug: Slug, key: Key, looking: Looking, context: ContextDep, who: Who) -> Response:
    """Say that one looked at a changed behaviour."""
    look_at_behaviour(context, slug, key, looking.note, who)
    return Response(status_code=204)


@router.delete("/looks/{key}", status_code=204)
def delete_look(slug: Slug, key: Key, context: ContextDep, who: Who) -> Response:
    """Take it back."""
    forget_look(context, slug, key, who)
    return Response(status_code=204)


@dataclass(frozen=True, slots=True)
class ReportTaken:
    """What was taken in of one tool: how many complaints of each level."""

    tool: str
    errors: int
    warnings: int
    notes: int


@router.post("/reports", status_code=201)
def post_report(
    slug: Slug,
    report: UploadFile,
    commit: Annotated[str, Form(max_length=64)],
    context: ContextDep,
    who: Who,
    stage: Annotated[int, Form(ge=0, le=1000)] = 0,
    machine: Annotated[str, Form(max_length=120)] = "another machine",
) -> list[ReportTaken]:
    """Bring in SARIF of checks that ran elsewhere on a commit, on the lines of a stage."""
    made = bring_report(
        context=context,
        slug=slug,
        stage_number=stage,
        commit=commit,
        data=report.file.read(MAX_REPORT + 1),
        machine=machine,
        who=who,
    )
    return [ReportTaken(r.tool, r.errors, r.warnings, r.notes) for r in made]


@router.get("/reports")
def get_reports(slug: Slug, context: ContextDep) -> list[ReportView]:
    """The newest report of each tool of another machine, with the places that it complains about."""
    return check_reports(context, slug)


@router.post("/results", status_code=201)
def post_results(
    slug: Slug,
    new: UploadFile,
    commit: Annotated[str, Form(max_length=64)],
    context: ContextDep,
    who: Who,
    old: UploadFile | None = None,
    stage: Annotated[int, Form(ge=0, le=1000)] = 0,
    machine: Annotated[str, Form(max_length=120)] = "another machine",
) -> dict[str, int]:
    """Bring in JUnit XML of tests that ran elsewhere on a commit: on the lines of a stage, and (``old``) on those before it."""
    before = old.file.read(MAX_FILE + 1) if old is not None else None
    return bring_results(
        context=context,
        slug=slug,
        stage_number=stage,
        commit=commit,
        new=new.file.read(MAX_FILE + 1),
        old=before,
        machine=machine,
        who=who,
    )
