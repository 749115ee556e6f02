"""``yoake edit``: changes that follow from what is known, checked; shown, written as a patch, copied, or committed on a branch of their own."""

from __future__ import annotations

import json
import sys
from collections.abc import Sequence
from datetime import UTC, datetime
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from yoake.cli.source import CLEAN, FAILED, FOUND, kind_here, read_targets, said_line
from yoake.core.values.coordinates import Target, parse_target
from yoake.core.values.errors import BadInput, BadSource
from yoake.formats.edits import edits_json
from yoake.formats.patches import patch
from yoake.runner.answers import write_whole
from yoake.runner.branches import Committed, commit_steps, head_of
from yoake.runner.copies import copy_folder
from yoake.runner.extraction import Extractor
from yoake.runner.home import Home, default_home
from yoake.shipped import KIT
from yoake.store.applications import Source
from yoake.store.facts_cache import FactsCache
from yoake.usecases.ask_edits import LockRenewal
from yoake.usecases.edit import propose
from yoake.usecases.edit_scope import scope_of
from yoake.usecases.edit_tasks import EditTask
from yoake.usecases.progress import Control
from yoake.usecases.scan import scan_snapshot
from yoake.usecases.sources import open_snapshot

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.values.edits import EditedFile, Proposal
    from yoake.core.values.results import ScanResult


class EditFormat(StrEnum):
    """How edits are written."""

    TEXT = "text"
    JSON = "json"


def edit(
    path: Annotated[str, typer.Argument(help="A folder or a git repository.")],
    to: Annotated[list[str], typer.Option("--to", help="A line to arrive at, e.g. python@3.13 (repeatable).")],
    from_: Annotated[
        list[str] | None, typer.Option("--from", help="Today's line, when the files do not say it.")
    ] = None,
    when: Annotated[
        str,
        typer.Option(
            help="“now”: what is safe before any version moves; a number: that stage of the path of least work; “all”: everything to the destination."
        ),
    ] = "now",
    only: Annotated[
        list[str] | None,
        typer.Option("--only", help="The key of a finding to edit (repeatable); all of --when when left out."),
    ] = None,
    preview: Annotated[
        bool, typer.Option("--preview", help="Only show what would change, which is also the default.")
    ] = False,
    patch_to: Annotated[
        Path | None, typer.Option("--patch", help="Write all changes to this file, as a patch.")
    ] = None,
    branch: Annotated[str, typer.Option(help="Commit them on a new branch of the repository, a commit a step.")] = "",
    locks: Annotated[
        bool,
        typer.Option(
            "--locks",
            help="Renew lock files on the branch with the programs that write them (they ask their registries).",
        ),
    ] = False,
    copy: Annotated[Path | None, typer.Option(help="Copy the folder to this new place and change it there.")] = None,
    write: Annotated[bool, typer.Option("--write", help="Change the files where they are.")] = False,
    format_: Annotated[EditFormat, typer.Option("--format", help="How to write the answer.")] = EditFormat.TEXT,
    output: Annotated[Path | None, typer.Option("-o", "--output", help="Write the answer to this file.")] = None,
) -> None:
    """Show what can be edited, with every change checked by a scan. Exit 0 edits or none needed, 1 something is left by hand, 2 could not."""
    home = default_home()
    targets = read_targets(to, KIT, home)
    root = Path(path).expanduser()
    _check_ways(root, preview=preview, patch_to=patch_to, branch=branch, locks=locks, copy=copy, write=write)
    made, result, knowledge = _proposed(path, targets, from_ or [], when, only or [], home)
    changed = [f for f in made.files if f.outcome == "changed"]
    if patch_to is not None:
        patch_to.write_bytes(patch((f.path, f.before, f.after) for f in changed))
    if copy is not None:
        copy_folder(root.resolve(), copy)
        _write(copy, changed)
    if write:
        _write(root, changed)
    done = None
    if branch and changed:
        steps = [(step.message, step.files) for step in made.steps]
        renewal = LockRenewal(tuple(f.path for f in changed), KIT.clients.locks, allowed=True) if locks else None
        done = commit_steps(root, head_of(root), branch, steps, {f.path: f.before for f in changed}, last=renewal)
        if renewal is not None and renewal.told:
            sys.stderr.write(renewal.told.removeprefix("; ") + "\n")
    if format_ is EditFormat.JSON:
        body = edits_json(made, result.findings, knowledge, done.commits if done is not None else ())
        shown = json.dumps(body, indent=1, ensure_ascii=False) + "\n"
    else:
        shown = "\n".join([*_told(made), *_done(len(changed), patch_to, copy, done, write=write)]) + "\n"
    if output is not None:
        write_whole(output, shown)
    else:
        sys.stdout.write(shown)
    raise typer.Exit(_code(made))


