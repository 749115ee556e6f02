"""A git repository as files: where its objects lie and which commits its refs name, read without asking git.

Git would obey the repository's own configuration, which whoever made the repository wrote.
"""

from __future__ import annotations

import re
from pathlib import Path
from typing import Final

from yoake.core.values.errors import BadSource

_COMMIT: Final = re.compile(r"[0-9a-f]{40}(?:[0-9a-f]{24})?")
_NAME: Final = re.compile(r"refs/(?:heads|tags|remotes)/[^\x00-\x20~^:?*\[\\\x7f]+")
_MAX_REFS: Final = 100_000
_MAX_FILE: Final = 32 * 1024**2  # bytes of packed refs: 300,000 of them
_MAX_LINKS: Final = 5  # symbolic refs that name one another


def is_repository(path: Path) -> bool:
    """Whether a path is a git repository, with a work tree or bare."""
    return (path / ".git").exists() or ((path / "HEAD").is_file() and (path / "objects").is_dir())


def store_of(path: Path) -> Path:
    """The folder that holds the objects and refs of a repository. Raises BadSource where it lies elsewhere."""
    inside = path / ".git" if (path / ".git").exists() else path
    if (path / ".git").is_file():
        raise BadSource(
            f"{path}/.git is a file that points to another repository, as in a linked work tree or a submodule. Give that "
            "repository itself, with the ref that you want."
        )
    for part in (inside, inside / "objects", inside / "refs", inside / "HEAD", inside / "packed-refs"):
        if part.is_symlink():
            raise BadSource(
                f"{part} is a link that may lead elsewhere; it is not followed. Give the repository that it points to."
            )
    if (inside / "objects" / "info" / "alternates").exists():
        raise BadSource(
            f"{path} borrows objects from another repository (objects/info/alternates), which is not followed. Run “git repack -a -d” in "
            "it and remove that file, or give the other repository."
        )
    if (inside / "reftable").exists():
        raise BadSource(
            f"{path} keeps its refs in a form that is not read (reftable). Give it as a URL, or an archive of it."
        )
    return inside


def read_refs(inside: Path) -> dict[str, str]:
    """Ref → commit, HEAD among them when it names one."""
    found = _packed(inside / "packed-refs")
    for folder in ("heads", "tags", "remotes"):
        _loose(inside, inside / "refs" / folder, found)
    head = _resolved("HEAD", inside, found)
    return {**found, "HEAD": head} if head else found


def _packed(path: Path) -> dict[str, str]:
    found: dict[str, str] = {}
    for row in _text(path, _MAX_FILE).splitlines():
        commit, _, name = row.partition(" ")
        if _COMMIT.fullmatch(commit) and _NAME.fullmatch(name) and len(found) < _MAX_REFS:
            found[name] = commit
    return found


def _loose(inside: Path, folder: Path, found: dict[str, str]) -> None:
    """Refs in files of their own, which win over packed ones; links are passed over."""
    waiting = [folder]
    while waiting:
        at = waiting.pop()
        try:
            entries = sorted(at.iterdir())
        except OSError:
            continue
        for entry in entries:
            name = entry.relative_to(inside).as_posix()
            if entry.is_symlink() or len(found) >= _MAX_REFS:
                continue
            if entry.is_dir():
                waiting.append(entry)
            elif _NAME.fullmatch(name) and (commit := _resolved(name, inside, found)):
                found[name] = commit


def _resolved(name: str, inside: Path, known: dict[str, str]) -> str:
    """The commit that a ref names, through symbolic refs; empty when it names none."""
    for _ in range(_MAX_LINKS):
        said = _text(inside / name, 1024).strip()
        if _COMMIT.fullmatch(said):
            return said
        target = said.removeprefix("ref:").strip()
        if not said.startswith("ref:") or not _NAME.fullmatch(target) or ".." in target.split("/"):
            return known.get(name, "")
        name = target
    return ""


def _text(path: Path, most: int) -> str:
    """The beginning of a small file; empty for what is no plain file."""
    if path.is_symlink() or not path.is_file():
        return ""
    try:
        with path.open("rb") as handle:
            return handle.read(most).decode("utf-8", "surrogateescape")
    except OSError:
        return ""
