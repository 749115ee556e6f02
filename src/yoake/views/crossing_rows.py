"""Routes as the screen Crossing shows them: where each stands, how alike the answers are, and what moves it next."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Final

from yoake.core.crossing.moving import MovePolicy, NextMove, RouteState, Stop, next_move
from yoake.core.crossing.parts import Needs
from yoake.core.crossing.rules import Standing
from yoake.formats.crossing_rules import written_name
from yoake.store.crossings import Compared, StoredCrossing, StoredRoute
from yoake.views.crossing_state import CrossingState

STRIP: Final = 40
"""Comparisons that a row shows."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RouteRow:
    """One route of the old side. ``weekly``: calls a week; ``strip``: the latest comparisons, true where alike, the oldest first;
    ``compared`` and ``alike`` those that count; ``on_new``: None where no new side was taken in;
    ``described``: only a description knows it; ``stop``: what stops it, ``told`` in a sentence; ``files``, ``lines`` and ``tables``:
    what it drags along."""

    name: str
    method: str
    path: str
    handler: str
    file: str
    line: int
    weekly: float
    standing: Standing
    share: float
    strip: list[bool]
    compared: int
    alike: int
    on_new: bool | None
    safe: bool
    added: bool
    described: bool
    gone: bool
    fell_back: str
    next_standing: Standing | None
    next_share: float
    stop: Stop | None
    told: str
    files: int
    lines: int
    tables: list[str]
    since: str


def route_row(stored: StoredRoute, known: CrossingState) -> RouteRow:
    """One route as the screen shows it."""
    route, name = stored.route, stored.route.name
    rule = known.ruled.get(written_name(route))
    needs = known.needs.get(name) or Needs()
    standing, share = (rule.standing, rule.share) if rule is not None else (Standing.OLD, 0.0)
    since, counts, on_new = known.since(name), known.counting(stored), known.on_new(route)
    state = RouteState(
        method=route.method,
        standing=standing,
        share=share,
        on_new=on_new is not False,
        safe=rule is not None and rule.safe,
        compared=len(counts),
        alike=sum(c.alike for c in counts),
        since=date.fromisoformat(since[:10]) if since else None,
        weekly=known.weekly(name),
        counted=known.span is not None,
        tested=known.tested(route),
        fell_back=known.fallen.get(written_name(route), ""),
    )
    asked = known.crossing
    move = next_move(state, MovePolicy(answers=asked.answers, days=asked.days, tests=asked.tests), known.today)
    return RouteRow(
        name=name,
        method=route.method,
        path=route.path,
        handler=route.handler,
        file=route.file,
        line=route.line,
        weekly=state.weekly,
        standing=standing,
        share=share,
        strip=[c.alike for c in known.compared(route)[-STRIP:]],
        compared=state.compared,
        alike=state.alike,
        on_new=on_new,
        safe=state.safe,
        added=route.source == "code" and stored.seen_at > known.first_seen,
        described=route.source == "document",
        gone=stored.gone_at is not None,
        fell_back=state.fell_back,
        next_standing=move.standing,
        next_share=move.share,
        stop=move.stop,
        told=_told(move, state, since, counts, known.crossing),
        files=len(needs.files),
        lines=sum(part.lines for part in needs.parts),
        tables=sorted(needs.tables)[:12],
        since=since,
    )


def _told(move: NextMove, state: RouteState, since: str, counts: Sequence[Compared], crossing: StoredCrossing) -> str:
    """What moves a route next, or what stops it."""
    if move.standing is None:
        return f"arrived {short_day(since)}" if since else "arrived"
    if move.stop is not None:
        return _stopped(move, state, counts, crossing)
    if move.standing is Standing.MIRRORED:
        return "ready to mirror"
    return f"ready to share {move.share:g} %" if move.standing is Standing.SHARED else "ready to move"


def _stopped(move: NextMove, state: RouteState, counts: Sequence[Compared], crossing: StoredCrossing) -> str:
    words = {
        Stop.FELL_BACK: "fell back by itself",
        Stop.NOT_THERE: "no route on the new side",
        Stop.UNSAFE: "declare safe, or share untested",
        Stop.DIFFERS: f"{move.left} differ: {_cause(counts)}",
        Stop.NOBODY: "retire?" if state.standing is Standing.OLD else "nobody called it",
        Stop.FEW_ANSWERS: f"{state.compared} of {crossing.answers} answers",
        Stop.UNTESTED: "no test of the new side calls it",
        Stop.TOO_SOON: f"{crossing.days - move.left} of {crossing.days} days",
    }
    return words[move.stop] if move.stop is not None else ""


def _cause(counts: Sequence[Compared]) -> str:
    causes = Counter(f"{each['kind']} {each['where']}" for c in counts for each in c.differences[:1])
    return causes.most_common(1)[0][0] if causes else ""


def short_day(stamp: str) -> str:
    """``2 Nov`` of a time as ISO text."""
    found = date.fromisoformat(stamp[:10])
    return f"{found.day} {found:%b}"
