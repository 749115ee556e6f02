"""What the routes take from the application."""

from __future__ import annotations

from typing import Annotated
from urllib.parse import unquote

from fastapi import Depends, Header, Request

from yoake.work.office import Office
from yoake.work.queue import Queue


def _office(request: Request) -> Office:
    office: Office = request.app.state.office
    return office


def _queue(request: Request) -> Queue:
    queue: Queue = request.app.state.queue
    return queue


def _who(x_yoake_who: Annotated[str, Header()] = "") -> str:
    """The name chosen in the top bar; headers carry it percent-encoded."""
    return unquote(x_yoake_who)[:80]


OfficeDep = Annotated[Office, Depends(_office)]
QueueDep = Annotated[Queue, Depends(_queue)]
Who = Annotated[str, Depends(_who)]
