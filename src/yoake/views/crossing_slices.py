"""Slices as the screen Crossing shows and proposes them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from yoake.context.context import Context
from yoake.core.crossing.moving import Stop
from yoake.core.crossing.parts import Needs
from yoake.core.crossing.rules import Standing
from yoake.core.crossing.slices import OrderedSlice, SliceBasis, in_order, ordered, proposed
from yoake.store.crossings import slices_of
from yoake.views.crossing_rows import RouteRow, short_day
from yoake.views.crossing_state import CrossingState


@dataclass(frozen=True, slots=True, kw_only=True)
class SliceBand:
    """Routes that move together. ``brings``: lines that no slice before it brought; ``calls_share``: of the calls that are on the new
    side once it has moved."""

    name: str
    told: str
    routes: list[RouteRow]
    weekly: float
    brings: int
    cumulated: int
    calls_share: float
    quiet: bool = False


def slice_bands(
    context: Context, known: CrossingState, live: Mapping[str, RouteRow], needs: Mapping[str, Needs]
) -> tuple[list[SliceBand], list[OrderedSlice]]:
    """Routes in slices: as a person chose them, else by prefix in an order that pays early; what nobody called stands last."""
    calls = {name: row.weekly for name, row in live.items()}
    quiet = {name for name, row in live.items() if row.stop is Stop.NOBODY and row.standing is Standing.OLD}
    busy = [row.route for row in known.old if row.route.name in live and row.route.name not in quiet]
    chosen = {each.name: each.routes for each in slices_of(context.db, known.crossing.application_id)}
    there = [name for name, row in live.items() if row.standing is Standing.NEW]
    order = in_order(chosen, busy, needs, calls, there)
    bands = [_band(each, live) for each in order]
    if quiet:
        names = sorted(quiet, key=lambda name: (live[name].path, name))
        bands.append(
            SliceBand(
                name="nobody called",
                told=f"since {short_day(min(day for c in known.calls.values() for day in c))}",
                routes=[live[name] for name in names],
                weekly=0.0,
                brings=0,
                cumulated=order[-1].cumulated if order else 0,
                calls_share=1.0,
                quiet=True,
            )
        )
    return bands, order


def _band(each: OrderedSlice, live: Mapping[str, RouteRow]) -> SliceBand:
    rows = sorted(
        (live[name] for name in each.slice.routes if name in live), key=lambda r: (-r.weekly, r.path, r.method)
    )
    tables = len(each.slice.tables)
    touched = f", {tables} {'table' if tables == 1 else 'tables'}" if tables else ""
    told = f"{each.brings:,} lines to bring{touched}"
    return SliceBand(
        name=each.slice.name,
        told=told,
        routes=rows,
        weekly=each.slice.calls,
        brings=each.brings,
        cumulated=each.cumulated,
        calls_share=each.calls_share,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class ProposedSlice:
    """A slice as it is proposed, in its place."""

    name: str
    routes: list[str]
    weekly: float
    own: int
    shared: int
    brings: int
    cumulated: int
    calls_share: float
    tables: list[str]


def proposals(known: CrossingState, by: SliceBasis) -> list[ProposedSlice]:
    """Slices by what routes have in common, in an order that pays early."""
    rows = [row for row in known.old if not row.gone_at]
    needs = {row.route.name: known.needs.get(row.route.name) or Needs() for row in rows}
    calls = {name: known.weekly(name) for name in needs}
    order = ordered(proposed(by, [row.route for row in rows], needs, calls), needs)
    return [
        ProposedSlice(
            name=each.slice.name,
            routes=list(each.slice.routes),
            weekly=each.slice.calls,
            own=each.slice.own,
            shared=each.slice.shared,
            brings=each.brings,
            cumulated=each.cumulated,
            calls_share=each.calls_share,
            tables=list(each.slice.tables),
        )
        for each in order
    ]
