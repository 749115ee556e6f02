"""What the routes of a crossing drag along, worked out once for all who look."""

from __future__ import annotations

from collections.abc import Mapping

from yoake.context.context import Context
from yoake.core.crossing.parts import Needs
from yoake.store.crossing_parts import part_choices, part_graph
from yoake.store.crossings import StoredCrossing


def needs_of(context: Context, crossing: StoredCrossing) -> Mapping[str, Needs]:
    """What the routes drag along; it changes only when they are read anew, or a person cuts something off."""
    choices = part_choices(context.db, crossing.application_id)
    key = (crossing.application_id, crossing.begun_at, crossing.routes_at, frozenset(choices.items()))
    found: Mapping[str, Needs] = context.route_needs.get(
        key, lambda: part_graph(context.db, crossing.application_id).all_needs(choices)
    )
    return found
