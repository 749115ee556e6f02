"""Hops → a plan: which findings go where and what each stage costs, in days of work (DESIGN 4.6)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from yoake.core.coordinates import Coordinate, line_key
from yoake.core.knowledge.base import Knowledge
from yoake.core.path.hops import Hop, plan_hops
from yoake.core.path.model import Plan, Stage
from yoake.core.readiness.effort import draw, needs_work, quantiles
from yoake.core.scan.judge import Span
from yoake.core.scan.model import Finding


def make_plan(spans: Mapping[str, Span], findings: Sequence[Finding], knowledge: Knowledge) -> Plan:
    """The hop-by-hop plan of one application. Work of a stage = base + Σ edits × (1 + κ(n − 1))."""
    table = knowledge.effort
    work = [f for f in findings if needs_work(f)]
    hops = plan_hops(spans, work, knowledge)
    before, by_hop = _assign(work, hops)
    elapsed = draw(before, table)
    before_effort = quantiles(elapsed)
    stages: list[Stage] = []
    state = {purl: span.today for purl, span in spans.items()}
    for number, (hop, edits) in enumerate(zip(hops, by_hop, strict=True), 1):
        crossed = sum(_crossed(knowledge, m.coordinate, m.start, m.goal) for m in hop.moves)
        own = table.stage_base_days + draw(edits, table) * (1 + table.kappa * (crossed - 1))
        elapsed = elapsed + own
        state.update({m.coordinate: m.goal for m in hop.moves})
        keys = tuple(f.key for f in edits)
        shown = tuple(sorted(state.items()))
        stages.append(Stage(number, hop.moves, shown, hop.reasons, keys, crossed, quantiles(own), quantiles(elapsed)))
    today = tuple(sorted((purl, span.today) for purl, span in spans.items()))
    return Plan(today, tuple(f.key for f in before), before_effort, tuple(stages), quantiles(elapsed))


def _assign(work: Sequence[Finding], hops: Sequence[Hop]) -> tuple[list[Finding], list[list[Finding]]]:
    """Each finding at its earliest safe point: now, or with the hop at which it bites."""
    before: list[Finding] = []
    by_hop: list[list[Finding]] = [[] for _ in hops]
    for finding in work:
        at = _hop_of(finding, hops)
        movable = finding.window.state == "now" and finding.kind not in ("toolchain", "package")
        if movable or at is None:
            before.append(finding)
        else:
            by_hop[at].append(finding)
    return before, by_hop


def _hop_of(finding: Finding, hops: Sequence[Hop]) -> int | None:
    """The first hop that reaches the line at which a finding bites; None when it bites before any."""
    if finding.bites_at is None:
        return None
    at = line_key(finding.bites_at)
    for position, hop in enumerate(hops):
        for move in hop.moves:
            if move.coordinate == finding.coordinate and line_key(move.start) < at <= line_key(move.goal):
                return position
    return None


def _crossed(knowledge: Knowledge, purl: str, start: str, goal: str) -> int:
    lines = knowledge.lines(Coordinate(purl))
    return max(1, sum(1 for line in lines if line_key(start) < line_key(line) <= line_key(goal)))
