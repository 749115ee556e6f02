"""All that one scan found."""

from __future__ import annotations

from dataclasses import dataclass, field

from yoake.core.values.coordinates import Coordinate
from yoake.core.values.findings import Checks, FileResult, Finding, PackageState
from yoake.core.values.modules import Module, Stated


@dataclass(slots=True, kw_only=True)
class ScanResult:
    """Everything one scan found. ``today``: module path → coordinate → stated line.

    ``references``: folder → folder with counts; ``lonely``: files that no other file names; ``used``: coordinate of the destination →
    symbols that this code uses of it.
    """

    findings: list[Finding]
    checks: Checks
    files: list[FileResult]
    modules: list[Module]
    today: dict[str, dict[Coordinate, Stated]]
    packages: list[PackageState]
    notes: list[str]
    references: dict[tuple[str, str], int] = field(default_factory=dict)
    lonely: list[str] = field(default_factory=list)
    used: dict[str, list[str]] = field(default_factory=dict)
