"""Shares that grow by themselves: a route that is shared moves on as soon as it has shown what it should, where somebody allowed that."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import datetime, timedelta
from typing import Any, Final

from yoake.context.context import Context
from yoake.core.crossing.rules import CrossingRules, Standing
from yoake.formats.crossing_rules import written_name
from yoake.store.applications import application_by_id
from yoake.store.crossings import StoredCrossing
from yoake.usecases.cross import move_routes, told_standing
from yoake.usecases.take_record import gateway_state, record_folder
from yoake.views.crossing_rows import route_row
from yoake.views.crossing_state import read_state

_ALIVE: Final = timedelta(minutes=5)
"""A gateway writes twice a second; one that was silent for longer decides nothing."""

BY_ITSELF: Final = "by itself"
"""Who moved a route that nobody moved by hand."""


def grow_shares(context: Context, crossing: StoredCrossing, rules: CrossingRules) -> Iterator[str]:
    """Move shared routes on that may move on, and say which. The first share of a route is a person's to give; nothing grows while no
    gateway is heard of, or where it saw no answer of the new side. Raises BadInput."""
    if not crossing.grows or not any(rule.standing is Standing.SHARED for rule in rules.routes):
        return
    slug = application_by_id(context.db, crossing.application_id).slug
    state = gateway_state(record_folder(crossing, rules))
    if not _is_heard_of(state, context.clock()):
        return
    known = read_state(context, crossing, rules, state)
    for stored in known.old:
        if stored.gone_at:
            continue
        row = route_row(stored, known)
        if row.standing is not Standing.SHARED or row.stop is not None or row.next_standing is None:
            continue
        if not _answers_of_new(state, written_name(stored.route)):
            continue
        why = f"{crossing.days} days at {told_standing(row.standing, row.share)} without falling back"
        move_routes(
            context=context,
            slug=slug,
            names=[row.name],
            standing=row.next_standing,
            share=row.next_share,
            who=BY_ITSELF,
            why=why,
        )
        yield f"{row.name} went on to {told_standing(row.next_standing, row.next_share)}"


def _is_heard_of(state: Mapping[str, Any], now: datetime) -> bool:
    try:
        return now - datetime.fromisoformat(str(state.get("at", ""))) <= _ALIVE
    except (TypeError, ValueError):
        return False


def _answers_of_new(state: Mapping[str, Any], route: str) -> int:
    """What the new side has answered of a route since the gateway started."""
    held: Any = state.get("routes")
    for key in (route, "answers", "new"):
        held = held.get(key) if isinstance(held, dict) else None
    return held if isinstance(held, int) else 0
