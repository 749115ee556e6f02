"""Exact content to scan: a folder, one commit of a git repository, or an archive. Read, never run, never followed out."""

from __future__ import annotations

import hashlib
import os
import stat
import tarfile
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import Final, Protocol

from yoake.core.errors import BadSource
from yoake.core.interchange.cyclonedx import from_cyclonedx
from yoake.runner.git import GitRepository
from yoake.runner.skipped import is_skipped

MAX_FILE: Final = 5 * 1024 * 1024  # larger source files are generated; they are named, not read
MAX_READ: Final = 20 * 1024 * 1024  # lock files may be larger than sources
MAX_ENTRIES: Final = 400_000
MAX_UNPACKED: Final = 2 * 1024**3
MAX_RATIO: Final = 200  # real source archives pack 3 to 20 times


@dataclass(frozen=True, slots=True)
class Entry:
    """One file of a snapshot: path with slashes, size in bytes, and a reason when it must not be read."""

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
        """The bytes of one file."""

    def close(self) -> None:
        """Give back child processes and handles."""


def skipped(path: str) -> bool:
    """Whether a path lies in a folder that holds no source of its own."""
    parts = path.split("/")[:-1]
    return any(is_skipped(part) for part in parts)


class FolderSnapshot:
    """A folder as it is on disk now. Links are named and not followed."""

    def __init__(self, folder: Path) -> None:
        if not folder.is_dir():
            raise BadSource(f"{folder} is no folder. Give a folder, a git repository or an archive.")
        self.folder = folder
        self.label = "work tree"
        self.identity = "folder:" + hashlib.sha256(os.fsencode(folder)).hexdigest()[:16]

    def entries(self) -> Iterator[Entry]:
        for base, folders, names in os.walk(self.folder, followlinks=False):
            folders[:] = sorted(f for f in folders if not is_skipped(f))
            inside = Path(base).relative_to(self.folder).as_posix()
            prefix = "" if inside == "." else f"{inside}/"
            for name in sorted(names):
                relative = f"{prefix}{name}"
                try:
                    status = os.lstat(os.path.join(base, name))  # noqa: PTH118  a path object for each file takes longer than the rest
                except OSError as error:
                    yield Entry(relative, 0, f"cannot be read: {error.strerror}")
                    continue
                if stat.S_ISLNK(status.st_mode):
                    yield Entry(relative, 0, "a link, not followed")
                elif stat.S_ISREG(status.st_mode):
                    yield Entry(relative, status.st_size)

    def read(self, path: str) -> bytes:
        descriptor = os.open(f"{self.folder}/{path}", os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK)
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
        self.prefix = f"{subfolder.strip('/')}/" if subfolder.strip("/") else ""
        self._listing = {
            path.removeprefix(self.prefix): (blob, size, mode)
            for path, blob, size, mode in repository.tree(commit)
            if path.startswith(self.prefix)
        }
        if not self._listing:
            where = f"“{subfolder}” in " if self.prefix else ""
            raise BadSource(f"{where}commit {commit[:10]} holds no files. Is the subfolder right?")

    def entries(self) -> Iterator[Entry]:
        for path in sorted(self._listing):
            _, size, mode = self._listing[path]
            if not skipped(path):
                yield Entry(path, size, "a link, not followed" if mode == "120000" else "")

    def read(self, path: str) -> bytes:
        return self.repository.blob(self._listing[path][0])

    def close(self) -> None:
        self.repository.close()


