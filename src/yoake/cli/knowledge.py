"""``yoake knowledge``: build what is known of a coordinate, and list what is."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Final

import typer

from yoake.core.values.coordinates import parse_coordinate, parse_target
from yoake.runner.home import default_home
from yoake.shipped import KIT
from yoake.usecases.build_knowledge import build, build_catalogue, build_from_files
from yoake.usecases.try_release import TryTask, check_trial, try_now

_KINDS: Final = ", ".join(f"{c.ecosystem.runtime.short}, {c.ecosystem.package_type}/NAME" for c in KIT.clients) + "."
_FILES: Final = " or ".join(c.files for c in KIT.clients).capitalize()


def knowledge_build(
    coordinate: Annotated[str, typer.Argument(help=_KINDS)],
    lines: Annotated[str, typer.Option(help="Lines to capture, separated by commas; all when left out.")] = "",
    into: Annotated[
        Path | None, typer.Option(help="Folder to write to; your own knowledge folder when left out.")
    ] = None,
    file: Annotated[
        list[Path] | None,
        typer.Option("--file", help=f"{_FILES} at hand, instead of the registry (repeatable)."),
    ] = None,
    ask: Annotated[
        bool, typer.Option("--ask", help="Also import the real library in a throw-away folder, for what no text shows.")
    ] = False,
) -> None:
    """Fetch the artefacts of a coordinate, compute their surfaces, and write its timeline and release record."""
    folder = into or default_home().knowledge / "timelines"
    made = KIT.ecosystems.canonical(parse_coordinate(coordinate))
    if file:
        build_from_files(KIT.clients, made, file, folder, typer.echo)
        return
    build(KIT.clients, made, [line for line in lines.split(",") if line], folder, typer.echo, ask=ask)
    if not made.is_runtime:
        knowledge = KIT.knowledge(default_home().knowledge)
        build_catalogue(KIT.clients, made, folder.parent / "catalogue", datetime.now(UTC).date(), typer.echo, knowledge)


def knowledge_list() -> None:
    """What is known: coordinates, captured lines and symbols."""
    knowledge = KIT.knowledge(default_home().knowledge)
    for coordinate in sorted({*knowledge.timelines, *knowledge.lifecycles}):
        lines = knowledge.lines(coordinate)
        head = knowledge.heads.get(coordinate)
        typer.echo(f"{coordinate.short}: {lines[0]} to {lines[-1]}, {head.symbols if head else 0} symbols")


def knowledge_try(
    release: Annotated[str, typer.Argument(help="A release, as pypi/kombu@4.6.11.")],
    on: Annotated[str, typer.Option("--on", help="The line of its runtime, as python@3.13.")],
) -> None:
    """Install a release with what it asks for in a throw-away environment, import it, and keep what came of it."""
    name, _, number = release.rpartition("@")
    target, coordinate = parse_target(on), parse_coordinate(name)
    today = datetime.now(UTC).date()
    task = TryTask(default_home().folder, check_trial(KIT, coordinate, number, target), number, target, today)
    fact = try_now(task, KIT, lambda progress: typer.echo(progress.phase, err=True))
    typer.echo(f"{coordinate.name} {number} on {target}: {fact.story}")
    if not fact.runs:
        raise typer.Exit(1)


def register(app: typer.Typer) -> None:
    """Add the commands below ``knowledge``."""
    group = typer.Typer(no_args_is_help=True, help="What Yoake knows of runtimes and libraries.")
    group.command("build")(knowledge_build)
    group.command("list")(knowledge_list)
    group.command("try")(knowledge_try)
    app.add_typer(group, name="knowledge")
