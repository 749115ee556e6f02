"""Start the server in the foreground."""

from __future__ import annotations

import structlog
import uvicorn
from fastapi import FastAPI

from yoake.core.coordinates import NODE, PYTHON
from yoake.core.errors import YoakeError
from yoake.runner.home import Home, default_home
from yoake.server.app import create_app
from yoake.work.office import Office, open_office
from yoake.work.queue import Queue

log = structlog.get_logger()


def run_server(home: Home, host: str, port: int) -> None:
    """Serve until stopped. Raises YoakeError when the port is taken."""
    office = open_office(home)
    warm(office)  # knowledge that breaks its format must stop the start, with its faults
    app = create_app(office, Queue(office))
    config = uvicorn.Config(
        app, host=host, port=port, log_level="warning", access_log=False, timeout_graceful_shutdown=3
    )
    log.info("serving", address=f"http://{host}:{port}/", home=str(home.folder))
    try:
        uvicorn.Server(config).run()
    except SystemExit as error:
        raise YoakeError(
            f"Port {port} cannot be used; another program may listen there. Set YOAKE_PORT to another one."
        ) from error


def warm(office: Office) -> None:
    """Read the knowledge that nearly every scan needs, so that the first does not wait for it. Raises BadKnowledge."""
    for purl in (PYTHON.purl, NODE.purl):
        len(office.knowledge.timelines[purl].symbols)


def development() -> FastAPI:
    """The application for a reloading server; the home comes from the environment."""
    office = open_office(default_home())
    return create_app(office, Queue(office))
