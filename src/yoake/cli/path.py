"""``yoake path``: the ways of one source to a destination."""

from __future__ import annotations

import json
import sys
from datetime import UTC, datetime
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from yoake.cli.source import CLEAN, FOUND, kind_here, read_targets, said_line, scan_source
from yoake.core.planning.alternatives import OBJECTIVES, Ways
from yoake.core.values.coordinates import parse_target
from yoake.core.values.journeys import ModuleSet, Shape
from yoake.formats.plan_text import conflict_json, refused_json, ways_json, ways_text
from yoake.runner.answers import write_whole
from yoake.runner.home import default_home
from yoake.shipped import KIT
from yoake.store.applications import Source
from yoake.usecases.find_slices import find_slices
from yoake.views.alternatives import ways_of_result

if TYPE_CHECKING:
    from yoake.usecases.scanned import Scanned


class PathFormat(StrEnum):
    """How paths are written."""

    TEXT = "text"
    JSON = "json"


class Objective(StrEnum):
    """What the best path is best for."""

    WORK = "work"
    STAGES = "stages"
    DANGER = "danger"


def path_command(
    path: Annotated[str, typer.Argument(help="A folder, a git repository or URL, or an archive.")],
    to: Annotated[list[str], typer.Option("--to", help="A line to arrive at, e.g. python@3.13 (repeatable).")],
    from_: Annotated[
        list[str] | None, typer.Option("--from", help="Today's line, when the files do not say it.")
    ] = None,
    objective: Annotated[
        Objective | None, typer.Option(help="Only the path that is best for this; all three when left out.")
    ] = None,
    pin: Annotated[list[str] | None, typer.Option("--pin", help="A line to stop on (repeatable).")] = None,
    avoid: Annotated[list[str] | None, typer.Option("--avoid", help="A line never to stand on (repeatable).")] = None,
    ref: Annotated[str, typer.Option(help="Look at this commit, branch or tag instead of the files as they are.")] = "",
    ask: Annotated[
        bool, typer.Option("--look-up", help="Ask the package clients first for packages of which no record is known.")
    ] = False,
    every: Annotated[
        bool, typer.Option("--all", help="Show every option, possible or not, and all that goes with it.")
    ] = False,
    format_: Annotated[PathFormat, typer.Option("--format", help="How to write the paths.")] = PathFormat.TEXT,
    output: Annotated[Path | None, typer.Option("-o", "--output", help="Write to this file.")] = None,
) -> None:
    """Search the ways to a destination. Exit 0 when there is one, 1 when there is none, 2 could not run."""
    home = default_home()
    targets = read_targets(to, KIT, home, ask=ask)
    knowledge = KIT.knowledge(home.knowledge)
    said = [said_line(knowledge.check_target(parse_target(text)), parse_target(text)) for text in from_ or []]
    shape = Shape(tuple(map(parse_target, pin or ())), tuple(map(parse_target, avoid or ())))
    scanned = scan_source(Source(kind_here(path, ref), path, ref), targets, said, KIT, home, ask=ask)
    knowledge = KIT.knowledge(home.knowledge)
    slices = find_slices(scanned, knowledge.ecosystems)
    found = ways_of_result(scanned.result, targets, knowledge, datetime.now(UTC).date(), shape, slices)
    objectives = [objective.value] if objective is not None else list(OBJECTIVES)
    shown = (
        _paths_json(found, objectives)
        if format_ is PathFormat.JSON
        else _paths_text(scanned, found, objectives, every=every)
    )
    if output is not None:
        write_whole(output, shown)
    else:
        sys.stdout.write(shown)
    raise typer.Exit(FOUND if any(ways.conflict is not None for _, ways in found) else CLEAN)


def _paths_json(found: list[tuple[ModuleSet, Ways]], objectives: list[str]) -> str:
    blocked = next((no for _, ways in found if (no := conflict_json(ways)) is not None), None)
    body = {
        "paths": [row for made, ways in found for row in ways_json(made.name, ways, objectives)],
        "refused": [{"set": made.name, **row} for made, ways in found for row in refused_json(ways)],
        "noWay": blocked,
    }
    return json.dumps(body, indent=1, ensure_ascii=False) + "\n"


def _paths_text(scanned: Scanned, found: list[tuple[ModuleSet, Ways]], objectives: list[str], *, every: bool) -> str:
    if not found:
        return "Nothing here stands on a line of the destination that is known. --from says what it stands on.\n"
    return "\n".join(
        [*(ways_text(made.name, ways, objectives, every=every) for made, ways in found), *scanned.result.notes]
    )


def register(app: typer.Typer) -> None:
    """Add the command."""
    app.command("path")(path_command)
