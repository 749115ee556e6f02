"""How far the routes have come that the stages of a piecewise path move."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from yoake.context.context import Context
from yoake.core.crossing.rules import Side, Standing
from yoake.core.crossing.slices import in_order
from yoake.core.proof.gates import RouteEvidence
from yoake.core.values.plans import GATEWAY_STAGE, NEW_SIDE_STAGE, OLD_SIDE, OLD_SIDE_STAGE, Stage
from yoake.store.crossings import Move, StoredCrossing, crossing_of, moves_of, slices_of, stored_routes
from yoake.store.database import Row
from yoake.views.route_needs import needs_of

_NOT_BEGUN = RouteEvidence(moved=0, whole=0, problem="the crossing has not begun")


def stage_routes(
    context: Context, application_id: int, stages: Sequence[Stage], steps: Iterable[Row]
) -> Mapping[int, RouteEvidence]:
    """Number of a stage → its routes; empty for a path that is not walked piece by piece."""
    if not any(stage.title == GATEWAY_STAGE for stage in stages):
        return {}
    crossing = crossing_of(context.db, application_id)
    if crossing is None:
        return {stage.number: _NOT_BEGUN for stage in stages}
    where = {move.route: move for move in moves_of(context.db, application_id)}
    slices = _slices(context, crossing)
    off = next((row for row in steps if row["finding_key"] == OLD_SIDE), None)
    found: dict[int, RouteEvidence] = {}
    for stage in stages:
        if stage.title == GATEWAY_STAGE:
            found[stage.number] = _gateway(crossing)
        elif stage.title == OLD_SIDE_STAGE:
            found[stage.number] = _off(slices, where, off)
        elif stage.title != NEW_SIDE_STAGE:
            names = {each.title for each in stages}
            rest = [route for name, held in slices.items() if name not in names for route in held]
            found[stage.number] = _moved(slices.get(stage.title, rest), where)
    return found


def _slices(context: Context, crossing: StoredCrossing) -> dict[str, Sequence[str]]:
    routes = [
        row.route
        for row in stored_routes(context.db, crossing.application_id)
        if row.side is Side.OLD and not row.gone_at
    ]
    chosen = {each.name: each.routes for each in slices_of(context.db, crossing.application_id)}
    order = in_order(chosen, routes, needs_of(context, crossing), {})
    return {each.slice.name: each.slice.routes for each in order}


def _gateway(crossing: StoredCrossing) -> RouteEvidence:
    if not crossing.counted:
        return RouteEvidence(moved=0, whole=1, problem="no gateway has written anything yet")
    return RouteEvidence(moved=0, whole=0, said="a gateway has answered")


def _moved(routes: Sequence[str], where: Mapping[str, Move]) -> RouteEvidence:
    there = [where[name] for name in routes if name in where and where[name].standing is Standing.NEW]
    newest = max(there, key=lambda move: move.at, default=None)
    return RouteEvidence(len(there), len(routes), *((newest.at, newest.who) if newest is not None else ()))


def _off(slices: Mapping[str, Sequence[str]], where: Mapping[str, Move], step: Row | None) -> RouteEvidence:
    """The old side is off when the step that says so is closed: no route, and no call for as long as was asked for."""
    every = [route for held in slices.values() for route in held]
    known = _moved(every, where)
    if known.moved < known.whole or (step is not None and step["state"] == "closed"):
        return known
    return RouteEvidence(moved=known.moved, whole=known.whole, problem="no route is left; it is not switched off yet")
