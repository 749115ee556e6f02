"""A scan as a task, and what is kept of it as people decided by then."""

from __future__ import annotations

from typing import Final

from yoake.context.context import Context
from yoake.store.adopted_paths import adopted_paths
from yoake.store.applications import Application, said_lines
from yoake.store.crossings import slices_of
from yoake.store.scans import latest_scan
from yoake.store.waivers import live_waivers
from yoake.usecases.keep_scan import keep
from yoake.usecases.replan import replan
from yoake.usecases.scan_record import ScanRecord, ScanTask

UNCHANGED: Final = "unchanged since the last scan"


def task_of(context: Context, application: Application, workers: int | None = None) -> ScanTask:
    """A scan of one application for its current destination, as a task."""
    latest = latest_scan(context.db, application.id, application.destination.id)
    adopted = adopted_paths(context.db, application.id, application.destination.id)
    return ScanTask(
        home=context.home.folder,
        name=application.name,
        source=application.source,
        targets=application.destination.targets,
        said=tuple(said_lines(context.db, application.id)),
        waived=frozenset(live_waivers(context.db, application.id, context.today)),
        adopted=adopted,
        days_per_week=application.days_per_week,
        today=context.today,
        last=(latest.snapshot, latest.knowledge) if latest is not None else None,
        allowed=context.allowed,
        workers=workers,
        slices={each.name: each.routes for each in slices_of(context.db, application.id)},
    )


def keep_as_decided(context: Context, application: Application, record: ScanRecord) -> None:
    """Store a scan; where people decided otherwise while it ran, the plan follows them."""
    keep(context, application, record)
    now = task_of(context, application)
    if now.waived != record.waived or now.adopted != record.adopted:
        replan(context, application)
