"""Ask for runs of an application and keep what comes of them; say that somebody looked at a changed behaviour."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from yoake.context.context import Context
from yoake.core.proof.gates import Look
from yoake.core.values.coordinates import Coordinate
from yoake.core.values.errors import BadInput, Conflict, NotFound
from yoake.core.values.modules import Stated
from yoake.core.values.plans import Stage, stage_key
from yoake.core.values.runs import Command, Side
from yoake.formats.plan_text import moves_text
from yoake.runner.branches import branches_of
from yoake.runner.kept_commands import RunLimits
from yoake.store.applications import Application, get_application
from yoake.store.events import Event, add_event
from yoake.store.runs import (
    RunRequest,
    RunSettings,
    put_look,
    put_run_settings,
    run_settings,
    take_look_back,
)
from yoake.store.scans import changed_behaviours, latest_scan
from yoake.store.steps import files_of_step, renew_live, set_step_state, step_of
from yoake.usecases.run_sides import old_side, stage_side
from yoake.usecases.run_tasks import RunTask, commands_in
from yoake.usecases.sources import open_snapshot
from yoake.views.plan_stages import stage_of


def allow_runs(context: Context, slug: str, settings: RunSettings | None, who: str) -> None:
    """Turn runs of an application on or off. Until then nothing of it runs. Raises NotFound."""
    application = get_application(context.db, slug)
    kept = replace(settings, who=who, at=context.stamp) if settings is not None else None
    before = run_settings(context.db, application.id)
    with context.db.write() as connection:
        put_run_settings(connection, application.id, kept)
        event = Event(
            at=context.stamp,
            who=who,
            application=application.id,
            subject="runs",
            what="allowed" if kept is not None else "forbidden",
            before=" ".join(before.command) if before is not None else "",
            after=" ".join(kept.command) or "as its files say" if kept is not None else "",
        )
        add_event(connection, event)


def commands_of(context: Context, slug: str, module: str) -> Sequence[Command]:
    """What the files of a module say can be run; nothing of it is run. Raises NotFound and BadSource."""
    application = get_application(context.db, slug)
    snapshot = open_snapshot(application.source, context.home, context.allowed)
    inside = f"{module}/" if module else ""
    try:
        held = {
            e.path.removeprefix(inside): e.path
            for e in snapshot.entries()
            if not e.refused and e.path.startswith(inside)
        }
        return commands_in(held, lambda path: snapshot.read(held[path]).decode("utf-8", "replace"), context.ecosystems)
    finally:
        snapshot.close()


def run_requested(context: Context, slug: str, number: int, branch: str) -> tuple[Application, RunRequest]:
    """A run of a stage as a job is to have it. Raises NotFound, BadInput, and Conflict where runs are not turned on."""
    application = get_application(context.db, slug)
    if run_settings(context.db, application.id) is None:
        raise Conflict(f"Nothing of {application.name} may be run yet. Turn runs on for it first, on its Proof screen.")
    _, stage = stage_of(context, application, number)
    heads = branches_of(application.source.location)
    if branch and branch not in heads:
        raise BadInput(f"There is no branch {branch} in the repository of {application.name}.")
    named = {t.coordinate for t in application.destination.targets}
    at = f"{branch}@{heads[branch]}" if branch else ""
    return application, RunRequest(number, stage_key(stage, named) if stage is not None else "", at)


def run_task(context: Context, application: Application, request: RunRequest, job: int) -> RunTask:
    """A run as a task: what stands before the stage on the old side, the stage on the new one. Raises as ``run_requested`` does."""
    settings = run_settings(context.db, application.id)
    if settings is None:
        raise Conflict(f"Runs of {application.name} were turned off.")
    scan, _ = stage_of(context, application, 0)
    named = {t.coordinate for t in application.destination.targets}
    stage = next((s for s in scan.plan.stages if stage_key(s, named) == request.stage_key), None)
    if request.stage and stage is None:
        raise Conflict("The plan changed since this was asked for: look at its stages again, and ask for the run anew.")
    today: dict[Coordinate, Stated] = {}
    for row in scan.today:
        if row.module == settings.module or row.stated.coordinate not in today:
            today[row.stated.coordinate] = row.stated
    before = [s for s in scan.plan.stages if stage is not None and s.group == stage.group and s.number < stage.number]
    earlier = before[-1] if before else None
    old = (
        stage_side(_title(context, earlier), earlier, context.knowledge)
        if earlier is not None
        else old_side("today", today, (), context.knowledge)
    )
    new: Side | None = None
    if stage is not None:
        new = stage_side(_title(context, stage), stage, context.knowledge, request.branch.partition("@")[2])
        new = replace(new, lines={**old.lines, **new.lines})
    command = Command(name=" ".join(settings.command), words=settings.command) if settings.command else None
    return RunTask(
        home=context.home.folder,
        source=application.source,
        module=settings.module,
        command=command,
        old=old,
        new=new,
        limits=RunLimits(seconds=settings.minutes * 60),
        allowed=context.allowed,
        log=str(job),
        work=context.home.work,
        beside=settings.beside,
        asks=settings.asks,
    )


def _title(context: Context, stage: Stage) -> str:
    named = [
        f"{context.knowledge.spoken(p)} {line}" for p, line in stage.state if context.knowledge.ecosystems.is_runtime(p)
    ]
    return f"stage {stage.number} ({', '.join(named) or moves_text(stage, context.ecosystems.spoken)})"


def scanned_content(context: Context, application: Application) -> str:
    """What the newest scan read; empty where there is none."""
    scan = latest_scan(context.db, application.id, application.destination.id)
    return scan.snapshot if scan is not None else ""


def look_at_behaviour(context: Context, slug: str, finding: str, note: str, who: str) -> None:
    """A named person says that they looked at a changed behaviour. Raises NotFound, and BadInput for what is none."""
    application = get_application(context.db, slug)
    row = step_of(context.db, application.id, application.destination.id, finding)
    scan = latest_scan(context.db, application.id, application.destination.id)
    if row is None or scan is None:
        raise NotFound("There is no such change here any more.")
    if finding not in changed_behaviours(context.db, scan.id, [finding]):
        raise BadInput(
            "This closes when a scan no longer finds it; only a changed behaviour is closed by looking at it."
        )
    look = Look(
        finding=finding, who=who, note=note, at=context.stamp, places=row["places"], files=files_of_step(row["files"])
    )
    with context.db.write() as connection:
        put_look(connection, application.id, look)
        set_step_state(connection, row["id"], "closed", f"{who} looked at it", context.stamp)
        renew_live(connection, application.id)
        add_event(connection, _look_event(context, application, row["title"], who, "looked at", note))


def forget_look(context: Context, slug: str, finding: str, who: str) -> None:
    """Take back that one looked. Raises NotFound."""
    application = get_application(context.db, slug)
    row = step_of(context.db, application.id, application.destination.id, finding)
    with context.db.write() as connection:
        if not take_look_back(connection, application.id, finding):
            raise NotFound("Nobody said that they looked at this.")
        title = row["title"] if row is not None else finding
        if row is not None and row["state"] == "closed":
            set_step_state(connection, row["id"], "open", "", None)
            renew_live(connection, application.id)
        add_event(connection, _look_event(context, application, title, who, "look taken back", ""))


def _look_event(context: Context, application: Application, title: str, who: str, what: str, note: str) -> Event:
    return Event(at=context.stamp, who=who, application=application.id, subject=f"step {title}", what=what, after=note)
