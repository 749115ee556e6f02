"""Shares that grow by themselves: a route that is shared moves on as soon as it has shown what it should, where somebody allowed that."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from yoake.context.context import Context
from yoake.core.crossing.rules import CrossingRules, Standing
from yoake.store.applications import application_by_id
from yoake.store.crossings import StoredCrossing
from yoake.usecases.cross import move_routes, told_standing
from yoake.usecases.take_record import gateway_state, record_folder
from yoake.views.crossing_rows import route_row
from yoake.views.crossing_state import read_state

BY_ITSELF: Final = "by itself"
"""Who moved a route that nobody moved by hand."""


def grow_shares(context: Context, crossing: StoredCrossing, rules: CrossingRules) -> Iterator[str]:
    """Move shared routes on that may move on, and say which. The first share of a route is a person's to give. Raises BadInput."""
    if not crossing.grows or not any(rule.standing is Standing.SHARED for rule in rules.routes):
        return
    slug = application_by_id(context.db, crossing.application_id).slug
    known = read_state(context, crossing, rules, gateway_state(record_folder(crossing, rules)))
    for stored in known.old:
        if stored.gone_at:
            continue
        row = route_row(stored, known)
        if row.standing is not Standing.SHARED or row.stop is not None or row.next_standing is None:
            continue
        why = f"{crossing.days} days at {told_standing(row.standing, row.share)} without falling back"
        move_routes(context, slug, [row.name], row.next_standing, row.next_share, BY_ITSELF, why)
        yield f"{row.name} went on to {told_standing(row.next_standing, row.next_share)}"
