"""A test of a version inside code, and whether it holds on a line."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

_NEGATE: Final = {"<": ">=", ">": "<=", "<=": ">", ">=": "<", "==": "!=", "!=": "=="}


@dataclass(frozen=True, slots=True)
class VersionTest:
    """``subject`` (the name of a runtime or framework) compared with ``version``; ``op`` is one of < <= > >= == !=."""

    subject: str
    op: str
    version: tuple[int, ...]

    def negated(self) -> VersionTest:
        """The opposite test."""
        return VersionTest(self.subject, _NEGATE[self.op], self.version)

    def holds(self, line: tuple[int, ...]) -> bool:
        """Whether the branch is live on a line such as (3, 13).

        The running version has more numbers than the line; ``(3, 13) > (3, 12)`` and ``3.12.1 > (3, 12)`` both hold,
        so a tie on a strict test of a shorter tuple counts as greater, as tuples compare.
        """
        if self.op in ("==", "!="):
            same = line[: len(self.version)] == self.version[: len(line)]
            return same if self.op == "==" else not same
        shown = (*line, 99) if len(self.version) <= len(line) else line
        if self.op == "<":
            return shown < self.version
        if self.op == "<=":
            return shown <= self.version
        if self.op == ">":
            return shown > self.version
        return shown >= self.version
