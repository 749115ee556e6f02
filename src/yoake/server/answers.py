"""How views go back: a few are made at a time, each is written as JSON and packed in the thread that made it, and the loop that
serves everybody only hands them on.

Threads of this language take turns. Where eight make views at once, each waits for the others at every row that it reads, and all of
them are late; where two do, the others wait once, and all are done sooner.
"""

from __future__ import annotations

import gzip
import inspect
from collections.abc import Callable, Coroutine
from contextvars import ContextVar
from functools import partial
from typing import Any, Final, TypeVar, get_args, get_type_hints

import anyio
from anyio import CapacityLimiter, to_thread
from anyio.lowlevel import RunVar
from fastapi import APIRouter, Response
from fastapi.routing import APIRoute
from pydantic import TypeAdapter

T = TypeVar("T")

TAKES_GZIP: Final[ContextVar[bool]] = ContextVar("takes_gzip", default=False)
"""Whether who asks takes packed answers; set for each request before its route runs."""
_PACKED_FROM: Final = 1_000  # bytes
_LEVEL: Final = 5
_AT_ONCE: Final = 2  # views that are made at a time
_PATIENCE: Final = 0.1  # seconds after which a view is made beside them: two that take long hold up nobody


_limiters: Final[RunVar[CapacityLimiter]] = RunVar("views made at a time")


async def take_turn(work: Callable[[], T]) -> T:
    """Do some work in a thread when it is its turn, or when it has waited long enough."""
    limiter = _limiters.get(None)
    if limiter is None:
        limiter = CapacityLimiter(_AT_ONCE)
        _limiters.set(limiter)
    held = False
    with anyio.move_on_after(_PATIENCE):
        await limiter.acquire()
        held = True
    try:
        return await to_thread.run_sync(work)
    finally:
        if held:
            limiter.release()


class ViewRoute(APIRoute):
    """A route whose view is written where it is made: what views return is checked by their types, and need not be checked again.

    What answers with something else than a view, or keeps it packed, only waits for its turn.
    """

    def __init__(self, path: str, endpoint: Callable[..., Any], **settings: Any) -> None:
        hints = get_type_hints(endpoint, include_extras=True)
        view = hints.get("return")
        reads = settings.get("methods") in (["GET"], {"GET"})
        raw = any(inspect.isclass(part) and issubclass(part, Response) for part in (view, *get_args(view)))
        if reads and view is not None and not inspect.iscoroutinefunction(endpoint):
            if not raw:
                settings["response_model"] = view
            endpoint = _in_turn(endpoint, hints, None if raw else TypeAdapter(view))
        super().__init__(path, endpoint, **settings)


def _in_turn(
    endpoint: Callable[..., Any], hints: dict[str, Any], adapter: TypeAdapter[Any] | None
) -> Callable[..., Coroutine[Any, Any, Any]]:
    """An endpoint with the same name, words and parameters that answers with the view as it is sent, or with what it makes itself."""

    async def answered(**given: Any) -> object:
        make = partial(endpoint, **given)
        return await take_turn(make if adapter is None else partial(_written, make, adapter))

    named = inspect.signature(endpoint).parameters.values()
    answered.__name__, answered.__doc__ = endpoint.__name__, endpoint.__doc__
    answered.__signature__ = inspect.Signature([p.replace(annotation=hints[p.name]) for p in named])  # type: ignore[attr-defined]
    return answered


def _written(make: Callable[[], object], adapter: TypeAdapter[Any]) -> Response:
    body = adapter.dump_json(make())
    if len(body) < _PACKED_FROM or not TAKES_GZIP.get():
        return Response(body, media_type="application/json")
    packed = gzip.compress(body, _LEVEL, mtime=0)
    return Response(
        packed, media_type="application/json", headers={"Content-Encoding": "gzip", "Vary": "Accept-Encoding"}
    )


def view_router(**settings: Any) -> APIRouter:
    """A router of such routes."""
    return APIRouter(route_class=ViewRoute, **settings)
