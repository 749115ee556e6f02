"""Exact content to scan: a folder, one commit of a git repository, or an archive. Read, never run, never followed out."""

from __future__ import annotations

import hashlib
import os
import stat
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Final, Protocol

from yoake.core.inventory.bills import from_cyclonedx
from yoake.core.values.errors import BadSource
from yoake.runner.skipped import is_skipped

if TYPE_CHECKING:
    from yoake.runner.git import GitRepository

MAX_FILE: Final = 5 * 1024 * 1024  # larger source files are generated; they are named, not read
MAX_READ: Final = 20 * 1024 * 1024  # lock files may be larger than sources
MAX_ENTRIES: Final = (
    200_000  # files of one source; the largest kernels and browsers without their tests have some 100,000
)
MAX_DEPTH: Final = 100  # folders in one another; deeper ones are made by mistake or on purpose


@dataclass(frozen=True, slots=True)
class Entry:
    """One file of a snapshot: path with slashes, size in bytes, and a reason when it must not be read.

    A path that ends with a slash is a folder, and nothing below it is read.
    """

    path: str
    size: int
    refused: str = ""


class Snapshot(Protocol):
    """What can be scanned. ``identity`` names the content: a commit, or a digest once everything was listed."""

    identity: str
    label: str

    def entries(self) -> Iterator[Entry]:
        """All files, skipped folders left out, in path order."""

    def read(self, path: str) -> bytes:
        """The bytes of one file. Raises OSError."""

    def close(self) -> None:
        """Give back child processes and handles."""


def skipped(path: str) -> bool:
    """Whether a path lies in a folder that holds no source of its own."""
    parts = path.split("/")[:-1]
    return any(is_skipped(part) for part in parts)


def shown_name(name: str) -> str:
    """A file name as text: bytes that are no UTF-8 are written as ``\\xe9``."""
    return name.encode("utf-8", "surrogateescape").decode("utf-8", "backslashreplace")


class FolderSnapshot:
    """A folder as it is on disk now. Links are named and not followed."""

    def __init__(self, folder: Path) -> None:
        if not folder.is_dir():
            raise BadSource(f"{folder} is no folder. Give a folder, a git repository or an archive.")
        self.folder = folder
        self.label = "work tree"
        self.identity = "folder:" + hashlib.sha256(os.fsencode(folder)).hexdigest()[:16]
        self._names: dict[str, str] = {}  # shown path → path on disk, where they differ

    def entries(self) -> Iterator[Entry]:
        count = 0
        waiting = [("", 0)]
        while waiting:
            inside, depth = waiting.pop()
            if depth > MAX_DEPTH:
                yield Entry(f"{self._shown(inside)}/", 0, f"deeper than {MAX_DEPTH} folders in one another")
                continue
            try:
                with os.scandir(f"{self.folder}/{inside}") as found:
                    held = sorted(found, key=lambda entry: entry.name)
            except OSError as error:
                yield Entry(f"{self._shown(inside)}/", 0, f"cannot be read: {error.strerror}")
                continue
            prefix = f"{inside}/" if inside else ""
            folders = []
            for entry in held:
                if entry.is_dir(follow_symlinks=False):
                    if not is_skipped(entry.name):
                        folders.append((prefix + entry.name, depth + 1))
                    continue
                count += 1
                if count > MAX_ENTRIES:
                    raise BadSource(_too_many(str(self.folder)))
                made = self._entry(entry, prefix + entry.name)
                if made is not None:
                    yield made
            waiting.extend(reversed(folders))

    def _entry(self, entry: os.DirEntry[str], path: str) -> Entry | None:
        shown = self._shown(path)
        try:
            status = entry.stat(follow_symlinks=False)
        except OSError as error:
            return Entry(shown, 0, f"cannot be read: {error.strerror}")
        if stat.S_ISLNK(status.st_mode):
            return Entry(shown, 0, "a link, not followed")
        return Entry(shown, status.st_size) if stat.S_ISREG(status.st_mode) else None

    def _shown(self, path: str) -> str:
        shown = shown_name(path)
        if shown != path:
            self._names[shown] = path
        return shown

    def read(self, path: str) -> bytes:
        descriptor = os.open(
            f"{self.folder}/{self._names.get(path, path)}", os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK
        )
        with os.fdopen(descriptor, "rb") as handle:
            return handle.read(MAX_READ)

    def close(self) -> None:
        """Nothing is held open."""


class CommitSnapshot:
    """One commit, read from the object store; the work tree is not touched."""

    def __init__(self, repository: GitRepository, commit: str, ref: str, subfolder: str = "") -> None:
        self.repository = repository
        self.identity = f"commit:{commit}"
        self.label = f"{ref or 'HEAD'} at {commit[:10]}"
        inside = subfolder.strip("/")
        self.prefix = f"{inside}/" if inside else ""
        self._listing = {
            path.removeprefix(self.prefix): (blob, size, mode)
            for path, blob, size, mode in repository.tree(commit, inside, MAX_ENTRIES)
        }
        if not self._listing:
            where = f"“{subfolder}” in " if self.prefix else ""
            raise BadSource(f"{where}commit {commit[:10]} holds no files. Is the subfolder right?")

    def entries(self) -> Iterator[Entry]:
        for path in sorted(self._listing):
            _, size, mode = self._listing[path]
            if skipped(path):
                continue
            if path.count("/") > MAX_DEPTH:
                yield Entry(path, size, f"deeper than {MAX_DEPTH} folders in one another")
            else:
                yield Entry(path, size, "a link, not followed" if mode == "120000" else "")

    def read(self, path: str) -> bytes:
        blob, size, _ = self._listing[path]
        return self.repository.blob(blob, min(size, MAX_READ))

    def close(self) -> None:
        self.repository.close()


class BillSnapshot:
    """A bill of materials by itself: an inventory that came without its source."""

    def __init__(self, path: Path) -> None:
        with path.open("rb") as handle:
            self._data = handle.read(MAX_READ + 1)
        from_cyclonedx(self._data.decode("utf-8-sig", "replace"))  # refuses what is none, with a reason
        self.label = path.name
        self.identity = "archive:" + hashlib.sha256(self._data).hexdigest()

    def entries(self) -> Iterator[Entry]:
        yield Entry("bom.json", len(self._data))

    def read(self, path: str) -> bytes:
        if path != "bom.json":
            raise OSError(f"there is no {path} in a bill of materials")
        return self._data

    def close(self) -> None:
        """Nothing is held open."""


def _too_many(what: str) -> str:
    return f"{what} holds more than {MAX_ENTRIES:,} files. Scan its parts as subfolders instead."
