"""Whether a route has to go back: the latest answers of both sides, their failures and how long they took."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass, field
from typing import Final

from yoake.core.crossing.rules import FallBack, Side

FASTEST: Final = 0.020  # seconds; below it twice as slow is nobody's trouble
EVERY: Final = 10
"""Answers between two looks at all of them; failures in a row are looked at always."""
RUN: Final = 10
"""Failures in a row after which nobody waits for more answers."""


@dataclass(slots=True)
class Outcomes:
    """The latest answers of one side: whether each failed, and its seconds."""

    window: int
    failures: deque[bool] = field(default_factory=deque)
    seconds: deque[float] = field(default_factory=deque)

    def add(self, failed: bool, seconds: float) -> None:
        """One more answer."""
        self.failures.append(failed)
        self.seconds.append(seconds)
        while len(self.failures) > self.window:
            self.failures.popleft()
            self.seconds.popleft()

    def __len__(self) -> int:
        return len(self.failures)

    @property
    def failed(self) -> float:
        """The share of failures."""
        return sum(self.failures) / len(self.failures) if self.failures else 0.0

    @property
    def run(self) -> int:
        """Failures in a row, up to the latest answer."""
        count = 0
        for failed in reversed(self.failures):
            if not failed:
                break
            count += 1
        return count

    @property
    def p95(self) -> float:
        """The 95th percentile of the seconds; the nearest rank."""
        if not self.seconds:
            return 0.0
        ordered = sorted(self.seconds)
        return ordered[min(len(ordered) - 1, -(-95 * len(ordered) // 100) - 1)]


@dataclass(slots=True)
class Guard:
    """Watches one route. ``verdict`` says why it has to go back, or nothing."""

    limits: FallBack
    sides: dict[Side, Outcomes] = field(default_factory=dict)
    _added: int = 0

    def __post_init__(self) -> None:
        self.sides = {side: Outcomes(self.limits.window) for side in Side}

    def add(self, side: Side, status: int, seconds: float) -> None:
        """One more answer; a status of 500 and above, or none at all, is a failure."""
        self._added += 1
        self.sides[side].add(status >= 500 or status == 0, seconds)

    def verdict(self) -> str:
        """Why the route has to go back; empty while it may stay."""
        new, old = self.sides[Side.NEW], self.sides[Side.OLD]
        if new.run >= RUN and old.run < RUN:
            return f"the last {new.run} answers of the new side failed"
        if len(new) < self.limits.least or self._added % EVERY:
            return ""
        if new.failed > old.failed + self.limits.errors:
            return f"{new.failed:.1%} of the last {len(new)} answers of the new side failed, of the old side {old.failed:.1%}"
        if len(old) >= self.limits.least and new.p95 > max(old.p95, FASTEST) * self.limits.slower:
            return f"95 % of the new side's answers take up to {new.p95 * 1000:.0f} ms, of the old side's {old.p95 * 1000:.0f} ms"
        return ""

    def forget_new(self) -> None:
        """A route that moves again begins anew; what is known of the old side stays."""
        self.sides[Side.NEW] = Outcomes(self.limits.window)
