"""The sides of a run: which runtime and which releases stand for lines that somebody names, or for a stage of a plan."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from yoake.core.knowledge.base import Knowledge
from yoake.core.values.coordinates import Coordinate, Target
from yoake.core.values.modules import Stated
from yoake.core.values.plans import Stage
from yoake.core.values.runs import Side


def old_side(
    label: str, today: Mapping[Coordinate, Stated], targets: Sequence[Target], knowledge: Knowledge, ref: str = ""
) -> Side:
    """As manifests and lock files have it, on today’s runtimes, but for the lines that are named."""
    runtimes = {p: s.line for p, s in today.items() if knowledge.ecosystems.is_runtime(p)}
    runtimes |= {t.coordinate: t.line for t in targets if knowledge.ecosystems.is_runtime(t.coordinate)}
    releases = {
        t.coordinate: t.line
        for t in targets
        if not knowledge.ecosystems.is_runtime(t.coordinate)
        and (t.coordinate not in today or today[t.coordinate].line != t.line)
    }
    return Side(label, runtimes, releases, ref=ref)


def stage_side(label: str, stage: Stage, knowledge: Knowledge, ref: str = "") -> Side:
    """The releases that a stage takes, on its runtimes."""
    runtimes = {p: line for p, line in stage.state if knowledge.ecosystems.is_runtime(p)}
    releases = {p.coordinate: p.release for p in stage.packages if p.release}
    return Side(label, runtimes, releases, locked=False, ref=ref)
