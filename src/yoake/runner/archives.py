"""Archives as snapshots: a zip or a tar, read entry by entry within limits.

A packed tar is unpacked once into a file without a name (it vanishes with the process), so that its members can be read
in any order; nothing of an archive is ever laid down under its own names.
"""

from __future__ import annotations

import bz2
import gzip
import hashlib
import io
import lzma
import os
import stat
import struct
import tarfile
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from pathlib import Path, PurePosixPath
from typing import IO, Final, cast

from yoake.core.values.errors import BadSource
from yoake.runner.snapshots import MAX_DEPTH, MAX_ENTRIES, MAX_READ, BillSnapshot, Entry, Snapshot, shown_name, skipped

MAX_UNPACKED: Final = 2 * 1024**3
MAX_RATIO: Final = 200  # real source archives pack 3 to 20 times
_RATIO_FROM: Final = 50_000_000  # bytes: small archives of text may pack better
_MAX_DIRECTORY: Final = 64 * 1024**2  # bytes of a zip's list of files: 200,000 names of 300 bytes
_MAX_HEADER: Final = 1024**2  # bytes of one tar header: a name has at most 4,096, other fields some kilobytes
_CHUNK: Final = 1024**2
_BROKEN: Final = (OSError, EOFError, zlib.error, lzma.LZMAError, tarfile.TarError, struct.error, ValueError)
_GZIP, _BZIP, _XZ = b"\x1f\x8b", b"BZh", b"\xfd7zXZ\0"
_XZ_MEMORY: Final = 128 * 1024**2  # bytes; preset 9 needs 65 MB
Member = tuple[str, int, int, bool]
"""Name, size, where it begins (tar) or its number (zip), whether it is a link."""


def open_archive(path: Path, subfolder: str = "") -> Snapshot:
    """A packed source, or a bill of materials by itself. Raises BadSource."""
    try:
        if path.name.lower().endswith(".json"):
            return BillSnapshot(path)
        return ZipSnapshot(path, subfolder) if looks_like_zip(path) else TarSnapshot(path, subfolder)
    except FileNotFoundError as error:
        raise BadSource(f"There is no archive at {path} any more. Upload it again, or give its folder.") from error


def check_archive(path: Path) -> None:
    """Refuse at once what begins like no archive, without unpacking it. Raises BadSource."""
    if path.name.lower().endswith(".json"):
        BillSnapshot(path)
    elif not looks_like_zip(path):
        try:
            with path.open("rb") as handle:
                first = next(_unpacked(path), b"") if _is_packed(path) else handle.read(tarfile.BLOCKSIZE)
            tarfile.TarInfo.frombuf(first[: tarfile.BLOCKSIZE], "utf-8", "surrogateescape")
        except _BROKEN as error:
            raise BadSource(f"{path.name} is neither a zip nor a tar archive: {error}") from error


def looks_like_zip(path: Path) -> bool:
    """Whether a file has the end of a zip."""
    try:
        return zipfile.is_zipfile(path)
    except OSError:
        return False


def _digest(path: Path) -> str:
    with path.open("rb") as handle:
        return "archive:" + hashlib.file_digest(handle, "sha256").hexdigest()


class _Members:
    """What both kinds share: names below the one folder that holds all, and entries in path order."""

    def __init__(self, name: str, members: list[Member], subfolder: str) -> None:
        root = _common_root(members)
        prefix = root + (f"{subfolder.strip('/')}/" if subfolder.strip("/") else "")
        self._members = {m[0].removeprefix(prefix): m for m in members if m[0].startswith(prefix)}
        if not self._members:
            raise BadSource(f"{name} holds no files{' below ' + subfolder if subfolder else ''}.")

    def entries(self) -> Iterator[Entry]:
        for path in sorted(self._members):
            _, size, _, link = self._members[path]
            if skipped(path):
                continue
            if path.count("/") > MAX_DEPTH:
                yield Entry(path, size, f"deeper than {MAX_DEPTH} folders in one another")
            else:
                yield Entry(path, size, "a link, not followed" if link else "")


