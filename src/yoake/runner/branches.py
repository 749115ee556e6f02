"""Commits on a branch of their own in a real repository, through a work tree beside it: what a person has checked out is not touched."""

from __future__ import annotations

import os
import re
import subprocess
import tempfile
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from yoake.core.values.errors import BadSource, Conflict
from yoake.runner.git import is_url
from yoake.runner.git_store import is_repository, read_refs, store_of

_SECONDS: Final = 300
_SETTINGS: Final = (
    "-c",
    "gc.auto=0",
    "-c",
    "core.fsmonitor=false",
    "-c",
    "core.askPass=",
    "-c",
    "commit.gpgSign=false",
)
"""Nobody is there to answer a question, such as for the words that open a signing key."""

_MOST_COMMITS: Final = 200  # of one branch that are told
_NAME: Final = re.compile(r"[A-Za-z0-9][A-Za-z0-9._/-]{0,120}")


@dataclass(frozen=True, slots=True)
class Committed:
    """What was made: the branch, the commit it begins at, and (commit, subject) of each step."""

    branch: str
    base: str
    commits: tuple[tuple[str, str], ...]


def commit_steps(
    repository: Path,
    base: str,
    branch: str,
    steps: Iterable[tuple[str, Mapping[str, bytes]]],
    expected: Mapping[str, bytes],
    subfolder: str = "",
    last: Callable[[Path], tuple[str, Sequence[str]]] | None = None,
) -> Committed:
    """One commit a step, (message, path → new bytes), on a new branch from ``base``.

    ``last``: what is done in the work tree once all steps stand there; the files that it names become a commit of their own.
    ``expected``: what files hold before; where the repository has something else, nothing is made. The person’s work tree, index and
    HEAD stay as they are. Raises Conflict for a branch that is there, or a file that differs, and BadSource with what git says.
    """
    if not _NAME.fullmatch(branch) or ".." in branch or branch.endswith((".lock", "/")):
        raise BadSource(f"“{branch}” is no name for a branch: use letters, digits, dots, dashes and slashes.")
    if _git(repository, "rev-parse", "--verify", "--quiet", f"refs/heads/{branch}", fail=False):
        raise Conflict(f"There is a branch {branch} already. Take another name, or delete it when it is not needed.")
    commit = _git(repository, "rev-parse", "--verify", f"{base}^{{commit}}").strip()
    _check_author(repository)
    made: list[tuple[str, str]] = []
    with tempfile.TemporaryDirectory(prefix="yoake-branch-") as place:
        tree = Path(place) / "tree"
        _git(repository, "worktree", "add", "--quiet", "-b", branch, str(tree), commit)
        try:
            root = tree / subfolder if subfolder else tree
            _check_contents(root, expected)
            for message, files in steps:
                for path, data in files.items():
                    _write(root, path, data)
                _git(tree, "add", "--all")
                if _git(tree, "diff", "--cached", "--name-only").strip():
                    _git(tree, "commit", "--quiet", "-m", message)
                    made.append((_git(tree, "rev-parse", "HEAD").strip(), message.splitlines()[0]))
            message, paths = last(root) if last is not None else ("", ())
            if paths:
                _git(root, "add", "--", *paths)
                _git(root, "commit", "--quiet", "-m", message)
                made.append((_git(root, "rev-parse", "HEAD").strip(), message.splitlines()[0]))
        except BaseException:
            _git(repository, "worktree", "remove", "--force", str(tree), fail=False)
            if not made:  # nothing of it is worth keeping
                _git(repository, "branch", "-D", branch, fail=False)
            raise
        _git(repository, "worktree", "remove", "--force", str(tree), fail=False)
    return Committed(branch, commit, tuple(made))


def commits_beyond(repository: Path, branch: str) -> list[tuple[str, str]]:
    """(commit, subject) of what a branch has and HEAD does not, the newest first. Raises BadSource with what git says."""
    said = _git(
        repository, "log", "--format=%H%x00%s", f"--max-count={_MOST_COMMITS}", f"HEAD..refs/heads/{branch}", "--"
    )
    rows = (row.partition("\0") for row in said.splitlines())
    return [(commit, subject) for commit, _, subject in rows]


