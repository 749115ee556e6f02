"""Hops → a path with dates: which findings go where, what each stage costs, when it arrives."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from datetime import date, timedelta

import numpy as np

from yoake.core.coordinates import Coordinate, line_key
from yoake.core.knowledge.base import Knowledge
from yoake.core.path.hops import Hop, plan_hops
from yoake.core.path.model import LineSlack, MigrationPath, Stage, Standing
from yoake.core.readiness.effort import DRAWS, Effort, Samples, draw, needs_work, quantiles
from yoake.core.scan.judge import Span
from yoake.core.scan.model import Finding


def make_path(
    spans: Mapping[str, Span], findings: Sequence[Finding], knowledge: Knowledge, today: date, days_per_week: float
) -> MigrationPath:
    """The hop-by-hop path for one set. ``days_per_week`` is the capacity; dates count from ``today``."""
    table = knowledge.effort
    work = [f for f in findings if needs_work(f)]
    hops = plan_hops(spans, work, knowledge)
    before, by_hop = _assign(work, hops)
    elapsed = draw(before, table)
    before_effort = quantiles(elapsed)
    before_until = _date(today, before_effort.p50, days_per_week)
    stages: list[Stage] = []
    state = {purl: span.today for purl, span in spans.items()}
    for number, hop in enumerate(hops, 1):
        crossed = sum(_crossed(knowledge, m.coordinate, m.start, m.goal) for m in hop.moves)
        own = table.stage_base_days + draw(by_hop[number - 1], table) * (1 + table.kappa * (crossed - 1))
        starts = _date(today, float(np.quantile(elapsed, 0.5)), days_per_week)
        elapsed = elapsed + own
        state.update({m.coordinate: m.goal for m in hop.moves})
        reached = quantiles(elapsed)
        keys = tuple(f.key for f in by_hop[number - 1])
        stages.append(
            Stage(
                number, hop.moves, tuple(sorted(state.items())), hop.reasons, keys, crossed, quantiles(own), starts,
                _date(today, reached.p50, days_per_week), _date(today, reached.p80, days_per_week),
            )  # fmt: skip
        )
    return _whole(spans, knowledge, today, days_per_week, before, before_effort, before_until, stages, elapsed)


def _whole(
    spans: Mapping[str, Span], knowledge: Knowledge, today: date, days_per_week: float, before: Sequence[Finding],
    before_effort: Effort, before_until: date, stages: Sequence[Stage], elapsed: Samples,
) -> MigrationPath:  # fmt: skip
    total = quantiles(elapsed) if elapsed.size == DRAWS else Effort(0.0, 0.0)
    dark = sum(_dark_days(spans, stages, knowledge, today, purl) for purl in spans)
    return MigrationPath(
        tuple(f.key for f in before), before_effort, before_until, tuple(stages), total,
        _date(today, total.p50, days_per_week), _date(today, total.p80, days_per_week), dark, (),
    )  # fmt: skip


def _assign(work: Sequence[Finding], hops: Sequence[Hop]) -> tuple[list[Finding], list[list[Finding]]]:
    """Each finding at its earliest safe point: now, or with the hop at which it bites."""
    before: list[Finding] = []
    by_hop: list[list[Finding]] = [[] for _ in hops]
    for finding in work:
        at = _hop_of(finding, hops)
        if finding.window.state == "now" and finding.kind not in ("toolchain", "package") or at is None:
            before.append(finding)
        else:
            by_hop[at].append(finding)
    return before, by_hop


def _hop_of(finding: Finding, hops: Sequence[Hop]) -> int | None:
    """The first hop that reaches the line at which a finding bites; None when it bites before any."""
    if finding.bites_at is None:
        return None
    for position, hop in enumerate(hops):
        for move in hop.moves:
            reaches = line_key(move.goal) >= line_key(finding.bites_at)
            if move.coordinate == finding.coordinate and reaches and line_key(finding.bites_at) > line_key(move.start):
                return position
    return None


def _crossed(knowledge: Knowledge, purl: str, start: str, goal: str) -> int:
    lines = knowledge.lines(Coordinate(purl))
    return max(1, sum(1 for line in lines if line_key(start) < line_key(line) <= line_key(goal)))


def _date(today: date, days: float, days_per_week: float) -> date:
    return today + timedelta(days=math.ceil(days / days_per_week * 7))


def stays(spans: Mapping[str, Span], stages: Sequence[Stage], purl: str) -> list[tuple[str, Stage | None]]:
    """The lines of one coordinate in order, each with the stage that leaves it (None for the last)."""
    found: list[tuple[str, Stage | None]] = []
    line = spans[purl].today
    for stage in stages:
        for move in stage.moves:
            if move.coordinate == purl:
                found.append((line, stage))
                line = move.goal
    return [*found, (line, None)]


def _dark_days(spans: Mapping[str, Span], stages: Sequence[Stage], knowledge: Knowledge, today: date, purl: str) -> int:
    """Days from today on that a coordinate stands on an unsupported line, by the 50 % dates."""
    total, since = 0, today
    for line, stage in stays(spans, stages, purl):
        if stage is None:
            break
        facts = knowledge.line_facts(purl, line)
        if facts is not None and facts.support_ends is not None:
            total += max(0, (stage.arrives50 - max(facts.support_ends, since)).days)
        since = stage.arrives50
    return total


def standing(spans: Mapping[str, Span], path: MigrationPath | None, today_lines: Mapping[str, str], knowledge: Knowledge, today: date) -> Standing:
    """Margin, runway and the slack of every line that is left."""
    rows: list[LineSlack] = []
    for purl in sorted(spans) if path is not None else ():
        for line, stage in stays(spans, path.stages if path else (), purl):
            facts = knowledge.line_facts(purl, line)
            end = facts.support_ends if facts else None
            left = stage.arrives80 if stage is not None else None
            slack = (max(end, today) - left).days if end is not None and left is not None else None
            rows.append(LineSlack(purl, line, end, left, slack))
    ends = [f.support_ends for p, line in today_lines.items() if (f := knowledge.line_facts(p, line)) and f.support_ends]
    slacks = [row.slack for row in rows if row.slack is not None]
    first = min(ends, default=None)
    past = first is not None and first < today
    runway = (first - today).days if first is not None and not past else None
    return Standing(min(slacks, default=None), runway, first if past else None, tuple(rows))