class ZipSnapshot(_Members):
    """A zip archive."""

    def __init__(self, path: Path, subfolder: str = "") -> None:
        self.label = path.name
        self.identity = _digest(path)
        _check_directory(path)
        try:
            self._zip = zipfile.ZipFile(path)
        except (*_BROKEN, zipfile.BadZipFile, NotImplementedError) as error:
            raise BadSource(f"{path.name} cannot be read as a zip: {error}") from error
        try:
            self._infos = [info for info in self._zip.infolist() if not info.is_dir()]
            packed = sum(info.compress_size for info in self._infos)
            members = [
                (shown_name(i.filename), i.file_size, number, stat.S_ISLNK(i.external_attr >> 16))
                for number, i in enumerate(self._infos)
            ]
            super().__init__(path.name, _checked(members, packed, path.name), subfolder)
        except BaseException:
            self._zip.close()
            raise

    def read(self, path: str) -> bytes:
        try:
            with self._zip.open(self._infos[self._members[path][2]]) as handle:
                return handle.read(MAX_READ)
        except (*_BROKEN, zipfile.BadZipFile, KeyError, RuntimeError, NotImplementedError) as error:
            raise OSError(f"cannot be unpacked: {error}") from error

    def close(self) -> None:
        self._zip.close()


class TarSnapshot(_Members):
    """A tar archive, packed or not."""

    def __init__(self, path: Path, subfolder: str = "") -> None:
        self.label = path.name
        self.identity = _digest(path)
        self._file = _plain(path)
        try:
            members = _tar_members(self._file, path)
            super().__init__(path.name, _checked(members, path.stat().st_size, path.name), subfolder)
        except BaseException:
            self._file.close()
            raise

    def read(self, path: str) -> bytes:
        _, size, begin, _ = self._members[path]
        wanted = min(size, MAX_READ)
        data = os.pread(self._file.fileno(), wanted, begin)
        if len(data) < wanted:
            raise OSError("the archive breaks off inside this file")
        return data

    def close(self) -> None:
        self._file.close()


def _is_packed(path: Path) -> bool:
    with path.open("rb") as handle:
        head = handle.read(8)
    return head.startswith((_GZIP, _BZIP, _XZ))


def _unpacked(path: Path) -> Iterator[bytes]:
    """What a packed tar unpacks to, piece by piece."""
    with path.open("rb") as handle:
        head = handle.read(8)
        handle.seek(0)
        if head.startswith(_XZ):
            yield from _unpacked_xz(handle)
            return
        opener = gzip.open if head.startswith(_GZIP) else bz2.open
        with opener(handle, "rb") as source:
            while chunk := source.read(_CHUNK):
                yield chunk


def _unpacked_xz(handle: IO[bytes]) -> Iterator[bytes]:
    """The pieces of an xz, which may ask for gigabytes of memory: it gets what the strongest preset needs."""
    made = lzma.LZMADecompressor(memlimit=_XZ_MEMORY)
    while chunk := handle.read(_CHUNK):
        data = made.decompress(chunk, _CHUNK)
        while data or not made.needs_input:
            yield data
            if made.eof:
                break
            data = made.decompress(b"", _CHUNK)
        if made.eof:
            return


def _plain(path: Path) -> IO[bytes]:
    """The tar as a file that can be read anywhere: itself, or what it unpacks to. Raises BadSource."""
    if not _is_packed(path):
        return path.open("rb")
    plain = cast("IO[bytes]", tempfile.TemporaryFile())  # noqa: SIM115  closed with the snapshot
    try:
        _pour(path, plain)
    except _BROKEN as error:
        plain.close()
        raise BadSource(f"{path.name} cannot be unpacked: {error}") from error
    except BaseException:
        plain.close()
        raise
    return plain


def _pour(path: Path, into: IO[bytes]) -> None:
    """Unpack a tar into a file, up to what source code would be."""
    packed = path.stat().st_size
    most = min(MAX_UNPACKED, max(_RATIO_FROM, packed * MAX_RATIO))
    size = 0
    for chunk in _unpacked(path):
        size += len(chunk)
        if size > most:
            raise BadSource(_blown(path.name, f"more than {most:,}", packed))
        into.write(chunk)
    into.flush()


