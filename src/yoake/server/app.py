"""The application: routes, errors, and the built interface."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from importlib.resources import files
from pathlib import Path

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse, Response
from fastapi.staticfiles import StaticFiles

from yoake import __version__
from yoake.core.errors import BadInput, Conflict, NotFound, YoakeError
from yoake.server.routers import applications, intake, jobs, knowledge, paths, reports, work
from yoake.work.office import Office
from yoake.work.queue import Queue

log = structlog.get_logger()


def create_app(office: Office, queue: Queue) -> FastAPI:
    """The web application over one office. The queue runs while the application does."""

    @asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        queue.start()
        yield
        queue.close()
        office.db.close()

    app = FastAPI(title="Yoake", version=__version__, lifespan=lifespan, docs_url=None, redoc_url=None)
    app.state.office, app.state.queue = office, queue
    for module in (applications, paths, intake, jobs, knowledge, reports, work):
        app.include_router(module.router, prefix="/api")
    _errors(app)
    _interface(app)
    return app


def _errors(app: FastAPI) -> None:
    @app.exception_handler(YoakeError)
    async def told(_request: Request, error: YoakeError) -> JSONResponse:
        status = 404 if isinstance(error, NotFound) else 409 if isinstance(error, Conflict) else 422
        faults = list(error.faults) if isinstance(error, BadInput) else [str(error)]
        return JSONResponse({"problem": str(error), "faults": faults}, status_code=status)

    @app.exception_handler(RequestValidationError)
    async def malformed(_request: Request, error: RequestValidationError) -> JSONResponse:
        faults = [f"{'.'.join(str(part) for part in e['loc'][1:])}: {e['msg']}" for e in error.errors()]
        return JSONResponse({"problem": f"The request cannot be read: {faults[0]}", "faults": faults}, status_code=422)

    @app.exception_handler(Exception)
    async def unexpected(request: Request, error: Exception) -> JSONResponse:
        log.exception("request failed", path=request.url.path, exc_info=error)
        problem = f"Something unexpected happened ({type(error).__name__}). Nothing stored was changed; the server log has the details."
        return JSONResponse({"problem": problem, "faults": [problem]}, status_code=500)


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
