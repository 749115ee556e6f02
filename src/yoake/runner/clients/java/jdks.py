"""JDKs on this machine, and the signature archive that each ships with."""

from __future__ import annotations

import hashlib
import os
import re
import shutil
import zipfile
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Final

from yoake.core.ecosystems.java.class_file import BadClassFile, ClassFile, read_class
from yoake.core.ecosystems.java.levels import level_of
from yoake.core.ecosystems.java.names import JAVA
from yoake.core.ecosystems.java.platform import platform_surface, releases_of
from yoake.core.knowledge.merge import merge
from yoake.core.values.coordinates import Line
from yoake.core.values.errors import BadCoordinate, BadSource
from yoake.core.values.symbols import Surface

if TYPE_CHECKING:
    from yoake.core.knowledge.timeline import Timeline
    from yoake.runner.clients.contract import Say

_FOLDERS: Final = (Path("/usr/lib/jvm"), Path("/Library/Java/JavaVirtualMachines"), Path("/opt/java"))
_ARCHIVE: Final = Path("lib") / "ct.sym"
_VERSION: Final = re.compile(r'^JAVA_VERSION="(\d+)[^"]*"', re.MULTILINE)
_OLDEST: Final = 8


def find_jdks() -> dict[int, Path]:
    """Line → home of the JDK, of those under the usual folders, JAVA_HOME and PATH that ship a signature archive."""
    found: dict[int, Path] = {}
    for home in _homes():
        try:
            stated = _VERSION.search((home / "release").read_text("utf-8", "replace"))
        except OSError:
            continue
        if stated is not None and (home / _ARCHIVE).is_file():
            found.setdefault(int(stated.group(1)), home)
    return found


def _homes() -> Iterator[Path]:
    if os.environ.get("JAVA_HOME"):
        yield Path(os.environ["JAVA_HOME"])
    compiler = shutil.which("javac")
    if compiler is not None:
        yield Path(compiler).resolve().parent.parent
    for folder in _FOLDERS:
        if folder.is_dir():
            for home in sorted(folder.iterdir()):
                yield home
                yield home / "Contents" / "Home"


def build_java(lines: Iterable[str], say: Say) -> Timeline:
    """The platform, release by release, from the archive of the newest JDK here. Raises BadSource and BadCoordinate."""
    jdks = find_jdks()
    if not jdks:
        raise BadSource(
            "No JDK was found on PATH, in JAVA_HOME or under /usr/lib/jvm; install one to capture the platform."
        )
    newest = max(jdks)
    path = jdks[newest] / _ARCHIVE
    digest = hashlib.sha256(path.read_bytes()).hexdigest()[:16]
    entries = dict(_entries(path))
    there = sorted({r for entry in entries for r in releases_of(entry) if r >= _OLDEST})
    asked = {line: level_of(line) for line in lines}
    missing = [line for line, level in asked.items() if level is None or int(level) not in there]
    if missing:
        shown = ", ".join(map(str, there))
        raise BadCoordinate(f"The JDK {newest} here knows no Java {', '.join(missing)}; it knows {shown}.")
    surfaces = []
    for release in sorted({int(level) for level in asked.values() if level is not None}) or there:
        symbols = platform_surface(release, entries)
        surfaces.append(Surface(Line(release), str(release), "signature archive", digest, symbols))
        say(f"java {release}: {len(symbols)} symbols from the signature archive of JDK {newest}")
    return merge(JAVA, surfaces)


def _entries(path: Path) -> Iterator[tuple[str, ClassFile]]:
    with zipfile.ZipFile(path) as archive:
        for name in archive.namelist():
            if name.endswith(".sig"):
                try:
                    yield name, read_class(archive.read(name))
                except BadClassFile as error:
                    raise BadSource(f"{path}: {name}: {error}") from error
