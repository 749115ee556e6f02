"""What a scan is kept as."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from yoake.core.values.coordinates import Coordinate
from yoake.core.values.findings import FileResult, PackageState, Tally
from yoake.core.values.plans import Plan
from yoake.store.adopted_paths import AdoptedPath
from yoake.store.scans import (
    FindingRows,
    ScanFacts,
)


@dataclass(frozen=True, slots=True)
class StepFact:
    """What a scan says of one step: its finding, where it stands and what it costs (likely minutes)."""

    key: str
    title: str
    places: int
    minutes: float
    files: tuple[str, ...]
    kind: str = ""
    coordinate: str = ""


@dataclass(slots=True)
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