class _Headers(io.RawIOBase):
    """The tar as its headers are read: what claims to be a header larger than any is refused before it is read."""

    def __init__(self, file: IO[bytes]) -> None:
        self._file = file

    def read(self, size: int = -1) -> bytes:
        if size < 0 or size > _MAX_HEADER:
            raise tarfile.ReadError(f"a header says that it has {size:,} bytes")
        return self._file.read(size)

    def seek(self, offset: int, whence: int = 0) -> int:
        return self._file.seek(offset, whence)

    def tell(self) -> int:
        return self._file.tell()


def _tar_members(file: IO[bytes], path: Path) -> list[Member]:
    found: list[Member] = []
    total = 0
    try:
        file.seek(0)
        with tarfile.open(fileobj=cast("IO[bytes]", _Headers(file)), mode="r:", errorlevel=1) as tar:
            for member in tar:
                tar.members = []  # type: ignore[attr-defined]  # it would keep all of them
                total += member.size
                if len(found) > MAX_ENTRIES or total > MAX_UNPACKED:
                    break
                if member.isreg() and not member.issparse():
                    found.append((_tar_name(member), member.size, member.offset_data, False))
                elif member.issym() or member.islnk() or member.issparse():
                    found.append((_tar_name(member), 0, 0, True))
    except _BROKEN as error:
        if not found:
            raise BadSource(f"{path.name} is neither a zip nor a tar archive: {error}") from error
        raise BadSource(f"{path.name} breaks off: {error}") from error
    return found


def _tar_name(member: tarfile.TarInfo) -> str:
    return shown_name(member.name).removeprefix("./")


def _check_directory(path: Path) -> None:
    """Refuse a zip whose list of files alone is beyond limits, before it is read (.ZIP specification, 4.3.16)."""
    with path.open("rb") as handle:
        handle.seek(max(path.stat().st_size - 65_557, 0))
        tail = handle.read()
    at = tail.rfind(b"PK\x05\x06")
    if at < 0 or len(tail) - at < 22:
        return
    count, size = struct.unpack_from("<HI", tail, at + 10)
    wide = tail.rfind(b"PK\x06\x06", 0, at)
    if wide >= 0 and len(tail) - wide >= 56:
        count, size = struct.unpack_from("<QQ", tail, wide + 32)
    elif size == 0xFFFFFFFF or count == 0xFFFF:
        size = path.stat().st_size  # its wide record lies elsewhere: the list may be anything
    if count > MAX_ENTRIES or size > _MAX_DIRECTORY:
        raise BadSource(f"{path.name} holds more than {MAX_ENTRIES:,} files; give the repository instead.")


def _checked(members: list[Member], packed: int, name: str) -> list[Member]:
    """Refuse archives that reach outside or blow up. Raises BadSource."""
    if not members:
        raise BadSource(f"{name} holds no files.")
    if len(members) > MAX_ENTRIES:
        raise BadSource(f"{name} holds more than {MAX_ENTRIES:,} files; give the repository instead.")
    for path, *_ in members:
        pure = PurePosixPath(path)
        if pure.is_absolute() or ".." in pure.parts or path[1:2] == ":" or "\\" in path.replace("\\x", ""):
            raise BadSource(f"{name} holds “{path[:200]}”, which points outside the archive. Nothing was taken in.")
    total = sum(size for _, size, _, _ in members)
    if total > MAX_UNPACKED or (packed and total > _RATIO_FROM and total / packed > MAX_RATIO):
        raise BadSource(_blown(name, f"{total:,}", packed))
    return members


def _blown(name: str, size: str, packed: int) -> str:
    return f"{name} would unpack to {size} bytes from {packed:,}: too much to be source code. Nothing was taken in."


def _common_root(members: list[Member]) -> str:
    """The one folder everything lies in, with its slash; empty when there is none."""
    first = members[0][0].split("/", 1)[0] + "/"
    return first if all(name.startswith(first) for name, *_ in members) else ""
