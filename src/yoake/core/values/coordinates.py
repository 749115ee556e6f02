"""Coordinates (package URLs), release lines and targets. Nothing here knows which types of package URLs there are."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Final

from packageurl import PackageURL
from pydantic_core import CoreSchema
from pydantic_core.core_schema import (
    no_info_after_validator_function,
    no_info_plain_validator_function,
    str_schema,
    to_string_ser_schema,
)

from yoake.core.values.errors import BadCoordinate

_RUNTIME: Final = "pkg:generic/"
_LINE: Final = re.compile(r"\d+(\.\d+)*$")
_NAME: Final = re.compile(r"[A-Za-z0-9][A-Za-z0-9._-]*$")


class Coordinate(str):
    """What is versioned: the text of a package URL without a version, ``pkg:TYPE/NAME``; runtimes are ``pkg:generic/NAME``."""

    __slots__ = ()

    @property
    def short(self) -> str:
        """The form used on the command line: ``NAME`` of a runtime, ``TYPE/NAME`` of a package."""
        return self.removeprefix(_RUNTIME).removeprefix("pkg:").replace("%40", "@")

    @property
    def name(self) -> str:
        """The last part, as people say it."""
        return self.short.split("/", 1)[-1]

    @property
    def spoken(self) -> str:
        """How people write it in a sentence; ``Knowledge.spoken`` knows more of them."""
        return self.name.capitalize() if self.is_runtime else self.name

    @property
    def type(self) -> str:
        """The type of the package URL."""
        return self.removeprefix("pkg:").split("/", 1)[0]

    @property
    def is_runtime(self) -> bool:
        """Whether this is a runtime and no package."""
        return self.startswith(_RUNTIME)

    @classmethod
    def __get_pydantic_core_schema__(cls, _source: Any, _handler: Any) -> CoreSchema:
        """In records it is its text."""
        return no_info_after_validator_function(cls, str_schema())


class Line(str):
    """A release line, such as ``3.12``: its text, in the order of its numbers (3.9 comes before 3.12)."""

    __slots__ = ()

    def __lt__(self, other: str) -> bool:
        return line_key(self) < line_key(other)

    def __le__(self, other: str) -> bool:
        return line_key(self) <= line_key(other)

    def __gt__(self, other: str) -> bool:
        return line_key(self) > line_key(other)

    def __ge__(self, other: str) -> bool:
        return line_key(self) >= line_key(other)

    @classmethod
    def __get_pydantic_core_schema__(cls, _source: Any, _handler: Any) -> CoreSchema:
        """In records it is its text."""
        return no_info_after_validator_function(cls, str_schema())


NO_LINE: Final = Line()
"""No line: of what nobody says where it stands."""

Lines = Mapping[Coordinate, Line]
"""The line that each coordinate stands on."""

Releases = Mapping[Coordinate, str]
"""The release that stands for each coordinate."""


@dataclass(frozen=True, slots=True, order=True)
class Target:
    """A line of a coordinate."""

    coordinate: Coordinate
    line: Line

    def __str__(self) -> str:
        return f"{self.coordinate.short}@{self.line}"

    @classmethod
    def __get_pydantic_core_schema__(cls, _source: Any, _handler: Any) -> CoreSchema:
        """In records it is the text that people write."""
        return no_info_plain_validator_function(_target, serialization=to_string_ser_schema())


def _target(value: Any) -> Target:
    if isinstance(value, Target):
        return value
    try:
        return parse_target(str(value))
    except BadCoordinate as error:
        raise ValueError(str(error)) from error


@lru_cache(maxsize=8192)
def package(type_: str, name: str) -> Coordinate:
    """The coordinate of a package whose name is written as its type wants it."""
    return Coordinate(f"pkg:{type_}/{name.replace('@', '%40')}")


@lru_cache(maxsize=8192)
def parse_coordinate(text: str) -> Coordinate:
    """Read the name of a runtime, ``TYPE/NAME`` or a package URL. Raises BadCoordinate."""
    text = text.strip()
    if _NAME.match(text):
        return Coordinate(f"{_RUNTIME}{text.lower()}")
    raw = text if text.startswith("pkg:") else f"pkg:{text}"
    if "/" not in raw:
        raise BadCoordinate(f"“{text}” is no coordinate: write the name of a runtime, TYPE/NAME or a package URL.")
    try:
        purl = PackageURL.from_string(raw.replace("/@", "/%40"))
    except ValueError as error:
        raise BadCoordinate(f"“{text}” is no coordinate: {error}. Write TYPE/NAME or a package URL.") from error
    if not _NAME.match(purl.name):
        raise BadCoordinate(f"“{purl.name}” is no package name: use letters, digits, dots, dashes and underscores.")
    return Coordinate(PackageURL(purl.type, purl.namespace, purl.name).to_string())


@lru_cache(maxsize=8192)
def parse_target(text: str) -> Target:
    """Read ``COORD@LINE``, split at the last ``@``. Raises BadCoordinate."""
    coordinate, at, line = text.strip().rpartition("@")
    if not at or not coordinate or not _LINE.match(line):
        raise BadCoordinate(
            f"“{text}” names no line: write COORD@LINE, with the coordinate first and the line after it."
        )
    return Target(parse_coordinate(coordinate), Line(line))


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


def line_matches(line: str, prefix: str) -> bool:
    """Whether ``prefix`` names this line (``3`` names 3.13 and ``3.13.1`` names 3.13)."""
    a, b = line_key(line), line_key(prefix)
    shared = min(len(a), len(b))
    return a[:shared] == b[:shared]
