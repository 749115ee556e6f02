"""Version ranges as each ecosystem writes them: what a range admits, and the lowest line it allows."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence
from functools import lru_cache
from typing import Final

from packaging.specifiers import InvalidSpecifier, SpecifierSet
from packaging.version import InvalidVersion, Version
from semantic_version import NpmSpec
from semantic_version import Version as NpmVersion

from yoake.core.coordinates import NODE, Coordinate, line_key

_NPM_EXACT: Final = re.compile(r"[v=\s]*(\d+\.\d+\.\d+(?:[-+][\w.+-]+)?)$")
_ALIAS: Final = re.compile(r"^npm:(?:@?[^@]+)@")
_PATCHES: Final = ("", ".0", ".1", ".99")
_NPM_PATCHES: Final = {1: (".0.0", ".9.9", ".99.99"), 2: (".0", ".9", ".99")}


def _scheme(coordinate: Coordinate) -> str:
    return "npm" if coordinate.ecosystem == "npm" or coordinate == NODE else "pypi"


def exact(ecosystem: str, specifier: str) -> str | None:
    """The one release that a range names; None when it admits several."""
    if ecosystem == "npm":
        found = _NPM_EXACT.match(_ALIAS.sub("", specifier.strip()))
        return found.group(1) if found else None
    parts = specifier.split(",")
    if len(parts) == 1 and parts[0].startswith("==") and not parts[0].endswith("*"):
        return parts[0].lstrip("=").strip()
    return None


@lru_cache(maxsize=4096)
def _test(scheme: str, specifier: str) -> Callable[[str], bool] | None:
    """A test of releases; None for what is no range (an address, a tag, a folder)."""
    if scheme == "npm":
        try:
            spec = NpmSpec(_ALIAS.sub("", specifier.strip()).replace("workspace:", "") or "*")
        except ValueError:
            return None
        return lambda release: _npm_matches(spec, release)
    try:
        allowed = SpecifierSet(specifier)
    except InvalidSpecifier:
        return None
    return lambda release: _pypi_matches(allowed, release)


def _npm_matches(spec: NpmSpec, release: str) -> bool:
    try:
        return bool(spec.match(_npm_version(release)))
    except ValueError:
        return False


@lru_cache(maxsize=32_768)
def _npm_version(release: str) -> NpmVersion:
    return NpmVersion(release)


def _pypi_matches(allowed: SpecifierSet, release: str) -> bool:
    try:
        return allowed.contains(_pypi_version(release), prereleases=True)
    except InvalidVersion:
        return False


@lru_cache(maxsize=32_768)
def _pypi_version(release: str) -> Version:
    return Version(release)


@lru_cache(maxsize=32_768)
def admits(coordinate: Coordinate, specifier: str, line: str) -> bool:
    """Whether a range admits some release of a line; True for what is no range, since nothing is known of it."""
    scheme = _scheme(coordinate)
    test = _test(scheme, specifier)
    return test is None or any(test(f"{line}{patch}") for patch in _patches(scheme, line))


def admitted(coordinate: Coordinate, specifier: str, releases: Iterable[str]) -> list[str]:
    """Those of ``releases`` that a range admits, in their order; all when it is no range."""
    test = _test(_scheme(coordinate), specifier)
    return [release for release in releases if test is None or test(release)]


def _patches(scheme: str, line: str) -> tuple[str, ...]:
    """What to append to a line to get releases of it: its first, one in the middle, its last."""
    if scheme == "pypi":
        return _PATCHES
    return _NPM_PATCHES.get(len(line_key(line)), ("",))


def lowest_line(coordinate: Coordinate, specifier: str, known: Sequence[str]) -> str | None:
    """The oldest known line with a release the range allows; None when it says nothing."""
    if specifier.strip() in ("", "*", "latest"):
        return None
    scheme = _scheme(coordinate)
    test = _test(scheme, specifier)
    if test is None:
        return None
    for line in known:
        if any(test(f"{line}{patch}") for patch in _patches(scheme, line)):
            return line
    return None
