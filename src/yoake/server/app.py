"""The application: routes, errors, and the built interface."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from functools import cache
from importlib.resources import files
from pathlib import Path
from typing import Any, Final

from fastapi import APIRouter, Depends, FastAPI, Request
from fastapi.encoders import jsonable_encoder
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.routing import BaseRoute

from yoake import __version__
from yoake.context.context import Context
from yoake.core.values.errors import (
    BadInput,
    BadRecords,
    Conflict,
    InUse,
    NotAllowed,
    NotFound,
    NotSignedIn,
    Outdated,
    TooLarge,
    YoakeError,
)
from yoake.server.address import API
from yoake.server.bodies import Problem
from yoake.server.guard import Guard, Reach
from yoake.server.metrics import Metrics
from yoake.server.people import SignIn, permitted
from yoake.server.routers import (
    applications,
    crossing,
    edits,
    health,
    intake,
    jobs,
    knowledge,
    paths,
    people,
    proof,
    reports,
    session,
    watch,
    waves,
    work,
)
from yoake.usecases.queue import Queue
from yoake.views.stage_dates import stage_dates

_STATUSES: Final = (
    (NotFound, 404),
    (NotSignedIn, 401),
    (NotAllowed, 403),
    (Conflict, 409),
    (InUse, 409),
    (BadRecords, 503),
    (TooLarge, 422),
)
"""What an error is in HTTP; whatever is not listed is the request's fault (422)."""


_PROBLEMS: Final[dict[int | str, dict[str, Any]]] = {
    401: {"model": Problem, "description": "Nobody is signed in."},
    403: {"model": Problem, "description": "The role does not allow it, or the request comes from another site."},
    404: {"model": Problem, "description": "There is no such thing."},
    409: {"model": Problem, "description": "The state of things does not allow it."},
    413: {"model": Problem, "description": "The request is too large."},
    421: {"model": Problem, "description": "This is no address of this server."},
    422: {"model": Problem, "description": "The request cannot be what was meant."},
    503: {"model": Problem, "description": "The records cannot be read or written now."},
}
_MOST_FAULTS: Final = 50


def create_app(context: Context, queue: Queue, reach: Reach | None = None, sign_in: SignIn | None = None) -> FastAPI:
    """The web application over one context. The queue runs while the application does."""
    metrics = Metrics()
    context.db.tap = metrics.tap
    context.dates = stage_dates

    @asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        await asyncio.to_thread(queue.start)
        yield
        await asyncio.to_thread(queue.close)
        await asyncio.to_thread(context.db.close)

    app = FastAPI(title="Yoake", version=__version__, lifespan=lifespan, docs_url=None, redoc_url=None)
    app.state.context, app.state.queue, app.state.metrics = context, queue, metrics
    app.state.sign_in = sign_in or SignIn()
    app.router.routes.extend(_routes())
    _errors(app)
    _interface(app)
    app.add_middleware(GZipMiddleware, minimum_size=1_000, compresslevel=5)
    app.add_middleware(Guard, reach=reach or Reach(), metrics=metrics)
    return app


@cache
def _routes() -> tuple[BaseRoute, ...]:
    """The routes of the API, put together once: they know nothing of the application that they belong to."""
    made = APIRouter()
    for module in (
        applications,
        paths,
        edits,
        proof,
        crossing,
        intake,
        jobs,
        knowledge,
        watch,
        reports,
        work,
        waves,
        people,
    ):
        made.include_router(module.router, prefix=API, dependencies=[Depends(permitted)], responses=_PROBLEMS)
    made.include_router(health.figures, prefix=API, dependencies=[Depends(permitted)], responses=_PROBLEMS)
    for open_router in (session.router, health.router):
        made.include_router(open_router, prefix=API, responses=_PROBLEMS)
    return tuple(made.routes)


def _errors(app: FastAPI) -> None:
    @app.exception_handler(YoakeError)
    async def told(_request: Request, error: YoakeError) -> JSONResponse:
        status = next((code for kind, code in _STATUSES if isinstance(error, kind)), 422)
        faults = list(error.faults) if isinstance(error, BadInput) else [str(error)]
        more = {"current": jsonable_encoder(error.current)} if isinstance(error, Outdated) else {}
        return JSONResponse({"problem": str(error), "faults": faults, **more}, status_code=status)

    @app.exception_handler(RequestValidationError)
    async def malformed(_request: Request, error: RequestValidationError) -> JSONResponse:
        faults = [
            _plain(f"{'.'.join(str(part) for part in e['loc'][1:])}: {e['msg']}") for e in error.errors()[:_MOST_FAULTS]
        ]
        return JSONResponse({"problem": f"The request cannot be read: {faults[0]}", "faults": faults}, status_code=422)

    @app.exception_handler(HTTPException)
    async def refused(_request: Request, error: HTTPException) -> JSONResponse:
        problem = _plain(str(error.detail))
        status = (
            422 if error.status_code == 400 else error.status_code
        )  # a body that cannot be read is one that is malformed
        return JSONResponse({"problem": problem, "faults": [problem]}, status_code=status, headers=error.headers)


def _plain(text: str) -> str:
    """Text that can be sent, whatever a client wrote."""
    return text.encode("utf-8", "replace").decode()[:300]


def interface_folder() -> Path:
    """Where the built interface lies inside the package."""
    return Path(str(files("yoake") / "web"))


def _interface(app: FastAPI) -> None:
    folder = interface_folder()
    app.mount("/assets", StaticFiles(directory=folder / "assets", check_dir=False), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    async def page(path: str) -> Response:
        if path.startswith("api/"):
            return JSONResponse({"problem": f"There is no “/{path}”.", "faults": []}, status_code=404)
        if path == "favicon.svg" and (folder / path).is_file():
            return FileResponse(folder / path)
        if not (folder / "index.html").is_file():
            return JSONResponse(
                {"problem": "The interface is not built. Run “make setup”.", "faults": []}, status_code=503
            )
        return FileResponse(folder / "index.html", headers={"Cache-Control": "no-cache"})
