"""Changed files as one patch that git and patch take."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Iterator


def patch(files: Iterable[tuple[str, bytes, bytes]]) -> bytes:
    """(path, bytes before, bytes after) of each changed file as a unified patch."""
    return b"".join(part for path, before, after in files for part in _file(path, before, after))


def _file(path: str, before: bytes, after: bytes) -> Iterator[bytes]:
    old, new = _lines(before), _lines(after)
    name = path.encode()
    yield b"diff --git a/" + name + b" b/" + name + b"\n"
    for row in difflib.diff_bytes(difflib.unified_diff, old, new, b"a/" + name, b"b/" + name, lineterm=b"\n"):
        yield row if row.endswith(b"\n") else row + b"\n\\ No newline at end of file\n"


def _lines(data: bytes) -> list[bytes]:
    """Lines as git sees them: only a line feed ends one."""
    parts = data.split(b"\n")
    return [part + b"\n" for part in parts[:-1]] + ([parts[-1]] if parts[-1] else [])
