"""Names of what Java code runs on, and how names of its classes are written as paths.

A path is split at dots, and every first part of a path has an owner. In Java that is the package (``java.util``), so the dots of
a package are written with another character inside paths, and put back wherever a person reads them.
"""

from __future__ import annotations

import re
from collections.abc import Container, Iterator
from typing import Final

from yoake.core.values.coordinates import Coordinate, package

JAVA: Final = Coordinate("pkg:generic/java")
_COUNTED: Final = re.compile(r"\(/(\d+)=\)")
_DOT: Final = "\u2024"
UNQUALIFIED: Final = "~"
"""Begins a path whose first part is a plain name of a file: what it means, the project and the imports say."""


def maven(name: str) -> Coordinate:
    """The coordinate of a package of a Maven repository: ``GROUP/ARTIFACT``, or with a colon as people write it."""
    return package("maven", name.replace(":", "/", 1))


def package_part(package: str) -> str:
    """``java.util`` as the first part of a path."""
    return package.replace(".", _DOT)


def package_name(part: str) -> str:
    """The package that a first part of a path stands for."""
    return part.replace(_DOT, ".")


def path_of(dotted: str) -> str:
    """A qualified name as a path: what begins with a lower-case letter is a package, by the convention of the language."""
    parts = dotted.split(".")
    at = next((i for i, part in enumerate(parts) if part[:1].isupper()), len(parts))
    return ".".join([package_part(".".join(parts[:at])), *parts[at:]]) if at else dotted


def regrouped(path: str, packages: Container[str]) -> str:
    """A path whose first part is the longest known package that it can be: some packages have capital letters."""
    head, *rest = path.split(".")
    longest, reach = head, 0
    for at, part in enumerate(rest, 1):
        head = f"{head}{_DOT}{part}"
        if head in packages:
            longest, reach = head, at
    return ".".join([longest, *rest[reach:]])


def wider(path: str) -> Iterator[str]:
    """A path and everything that holds it: its classes, its package, and the packages around that."""
    parts = path.split(".")
    for length in range(len(parts), 1, -1):
        yield ".".join(parts[:length])
    packages = parts[0].split(_DOT)
    for length in range(len(packages), 0, -1):
        yield _DOT.join(packages[:length])


def shown(path: str) -> str:
    """A path as people write it: ``java.util.Map.Entry``, ``new java.lang.Integer``, ``java.lang.Thread.stop(1 argument)``."""
    written = _COUNTED.sub(
        lambda found: f"({found.group(1)} argument{'' if found.group(1) == '1' else 's'})", path.replace(_DOT, ".")
    )
    head, constructor, rest = written.partition(".<init>")
    return f"new {head}{rest}" if constructor else written
