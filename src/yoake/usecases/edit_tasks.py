"""Edits as a task."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path

from yoake.core.knowledge.base import Knowledge
from yoake.core.values.coordinates import Coordinate, Releases, Target
from yoake.core.values.plans import Stage
from yoake.store.applications import Source


def taken_of(stage: Stage, knowledge: Knowledge) -> dict[Coordinate, str]:
    """What a stage writes into manifests and pins: coordinate → release, the line of a runtime."""
    moved = {m.coordinate: m.goal for m in stage.moves}
    releases = {p.coordinate: p.release for p in stage.packages if p.release and (p.moves or p.coordinate in moved)}
    return {p: line for p, line in moved.items() if knowledge.ecosystems.is_runtime(p)} | releases


@dataclass(frozen=True, slots=True, kw_only=True)
class EditTask:
    """Edits of which findings (None: all that are safe today), in all files but some, of one source. ``taken``: coordinate → release that manifests
    and pins are to name; nothing where no version moves."""

    home: Path
    name: str
    source: Source
    targets: tuple[Target, ...]
    said: tuple[Target, ...]
    keys: frozenset[str] | None = None
    taken: Releases = field(default_factory=dict)
    left_out: frozenset[str] = frozenset()
    allowed: tuple[Path, ...] | None = None
    workers: int | None = None
