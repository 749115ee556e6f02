"""Reports of checks that ran on another machine: SARIF with the commit that was looked at, kept for a stage."""

from __future__ import annotations

from yoake.context.context import Context
from yoake.core.values.checks import CheckReport
from yoake.core.values.plans import stage_key
from yoake.formats.sarif_reports import read_sarif
from yoake.store.applications import get_application
from yoake.store.check_reports import StoredReport, put_report
from yoake.store.events import Event, add_event
from yoake.usecases.commit_identity import commit_identity
from yoake.views.plan_stages import stage_of


def bring_report(
    context: Context, slug: str, stage_number: int, commit: str, data: bytes, machine: str, who: str
) -> list[CheckReport]:
    """Keep what other tools found at a commit, on the lines of a stage (0: of today). Raises NotFound and BadInput."""
    identity = commit_identity(commit)
    application = get_application(context.db, slug)
    _, stage = stage_of(context, application, stage_number)
    named = {t.coordinate for t in application.destination.targets}
    key = stage_key(stage, named) if stage is not None else ""
    reports = read_sarif(data, "the report")
    with context.db.write() as connection:
        for report in reports:
            stored = StoredReport(
                stage_key=key, identity=identity, machine=machine, at=context.stamp, who=who, report=report
            )
            put_report(connection, application.id, stored)
            event = Event(
                at=context.stamp,
                who=who,
                application=application.id,
                subject=f"report of {report.tool}",
                what="taken in",
                after=f"{report.errors} errors at {commit[:10]}",
            )
            add_event(connection, event)
    return reports
