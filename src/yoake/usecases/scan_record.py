"""What a scan is kept as."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from pathlib import Path

from yoake.core.values.coordinates import Coordinate, Target
from yoake.core.values.findings import FileResult, PackageState, Tally
from yoake.core.values.plans import Plan
from yoake.store.adopted_paths import AdoptedPath
from yoake.store.applications import Source
from yoake.store.scans import (
    FindingRows,
    ScanFacts,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class StepFact:
    """What a scan says of one step: its finding, where it stands and what it costs (likely minutes)."""

    key: str
    title: str
    places: int
    minutes: float
    files: tuple[str, ...]
    kind: str = ""
    coordinate: str = ""


@dataclass(slots=True, kw_only=True)
class ScanRecord:
    """A finished scan in the form in which it is kept. Made where the scan ran; stored by the server.

    ``waived`` and ``adopted``: what the plan heeded, to see whether people decided otherwise meanwhile.
    """

    facts: ScanFacts
    findings: FindingRows
    packages: list[PackageState]
    files: list[FileResult]
    tallies: dict[str, Tally]
    work: dict[str, int]
    lonely: frozenset[str]
    offered: list[Coordinate]
    texts: list[tuple[str, bytes]]
    plan: Plan
    steps: list[StepFact]
    waived: frozenset[str]
    adopted: Mapping[str, AdoptedPath]


@dataclass(frozen=True, slots=True, kw_only=True)
class ScanTask:
    """What to scan, for what, and what people decided that the plan must heed.

    ``waived``: keys of findings accepted on purpose. ``adopted``: set name → the stored path. ``last``: snapshot and
    knowledge of the newest scan, so that one of the same ends at once. ``allowed``: folders that may be read, None for all.
    ``slices``: the slices of a crossing in their order, slice → names of routes.
    """

    home: Path
    name: str
    source: Source
    targets: tuple[Target, ...]
    said: tuple[Target, ...]
    waived: frozenset[str]
    adopted: Mapping[str, AdoptedPath]
    days_per_week: float | None
    today: date
    last: tuple[str, str] | None
    allowed: tuple[Path, ...] | None = None
    workers: int | None = None
    slices: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
