"""What an index lists for a line of Python, held against what the releases themselves say that they run on."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import TYPE_CHECKING, Final

from packaging.specifiers import InvalidSpecifier, SpecifierSet

from yoake.core.values.coordinates import line_key

if TYPE_CHECKING:
    from yoake.core.knowledge.models import ReleaseFacts

_LAST: Final = "99"
"""Stands for the newest release of a line: ``>=3.8.1`` holds on Python 3.8."""


def really_listed(listed: Mapping[str, Sequence[str]], details: Iterable[ReleaseFacts]) -> dict[str, tuple[str, ...]]:
    """Line → releases, without those that refuse it. An index that does not tell what a file requires lists it for every line.

    A release whose metadata was not read is taken to require what the nearest older one does: what is required only ever grows.
    """
    stated = sorted(((line_key(d.release), _range(d.runs)) for d in details), key=lambda one: one[0])

    def admits(release: str, line: str) -> bool:
        key = line_key(release)
        older = [wanted for at, wanted in stated if at <= key]
        return not older or older[-1] is None or older[-1].contains(f"{line}.{_LAST}")

    return {line: tuple(r for r in releases if admits(r, line)) for line, releases in listed.items()}


def _range(text: str) -> SpecifierSet | None:
    try:
        return SpecifierSet(text)
    except InvalidSpecifier:
        return None
