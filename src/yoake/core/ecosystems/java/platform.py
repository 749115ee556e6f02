"""The platform's own signature archive (``lib/ct.sym`` of a JDK): class files without code of every release it can compile for.

Its folders are named after the releases that share what is inside, one character each: ``8``, ``9``, ``A`` for 10, ``B`` for 11 …
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING, Final

from yoake.core.ecosystems.java.class_file import MODULE, ClassFile
from yoake.core.ecosystems.java.surface import surface_of

if TYPE_CHECKING:
    from yoake.core.values.symbols import SurfaceSymbol

_MODULES_FROM: Final = 9  # the first release with modules: before it, every package was open


def releases_of(entry: str) -> tuple[int, ...]:
    """The releases that an entry of the archive belongs to."""
    folder = entry.split("/", 1)[0]
    return tuple(int(sign, 36) for sign in folder if sign.isalnum())


def platform_surface(release: int, entries: Mapping[str, ClassFile]) -> dict[str, SurfaceSymbol]:
    """The symbols of one release. ``entries``: path in the archive → class file."""
    own = [made for path, made in entries.items() if release in releases_of(path)]
    if release < _MODULES_FROM:
        return surface_of(own)
    return surface_of(own, frozenset(_exported(own)))


def _exported(classes: list[ClassFile]) -> Iterator[str]:
    for made in classes:
        if made.access & MODULE:
            yield from made.exports
