"""Waiting for a condition, never for a fixed time."""

from __future__ import annotations

import time
from collections.abc import Callable

PATIENCE = 60.0


def until(condition: Callable[[], object], patience: float = PATIENCE) -> None:
    """Return as soon as the condition holds; fail when patience ends."""
    end = time.monotonic() + patience
    while not condition():
        if time.monotonic() > end:
            raise AssertionError(f"it did not come true within {patience} s")
        time.sleep(0.02)
