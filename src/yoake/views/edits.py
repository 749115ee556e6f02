"""What the Edits screen reads: the newest proposal of an application, and one file of it side by side."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import count
from typing import Final, Literal

from yoake.context.context import Context
from yoake.core.edits.sides import Hunk, hunks
from yoake.core.values.edits import MOVE, EditedFile, Outcome
from yoake.core.values.errors import BadSource, NotFound
from yoake.formats.patches import patch
from yoake.runner.branches import branches_of, commits_beyond, repository_at
from yoake.runner.encodings import normalise
from yoake.store.applications import Application, get_application
from yoake.store.edits import kept_proposal, last_edit_job
from yoake.store.scans import StoredScan
from yoake.views.application_rows import ApplicationRow, read_application

_LONGEST: Final = 110  # characters of a branch that is suggested


@dataclass(frozen=True, slots=True)
class ScopeView:
    """Which changes can be asked for: those that are safe today, or those of a stage. ``count``: findings in it."""

    key: str
    title: str
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class EditStepView:
    """One finding's changes, a commit of their own. ``new`` is “none” for what is taken out; ``safe``: both ways work today."""

    key: str
    old: str
    new: str
    safe: bool
    places: int
    files: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class EditedFileView:
    """What becomes of one file, and why."""

    path: str
    outcome: Outcome
    why: str
    keys: list[str]
    hand: list[str]
    gone: int
    came: int


@dataclass(frozen=True, slots=True)
class ByHand:
    """A finding that no edit is known for, and why."""

    key: str
    title: str
    why: str


@dataclass(frozen=True, slots=True)
class MadeCommit:
    """A commit of a branch."""

    commit: str
    title: str


@dataclass(frozen=True, slots=True)
class MadeBranch:
    """A branch that holds edits and is not merged, its newest commit first."""

    name: str
    commits: list[MadeCommit]


@dataclass(frozen=True, slots=True, kw_only=True)
class EditsView:
    """The newest proposal of an application. ``state``: none, working, ready or failed; ``said``: what went wrong, or what was
    committed;
    ``stale``: the application was scanned at another state since; ``branches``: whether a branch can be made."""

    application: ApplicationRow
    heading: str
    emphasis: str
    state: Literal["none", "working", "ready", "failed"]
    said: str
    scope: str
    scopes: list[ScopeView]
    who: str
    at: str | None
    stale: bool
    branches: bool
    branch: str
    steps: list[EditStepView]
    files: list[EditedFileView]
    by_hand: list[ByHand]
    made: list[MadeBranch]


@dataclass(frozen=True, slots=True)
class FileSides:
    """One changed file, old beside new."""

    path: str
    hunks: list[Hunk]


def edits(context: Context, slug: str) -> EditsView:
    """The newest proposal with its files and steps. Raises NotFound."""
    application, row, scan = read_application(context, slug)
    kept = kept_proposal(context.db, application.id)
    job = last_edit_job(context.db, application.id)
    scopes = []
    if scan is not None:
        scopes = [ScopeView("now", "before any version moves", len(scan.plan.before_keys))]
        scopes += [ScopeView(str(s.number), f"stage {s.number}", len(s.finding_keys)) for s in scan.plan.stages]
    state: Literal["none", "working", "ready", "failed"] = "ready" if kept is not None else "none"
    if job is not None and job[1] in ("waiting", "running"):
        state = "working"
    elif job is not None and job[1] in ("failed", "stopped"):
        state = "failed"
    files = [_file(f) for f in kept.proposal.files] if kept is not None else []
    steps = [
        EditStepView(key=s.key, old=s.old, new=s.new, safe=s.safe, places=s.places, files=sorted(s.files))
        for s in (kept.proposal.steps if kept is not None else ())
    ]
    by_hand = [ByHand(k, t, w) for k, (t, w) in (kept.proposal.by_hand.items() if kept is not None else ())]
    heading, emphasis = _heading(files, steps, known=kept is not None)
    return EditsView(
        application=row,
        heading=heading,
        emphasis=emphasis,
        state=state,
        said=job[2] if job is not None and (state == "failed" or job[0] == "branch") else "",
        scope=kept.scope if kept is not None else "now",
        scopes=scopes,
        who=kept.who if kept is not None else "",
        at=kept.at if kept is not None else None,
        stale=kept is not None and scan is not None and kept.proposal.identity != scan.snapshot,
        branches=repository_at(application.source.location) is not None,
        branch=_branch_for(application, kept.scope if kept is not None else "now", scan),
        steps=steps,
        files=files,
        by_hand=by_hand,
        made=_made(application),
    )


