"""Version ranges, whatever their notation: what a range admits, and the lowest line it allows."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Final, Protocol

from yoake.core.values.coordinates import Coordinate, Line, line_key

_BOUNDS: Final = re.compile(r"\d{1,9}(?:\.\d{1,9})*")
_DEPTH: Final = 3  # parts of a release that bounds are written with
_STEPS_AFTER: Final = 3  # releases from a bound on: it, and those after one or two that are left out


class VersionScheme(Protocol):
    """How one ecosystem writes releases and ranges. One object a scheme, told apart by identity."""

    def __hash__(self) -> int: ...

    def exact(self, specifier: str) -> str | None:
        """The one release that a range names; None when it admits several."""

    def test(self, specifier: str) -> Callable[[str], bool] | None:
        """A test of releases; None for what is no range (an address, a tag, a folder)."""

    def patches(self, line: Line) -> tuple[str, ...]:
        """What to append to a line to get releases of it: its first, one in the middle, its last."""


@lru_cache(maxsize=32_768)
def admits(scheme: VersionScheme, specifier: str, line: Line) -> bool:
    """Whether a range admits some release of a line; True for what is no range, since nothing is known of it."""
    test = scheme.test(specifier)
    return test is None or any(map(test, _samples(scheme, specifier, line)))


def admitted(scheme: VersionScheme, specifier: str, releases: Iterable[str]) -> list[str]:
    """Those of ``releases`` that a range admits, in their order; all when it is no range."""
    test = scheme.test(specifier)
    return [release for release in releases if test is None or test(release)]


def lowest_line(scheme: VersionScheme, specifier: str, known: Sequence[Line]) -> Line | None:
    """The oldest known line with a release the range allows; None when it says nothing."""
    if specifier.strip() in ("", "*", "latest"):
        return None
    test = scheme.test(specifier)
    if test is None:
        return None
    return next((line for line in known if any(map(test, _samples(scheme, specifier, line)))), None)


def _samples(scheme: VersionScheme, specifier: str, line: Line) -> Iterator[str]:
    """Releases of a line of which a range admits one if it admits any.

    What a range admits are stretches. One that meets the line begins at the line's own beginning, or at a bound that the range
    itself names, or right after one (``>1.2.3``, ``!=1.2.3``).
    """
    yield from (f"{line}{patch}" for patch in scheme.patches(line))
    width = len(line_key(line))
    for bound in _BOUNDS.findall(specifier):
        parts = [int(part) for part in bound.split(".")][:_DEPTH]
        parts += [0] * (_DEPTH - len(parts))
        for after in range(_STEPS_AFTER):
            sample = [*parts[:-1], parts[-1] + after]
            if tuple(sample[:width]) == line_key(line):
                yield ".".join(map(str, sample))


@dataclass(frozen=True, slots=True, kw_only=True)
class LineNames:
    """How many numbers the name of a line has: of a ``package``, of the ``runtime``; ``zero_minor``: one more below 1."""

    package: int = 2
    runtime: int = 2
    zero_minor: bool = False

    def line_of(self, coordinate: Coordinate, release: str, length: int | None = None) -> Line:
        """The line a release of the runtime or of a package belongs to."""
        key = line_key(release)
        length = length or (self.runtime if coordinate.is_runtime else self.package)
        if self.zero_minor and length == 1 and key[:1] == (0,):
            length = 2
        return Line(".".join(str(part) for part in (*key, *[0] * length)[:length]))
