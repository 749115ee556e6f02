"""Views of the whole portfolio as they are sent, made once until something happens."""

from __future__ import annotations

import gzip
from collections.abc import Callable
from typing import Any, Final

from pydantic import TypeAdapter

from yoake.context.context import Context
from yoake.views.portfolio_stages import portfolio_stamp
from yoake.views.wave_plans import planned

_LEVEL: Final = 3


def packed_view(context: Context, name: str, make: Callable[[Context], Any], kind: Any) -> bytes:
    """A view as JSON, packed with gzip. ``kind``: its type; ``name``: what tells it from others, with all that was asked for."""
    plan = planned(context)
    key = (name, portfolio_stamp(context), id(plan))
    with context.planning:
        body: bytes = context.windows.get(
            key, lambda: gzip.compress(TypeAdapter(kind).dump_json(make(context)), _LEVEL)
        )
        return body
