"""Several steps at once: who does them, and by when."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from yoake.context.context import Context
from yoake.core.values.errors import Outdated
from yoake.usecases.track import change_step_fields

MOST_AT_ONCE: Final = 500
"""Steps that one request may change."""


@dataclass(frozen=True, slots=True)
class StepsChanged:
    """How many steps were changed; ``outdated``: those that somebody else had changed meanwhile, which were left alone."""

    changed: int
    outdated: list[int]


def change_steps(
    context: Context, steps: Sequence[tuple[int, int]], changes: Mapping[str, str | None], who: str
) -> StepsChanged:
    """Set owner or due date of steps, each at the version that it was chosen at. Raises BadInput and NotFound, and changes nothing then."""
    chosen = dict(steps)
    outdated = []
    with context.db.write():
        for number, version in chosen.items():
            try:
                change_step_fields(context, number, changes, who, version)
            except Outdated:
                outdated.append(number)
    return StepsChanged(len(chosen) - len(outdated), outdated)
