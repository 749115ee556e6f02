"""Releases and ranges of PyPI (PEP 440)."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from typing import TYPE_CHECKING, Final

from packaging.specifiers import InvalidSpecifier, SpecifierSet
from packaging.version import InvalidVersion, Version

from yoake.core.contract.versions import LineNames

if TYPE_CHECKING:
    from yoake.core.contract.versions import VersionScheme

_RELEASES: Final = 512  # of one range, whose answers are kept: a search asks the same thousands of times
_PATCHES: Final = ("", ".0", ".1", ".99")


class _Pep440:
    def exact(self, specifier: str) -> str | None:
        """The release of ``==1.2.3``."""
        parts = specifier.split(",")
        if len(parts) == 1 and parts[0].startswith("==") and not parts[0].endswith("*"):
            return parts[0].lstrip("=").strip()
        return None

    def test(self, specifier: str) -> Callable[[str], bool] | None:
        """A test of releases."""
        return _test(specifier)

    def patches(self, _line: str) -> tuple[str, ...]:
        """Endings of releases of a line."""
        return _PATCHES


PEP440: Final[VersionScheme] = _Pep440()

PYTHON_LINES: Final = LineNames()


@lru_cache(maxsize=2048)
def _test(specifier: str) -> Callable[[str], bool] | None:
    try:
        allowed = SpecifierSet(specifier)
    except InvalidSpecifier:
        return None
    return lru_cache(maxsize=_RELEASES)(lambda release: _matches(allowed, release))


def _matches(allowed: SpecifierSet, release: str) -> bool:
    try:
        return allowed.contains(_version(release), prereleases=True)
    except InvalidVersion:
        return False


@lru_cache(maxsize=32_768)
def _version(release: str) -> Version:
    return Version(release)
