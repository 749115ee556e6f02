"""Findings as rows of their tables: grouped by cause in the order in which they are read, with what a filter looks through."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from yoake.core.contract.registry import Registry
from yoake.core.knowledge.models import EffortTable
from yoake.core.readiness.estimate import needs_work, three_point
from yoake.core.values.findings import Finding
from yoake.formats.records import FINDING
from yoake.formats.sarif import bites_at
from yoake.store.scans import FindingRows


def cause_of(finding: Finding, ecosystems: Registry) -> str:
    """The title of the group in which a finding is read."""
    if finding.level == "note":
        return "deprecated, works at the goal" if finding.kind == "deprecated" else "guarded, or later than the goal"
    if finding.kind == "package":
        return "packages"
    if finding.kind == "toolchain":
        return "toolchain"
    return f"bites at {ecosystems.spoken(finding.coordinate)} {finding.bites_at}" if finding.bites_at else "warns"


def finding_rows(
    findings: Sequence[Finding], roles: Mapping[str, str], table: EffortTable, ecosystems: Registry
) -> FindingRows:
    """Rows for the tables. ``roles``: file → source, test, vendored or generated."""
    first: dict[str, int] = {}
    for finding in findings:
        first.setdefault(cause_of(finding, ecosystems), len(first))
    ordered = sorted(enumerate(findings), key=lambda pair: (first[cause_of(pair[1], ecosystems)], pair[0]))
    rows: list[tuple[Any, ...]] = []
    bodies: list[tuple[Any, ...]] = []
    places: list[tuple[Any, ...]] = []
    for position, (ordinal, f) in enumerate(ordered):
        _, likely, high = three_point(f, table) if needs_work(f) else (0.0, 0.0, 0.0)
        bodies.append((position, FINDING.write(replace(f, places=()))))
        open_places = sum(1 for p in f.places if p.is_work)
        rows.append(
            (
                position, ordinal, f.key, f.module, f.coordinate, f.kind, f.level, f.confidence, f.symbol, f.title, f.bites_at,
                f.window.state, f.replacement, f.remedy, int(f.mechanical), likely, high, len(f.places), open_places,
                cause_of(f, ecosystems), _searched(f, ecosystems),
            )
        )  # fmt: skip
        for number, p in enumerate(f.places):
            role = roles.get(p.file) or ecosystems.role_of(p.file)
            places.append(
                (
                    position, number, p.key, p.file, p.line, p.column, p.end_column, p.first_line, p.symbol, p.form, p.scope,
                    p.guarded, p.level, role,
                )
            )  # fmt: skip
    return FindingRows(rows, bodies, places)


def _searched(finding: Finding, ecosystems: Registry) -> str:
    parts = (
        finding.title,
        finding.symbol,
        finding.kind,
        ecosystems.spoken(finding.coordinate),
        finding.replacement,
        bites_at(finding),
    )
    return " ".join(part for part in parts if part).lower()
