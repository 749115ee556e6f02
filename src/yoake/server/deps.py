"""What the routes take from the application."""

from __future__ import annotations

from typing import Annotated, Final

from fastapi import Depends, Path, Query, Request

from yoake.context.context import Context
from yoake.server.people import PersonDep
from yoake.usecases.queue import Queue


# what only hands something over is ``async``: it then costs no thread of its own, and many ask at once
async def _context(request: Request) -> Context:
    context: Context = request.app.state.context
    return context


async def _queue(request: Request) -> Queue:
    queue: Queue = request.app.state.queue
    return queue


async def _who(person: PersonDep) -> str:
    """The name under which events are told."""
    return person.name


_LARGEST: Final = 2**63 - 1  # what the records can number

Number = Annotated[int, Path(ge=1, le=_LARGEST)]
Slug = Annotated[str, Path(min_length=1, max_length=120, pattern=r"^[a-z0-9][a-z0-9-]*$")]
Offset = Annotated[int, Query(ge=0, le=10_000_000, description="Rows before the window.")]
Limit = Annotated[int, Query(ge=1, le=200, description="Rows of the window.")]
VersionSeen = Annotated[
    int | None, Query(ge=0, le=_LARGEST, description="The version that was seen; another one is a conflict.")
]
ContextDep = Annotated[Context, Depends(_context)]
QueueDep = Annotated[Queue, Depends(_queue)]
Who = Annotated[str, Depends(_who)]
