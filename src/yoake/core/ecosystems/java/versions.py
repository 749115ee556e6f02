"""Releases and ranges of Maven: ``1.2`` is a wish for that release, ``[1.0,2.0)`` a range."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from typing import TYPE_CHECKING, Final

from univers.maven import RestrictionParseError, Version, VersionRange, VersionRangeParseError

from yoake.core.contract.versions import LineNames

if TYPE_CHECKING:
    from yoake.core.contract.versions import VersionScheme

_PATCHES: Final = ("", ".0", ".1", ".99")
_OPEN: Final = ("[", "(")


class _Maven:
    def exact(self, specifier: str) -> str | None:
        """The release of ``1.2.3`` or ``[1.2.3]``."""
        wanted = specifier.strip()
        if wanted.startswith("[") and wanted.endswith("]") and "," not in wanted:
            wanted = wanted[1:-1].strip()
        plain = wanted[:1].isdigit() and not any(sign in wanted for sign in "[](),+ ${}")
        return wanted if plain else None

    def test(self, specifier: str) -> Callable[[str], bool] | None:
        """A test of releases."""
        return _test(specifier.strip())

    def patches(self, _line: str) -> tuple[str, ...]:
        """Endings of releases of a line."""
        return _PATCHES


MAVEN: Final[VersionScheme] = _Maven()

JAVA_LINES: Final = LineNames(runtime=1)


@lru_cache(maxsize=4096)
def _test(specifier: str) -> Callable[[str], bool] | None:
    exact = MAVEN.exact(specifier)
    if exact is not None:
        wanted = Version(exact)
        return lambda release: bool(Version(release) == wanted)
    if specifier.endswith("+") and specifier[:1].isdigit():  # as Gradle writes the newest of a line
        prefix = specifier[:-1]
        return lambda release: release.startswith(prefix) or f"{release}." == prefix
    if not specifier.startswith(_OPEN):
        return None
    try:
        allowed = VersionRange(specifier)
    except (VersionRangeParseError, RestrictionParseError, ValueError, TypeError, IndexError):
        return None
    return lambda release: Version(release) in allowed
