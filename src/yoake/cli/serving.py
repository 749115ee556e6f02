"""``yoake serve`` and ``yoake demo``."""

from __future__ import annotations

import os
import subprocess
import sys
import webbrowser
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Final

import typer

from yoake.runner.home import Home, default_home
from yoake.server.app import create_app
from yoake.server.serve import Parts, run_server
from yoake.server.standing_watch import standing_watch
from yoake.shipped import KIT
from yoake.usecases.jobs import JOBS
from yoake.usecases.make_demo import make_demo

PARTS: Final = Parts(KIT, JOBS, create_app, standing_watch)
"""What the server of the command line is put together from."""


def serve(
    host: Annotated[str, typer.Option(help="Address to listen on; loopback unless told otherwise.")] = "127.0.0.1",
    port: Annotated[int, typer.Option(envvar="YOAKE_PORT", help="Port to listen on.")] = 8710,
    open_: Annotated[bool, typer.Option("--open", help="Open a browser.")] = False,
    sign_in: Annotated[
        bool,
        typer.Option(
            "--sign-in", envvar="YOAKE_SIGN_IN", help="Ask everybody to sign in; so it is once there is an account."
        ),
    ] = False,
    open_to_all: Annotated[
        bool,
        typer.Option("--open-to-all", help="Serve others without sign-in: only on a network that you trust wholly."),
    ] = False,
) -> None:
    """Serve the interface for the records under YOAKE_HOME."""
    if open_:
        webbrowser.open(f"http://{host}:{port}/")
    run_server(PARTS, default_home(), host, port, sign_in=sign_in, open_to_all=open_to_all)


def demo(
    port: Annotated[int, typer.Option(envvar="YOAKE_PORT", help="Port to listen on.")] = 8710,
    build_only: Annotated[bool, typer.Option(help="Make and scan the demo portfolio, then end.")] = False,
) -> None:
    """Make the demo portfolio (Harrowmere Ferries), scan it, and serve it."""

    home = default_home() if os.environ.get("YOAKE_HOME") else Home(Path.cwd() / ".yoake")
    make_demo(home, KIT, typer.echo, datetime.now(UTC))
    if build_only:
        return
    with _sides(home, port + 1):
        run_server(PARTS, home, "127.0.0.1", port)


@contextmanager
def _sides(home: Home, port: int) -> Iterator[None]:
    """Both sides of the desk at the quay and the gateway between them, as long as the demo runs. They end when this program does, however
    it ends: their input closes with it."""
    command = [sys.executable, "-m", "yoake.demo.sides", str(home.folder), str(port)]
    sides = subprocess.Popen(command, stdin=subprocess.PIPE)
    try:
        yield
    finally:
        if sides.stdin is not None:
            sides.stdin.close()
        sides.wait(10)


def register(app: typer.Typer) -> None:
    """Add the commands."""
    app.command()(serve)
    app.command()(demo)
