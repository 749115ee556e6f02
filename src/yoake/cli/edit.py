"""``yoake edit``: changes that follow from what is known, checked, shown as a patch or committed on a branch of their own."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from yoake.cli.source import CLEAN, FOUND, kind_here, read_targets, said_line
from yoake.core.values.coordinates import parse_target
from yoake.core.values.edits import Proposal
from yoake.core.values.errors import BadSource
from yoake.formats.patches import patch
from yoake.runner.branches import commit_steps, head_of
from yoake.runner.extraction import Extractor
from yoake.runner.home import Home, default_home
from yoake.runner.knowledge_files import load_knowledge
from yoake.store.applications import Source
from yoake.store.facts_cache import FactsCache
from yoake.usecases.edit import EditTask, propose
from yoake.usecases.scan import Control
from yoake.usecases.sources import open_snapshot


def edit(
    path: Annotated[str, typer.Argument(help="A folder or a git repository.")],
    to: Annotated[list[str], typer.Option("--to", help="A line to arrive at, e.g. python@3.13 (repeatable).")],
    from_: Annotated[
        list[str] | None, typer.Option("--from", help="Today's line, when the files do not say it.")
    ] = None,
    only: Annotated[
        list[str] | None,
        typer.Option(
            "--only", help="The key of a finding to edit (repeatable); all that are safe today when left out."
        ),
    ] = None,
    patch_to: Annotated[
        Path | None, typer.Option("--patch", help="Write all changes to this file, as a patch.")
    ] = None,
    branch: Annotated[str, typer.Option(help="Commit them on a new branch of the repository, a commit a step.")] = "",
) -> None:
    """Show what can be edited, with every change checked by a scan. Nothing is written without --patch or --branch."""
    home = default_home()
    targets = read_targets(to, home)
    knowledge = load_knowledge(home.knowledge)
    said = tuple(said_line(knowledge.check_target(parse_target(text)), parse_target(text)) for text in from_ or [])
    source = Source(kind_here(path, ""), path, "")
    keys = frozenset(only) if only else None
    made = _proposed(EditTask(home.folder, Path(path).name, source, tuple(targets), said, keys), home)
    for text in _told(made):
        sys.stdout.write(text + "\n")
    changed = [(f.path, f.before, f.after) for f in made.files if f.outcome == "changed"]
    if patch_to is not None:
        patch_to.write_bytes(patch(changed))
        sys.stdout.write(f"{patch_to} holds the changes of {len(changed)} files.\n")
    if branch and changed:
        root = Path(path).expanduser()
        if not (root / ".git").exists():
            raise BadSource(f"{path} is no git repository; --patch writes the changes to a file.")
        steps = [(step.message, step.files) for step in made.steps]
        done = commit_steps(root, head_of(root), branch, steps, {p: before for p, before, _ in changed})
        sys.stdout.write(f"Branch {done.branch}, from {done.base[:10]}:\n")
        sys.stdout.writelines(f"    {commit[:10]} {subject}\n" for commit, subject in done.commits)
    raise typer.Exit(FOUND if changed else CLEAN)


def _proposed(task: EditTask, home: Home) -> Proposal:
    cache = FactsCache(home.facts)
    extractor = Extractor(cache)
    snapshot = open_snapshot(task.source, home)
    try:
        return propose(task, snapshot, load_knowledge(home.knowledge), extractor, Control())
    finally:
        snapshot.close()
        extractor.close()
        cache.close()


def _told(made: Proposal) -> list[str]:
    """The steps, then what cannot be edited and what is left to a person."""
    rows = []
    for step in made.steps:
        safe = "" if step.safe else "; with the move, not before"
        counted = f"{_count(step.places, 'place')} in {_count(len(step.files), 'file')}"
        rows.append(f"{step.message.splitlines()[0]}: {counted}{safe}")
    changed = [f for f in made.files if f.outcome == "changed"]
    rows.append(
        f"{_count(len(changed), 'file')} would change, each checked by a scan."
        if changed
        else "Nothing here can be edited."
    )
    rows += [f"cannot: {f.path}: {f.why}" for f in made.files if f.outcome == "cannot"]
    rows += [f"by hand: {f.path}: {why}" for f in made.files for why in dict.fromkeys(f.hand.values())]
    rows += [f"by hand: {title}: {why}" for title, why in made.by_hand.values()]
    return rows


def _count(number: int, what: str) -> str:
    return f"1 {what}" if number == 1 else f"{number} {what}s"


def register(app: typer.Typer) -> None:
    """Add the command."""
    app.command("edit")(edit)
