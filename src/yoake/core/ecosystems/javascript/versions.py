"""Releases and ranges of npm."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import lru_cache
from typing import TYPE_CHECKING, Final

from semantic_version import NpmSpec
from semantic_version import Version as NpmVersion

from yoake.core.contract.versions import LineNames
from yoake.core.values.coordinates import line_key

if TYPE_CHECKING:
    from yoake.core.contract.versions import VersionScheme

_RELEASES: Final = 512  # of one range, whose answers are kept: a search asks the same thousands of times
_EXACT: Final = re.compile(r"[v=\s]*(\d+\.\d+\.\d+(?:[-+][\w.+-]+)?)$")
_ALIAS: Final = re.compile(r"^npm:(?:@?[^@]+)@")
_LOOSE: Final = re.compile(r"(>=|<=|>|<|=|~>?|\^)\s+(?=[\dvxX*])")
"""An operator apart from its version, as npm also takes it."""
_PATCHES: Final = {1: (".0.0", ".9.9", ".99.99"), 2: (".0", ".9", ".99")}


class _Npm:
    def exact(self, specifier: str) -> str | None:
        """The release of ``1.2.3``."""
        found = _EXACT.match(_ALIAS.sub("", specifier.strip()))
        return found.group(1) if found else None

    def test(self, specifier: str) -> Callable[[str], bool] | None:
        """A test of releases."""
        return _test(specifier)

    def patches(self, line: str) -> tuple[str, ...]:
        """Endings of releases of a line."""
        return _PATCHES.get(len(line_key(line)), ("",))


NPM: Final[VersionScheme] = _Npm()

NODE_LINES: Final = LineNames(package=1, runtime=1, zero_minor=True)


@lru_cache(maxsize=2048)
def _test(specifier: str) -> Callable[[str], bool] | None:
    if (one := NPM.exact(specifier)) and "-" in one:
        return lambda release: release == one  # a preview names itself, and not the release it came before
    try:
        spec = NpmSpec(_tightened(specifier))
    except ValueError:
        return None
    return lru_cache(maxsize=_RELEASES)(lambda release: _matches(spec, release))


def _tightened(specifier: str) -> str:
    """A range in the one spelling that is read: no space after an operator, no ``v`` before a number, ``~`` for ``~>``."""
    plain = _ALIAS.sub("", specifier.strip()).replace("workspace:", "")
    plain = _LOOSE.sub(r"\1", plain).replace("~>", "~")
    return re.sub(r"(?<![\w.-])v(?=\d)", "", " ".join(plain.split())) or "*"


def _matches(spec: NpmSpec, release: str) -> bool:
    try:
        return bool(spec.match(_version(release)))
    except ValueError:
        return False


@lru_cache(maxsize=32_768)
def _version(release: str) -> NpmVersion:
    return NpmVersion(release)
