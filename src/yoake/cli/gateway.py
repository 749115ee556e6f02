"""``yoake gateway``: stands between callers and the two sides, or writes the same rules for nginx."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from yoake.core.values.errors import BadInput
from yoake.formats.crossing_rules import read_rules
from yoake.formats.nginx import nginx_configuration
from yoake.runner.answers import write_whole
from yoake.runner.gateway.serving import serve_gateway


def gateway(
    rules: Annotated[Path, typer.Argument(help="The file of rules; docs/crossing.md describes it.")],
    port: Annotated[int, typer.Option(help="Where it answers.", min=1, max=65535)] = 8700,
    host: Annotated[str, typer.Option(help="The address it listens on.")] = "127.0.0.1",
    nginx: Annotated[
        Path | None, typer.Option(help="Write a configuration for nginx to this file, and start nothing.")
    ] = None,
) -> None:
    """Answer every route from the side on which it stands. Rules are read again when their file changes."""
    if nginx is None:
        serve_gateway(rules, host, port)
        return
    try:
        text = rules.read_text("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise BadInput(f"The rules {rules} cannot be read: {error}.") from error
    write_whole(nginx, nginx_configuration(read_rules(text), port))
    typer.echo(f"Written to {nginx}. Check it with nginx -t before it is loaded.")


def register(app: typer.Typer) -> None:
    """Add the command."""
    app.command()(gateway)
