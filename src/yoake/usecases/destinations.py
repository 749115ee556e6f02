"""Destinations as people name them."""

from __future__ import annotations

import re

from yoake.context.context import Context
from yoake.core.values.coordinates import Target, parse_target
from yoake.core.values.errors import BadInput
from yoake.store.applications import (
    list_destinations,
)


def read_destination(context: Context, text: str) -> tuple[str, tuple[Target, ...]]:
    """A destination by its name, or by its lines (``python@3.13 pypi/django@5.2``). Raises BadInput."""
    wanted = text.strip()
    for destination, _ in list_destinations(context.db):
        if destination.name.lower() == wanted.lower():
            return destination.name, destination.targets
    parts = [part for part in re.split(r"[\s,+;]+", wanted) if part]
    if not parts:
        raise BadInput("No destination is given: write lines such as python@3.13 pypi/django@5.2.")
    if not all("@" in part for part in parts):
        raise BadInput(f"There is no destination “{wanted}”. Name one that exists, or write lines such as python@3.13.")
    targets = tuple(context.knowledge.check_target(parse_target(part)) for part in parts)
    if len({t.coordinate for t in targets}) < len(targets):
        raise BadInput(f"“{wanted}” names two lines of one coordinate; a destination has one each.")
    return ", ".join(context.ecosystems.spoken_target(t) for t in targets), targets
