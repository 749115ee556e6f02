"""What is known of a crossing, read once for a look at it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta
from functools import cached_property
from typing import Any, Final

from yoake.context.context import Context
from yoake.core.crossing.parts import Needs
from yoake.core.crossing.rules import CrossingRules, RouteRule, Side
from yoake.core.values.routes import Route, bare
from yoake.formats.crossing_rules import written_name
from yoake.store.crossings import (
    Compared,
    Move,
    StoredCrossing,
    StoredRoute,
    calls_by_route,
    comparisons_of,
    moves_of,
    stored_routes,
)
from yoake.views.route_needs import needs_of

_WEEKS: Final = 4  # of calls that a week's figure is made of


@dataclass(frozen=True, kw_only=True)
class CrossingState:
    """Everything one look needs, read once."""

    crossing: StoredCrossing
    rules: CrossingRules
    routes: list[StoredRoute]
    calls: Mapping[str, Mapping[str, int]]
    comparisons: Mapping[str, list[Compared]]
    moves: Mapping[str, list[Move]]
    fallen: Mapping[str, str]
    gateway_at: str
    needs: Mapping[str, Needs]
    today: date

    @cached_property
    def old(self) -> list[StoredRoute]:
        """The routes of the old side."""
        return [row for row in self.routes if row.side is Side.OLD]

    @cached_property
    def ruled(self) -> dict[str, RouteRule]:
        """Rules by the names of their routes."""
        return {rule.route.name: rule for rule in self.rules.routes}

    @cached_property
    def new_methods(self) -> dict[str, set[str]]:
        """Paths of the new side, parameters without their names → methods."""
        found: dict[str, set[str]] = {}
        for row in self.routes:
            if row.side is Side.NEW and not row.gone_at:
                found.setdefault(bare(row.route.path).rstrip("/"), set()).add(row.route.method)
        return found

    @cached_property
    def first_seen(self) -> str:
        """When the routes of the old side were read first."""
        return min((row.seen_at for row in self.old), default="")

    @cached_property
    def span(self) -> tuple[date, date] | None:
        """The first and last day of the calls that a week's figure is made of."""
        days = [date.fromisoformat(day) for calls in self.calls.values() for day in (min(calls), max(calls))]
        if not days:
            return None
        return max(min(days), max(days) - timedelta(days=7 * _WEEKS - 1)), max(days)

    def weekly(self, name: str) -> float:
        """Calls a week of a route over the last four weeks that are known."""
        if self.span is None:
            return 0.0
        first, last = self.span
        start = first.isoformat()
        calls = self.calls.get(name, {})
        return sum(count for day, count in calls.items() if day >= start) * 7 / ((last - first).days + 1)

    def since(self, name: str) -> str:
        """Since when a route stands where it stands; empty where it never moved."""
        moves = self.moves.get(name, [])
        return moves[-1].at if moves else ""

    def compared(self, route: Route) -> list[Compared]:
        """The comparisons of a route, the oldest first."""
        return self.comparisons.get(written_name(route), [])

    def counting(self, stored: StoredRoute) -> list[Compared]:
        """Comparisons that count: since the route stands where it stands, and since its differences were mended."""
        start = max(self.since(stored.route.name), stored.mended_at or "")
        return [each for each in self.compared(stored.route) if each.at >= start]

    @cached_property
    def tested_paths(self) -> set[tuple[str, str]]:
        """(method, path without names of parameters) of routes that tests of the new side call."""
        return {
            (row.route.method, bare(row.route.path).rstrip("/"))
            for row in self.routes
            if row.side is Side.NEW and not row.gone_at and row.tested
        }

    def tested(self, route: Route) -> bool:
        """Whether a test of the new side calls a route; True where no new side was taken in, so that nobody can know."""
        if self.crossing.new_id is None:
            return True
        path = bare(route.path).rstrip("/")
        return any((method, path) in self.tested_paths for method in (route.method, "ANY"))

    def on_new(self, route: Route) -> bool | None:
        """Whether the new side has a route for it; None where no new side was taken in."""
        if self.crossing.new_id is None:
            return None
        methods = self.new_methods.get(bare(route.path).rstrip("/"), set())
        return bool(methods) and (route.method in methods or "ANY" in methods or route.method == "ANY")


def read_state(
    context: Context, crossing: StoredCrossing, rules: CrossingRules, state: Mapping[str, Any]
) -> CrossingState:
    """Everything a look at a crossing needs. ``state``: what its gateway wrote last."""
    comparisons: dict[str, list[Compared]] = {}
    for each in comparisons_of(context.db, crossing.application_id):
        comparisons.setdefault(each.route, []).append(each)
    moves: dict[str, list[Move]] = {}
    for move in moves_of(context.db, crossing.application_id):
        moves.setdefault(move.route, []).append(move)
    held = state.get("fallen")
    fallen = {name: str(row.get("why", "")) for name, row in held.items()} if isinstance(held, dict) else {}
    return CrossingState(
        crossing=crossing,
        rules=rules,
        routes=stored_routes(context.db, crossing.application_id),
        calls=calls_by_route(context.db, crossing.application_id),
        comparisons=comparisons,
        moves=moves,
        fallen=fallen,
        gateway_at=str(state.get("at", "")),
        needs=needs_of(context, crossing),
        today=context.today,
    )