def _check_ways(
    root: Path, *, preview: bool, patch_to: Path | None, branch: str, locks: bool, copy: Path | None, write: bool
) -> None:
    """Refuse what cannot be meant, before anything is read."""
    chosen = [bool(patch_to), bool(branch), bool(copy), write]
    if preview and any(chosen):
        raise BadInput("--preview changes nothing: leave it out to write, or leave out what writes.")
    if sum(chosen) > 1:
        raise BadInput("Choose one of --patch, --branch, --copy and --write.")
    if locks and not branch:
        raise BadInput("--locks renews lock files on a branch: give one with --branch.")
    if branch and not (root / ".git").exists():
        raise BadSource(f"{root} is no git repository; --patch writes the changes to a file.")
    if (copy is not None or write) and not root.is_dir():
        raise BadSource(f"{root} is no folder: --copy and --write need one.")
    if copy is not None and copy.exists():
        raise BadInput(f"{copy} is there already: name a new folder.")


def _write(folder: Path, changed: Sequence[EditedFile]) -> None:
    """All files or none: what changed meanwhile is found before the first is written. Raises BadSource."""
    for file in changed:
        target = folder / file.path
        if target.is_symlink() or not target.is_file() or target.read_bytes() != file.before:
            raise BadSource(f"{file.path} changed while the edits were made; nothing was written. Run it again.")
    for file in changed:
        target = folder / file.path
        mode = target.stat().st_mode
        partial = target.with_name(f".{target.name}.yoake-part")
        partial.write_bytes(file.after)
        partial.chmod(mode)
        partial.replace(target)


def _proposed(
    path: str, targets: list[Target], from_: Sequence[str], when: str, only: Sequence[str], home: Home
) -> tuple[Proposal, ScanResult, Knowledge]:
    knowledge = KIT.knowledge(home.knowledge)
    said = tuple(said_line(knowledge.check_target(parse_target(text)), parse_target(text)) for text in from_)
    source, name = Source(kind_here(path, ""), path, ""), Path(path).name
    cache = FactsCache(home.facts)
    extractor = Extractor(cache, KIT.ecosystems)
    snapshot = open_snapshot(source, home)
    try:
        result = scan_snapshot(
            snapshot=snapshot,
            knowledge=knowledge,
            destination=targets,
            said=said,
            extractor=extractor,
            control=Control(),
            name=name,
        ).result
        keys, taken = scope_of(when, result, targets, knowledge, datetime.now(UTC).date())
        if only:
            keys, taken = frozenset(only), {}
        task = EditTask(
            home=home.folder, name=name, source=source, targets=tuple(targets), said=said, keys=keys, taken=taken
        )
        return propose(task, snapshot, knowledge, extractor, Control()), result, knowledge
    finally:
        snapshot.close()
        extractor.close()
        cache.close()


def _code(made: Proposal) -> int:
    if made.files and all(f.outcome == "cannot" for f in made.files):
        return FAILED
    left = made.by_hand or any(f.outcome != "changed" or f.hand for f in made.files)
    return FOUND if left else CLEAN


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


def _done(changed: int, patch_to: Path | None, copy: Path | None, done: Committed | None, *, write: bool) -> list[str]:
    """What was written."""
    if patch_to is not None:
        return [f"{patch_to} holds the changes of {_count(changed, 'file')}."]
    if copy is not None:
        return [f"{copy} is the copy, with {_count(changed, 'file')} changed."]
    if write:
        return [f"{_count(changed, 'file')} changed."]
    if done is not None:
        return [
            f"Branch {done.branch}, from {done.base[:10]}:",
            *(f"    {sha[:10]} {subject}" for sha, subject in done.commits),
        ]
    return []


def _count(number: int, what: str) -> str:
    return f"1 {what}" if number == 1 else f"{number} {what}s"


def register(app: typer.Typer) -> None:
    """Add the command."""
    app.command("edit")(edit)
