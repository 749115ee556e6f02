"""Versions named in texts that no manifest reader understands: scripts, docs, CI, container files, settings."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from functools import lru_cache
from typing import Final

from yoake.core.coordinates import NODE, PYTHON, Coordinate
from yoake.core.inventory.model import Mention

_ENDINGS: Final = (
    ".sh", ".bash", ".ps1", ".bat", ".cmd", ".md", ".rst", ".txt", ".adoc", ".yml", ".yaml", ".toml", ".cfg", ".ini", ".conf",
    ".env", ".mk", ".tf", ".service", ".json", ".html", ".nix",
)  # fmt: skip
_NAMES: Final = frozenset(
    ("makefile", "procfile", "dockerfile", "containerfile", "jenkinsfile", "vagrantfile", "justfile", "readme", "install", ".env", ".tool-versions")
)  # fmt: skip
_HISTORY: Final = re.compile(
    r"(^|/)(changes?|changelog|history|news|release[-_ ]?notes?|releases?|whatsnew|authors|upgrad\w*)\b", re.IGNORECASE
)
_LOCKS: Final = frozenset(
    ("package-lock.json", "npm-shrinkwrap.json", "package.json", "composer.lock", "tsconfig.json")
)
MAX_TEXT: Final = 512 * 1024  # longer texts are data
_MAX_LINE: Final = 400
_MAX_MENTIONS: Final = 200  # of one file


_DIGIT: Final = re.compile(r"\d")


def may_mention(path: str) -> bool:
    """Whether a text may name versions that somebody must update: no history, no lock file, no licence."""
    name = path.rsplit("/", 1)[-1].lower()
    if name in _LOCKS or _HISTORY.search(path):
        return False
    return (
        name in _NAMES or name.startswith(("dockerfile", "docker-compose", "requirements")) or name.endswith(_ENDINGS)
    )


@lru_cache(maxsize=64)
def _pattern(purl: str) -> re.Pattern[str]:
    """How people write a version of one coordinate."""
    if purl == PYTHON.purl:
        before = r"(?:\bpython(?:[-_ :=]|\s+v?)?|\bpython_version\W{1,5}|\bpypy)"
        body = before + r"(?P<v>[23]\.\d{1,2})(?:\.\d+)?(?![\w.]*\d)|\bpy(?P<c>[23]\d{1,2})\b"
    elif purl == NODE.purl:
        before = r"\bnode(?:\.?js)?(?:[-_ :=@]|\s+v?|\s+version\s+v?)"
        body = before + r"(?P<v>\d{1,2})(?:\.\d+){0,2}(?![\w.]*\d)|\bsetup_(?P<c>\d{1,2})\.x\b"
    else:
        name = re.escape(Coordinate(purl).name).replace(r"\-", "[-_]")
        body = rf"\b{name}\W{{1,5}}v?(?P<v>\d+(?:\.\d+)?)(?:\.\d+)*(?![\w])|(?P<c>(?!))"
    return re.compile(body, re.IGNORECASE)


def find_mentions(path: str, content: str, coordinates: Iterable[Coordinate]) -> Iterator[Mention]:
    """Every place of one text that names a version of one of ``coordinates``."""
    every = [(coordinate, _pattern(coordinate.purl)) for coordinate in coordinates]
    wanted = [(coordinate, pattern) for coordinate, pattern in every if pattern.search(content)]
    if not wanted:  # most texts name none, and going through their lines takes long
        return
    left = _MAX_MENTIONS
    for number, raw in enumerate(content.splitlines(), 1):
        if len(raw) > _MAX_LINE or not _DIGIT.search(raw):
            continue
        for coordinate, pattern in wanted:
            for found in pattern.finditer(raw):
                version = found.group("v") or _spread(found.group("c"), coordinate)
                yield Mention(coordinate.purl, version, path, number, found.start(), found.group().strip())
                left -= 1
        if left <= 0:
            return


def _spread(digits: str, coordinate: Coordinate) -> str:
    """``38`` → ``3.8`` for Python; as it is for others."""
    return f"{digits[0]}.{digits[1:]}" if coordinate == PYTHON else digits
