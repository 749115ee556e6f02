"""What an application is made of, as its own files state it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.words import StatedHow


@dataclass(frozen=True, slots=True, kw_only=True)
class Requirement:
    """A package a manifest asks for. ``name`` is as it is written there. ``group`` is empty for run time, else the extra, group or file's role."""

    coordinate: Coordinate
    name: str
    specifier: str
    file: str
    line: int
    group: str = ""
    marker: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Pin:
    """A place that names a version of a runtime. ``how``: lock, container, pin, ci, range, classifier."""

    coordinate: Coordinate
    version: str
    file: str
    line: int
    how: StatedHow
    text: str = ""


@dataclass(frozen=True, slots=True)
class Locked:
    """One exact release in a lock file. ``nested``: installed below another package, beside a release at the top."""

    coordinate: Coordinate
    release: str
    file: str
    line: int
    nested: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Mention:
    """A version of a coordinate named in some text."""

    coordinate: Coordinate
    version: str
    file: str
    line: int
    column: int
    text: str


@dataclass(frozen=True, slots=True)
class Fault:
    """A manifest that could not be read, and why."""

    file: str
    reason: str


@dataclass(slots=True, kw_only=True)
class Module:
    """A folder with a manifest of its own; ``path`` is relative to the scanned folder, empty for its root.

    ``import_name``, ``main`` and ``aliases`` say how imports reach it where they name no path: its name, main file, prefix → folders.
    ``coordinate``: the package as which another module asks for this one, with what it is built on; None where it is none.
    """

    path: str
    name: str
    manifests: list[str] = field(default_factory=list)
    requirements: list[Requirement] = field(default_factory=list)
    pins: list[Pin] = field(default_factory=list)
    locked: list[Locked] = field(default_factory=list)
    faults: list[Fault] = field(default_factory=list)
    import_name: str = ""
    main: str = ""
    aliases: list[tuple[str, tuple[str, ...]]] = field(default_factory=list)
    coordinate: Coordinate | None = None


@dataclass(frozen=True, slots=True)
class ModuleOutline:
    """What is kept of a module: where its manifests are, what they pin, and which of them could not be read."""

    path: str
    name: str
    manifests: tuple[str, ...] = ()
    faults: tuple[Fault, ...] = ()
    pins: tuple[Pin, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Stated:
    """Today's line of a coordinate, and where that is said. ``how`` is ``inferred`` when nothing says it."""

    coordinate: Coordinate
    line: Line
    how: StatedHow
    file: str = ""
    line_number: int = 0
    disagreements: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class ModuleLine:
    """Today's line of a coordinate in one module."""

    module: str
    stated: Stated


def oldest_lines(today: Iterable[ModuleLine]) -> dict[Coordinate, Line]:
    """coordinate → the oldest of today's lines over all modules."""
    found: dict[Coordinate, Line] = {}
    for row in today:
        coordinate, line = row.stated.coordinate, row.stated.line
        if coordinate not in found or line < found[coordinate]:
            found[coordinate] = line
    return found
