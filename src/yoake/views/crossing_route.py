"""One route of a crossing from nearby: what differs, what it drags along, and where it stood."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from yoake.core.crossing.parts import Needs
from yoake.core.crossing.rules import Standing
from yoake.core.values.routes import Route
from yoake.formats.crossing_rules import written_name
from yoake.store.crossings import Compared, Move
from yoake.views.crossing_rows import STRIP, RouteRow, route_row
from yoake.views.crossing_state import CrossingState


@dataclass(frozen=True, slots=True, kw_only=True)
class CauseRow:
    """Comparisons that differ for one reason."""

    kind: str
    where: str
    pairs: int
    old: str
    new: str
    example: str
    at: str


@dataclass(frozen=True, slots=True, kw_only=True)
class NeedRow:
    """One part that a route drags along; ``others``: further routes that need it."""

    name: str
    file: str
    line: int
    lines: int
    others: int


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveRow:
    """One move of a route."""

    at: str
    who: str
    why: str
    told: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RouteDetail:
    """One route from nearby."""

    route: RouteRow
    causes: list[CauseRow]
    needs: list[NeedRow]
    bridged: list[str]
    left_out: list[str]
    templates: list[str]
    settings: list[str]
    packages: list[str]
    moves: list[MoveRow]
    old_ms: float
    new_ms: float


def route_detail(known: CrossingState, name: str) -> RouteDetail | None:
    """One route from nearby; None where the old side has none of that name."""
    stored = next((row for row in known.old if row.route.name == name), None)
    if stored is None:
        return None
    row = route_row(stored, known)
    needs = known.needs.get(name) or Needs()
    live = {each.route.name for each in known.old if not each.gone_at}
    others = Counter(part for each, held in known.needs.items() if each in live for part in held.parts)
    counts = known.counting(stored)
    latest = known.compared(stored.route)[-STRIP:]
    return RouteDetail(
        route=row,
        causes=_causes(counts),
        needs=[
            NeedRow(name=p.name, file=p.file, line=p.line, lines=p.lines, others=others[p] - 1)
            for p in sorted(needs.parts, key=lambda p: (-others[p], -p.lines, p))
        ],
        bridged=sorted({part.name for part in needs.bridged}),
        left_out=sorted({part.name for part in needs.left}),
        templates=sorted(needs.templates),
        settings=sorted(needs.settings),
        packages=sorted(needs.packages),
        moves=[
            MoveRow(at=move.at, who=move.who, why=move.why, told=_move_told(move))
            for move in reversed(known.moves.get(name, []) + _of_gateway(known, stored.route))
        ],
        old_ms=_median([c.old_ms for c in latest]),
        new_ms=_median([c.new_ms for c in latest]),
    )


def _of_gateway(known: CrossingState, route: Route) -> list[Move]:
    written = written_name(route)
    return known.moves.get(written, []) if written != route.name else []


def _move_told(move: Move) -> str:
    if move.who == "the gateway":
        return "fell back to old"
    return f"{move.standing.value} {move.share:g} %" if move.standing is Standing.SHARED else move.standing.value


def _causes(counts: Sequence[Compared]) -> list[CauseRow]:
    groups: dict[tuple[str, str], list[tuple[Compared, dict[str, str]]]] = {}
    for each in counts:
        for difference in each.differences:
            key = (difference.get("kind", ""), difference.get("where", ""))
            groups.setdefault(key, []).append((each, difference))
    rows = [
        CauseRow(
            kind=kind,
            where=where,
            pairs=len(found),
            old=found[-1][1].get("old", ""),
            new=found[-1][1].get("new", ""),
            example=found[-1][0].path,
            at=found[-1][0].at,
        )
        for (kind, where), found in groups.items()
    ]
    return sorted(rows, key=lambda row: (-row.pairs, row.where))


def _median(values: Sequence[float]) -> float:
    ordered_ = sorted(values)
    return ordered_[len(ordered_) // 2] if ordered_ else 0.0
