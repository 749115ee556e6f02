"""Tests by the module they stand in, few enough to be drawn beside each other."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING, Final

if TYPE_CHECKING:
    from yoake.core.values.runs import Compared

MOST_GROUPS: Final = 12
OTHERS: Final = "others"
_PLAIN: Final = ("tests", "test")
"""Parts of a path that say nothing about what is tested."""


def groups_of(tests: Sequence[Compared]) -> dict[str, list[Compared]]:
    """Group → its tests, in the order of the tests. Paths are cut where there would be more groups than can be seen; what is small then is
    together under “others”."""
    paths = {test.name: _path(test.name) for test in tests}
    longest = max((len(path) for path in paths.values()), default=0)
    depth = next((d for d in range(longest, 0, -1) if len({p[:d] for p in paths.values()}) <= MOST_GROUPS), 1)
    found: dict[str, list[Compared]] = {}
    for test in tests:
        found.setdefault(".".join(paths[test.name][:depth]) or "tests", []).append(test)
    if len(found) > MOST_GROUPS:
        largest = set(sorted(found, key=lambda name: -len(found[name]))[: MOST_GROUPS - 1])
        rest = [test for name, held in found.items() if name not in largest for test in held]
        found = {name: held for name, held in found.items() if name in largest} | {OTHERS: rest}
    return found


def _path(name: str) -> tuple[str, ...]:
    """The module of a test without its class and without parts that every test has."""
    owner = name.split("::", 1)[0] if "::" in name else name.rpartition(".")[0]
    parts = owner.split(".") if " " not in owner else [owner.split(" ")[0]]
    while len(parts) > 1 and parts[-1][:1].isupper():
        parts.pop()
    return tuple(_without_plain(parts)) or tuple(parts)


def _without_plain(parts: Iterable[str]) -> list[str]:
    return [part.removeprefix("test_") for part in parts if part not in _PLAIN]
