"""Ask for edits of an application and see them through: proposed and kept, or committed on a branch."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

from yoake.context.context import Context
from yoake.core.values.coordinates import Coordinate
from yoake.core.values.edits import MOVE, Proposal
from yoake.core.values.errors import BadInput, BadSource, NotFound
from yoake.runner.branches import branches_of, commit_steps, head_of, repository_at, revert_commit
from yoake.runner.clients.locking import LockWriter, renew_locks, run_writer
from yoake.store.applications import Application, said_lines
from yoake.store.edits import EditRequest
from yoake.store.events import Event, add_event
from yoake.store.scans import latest_scan
from yoake.store.waivers import live_waivers
from yoake.usecases.edit_tasks import EditTask, taken_of


def keys_of_scope(context: Context, application: Application, scope: str) -> tuple[str, ...]:
    """Findings that a scope stands for: ``now``, or those of a stage of the plan. Raises NotFound and BadInput."""
    scan = latest_scan(context.db, application.id, application.destination.id)
    if scan is None:
        raise NotFound(f"{application.name} was not scanned yet: scan it first.")
    if scope == "now":
        keys = scan.plan.before_keys
    else:
        stage = next((s for s in scan.plan.stages if str(s.number) == scope), None)
        if stage is None:
            raise BadInput(f"The plan of {application.name} has no stage {scope[:20]}.")
        keys = stage.finding_keys
    waived = live_waivers(context.db, application.id, context.today)
    return tuple(key for key in keys if key not in waived)


def taken_at(context: Context, application: Application, scope: str) -> dict[Coordinate, str]:
    """What manifests and pins are to name at a stage: coordinate → release, the line of a runtime; nothing before any version moves."""
    scan = latest_scan(context.db, application.id, application.destination.id)
    stage = next((s for s in scan.plan.stages if str(s.number) == scope), None) if scan is not None else None
    return taken_of(stage, context.knowledge) if stage is not None else {}


def edit_task(context: Context, application: Application, request: EditRequest) -> EditTask:
    """Edits of one application as a task."""
    taken = taken_at(context, application, request.scope)
    keys = request.keys or keys_of_scope(context, application, request.scope)
    return EditTask(
        home=context.home.folder,
        name=application.name,
        source=application.source,
        targets=application.destination.targets,
        said=tuple(said_lines(context.db, application.id)),
        keys=frozenset(keys) - {MOVE},
        taken=taken if MOVE in keys or not request.keys else {},
        left_out=frozenset(request.left_out),
        allowed=context.allowed,
    )


def undo(context: Context, application: Application, branch: str, commit: str, who: str) -> str:
    """Undo a step by a commit on top of its branch; returns that commit. Raises BadInput, Conflict and BadSource."""
    repository = repository_at(application.source.location)
    if repository is None or branch not in branches_of(application.source.location):
        raise BadInput(f"There is no branch {branch} in a repository on this machine.")
    made = revert_commit(repository, branch, commit)
    with context.db.write() as connection:
        event = Event(
            at=context.stamp,
            who=who,
            application=application.id,
            subject="edits",
            what="undone",
            before=commit[:10],
            after=f"{made[:10]} on {branch}",
        )
        add_event(connection, event)
    return made


def commit(
    application: Application,
    proposal: Proposal,
    branch: str,
    writers: Mapping[str, LockWriter],
    *,
    locks: bool,
    stopped: Callable[[], bool],
) -> str:
    """Commit the steps of a proposal on a new branch; returns what was made, in words.

    ``locks``: lock files are renewed there by the programs that write them (``writers``), in a commit of their own, until ``stopped``.
    Raises BadInput where there is no repository here, Conflict and BadSource as ``commit_steps`` does.
    """
    repository = repository_at(application.source.location)
    if repository is None:
        raise BadInput("A branch is made in a repository on this machine; download the changes as a patch instead.")
    changed = {f.path: f.before for f in proposal.files if f.outcome == "changed"}
    if not changed:
        raise BadInput("Nothing is left to commit: no change passed its checks.")
    kind, _, found = proposal.identity.partition(":")
    base = found if kind == "commit" else head_of(repository)
    steps = [(step.message, step.files) for step in proposal.steps]
    renewal = LockRenewal(tuple(changed), writers, allowed=locks, stopped=stopped)
    done = commit_steps(
        repository=repository,
        base=base,
        branch=branch,
        steps=steps,
        expected=changed,
        subfolder=application.source.subfolder,
        last=renewal,
    )
    count = f"{len(done.commits)} {'commit' if len(done.commits) == 1 else 'commits'}"
    return f"{count} on {done.branch}, from {done.base[:10]}{renewal.told}"


class LockRenewal:
    """Renews the lock files of changed manifests in a work tree; ``told``: what came of it, in words after a semicolon."""

    def __init__(
        self,
        changed: tuple[str, ...],
        writers: Mapping[str, LockWriter],
        *,
        allowed: bool,
        stopped: Callable[[], bool] = lambda: False,
    ) -> None:
        self.writers = writers
        self.changed, self.allowed, self.stopped = changed, allowed, stopped
        self.told = ""

    def __call__(self, root: Path) -> tuple[str, tuple[str, ...]]:
        """The message and the files of a commit."""
        found = renew_locks(root, self.changed, self.writers, self._run)
        said = [f"{', '.join(found.done)} renewed"] if found.done else []
        said += [f"{path} is as it was: {why}" for path, why in found.failed]
        self.told = "".join(f"; {one}" for one in said)
        names = ", ".join(found.done)
        return f"Renew {names}\n\nWritten by its package client from the manifests as they are now.", found.done

    def _run(self, writer: LockWriter, folder: Path) -> None:
        if not self.allowed:
            raise BadSource(f"turn runs on to have it renewed, or run “{' '.join(writer.words)}” there")
        run_writer(writer, folder, self.stopped)
