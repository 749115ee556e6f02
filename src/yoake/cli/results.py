"""``yoake results``: what a build found goes to the server that proves stages with it."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any

import httpx2
import typer

from yoake.core.values.errors import BadInput, Conflict
from yoake.server.address import API

_SECONDS = 120.0


def results(
    application: Annotated[str, typer.Argument(help="The application, as its address names it.")],
    commit: Annotated[str, typer.Option(help="The commit that ran.")],
    new: Annotated[Path | None, typer.Option("--new", help="JUnit XML of the tests on the lines of the stage.")] = None,
    report: Annotated[
        Path | None, typer.Option("--report", help="SARIF of another check on the lines of the stage.")
    ] = None,
    old: Annotated[
        Path | None,
        typer.Option("--old", help="JUnit XML of the same tests on the lines before the stage; a stage needs it."),
    ] = None,
    stage: Annotated[int, typer.Option(help="The number of the stage; 0 for today's lines.", min=0)] = 0,
    machine: Annotated[str, typer.Option(help="Where they ran, in words.")] = "another machine",
    server: Annotated[str, typer.Option(envvar="YOAKE_SERVER", help="The server.")] = "http://127.0.0.1:8710",
    token: Annotated[str, typer.Option(envvar="YOAKE_TOKEN", help="A token with the scope write.")] = "",
) -> None:
    """Send results of tests and reports of checks that ran on this machine. Exit 0 when none breaks, 1 when one does, 2 when they were not taken."""
    if new is None and report is None:
        raise BadInput("There is nothing to send: name results with --new, or a report with --report.")
    headers = {"Authorization": f"Bearer {token}"} if token else {}
    data = {"commit": commit, "stage": str(stage), "machine": machine}
    address = f"{server.rstrip('/')}{API}/applications/{application}"
    broken = False
    if new is not None:
        files = {"new": _read(new)} | ({"old": _read(old)} if old is not None else {})
        body = _sent(f"{address}/results", files, data, headers)
        typer.echo(", ".join(f"{verdict}: {count}" for verdict, count in sorted(body.items())))
        broken = bool(body.get("breaks"))
    if report is not None:
        for taken in _sent(f"{address}/reports", {"report": _read(report)}, data, headers):
            typer.echo(
                f"{taken['tool']}: errors {taken['errors']}, warnings {taken['warnings']}, notes {taken['notes']}"
            )
            broken = broken or bool(taken["errors"])
    raise typer.Exit(1 if broken else 0)


def _sent(address: str, files: dict[str, tuple[str, bytes, str]], data: dict[str, str], headers: dict[str, str]) -> Any:
    """What the server says of it. Raises Conflict where it takes it not."""
    server = address.partition(API)[0]
    try:
        answer = httpx2.post(address, files=files, data=data, headers=headers, timeout=_SECONDS)
    except httpx2.HTTPError as error:
        raise Conflict(f"{server} does not take them: {error}. YOAKE_SERVER names another server.") from error
    try:
        body = answer.json()
    except json.JSONDecodeError:
        body = {}
    if answer.status_code != 201:
        raise Conflict(str(body.get("problem", f"{server} answered {answer.status_code}.")))
    return body


def _read(path: Path) -> tuple[str, bytes, str]:
    try:
        return (path.name, path.read_bytes(), "application/octet-stream")
    except OSError as error:
        raise BadInput(f"{path} cannot be read: {error.strerror}.") from error


def register(app: typer.Typer) -> None:
    """Add the command."""
    app.command()(results)
