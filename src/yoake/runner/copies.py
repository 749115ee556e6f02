"""Fresh copies of a source to run in: its files as they are, without what tools left behind; nothing in it leads out of it."""

from __future__ import annotations

import hashlib
import os
import shutil
import stat
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Final

from yoake.core.values.errors import BadSource, LimitReached
from yoake.runner.git import mirror
from yoake.runner.skipped import is_skipped

if TYPE_CHECKING:
    from yoake.runner.snapshots import Snapshot

_MOST: Final = 4 * 1024**3
"""Bytes of one copy; what is larger holds data that its tests do not need."""
_LINK: Final = "120000"
_PROGRAM: Final = "100755"


def copy_folder(source: Path, target: Path) -> str:
    """Copy a folder as it is now; returns what names its content."""
    digest = hashlib.sha256()
    size = 0
    for path in _files(source):
        inside = path.relative_to(source)
        made = target / inside
        made.parent.mkdir(parents=True, exist_ok=True)
        if path.is_symlink():
            _link(made, str(path.readlink()), target)
            continue
        size += path.stat().st_size
        _check_size(size)
        shutil.copyfile(path, made)
        made.chmod(stat.S_IMODE(path.stat().st_mode) | stat.S_IRUSR | stat.S_IWUSR)
        digest.update(f"{inside}\0{path.stat().st_size}\0".encode("utf-8", "surrogateescape"))
        digest.update(hashlib.sha256(path.read_bytes()).digest())
    return f"content:{digest.hexdigest()[:16]}"


def _files(source: Path) -> Iterator[Path]:
    for folder, folders, names in os.walk(source):
        held = Path(folder)
        folders[:] = sorted(f for f in folders if not _left_out(held, f))
        links = [f for f in folders if (held / f).is_symlink()]
        for name in sorted([*names, *links]):
            path = held / name
            if path.is_symlink() or stat.S_ISREG(path.lstat().st_mode):
                yield path


def _left_out(folder: Path, name: str) -> bool:
    return is_skipped(name) or (folder / name / "pyvenv.cfg").exists()


def copy_commit(location: str, ref: str, subfolder: str, mirrors: Path, target: Path) -> str:
    """Copy the files of a commit, read from the object store; returns what names it. Raises BadSource."""
    repository = mirror(location, mirrors)
    try:
        commit = repository.resolve(ref)
        size = 0
        for path, blob, length, mode in repository.tree(commit, subfolder, 200_000):
            made = target / path.removeprefix(f"{subfolder}/" if subfolder else "")
            if ".git" in made.parts or not made.resolve().is_relative_to(target.resolve()):
                continue
            size += length
            _check_size(size)
            made.parent.mkdir(parents=True, exist_ok=True)
            data = repository.blob(blob, length)
            if mode == _LINK:
                _link(made, os.fsdecode(data), target)
            else:
                made.write_bytes(data)
                made.chmod(0o755 if mode == _PROGRAM else 0o644)
    finally:
        repository.close()
    return f"commit:{commit}"


def copy_snapshot(snapshot: Snapshot, target: Path) -> str:
    """Copy what an archive holds; returns what names it."""
    size = 0
    for entry in snapshot.entries():
        if entry.refused or entry.path.endswith("/"):
            continue
        size += entry.size
        _check_size(size)
        made = target / entry.path
        if not made.resolve().is_relative_to(target.resolve()):
            continue
        made.parent.mkdir(parents=True, exist_ok=True)
        made.write_bytes(snapshot.read(entry.path))
    return snapshot.identity


def _link(made: Path, goal: str, target: Path) -> None:
    """A link that stays inside; others are left out."""
    if not goal.startswith("/") and (made.parent / goal).resolve().is_relative_to(target.resolve()):
        made.symlink_to(goal)


def _check_size(size: int) -> None:
    if size > _MOST:
        raise LimitReached(f"A copy of this source takes more than {_MOST // 1024**3} GB. Run a subfolder of it.")


def check_module(target: Path, module: str) -> Path:
    """The folder of a module in a copy. Raises BadSource."""
    folder = (target / module) if module else target
    if not folder.is_dir() or not folder.resolve().is_relative_to(target.resolve()):
        raise BadSource(f"There is no folder {module or '.'} in the copy.")
    return folder
