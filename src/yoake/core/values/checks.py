"""What checks on other machines found: linters, type checkers, scanners of any kind, at a commit."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

CheckLevel = Literal["error", "warning", "note"]


@dataclass(frozen=True, slots=True)
class CheckFinding:
    """One place that a check complains about. ``line`` 0: the file as a whole."""

    rule: str
    level: CheckLevel
    message: str
    path: str
    line: int


@dataclass(frozen=True, slots=True)
class CheckReport:
    """What one tool found in one go: counts of all, and the ``findings`` that were kept, errors first."""

    tool: str
    errors: int
    warnings: int
    notes: int
    findings: tuple[CheckFinding, ...]
