"""Version ranges as each ecosystem writes them: what a range admits, and the lowest line it allows."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import lru_cache
from typing import Final

from packaging.specifiers import InvalidSpecifier, SpecifierSet
from packaging.version import InvalidVersion, Version
from semantic_version import NpmSpec
from semantic_version import Version as NpmVersion

from yoake.core.coordinates import NODE, Coordinate, line_key

_NPM_EXACT: Final = re.compile(r"[v=\s]*(\d+\.\d+\.\d+(?:[-+][\w.+-]+)?)$")
_ALIAS: Final = re.compile(r"^npm:(?:@?[^@]+)@")
_BOUNDS: Final = re.compile(r"\d{1,9}(?:\.\d{1,9})*")
_DEPTH: Final = 3  # parts of a release that bounds are written with
_STEPS_AFTER: Final = 3  # releases from a bound on: it, and those after one or two that are left out
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
    return test is None or any(test(release) for release in _samples(scheme, specifier, line))


def admitted(coordinate: Coordinate, specifier: str, releases: Iterable[str]) -> list[str]:
    """Those of ``releases`` that a range admits, in their order; all when it is no range."""
    test = _test(_scheme(coordinate), specifier)
    return [release for release in releases if test is None or test(release)]


def _samples(scheme: str, specifier: str, line: str) -> Iterator[str]:
    """Releases of a line of which a range admits one if it admits any.

    What a range admits are stretches. One that meets the line begins at the line's own beginning, or at a bound that the range
    itself names, or right after one (``>1.2.3``, ``!=1.2.3``).
    """
    yield from (f"{line}{patch}" for patch in _patches(scheme, line))
    width = len(line_key(line))
    for bound in _BOUNDS.findall(specifier):
        parts = [int(part) for part in bound.split(".")][:_DEPTH]
        parts += [0] * (_DEPTH - len(parts))
        for after in range(_STEPS_AFTER):
            sample = [*parts[:-1], parts[-1] + after]
            if tuple(sample[:width]) == line_key(line):
                yield ".".join(map(str, sample))


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
    return next((line for line in known if any(map(test, _samples(scheme, specifier, line)))), None)
