"""Scan one application for its current destination, as people decided by now."""

from __future__ import annotations

from yoake.context.context import Context
from yoake.runner.extraction import Extractor
from yoake.store.applications import application_by_id
from yoake.usecases.progress import Control
from yoake.usecases.scan_task import scan_as_told
from yoake.usecases.scan_tasks import UNCHANGED, keep_as_decided, task_of


def scan_application(context: Context, application_id: int, extractor: Extractor, control: Control) -> str:
    """Scan one application in this process, for its current destination; returns a word on what came of it."""
    application = application_by_id(context.db, application_id)
    record = scan_as_told(task_of(context, application), context.knowledge, extractor, control)
    if record is None:
        return UNCHANGED
    keep_as_decided(context, application, record)
    return ""
