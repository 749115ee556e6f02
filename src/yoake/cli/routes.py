"""``yoake routes``: what an application answers to, and how often it is asked."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Annotated, Literal

import typer

from yoake.cli.source import kind_here
from yoake.formats.route_listing import listing, listing_text
from yoake.runner.home import default_home
from yoake.shipped import KIT
from yoake.store.applications import Source
from yoake.usecases.find_routes import count_traffic, documented_routes, find_routes, with_documented
from yoake.usecases.sources import open_snapshot


def routes(
    path: Annotated[str, typer.Argument(help="A folder, a git address, or an archive.")],
    openapi: Annotated[
        list[Path] | None, typer.Option(help="An OpenAPI 3 document; may be given more than once.")
    ] = None,
    logs: Annotated[
        list[Path] | None,
        typer.Option(help="An access log, packed or not: Common, Combined or JSON lines; may be given more than once."),
    ] = None,
    ref: Annotated[str, typer.Option(help="A branch, tag or commit of a repository.")] = "",
    format_: Annotated[Literal["text", "json"], typer.Option("--format", help="How to write it.")] = "text",
) -> None:
    """List the routes of an application: method, path, what answers and where it stands, and how often it is called."""
    home = default_home()
    source = Source(kind=kind_here(path, ref), location=path, ref=ref)
    snapshot = open_snapshot(source, home)
    try:
        found = find_routes(snapshot, KIT.ecosystems)
    finally:
        snapshot.close()
    for framework in found.cut:
        sys.stderr.write(f"yoake: {framework}: the code takes too long to follow; its routes are not complete\n")
    documents = [route for each in openapi or () for route in documented_routes(each)]
    every = with_documented(found.routes, documents)
    traffic = count_traffic(every, logs) if logs else None
    if format_ == "json":
        typer.echo(json.dumps(listing(every, traffic), indent=1, ensure_ascii=False))
    else:
        typer.echo(listing_text(every, traffic), nl=False)


def register(app: typer.Typer) -> None:
    """Add the command."""
    app.command()(routes)
