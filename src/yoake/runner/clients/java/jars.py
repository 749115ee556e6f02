"""Jars: the surface of a library from its class files, at hand or in a local Maven repository."""

from __future__ import annotations

import hashlib
import os
import re
import zipfile
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Final

from yoake.core.ecosystems.java.class_file import BadClassFile, ClassFile, read_class
from yoake.core.ecosystems.java.surface import surface_of
from yoake.core.ecosystems.java.versions import JAVA_LINES
from yoake.core.knowledge.merge import merge
from yoake.core.values.coordinates import Coordinate, line_key
from yoake.core.values.errors import BadCoordinate, BadSource
from yoake.core.values.symbols import Surface

if TYPE_CHECKING:
    from yoake.core.knowledge.timeline import Timeline
    from yoake.runner.clients.contract import Say

_MAX_ENTRY: Final = 8 * 1024 * 1024  # bytes of one class; the largest real ones have some 100 kB
_MAX_CLASSES: Final = 100_000
_FINAL: Final = re.compile(r"\d+(\.\d+)*([.-](Final|GA|RELEASE|jre|android|SP\d+))?$", re.IGNORECASE)
_VERSIONED: Final = re.compile(r"-(\d[\w.+-]*)\.jar$")


def repositories() -> list[Path]:
    """Local Maven repositories that are there: the person's own, then the system's."""
    own = os.environ.get("YOAKE_MAVEN_REPOSITORY")
    places = [*([Path(own)] if own else []), Path.home() / ".m2" / "repository", Path("/usr/share/maven-repo")]
    return [place for place in places if place.is_dir()]


def releases_at_hand(coordinate: Coordinate) -> dict[str, Path]:
    """Release → jar, of a package in the local repositories."""
    group, _, artifact = coordinate.name.partition("/")
    found: dict[str, Path] = {}
    for place in repositories():
        folder = place / group.replace(".", "/") / artifact
        for jar in sorted(folder.glob(f"*/{artifact}-*.jar")) if folder.is_dir() else ():
            release = jar.parent.name
            if _FINAL.match(release) and jar.name == f"{artifact}-{release}.jar":
                found.setdefault(release, jar)
    return found


def build_jars(coordinate: Coordinate, lines: Iterable[str], say: Say, _ask: bool) -> Timeline:
    """A library from the newest release of each line that the local repositories hold. Raises BadSource and BadCoordinate."""
    held = releases_at_hand(coordinate)
    newest: dict[str, str] = {}
    for release in sorted(held, key=line_key):
        newest[JAVA_LINES.line_of(coordinate, release)] = release
    wanted = list(lines)
    missing = [line for line in wanted if line not in newest]
    if not newest or missing:
        shown = ", ".join(newest) or "no release of it"
        lacking = f", not {', '.join(missing)}" if missing and newest else ""
        raise BadCoordinate(
            f"The local Maven repositories hold {shown}{lacking}. Name jars with --file, or let your build fetch them first."
        )
    surfaces = []
    for line in wanted or list(newest):
        surfaces.append(_surface(coordinate, newest[line], held[newest[line]]))
        say(f"{coordinate.short} {line}: {len(surfaces[-1].symbols)} symbols from {newest[line]}")
    return merge(coordinate, surfaces)


def jar_surface(coordinate: Coordinate, path: Path) -> Surface:
    """The surface of a jar at hand, whose name ends with its version. Raises BadSource."""
    named = _VERSIONED.search(path.name)
    if named is None:
        raise BadSource(f"{path.name} names no version: a jar must be called NAME-VERSION.jar.")
    return _surface(coordinate, named.group(1), path)


def _surface(coordinate: Coordinate, release: str, path: Path) -> Surface:
    classes = list(read_jar(path))
    if not classes:
        raise BadSource(f"{path.name} holds no class files.")
    digest = hashlib.sha256(path.read_bytes()).hexdigest()[:16]
    line = JAVA_LINES.line_of(coordinate, release)
    return Surface(line, release, "class files", digest, surface_of(classes))


def read_jar(path: Path) -> Iterator[ClassFile]:
    """The classes of a jar; those for newer releases only are left out. Raises BadSource."""
    try:
        with zipfile.ZipFile(path) as archive:
            entries = [info for info in archive.infolist() if _counts(info)]
            if len(entries) > _MAX_CLASSES:
                raise BadSource(f"{path.name} holds more than {_MAX_CLASSES:,} classes.")
            for info in entries:
                try:
                    yield read_class(archive.read(info))
                except BadClassFile:
                    continue  # one class that cannot be read hides nothing of the others
    except (zipfile.BadZipFile, OSError, NotImplementedError, RuntimeError) as error:
        raise BadSource(f"{path.name} is no readable jar: {error}") from error


def _counts(info: zipfile.ZipInfo) -> bool:
    return (
        info.filename.endswith(".class") and not info.filename.startswith("META-INF/") and info.file_size <= _MAX_ENTRY
    )