class ArchiveSnapshot:
    """A zip or tar, read entry by entry within limits; nothing is written to disk."""

    def __init__(self, path: Path, subfolder: str = "") -> None:
        self.path = path
        self.label = path.name
        self.identity = "archive:" + hashlib.sha256(path.read_bytes()).hexdigest()
        self._zip = zipfile.ZipFile(path) if zipfile.is_zipfile(path) else None
        try:
            self._tar = None if self._zip else tarfile.open(path)  # noqa: SIM115  closed in close()
        except (tarfile.TarError, OSError) as error:
            raise BadSource(f"{path.name} is neither a zip nor a tar archive: {error}") from error
        members = self._zip_members() if self._zip else self._tar_members()
        root = _common_root([name for name, _, _ in members])
        prefix = root + (f"{subfolder.strip('/')}/" if subfolder.strip("/") else "")
        self._members = {
            name.removeprefix(prefix): (name, size) for name, size, _ in members if name.startswith(prefix)
        }
        self._links = {name.removeprefix(prefix) for name, _, link in members if link}
        if not self._members:
            raise BadSource(f"{path.name} holds no files{' below ' + subfolder if subfolder else ''}.")

    def _zip_members(self) -> list[tuple[str, int, bool]]:
        if self._zip is None:
            return []
        packed = sum(info.compress_size for info in self._zip.infolist())
        found = [
            (i.filename, i.file_size, stat.S_ISLNK(i.external_attr >> 16))
            for i in self._zip.infolist()
            if not i.is_dir()
        ]
        return _checked(found, packed, self.path.name)

    def _tar_members(self) -> list[tuple[str, int, bool]]:
        if self._tar is None:
            return []
        found: list[tuple[str, int, bool]] = []
        total = 0
        try:
            for member in self._tar:
                total += member.size
                if len(found) > MAX_ENTRIES or total > MAX_UNPACKED:
                    break
                if member.isfile() or member.issym() or member.islnk():
                    found.append((member.name.removeprefix("./"), member.size, not member.isfile()))
        except (tarfile.TarError, OSError, EOFError) as error:
            raise BadSource(f"{self.path.name} breaks off: {error}") from error
        return _checked(found, self.path.stat().st_size, self.path.name)

    def entries(self) -> Iterator[Entry]:
        for path in sorted(self._members):
            if not skipped(path):
                yield Entry(path, self._members[path][1], "a link, not followed" if path in self._links else "")

    def read(self, path: str) -> bytes:
        name = self._members[path][0]
        try:
            if self._zip is not None:
                with self._zip.open(name) as handle:
                    return handle.read(MAX_READ)
            inner = self._tar.extractfile(name) or self._tar.extractfile(f"./{name}") if self._tar else None
            return inner.read(MAX_READ) if inner is not None else b""
        except (zipfile.BadZipFile, tarfile.TarError, KeyError, RuntimeError, EOFError, NotImplementedError) as error:
            raise OSError(f"cannot be unpacked: {error}") from error

    def close(self) -> None:
        if self._zip is not None:
            self._zip.close()
        if self._tar is not None:
            self._tar.close()


def open_archive(path: Path, subfolder: str = "") -> Snapshot:
    """A packed source, or a bill of materials by itself. Raises BadSource."""
    return BillSnapshot(path) if path.name.lower().endswith(".json") else ArchiveSnapshot(path, subfolder)


class BillSnapshot:
    """A bill of materials by itself: an inventory that came without its source."""

    def __init__(self, path: Path) -> None:
        self._data = path.read_bytes()[: MAX_READ + 1]
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


def _checked(members: list[tuple[str, int, bool]], packed: int, name: str) -> list[tuple[str, int, bool]]:
    """Refuse archives that reach outside or blow up. Raises BadSource."""
    if not members:
        raise BadSource(f"{name} holds no files.")
    if len(members) > MAX_ENTRIES:
        raise BadSource(f"{name} holds more than {MAX_ENTRIES:,} files; give the repository instead.")
    for path, _, _ in members:
        if PurePosixPath(path).is_absolute() or ".." in PurePosixPath(path).parts or "\\" in path or path[1:2] == ":":
            raise BadSource(f"{name} holds “{path}”, which points outside the archive. Nothing was taken in.")
    total = sum(size for _, size, _ in members)
    if total > MAX_UNPACKED or (packed and total > 50_000_000 and total / packed > MAX_RATIO):
        raise BadSource(
            f"{name} would unpack to {total:,} bytes from {packed:,}: too much to be source code. Nothing was taken in."
        )
    return members


def _common_root(names: list[str]) -> str:
    """The one folder everything lies in, with its slash; empty when there is none."""
    first = names[0].split("/", 1)[0] + "/"
    return first if all(name.startswith(first) for name in names) else ""