def revert_commit(repository: Path, branch: str, commit: str) -> str:
    """Undo one commit of a branch by another on top of it, made in a work tree beside the person’s; returns it.

    Raises Conflict where later commits changed the same lines or the branch is checked out, and BadSource with what git says.
    """
    if commit not in {held for held, _ in commits_beyond(repository, branch)}:
        raise Conflict(f"{commit[:10]} is no commit of {branch} that could be undone there.")
    if _git(repository, "branch", "--show-current").strip() == branch:
        raise Conflict(f"{branch} is checked out in the repository: undo it there with git revert {commit[:10]}.")
    _check_author(repository)
    with tempfile.TemporaryDirectory(prefix="yoake-branch-") as place:
        tree = Path(place) / "tree"
        _git(repository, "worktree", "add", "--quiet", str(tree), branch)
        try:
            try:
                _git(tree, "revert", "--no-edit", commit)
            except BadSource as error:
                _git(tree, "revert", "--abort", fail=False)
                raise Conflict(f"Later commits of {branch} changed the same lines: undo those first.") from error
            return _git(tree, "rev-parse", "HEAD").strip()
        finally:
            _git(repository, "worktree", "remove", "--force", str(tree), fail=False)


def repository_at(location: str) -> Path | None:
    """The repository of a source on this machine, in which a branch can be made; None where there is none."""
    if is_url(location):
        return None
    try:
        path = Path(location).expanduser()
        return path if path.is_dir() and is_repository(path) else None
    except (OSError, RuntimeError, ValueError):
        return None


def branches_of(location: str, prefix: str = "yoake/") -> dict[str, str]:
    """Branch → commit, of the branches of a repository on this machine that begin so; read without asking git."""
    repository = repository_at(location)
    if repository is None:
        return {}
    try:
        refs = read_refs(store_of(repository.resolve()))
    except BadSource:
        return {}
    begin = f"refs/heads/{prefix}"
    return {name.removeprefix("refs/heads/"): commit for name, commit in refs.items() if name.startswith(begin)}


def uncommitted(repository: Path) -> list[str]:
    """Files that were changed and not committed. Raises BadSource with what git says."""
    rows = _git(repository, "status", "--porcelain", "--untracked-files=no", "--ignore-submodules").splitlines()
    return [row[3:] for row in rows if len(row) > 3]


def author_of(repository: Path) -> str:
    """Who commits there, as git says; empty when it does not know."""
    said = _git(repository, "var", "GIT_AUTHOR_IDENT", fail=False).strip()
    return said.rpartition(" <")[0] if said else ""


def head_of(repository: Path) -> str:
    """The commit that is checked out. Raises BadSource where there is none."""
    return _git(repository, "rev-parse", "--verify", "HEAD^{commit}").strip()


def _check_author(repository: Path) -> None:
    if not _git(repository, "var", "GIT_AUTHOR_IDENT", fail=False).strip():
        raise BadSource(
            "git does not know who commits here. Say it once, in that repository: "
            "git config user.name “…” and git config user.email “…”, and try again."
        )


def _check_contents(root: Path, expected: Mapping[str, bytes]) -> None:
    other = [p for p, data in expected.items() if not (root / p).is_file() or (root / p).read_bytes() != data]
    if other:
        shown = ", ".join(sorted(other)[:5]) + (f" and {len(other) - 5} more" if len(other) > 5 else "")
        raise Conflict(
            f"{shown}: what was scanned is not what is committed there. Commit or put away what changed, and scan again."
        )


def _write(root: Path, path: str, data: bytes) -> None:
    target = root / path
    if target.is_symlink() or not target.resolve().is_relative_to(root.resolve()):
        raise BadSource(f"{path} leads out of the repository; nothing was written.")
    mode = target.stat().st_mode
    target.write_bytes(data)
    target.chmod(mode)


def _git(folder: Path, *arguments: str, fail: bool = True) -> str:
    kept = {
        k: v
        for k, v in os.environ.items()
        if not k.startswith("GIT_") or k.startswith(("GIT_AUTHOR_", "GIT_COMMITTER_"))
    }
    try:
        done = subprocess.run(
            ["git", *_SETTINGS, "-C", str(folder), *arguments],
            capture_output=True,
            timeout=_SECONDS,
            check=False,
            env={**kept, "GIT_TERMINAL_PROMPT": "0", "LC_ALL": "C"},
            stdin=subprocess.DEVNULL,
        )
    except (OSError, subprocess.TimeoutExpired) as error:
        raise BadSource(f"git could not be run in {folder.name}: {error}") from error
    if done.returncode != 0:
        if not fail:
            return ""
        said = (done.stderr or done.stdout).decode("utf-8", "replace").strip()
        raise BadSource(f"git {arguments[0]} did not go through: {said[-600:] or f'it ended with {done.returncode}'}")
    return done.stdout.decode("utf-8", "replace")
