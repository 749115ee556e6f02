"""``yoake waivers``: what was accepted on purpose, as a file for builds."""

from __future__ import annotations

import sys
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated

import typer

from yoake.context.context import open_context
from yoake.core.values.errors import BadSource
from yoake.runner.answers import write_whole
from yoake.runner.home import default_home
from yoake.shipped import KIT
from yoake.views.waivers import waivers_file


def export(
    application: Annotated[str, typer.Argument(help="The application, as its address names it.")],
    output: Annotated[Path | None, typer.Option("-o", "--output", help="Write to this file.")] = None,
) -> None:
    """Write the waivers of an application that have not run out, for “yoake scan --waivers” and “yoake ratchet --waivers”."""
    home = default_home()
    if not home.records.is_file():
        raise BadSource(f"There are no records in {home.folder}. YOAKE_HOME names another folder.")
    context = open_context(home, KIT, lambda: datetime.now(UTC))
    try:
        shown = waivers_file(context, application)
    finally:
        context.db.close()
    if output is not None:
        write_whole(output, shown)
    else:
        sys.stdout.write(shown)


def register(app: typer.Typer) -> None:
    """Add the commands."""
    waivers = typer.Typer(no_args_is_help=True, help="What was accepted on purpose.")
    waivers.command("export")(export)

    @waivers.callback()
    def group() -> None:
        """What was accepted on purpose."""

    app.add_typer(waivers, name="waivers")
