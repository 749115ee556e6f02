"""What an application that crosses has still to move, as its path prices it."""

from __future__ import annotations

from collections.abc import Iterable

from yoake.context.context import Context
from yoake.core.crossing.rules import Side, Standing
from yoake.core.crossing.slices import in_order, with_findings
from yoake.core.values.findings import Finding
from yoake.core.values.journeys import BroughtSlice
from yoake.store.crossings import calls_by_route, crossing_of, moves_of, slices_of, stored_routes
from yoake.views.route_needs import needs_of


def slices_left(context: Context, application_id: int, findings: Iterable[Finding]) -> tuple[BroughtSlice, ...]:
    """What is left to move of a crossing, slice by slice; empty where there is none, or nothing was read yet."""
    db, crossing = context.db, crossing_of(context.db, application_id)
    if crossing is None:
        return ()
    routes = [row.route for row in stored_routes(db, application_id) if row.side is Side.OLD and not row.gone_at]
    if not routes:
        return ()
    needs = needs_of(context, crossing)
    calls = calls_by_route(db, application_id)
    stands = {move.route: move.standing for move in moves_of(db, application_id)}
    there = [route.name for route in routes if stands.get(route.name) is Standing.NEW]
    left = [route for route in routes if route.name not in set(there)]
    chosen = {each.name: each.routes for each in slices_of(db, application_id)}
    weights = {route.name: float(sum(calls.get(route.name, {}).values())) for route in left}
    return with_findings(in_order(chosen, left, needs, weights, there), needs, findings)
