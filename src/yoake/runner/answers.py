"""Answers of the command line, kept by a fingerprint of everything they depend on.

An unchanged folder is asked about again and again (editors, CI, a person looking twice). The fingerprint holds the arguments,
size, times and inode of every file, and the same of the program and its knowledge, so an answer is never given for
anything else. Only light modules are imported here: the whole point is not to start the rest.
"""

from __future__ import annotations

import hashlib
import os
import time
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from yoake.runner.skipped import is_skipped

_SETTLED: Final = 2_000_000_000  # ns: a file changed this recently may change again within the clock's grain
_VALUED: Final = ("--to", "--ref", "--from", "--format", "--fail-on", "-o", "--output")


@dataclass(frozen=True, slots=True)
class Request:
    """One ``scan`` of a folder. ``key`` names everything the answer depends on; ``settled`` allows to keep it."""

    key: str
    output: str
    settled: bool


def read_request(arguments: list[str], folders: Iterable[str]) -> Request | None:
    """The request that these arguments are; None when it is no scan of a local folder as it is now.

    ``folders`` are the program's own and the person's knowledge, on which every answer depends.
    """
    if arguments[:1] != ["scan"]:
        return None
    path, output, rest = _split(arguments[1:])
    if path is None or rest is None or not Path(path).is_dir():
        return None
    digest = hashlib.sha256("\0".join([os.path.realpath(path), *rest]).encode())
    newest = 0
    for folder in (path, *folders):
        for row, changed in _listing(folder):
            digest.update(row.encode("utf-8", "surrogateescape"))
            newest = max(newest, changed)
    return Request(digest.hexdigest(), output, newest < time.time_ns() - _SETTLED)


def _split(arguments: list[str]) -> tuple[str | None, str, list[str] | None]:
    """(path, output file, everything else); nothing when the arguments are not plain."""
    path, output, rest = None, "", []
    waiting = iter(arguments)
    for argument in waiting:
        name, equals, value = argument.partition("=")
        if name in ("--ref", "--help") or (argument.startswith("-") and name not in _VALUED):
            return None, "", None
        if name in _VALUED:
            value = value if equals else next(waiting, "")
            if name in ("-o", "--output"):
                output = value
            else:
                rest.append(f"{name}={value}")
        elif path is None:
            path = argument
        else:
            return None, "", None
    return path, output, rest


def _listing(folder: str) -> Iterator[tuple[str, int]]:
    """(everything that changes when a file does, when it last changed in ns) for each file below ``folder``."""
    waiting = [folder]
    while waiting:
        current = waiting.pop()
        try:
            entries = sorted(os.scandir(current), key=lambda entry: entry.name)
        except OSError:
            continue
        for entry in entries:
            if entry.is_dir(follow_symlinks=False):
                if not is_skipped(entry.name):
                    waiting.append(entry.path)
                continue
            s = entry.stat(follow_symlinks=False)
            yield f"{entry.path}\0{s.st_size} {s.st_mtime_ns} {s.st_ctime_ns} {s.st_ino}\n", s.st_ctime_ns


def write_whole(path: Path, text: str) -> None:
    """Write a file so that it is never seen half done."""
    partial = path.with_name(path.name + ".part")
    partial.write_text(text, "utf-8")
    partial.replace(path)
