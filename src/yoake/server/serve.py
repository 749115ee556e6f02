"""Start the server in the foreground."""

from __future__ import annotations

import structlog
import uvicorn

from yoake.core.errors import YoakeError
from yoake.runner.home import Home
from yoake.server.app import create_app
from yoake.work.office import open_office
from yoake.work.queue import Queue

log = structlog.get_logger()


def run_server(home: Home, host: str, port: int) -> None:
    """Serve until stopped. Raises YoakeError when the port is taken."""
    office = open_office(home)
    office.knowledge.digest  # noqa: B018  knowledge that breaks its format must stop the start, with its faults
    app = create_app(office, Queue(office))
    config = uvicorn.Config(app, host=host, port=port, log_level="warning", access_log=False, timeout_graceful_shutdown=3)
    log.info("serving", address=f"http://{host}:{port}/", home=str(home.folder))
    try:
        uvicorn.Server(config).run()
    except SystemExit as error:
        raise YoakeError(f"Port {port} cannot be used; another program may listen there. Set YOAKE_PORT to another one.") from error
