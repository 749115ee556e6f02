"""Versions named in texts that no manifest reader understands: scripts, docs, CI, container files, settings."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from functools import lru_cache
from typing import TYPE_CHECKING, Final

from yoake.core.values.modules import Mention

if TYPE_CHECKING:
    from yoake.core.contract.registry import Registry
    from yoake.core.values.coordinates import Coordinate

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
_LOCK: Final = "composer.lock"
MAX_TEXT: Final = 512 * 1024  # longer texts are data
_MAX_LINE: Final = 400
_MAX_MENTIONS: Final = 200  # of one file
_DIGIT: Final = re.compile(r"\d")


def may_mention(path: str, ecosystems: Registry) -> bool:
    """Whether a text may name versions that somebody must update: no history, no lock file, no licence."""
    name = path.rsplit("/", 1)[-1].lower()
    if name == _LOCK or name in ecosystems.silent_files or _HISTORY.search(path):
        return False
    return (
        name in _NAMES or name.startswith(("dockerfile", "docker-compose", "requirements")) or name.endswith(_ENDINGS)
    )


@lru_cache(maxsize=64)
def _named(name: str) -> re.Pattern[str]:
    """How people write a version of a package."""
    written = re.escape(name).replace(r"\-", "[-_]")
    return re.compile(rf"\b{written}\W{{1,5}}v?(?P<v>\d+(?:\.\d+)?)(?:\.\d+)*(?![\w])|(?P<c>(?!))", re.IGNORECASE)


def _pattern(coordinate: Coordinate, ecosystems: Registry) -> re.Pattern[str]:
    """How people write a version of one coordinate."""
    found = ecosystems.of(coordinate) if coordinate.is_runtime else None
    return found.words.mention if found is not None else _named(coordinate.name)


def find_mentions(
    path: str, content: str, coordinates: Iterable[Coordinate], ecosystems: Registry
) -> Iterator[Mention]:
    """Every place of one text that names a version of one of ``coordinates``."""
    every = [(coordinate, _pattern(coordinate, ecosystems)) for coordinate in coordinates]
    wanted = [(coordinate, pattern) for coordinate, pattern in every if pattern.search(content)]
    if not wanted:  # most texts name none, and going through their lines takes long
        return
    left = _MAX_MENTIONS
    for number, raw in enumerate(content.splitlines(), 1):
        if len(raw) > _MAX_LINE or not _DIGIT.search(raw):
            continue
        for coordinate, pattern in wanted:
            for found in pattern.finditer(raw):
                version = found.group("v") or _spread(found.group("c"), coordinate, ecosystems)
                yield Mention(
                    coordinate=coordinate,
                    version=version,
                    file=path,
                    line=number,
                    column=found.start(),
                    text=found.group().strip(),
                )
                left -= 1
        if left <= 0:
            return


def _spread(joined: str, coordinate: Coordinate, ecosystems: Registry) -> str:
    """A version that people write together, taken apart as its ecosystem does."""
    found = ecosystems.of(coordinate)
    return found.words.spread(joined) if found is not None else joined