def _made(application: Application) -> list[MadeBranch]:
    """Branches of edits that the repository has and what is checked out does not."""
    repository = repository_at(application.source.location)
    found = []
    for name in sorted(branches_of(application.source.location)) if repository is not None else ():
        try:
            commits = commits_beyond(repository, name) if repository is not None else []
        except BadSource:  # no commit is checked out there
            commits = []
        if commits:
            found.append(MadeBranch(name, [MadeCommit(commit, title) for commit, title in commits]))
    return found


def _branch_for(application: Application, scope: str, scan: StoredScan | None) -> str:
    """A name that no branch has yet: where the stage leads, since its number changes when others are done."""
    stage = next((s for s in scan.plan.stages if str(s.number) == scope), None) if scan is not None else None
    named = {t.coordinate: t.coordinate.name for t in application.destination.targets}
    moved = (
        [f"{named[m.coordinate]}-{m.goal}" for m in stage.moves if m.coordinate in named] if stage is not None else []
    )
    name = f"yoake/{application.slug}-{'-'.join(sorted(moved)) or scope}"[:_LONGEST]
    held = branches_of(application.source.location)
    return next(made for n in count(1) if (made := name if n == 1 else f"{name}-{n}") not in held)


def _heading(files: list[EditedFileView], steps: list[EditStepView], *, known: bool) -> tuple[str, str]:
    if not known:
        return "Changes that follow from what is known can be made for you.", "Each is checked before it is offered."
    changed = [f for f in files if f.outcome == "changed"]
    if not changed:
        return "No change here passed its checks.", "What is left to a person, and why, stands below."
    places = sum(step.places for step in steps)
    count = "1 file" if len(changed) == 1 else f"{len(changed)} files"
    if all(step.key == MOVE for step in steps):
        return f"The releases of this stage go into {count}.", "A scan of the new texts finds nothing new in them."
    return (
        f"{count} can be changed at {places} places.",
        "A scan of the new texts finds none of it any more, and nothing new.",
    )


def _file(file: EditedFile) -> EditedFileView:
    gone = came = 0
    for hunk in _hunks(file) if file.outcome == "changed" else ():
        gone += sum(row.kind == "gone" for row in hunk.rows)
        came += sum(row.kind == "new" for row in hunk.rows)
    return EditedFileView(
        path=file.path,
        outcome=file.outcome,
        why=file.why,
        keys=list(file.keys),
        hand=list(dict.fromkeys(file.hand.values())),
        gone=gone,
        came=came,
    )


def _hunks(file: EditedFile) -> list[Hunk]:
    before, after = (normalise(data)[0].decode("utf-8", "replace") for data in (file.before, file.after))
    return hunks(before, after)


def file_sides(context: Context, slug: str, path: str) -> FileSides:
    """One changed file of the newest proposal. Raises NotFound."""
    application = get_application(context.db, slug)
    kept = kept_proposal(context.db, application.id)
    file = next((f for f in kept.proposal.files if f.path == path and f.outcome == "changed"), None) if kept else None
    if file is None:
        raise NotFound(f"No change of {path[:200]} is proposed.")
    return FileSides(path, _hunks(file))


def edits_patch(context: Context, slug: str, left_out: frozenset[str]) -> bytes:
    """The newest proposal as a patch, without some files. Raises NotFound."""
    application = get_application(context.db, slug)
    kept = kept_proposal(context.db, application.id)
    if kept is None:
        raise NotFound("No edits were asked for yet.")
    prefix = f"{application.source.subfolder.strip('/')}/" if application.source.subfolder else ""
    changed = [f for f in kept.proposal.files if f.outcome == "changed" and f.path not in left_out]
    return patch((prefix + f.path, f.before, f.after) for f in changed)
