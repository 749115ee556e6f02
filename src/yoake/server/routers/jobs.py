"""Routes of jobs: a list, a live stream, a stop."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator
from dataclasses import dataclass
from typing import Final

from fastapi import Request, Response
from sse_starlette.sse import EventSourceResponse

from yoake.context.context import Context
from yoake.core.values.coordinates import Coordinate
from yoake.core.values.words import JobState
from yoake.server.answers import view_router
from yoake.server.deps import ContextDep, Number, QueueDep
from yoake.store.database import Row
from yoake.store.jobs import recent_jobs
from yoake.usecases.queue import Queue

router = view_router(prefix="/jobs", tags=["jobs"])
_LOOK_EVERY: Final = 0.2  # seconds between two looks at the queue's version


@dataclass(frozen=True, slots=True, kw_only=True)
class JobView:
    """One scan that was asked for, with its progress while it runs; ``left`` is seconds."""

    id: int
    application: str
    slug: str
    state: JobState
    problem: str
    asked_at: str
    phase: str
    done: int
    total: int
    rate: float
    left: float | None


def job_views(context: Context, queue: Queue) -> list[JobView]:
    """Unfinished jobs and the newest finished ones."""
    views = []
    for row in recent_jobs(context.db):
        at = queue.progress.get(row["id"], {})
        views.append(
            JobView(
                id=row["id"],
                application=_about(row),
                slug=row["slug"] or "",
                state=row["state"],
                problem=row["problem"],
                asked_at=row["asked_at"],
                phase=at.get("phase", ""),
                done=at.get("done", 0),
                total=at.get("total", 0),
                rate=at.get("rate", 0.0),
                left=at.get("left"),
            )
        )
    return views


def _about(row: Row) -> str:
    """What a job is about: an application, a library, or the portfolio."""
    if row["kind"] == "waves":
        return "the portfolio"
    return row["application"] or (Coordinate(row["subject"]).short if row["subject"] else "")


@router.get("")
def get_jobs(context: ContextDep, queue: QueueDep) -> list[JobView]:
    """Unfinished jobs and the newest finished ones."""
    return job_views(context, queue)


@router.post("/{number}/stop", status_code=204)
def stop_job(number: Number, queue: QueueDep) -> Response:
    """Stop a scan that waits or runs."""
    queue.stop(number)
    return Response(status_code=204)


@router.get("/stream", response_class=EventSourceResponse)
async def stream_jobs(request: Request, context: ContextDep, queue: QueueDep) -> EventSourceResponse:
    """The list of jobs, sent again whenever something changed."""

    async def events() -> AsyncIterator[dict[str, str]]:
        seen = -1
        while not queue.closing and not await request.is_disconnected():
            if queue.version != seen:
                seen = queue.version
                views = await asyncio.to_thread(job_views, context, queue)
                yield {"event": "jobs", "data": json.dumps([_plain(view) for view in views])}
            await asyncio.sleep(_LOOK_EVERY)

    return EventSourceResponse(events(), ping=15)


def _plain(view: JobView) -> dict[str, object]:
    return {name: getattr(view, name) for name in JobView.__slots__}
