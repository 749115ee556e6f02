"""Routes for whoever watches the server: whether it can be used, and figures."""

from __future__ import annotations

from typing import Literal

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel

from yoake import __version__
from yoake.core.values.errors import BadRecords
from yoake.server.deps import ContextDep, QueueDep
from yoake.server.metrics import Metrics
from yoake.store.applications import count_applications

router = APIRouter(tags=["health"])
figures = APIRouter(tags=["health"])


class QueueHealth(BaseModel):
    """Whether jobs are taken: ``stuck`` when some wait and a thread that takes them has ended."""

    state: Literal["idle", "working", "stuck"]
    waiting: int
    running: int
    failed: int
    threads: int
    beside: int


class Health(BaseModel):
    """Whether it can be used. ``records`` is the state of the database in a word or a sentence."""

    status: Literal["ok", "failing"]
    version: str
    records: str
    queue: QueueHealth


@router.get("/health")
def health(context: ContextDep, queue: QueueDep, response: Response) -> Health:
    """The state of the records and of the queue; 503 when either fails."""
    try:
        count_applications(context.db)
        records = "ok"
        now = queue.state()
        stuck = now.threads < now.beside
        state: Literal["idle", "working", "stuck"] = (
            "stuck" if stuck else "working" if now.running or now.waiting else "idle"
        )
        held = QueueHealth(
            state=state,
            waiting=now.waiting,
            running=now.running,
            failed=now.failed,
            threads=now.threads,
            beside=now.beside,
        )
    except BadRecords as error:
        records = str(error)
        held = QueueHealth(state="stuck", waiting=0, running=0, failed=0, threads=0, beside=queue.beside)
    well = records == "ok" and held.state != "stuck"
    if not well:
        response.status_code = 503
    return Health(status="ok" if well else "failing", version=__version__, records=records, queue=held)


@figures.get("/metrics", response_class=Response)
def metrics(request: Request, context: ContextDep, queue: QueueDep) -> Response:
    """Figures in the OpenMetrics text form."""
    held: Metrics = request.app.state.metrics
    return Response(held.text(context, queue), media_type=Metrics.media)
