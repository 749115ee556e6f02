"""``yoake backup`` and ``yoake check``: copy the records, and say whether they are sound."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated

import typer

from yoake.runner.home import default_home
from yoake.store.database import back_up, check

_UNSOUND = 1


def backup(
    output: Annotated[
        Path | None, typer.Option("-o", "--output", help="Write to this file; below “backups” when left out.")
    ] = None,
) -> None:
    """Copy the records to one file, also while Yoake is running. Uploads and your knowledge folder are files beside them."""
    home = default_home()
    into = output or home.folder / "backups" / f"records-{datetime.now(UTC):%Y%m%d-%H%M%S}.sqlite"
    back_up(home.records, into)
    typer.echo(f"{into}: {into.stat().st_size:,} bytes")


def check_command(
    file: Annotated[
        Path | None, typer.Argument(help="A file of records or a backup; your records when left out.")
    ] = None,
) -> None:
    """Read the records whole and say whether they are sound, with the backups that are. Exit 0 sound, 1 not."""
    home = default_home()
    found = check(file or home.records)
    typer.echo(f"{found.path}: {'sound, schema ' + str(found.schema) if not found.faults else 'not sound'}")
    for fault in found.faults:
        typer.echo(f"  {fault}")
    if file is None:
        for path in sorted((home.folder / "backups").glob("*.sqlite"), reverse=True):
            held = check(path)
            typer.echo(f"{path}: {'sound, schema ' + str(held.schema) if not held.faults else held.faults[0]}")
    raise typer.Exit(_UNSOUND if found.faults else 0)


def register(app: typer.Typer) -> None:
    """Add the commands."""
    app.command()(backup)
    app.command("check")(check_command)
