"""Views of the whole portfolio as they are sent, made once until something happens."""

from __future__ import annotations

import gzip
from collections.abc import Callable
from typing import Any, Final

from pydantic import TypeAdapter

from yoake.context.context import Context
from yoake.views.portfolio_stages import portfolio_stamp
from yoake.views.wave_plans import SMALL, planned

_LEVEL: Final = 3


def packed_view(context: Context, name: str, make: Callable[[Context], Any], kind: Any) -> bytes:
    """A view as JSON, packed with gzip. ``kind``: its type; ``name``: what tells it from others, with all that was asked for.

    Of a large portfolio it stays while its plan does: a newer one is made behind, and nobody waits for it.
    """
    plan = planned(context)
    large = len(plan.portfolio.problem.stages) > SMALL
    key = (name, plan.identity, context.today, () if large else portfolio_stamp(context))
    with context.packing:
        body: bytes = context.windows.get(
            key, lambda: gzip.compress(TypeAdapter(kind).dump_json(make(context)), _LEVEL)
        )
        return body
