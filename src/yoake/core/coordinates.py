"""Coordinates (package URLs), release lines and targets such as ``pypi/django@5.2``."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from packageurl import PackageURL
from packaging.utils import canonicalize_name

from yoake.core.errors import BadCoordinate

RUNTIMES: Final = {"python": "pkg:generic/python", "node": "pkg:generic/node"}
"""Short names of runtimes on the command line."""

_LINE = re.compile(r"\d+(\.\d+)*$")
_NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9._-]*$")
_LINE_LENGTHS: Final = {"npm": 1}
_DEFAULT_LINE_LENGTH: Final = 2


@dataclass(frozen=True, slots=True, order=True)
class Coordinate:
    """What is versioned, as a package URL without a version, e.g. ``pkg:pypi/django``."""

    purl: str

    @property
    def short(self) -> str:
        """The form used on the command line: ``python`` or ``pypi/django``."""
        for name, purl in RUNTIMES.items():
            if purl == self.purl:
                return name
        return self.purl.removeprefix("pkg:").replace("%40", "@")

    @property
    def name(self) -> str:
        """The last part, as people say it: ``django``."""
        return self.short.split("/", 1)[-1]

    @property
    def spoken(self) -> str:
        """How people write it in a sentence: ``Python``, ``Django``, ``requests``."""
        return {"python": "Python", "django": "Django", "node": "Node"}.get(self.name, self.name)

    @property
    def ecosystem(self) -> str:
        """The purl type: ``pypi``, ``npm`` or ``generic``."""
        return self.purl.removeprefix("pkg:").split("/", 1)[0]


@dataclass(frozen=True, slots=True, order=True)
class Target:
    """A line of a coordinate: ``pypi/django@5.2``."""

    coordinate: Coordinate
    line: str

    def __str__(self) -> str:
        return f"{self.coordinate.short}@{self.line}"


PYTHON: Final = Coordinate(RUNTIMES["python"])
NODE: Final = Coordinate(RUNTIMES["node"])
DJANGO: Final = Coordinate("pkg:pypi/django")


def parse_coordinate(text: str) -> Coordinate:
    """Read ``python``, ``pypi/django`` or a purl. Raises BadCoordinate."""
    text = text.strip()
    if text.lower() in RUNTIMES:
        return Coordinate(RUNTIMES[text.lower()])
    raw = text if text.startswith("pkg:") else f"pkg:{text}"
    if "/" not in raw:
        raise BadCoordinate(
            f"“{text}” is no coordinate: write python, pypi/NAME, npm/NAME or a package URL such as pkg:pypi/django."
        )
    try:
        purl = PackageURL.from_string(raw.replace("npm/@", "npm/%40"))
    except ValueError as error:
        raise BadCoordinate(f"“{text}” is no coordinate: {error}. Write for example pypi/django.") from error
    name = canonicalize_name(purl.name) if purl.type == "pypi" else purl.name
    if not _NAME.match(name):
        raise BadCoordinate(f"“{name}” is no package name: use letters, digits, dots, dashes and underscores.")
    return Coordinate(PackageURL(purl.type, purl.namespace, name).to_string())


def parse_target(text: str) -> Target:
    """Read ``COORD@LINE``, split at the last ``@``. Raises BadCoordinate."""
    coordinate, at, line = text.strip().rpartition("@")
    if not at or not coordinate or not _LINE.match(line):
        raise BadCoordinate(f"“{text}” names no line: write COORD@LINE, for example python@3.13 or pypi/django@5.2.")
    return Target(parse_coordinate(coordinate), line)


def pypi(name: str) -> Coordinate:
    """The coordinate of a PyPI project, its name made canonical."""
    return Coordinate(f"pkg:pypi/{canonicalize_name(name)}")


@lru_cache(maxsize=8192)
def package(ecosystem: str, name: str) -> Coordinate:
    """The coordinate of a package of an ecosystem: ``pypi`` or ``npm``."""
    if ecosystem == "pypi":
        return pypi(name)
    return Coordinate(f"pkg:{ecosystem}/{name.replace('@', '%40')}")


@lru_cache(maxsize=4096)
def line_key(line: str) -> tuple[int, ...]:
    """Order of lines: numeric, component by component. Non-numeric parts end the key."""
    parts: list[int] = []
    for part in line.split("."):
        digits = re.match(r"\d+", part)
        if not digits:
            break
        parts.append(int(digits.group()))
    return tuple(parts)


def line_of(coordinate: Coordinate, release: str) -> str:
    """The line a release belongs to: major.minor, for npm the major (0.minor below 1)."""
    key = line_key(release)
    length = _LINE_LENGTHS.get(coordinate.ecosystem, _DEFAULT_LINE_LENGTH)
    if coordinate.short == "node":
        length = 1
    if length == 1 and key[:1] == (0,):
        length = 2
    padded = (*key, 0, 0)[: max(length, 1)]
    return ".".join(str(part) for part in padded)


def line_matches(line: str, prefix: str) -> bool:
    """Whether ``prefix`` names this line (``3`` names 3.13 and ``3.13.1`` names 3.13)."""
    a, b = line_key(line), line_key(prefix)
    shared = min(len(a), len(b))
    return a[:shared] == b[:shared]
