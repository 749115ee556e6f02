"""Stages of the plan that the newest scan keeps."""

from __future__ import annotations

from yoake.context.context import Context
from yoake.core.values.errors import BadInput, NotFound
from yoake.core.values.plans import Stage
from yoake.store.applications import Application
from yoake.store.scans import StoredScan, latest_scan


def stage_of(context: Context, application: Application, number: int) -> tuple[StoredScan, Stage | None]:
    """The newest scan and a stage of its plan, None for 0: today. Raises NotFound and BadInput."""
    scan = latest_scan(context.db, application.id, application.destination.id)
    if scan is None:
        raise NotFound(f"{application.name} was not scanned yet: scan it first.")
    if number == 0:
        return scan, None
    stage = next((s for s in scan.plan.stages if s.number == number), None)
    if stage is None:
        raise BadInput(f"The plan of {application.name} has no stage {number}.")
    return scan, stage
