"""``yoake run``: tests of a source on the runtime and releases of one state, or of two beside each other."""

from __future__ import annotations

import json
import sys
from collections.abc import Sequence
from datetime import UTC, datetime
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from yoake.cli.source import CLEAN, FOUND, kind_here, read_targets, scan_source, terminal_progress
from yoake.core.values.coordinates import Coordinate, Target, line_key
from yoake.core.values.errors import BadInput
from yoake.core.values.runs import Command, RunOutcome, Side
from yoake.formats.junit import write_junit
from yoake.formats.runs import as_results, run_json, run_text
from yoake.runner.answers import write_whole
from yoake.runner.home import Home, default_home
from yoake.runner.kept_commands import RunLimits
from yoake.shipped import KIT
from yoake.store.applications import Source
from yoake.usecases.goal_side import goal_side
from yoake.usecases.progress import Control
from yoake.usecases.run import named, paths_to_ask, run_sides, suggested
from yoake.usecases.run_sides import old_side
from yoake.usecases.run_tasks import REPEATS, RunTask

if TYPE_CHECKING:
    from yoake.core.values.modules import Stated

_FAILED = 2


class RunFormat(StrEnum):
    """How runs are written."""

    TEXT = "text"
    JSON = "json"
    JUNIT = "junit"


def run(
    path: Annotated[
        str, typer.Argument(help="A folder or a git repository. Its code is run: only do this with code you trust.")
    ],
    words: Annotated[list[str] | None, typer.Argument(help="After --: the command itself.")] = None,
    state: Annotated[
        list[str] | None,
        typer.Option("--state", help="A line to run on, e.g. python@3.8 (repeatable); today's when left out."),
    ] = None,
    against_: Annotated[
        list[str] | None, typer.Option("--against", help="A line of the other side, e.g. python@3.13 (repeatable).")
    ] = None,
    command: Annotated[str, typer.Option(help="One of the commands that the files speak of, by its name.")] = "",
    module: Annotated[str, typer.Option(help="The folder to run in.")] = "",
    ref: Annotated[str, typer.Option(help="Run this commit, branch or tag instead of the files as they are.")] = "",
    against_ref: Annotated[str, typer.Option(help="The commit, branch or tag of the other side.")] = "",
    beside: Annotated[
        list[str] | None,
        typer.Option("--with", help="A package that the command needs and no file asks for (repeatable)."),
    ] = None,
    ask: Annotated[
        list[str] | None,
        typer.Option(
            "--ask",
            help="A path, e.g. /health (repeatable): the command is a server then, and its answers are the tests.",
        ),
    ] = None,
    repeats: Annotated[int, typer.Option(min=0, max=9, help="Times to run again where tests fail.")] = REPEATS,
    seconds: Annotated[float, typer.Option(min=1, max=86400, help="The longest that one command may take.")] = 1800,
    format_: Annotated[RunFormat, typer.Option("--format", help="How to write what came of it.")] = RunFormat.TEXT,
    output: Annotated[Path | None, typer.Option("-o", "--output", help="Write to this file.")] = None,
) -> None:
    """Run tests in a fresh copy and a new environment. Exit 0 all pass, 1 some fail or break, 2 could not run."""
    home = default_home()
    folder = Path(path).expanduser()
    source = Source(kind_here(path, ref), path, ref)
    here, there = read_targets(state or (), KIT, home), read_targets(against_ or (), KIT, home)
    sides = _sides(source=source, module=module, here=here, there=there, ref=ref, other_ref=against_ref, home=home)
    wanted = Command(name=words[0], words=tuple(words)) if words else _named(folder / module, command)
    task = RunTask(
        home=home.folder,
        source=source,
        module=module,
        command=wanted,
        old=sides[0],
        new=sides[1] if len(sides) > 1 else None,
        repeats=repeats,
        limits=RunLimits(seconds=seconds),
        beside=tuple(beside or ()),
        asks=paths_to_ask(ask or ()),
    )
    done = run_sides(task, KIT, Control(terminal_progress()))
    shown = _shown(done, format_, home, path)
    if output is not None:
        write_whole(output, shown)
    else:
        sys.stdout.write(shown)
    raise typer.Exit(_code(done))


def _named(folder: Path, name: str) -> Command | None:
    return named(suggested(folder, KIT.ecosystems), name) if name else None


def _sides(
    source: Source, module: str, here: Sequence[Target], there: Sequence[Target], ref: str, other_ref: str, home: Home
) -> list[Side]:
    """One side or two, the one with the lower lines first."""
    knowledge = KIT.knowledge(home.knowledge)
    known = list({t.coordinate: t for t in (*here, *there)}.values())
    if not known:
        raise BadInput("Name a line to run on with --state, as in --state python@3.13.")
    scanned = scan_source(source, known, [], KIT, home)
    today = scanned.result.today.get(module) or next(iter(scanned.result.today.values()), {})
    day = datetime.now(UTC).date()

    def side(targets: Sequence[Target], which: str) -> Side:
        label = ", ".join(f"{knowledge.spoken(t.coordinate)} {t.line}" for t in targets) or "today"
        if not _beyond(targets, today):
            return old_side(label, today, targets, knowledge, which)
        result = scan_source(source, list(targets), [], KIT, home).result
        return goal_side(
            label=label,
            result=result,
            today=today,
            targets=targets,
            knowledge=knowledge,
            day=day,
            ref=which,
            module=module,
        )

    first = side(here, ref)
    if not there and not other_ref:
        return [first]
    second = side(there or here, other_ref)
    return [first, second] if _rank(here, known) <= _rank(there, known) else [second, first]


def _beyond(targets: Sequence[Target], today: dict[Coordinate, Stated]) -> bool:
    """Whether some line lies past today’s, so that packages have to be settled for it."""
    held = {coordinate: s.line for coordinate, s in today.items()}
    return any(t.coordinate not in held or t.line > held[t.coordinate] for t in targets)


def _rank(targets: Sequence[Target], known: Sequence[Target]) -> tuple[tuple[int, ...], ...]:
    """Lines of the coordinates that are named anywhere, in one order; what is not named counts as today’s and lowest."""
    held = {t.coordinate: line_key(t.line) for t in targets}
    return tuple(held.get(t.coordinate, ()) for t in sorted(known, key=lambda t: t.coordinate))


def _shown(done: RunOutcome, format_: RunFormat, home: Home, path: str) -> str:
    if format_ is RunFormat.JSON:
        return json.dumps(run_json(done), indent=1, ensure_ascii=False) + "\n"
    if format_ is RunFormat.JUNIT:
        return write_junit(Path(path).name, as_results(done))
    return run_text(done, str(home.folder))


def _code(done: RunOutcome) -> int:
    last = [done.old[-1], *done.new[-1:]]
    if any(run.ended in ("refused", "cut") for run in last):
        return _FAILED
    if done.new:
        return FOUND if any(t.verdict == "breaks" for t in done.tests) else CLEAN
    return CLEAN if last[0].ended == "passed" else FOUND


def register(app: typer.Typer) -> None:
    """Add the command."""
    app.command("run")(run)
