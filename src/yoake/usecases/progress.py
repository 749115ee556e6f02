"""How far something that takes a while is, and how it is stopped."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Progress:
    """How far it is. ``left`` is seconds, None while it cannot be told."""

    phase: str
    done: int = 0
    total: int = 0
    rate: float = 0.0
    left: float | None = None


@dataclass
class Control:
    """How something that runs is watched and stopped."""

    say: Callable[[Progress], None] = lambda _progress: None
    stopped: Callable[[], bool] = lambda: False
