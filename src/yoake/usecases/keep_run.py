"""Keep what comes of a run."""

from __future__ import annotations

from yoake.context.context import Context
from yoake.core.values.runs import Run, RunOutcome
from yoake.store.applications import Application
from yoake.store.events import Event, add_event
from yoake.store.runs import (
    RunRequest,
    keep_run,
)


def keep_outcome(
    context: Context, application: Application, request: RunRequest, outcome: RunOutcome, scanned: str, who: str
) -> str:
    """Keep what came of a run; returns it in words. ``scanned``: what the newest scan had read when the run began, which is taken for what ran
    where that is no commit."""
    problem = problem_of(outcome)
    ran = outcome.old[-1].identity
    content = ran if ran.startswith("commit:") else scanned
    with context.db.write() as connection:
        keep_run(
            connection=connection,
            application_id=application.id,
            destination_id=application.destination.id,
            request=request,
            outcome=outcome,
            content=content,
            problem=problem,
            who=who,
            at=context.stamp,
        )
        what = f"stage {request.stage}" if request.stage else "today"
        event = Event(
            at=context.stamp,
            who=who,
            application=application.id,
            subject="runs",
            what="ran",
            after=f"{what}: {problem or 'done'}",
        )
        add_event(connection, event)
    return problem


def problem_of(outcome: RunOutcome) -> str:
    """Why a run gave no answer about tests; empty where it gave one."""
    last: list[Run] = [outcome.old[-1], *outcome.new[-1:]]
    for run in last:
        if run.ended in ("refused", "cut"):
            return f"{run.side.label}: {run.said}"
    return ""
