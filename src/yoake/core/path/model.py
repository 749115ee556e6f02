"""A path: what can be done before any version moves, then stages, each with its moves and what goes with them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from yoake.core.readiness.effort import Effort


@dataclass(frozen=True, slots=True)
class Move:
    """One coordinate from one line to another."""

    coordinate: str
    start: str
    goal: str


@dataclass(frozen=True, slots=True)
class Stage:
    """A deployable set of lines. ``reasons`` say why these moves are here or together; dates are arrivals."""

    number: int
    moves: tuple[Move, ...]
    state: tuple[tuple[str, str], ...]
    reasons: tuple[str, ...]
    finding_keys: tuple[str, ...]
    lines_crossed: int
    effort: Effort
    starts50: date
    arrives50: date
    arrives80: date


@dataclass(frozen=True, slots=True)
class MigrationPath:
    """Hop by hop from today to the destination. ``before_keys`` are safe now and need no move."""

    before_keys: tuple[str, ...]
    before_effort: Effort
    before_until50: date
    stages: tuple[Stage, ...]
    total: Effort
    arrival50: date
    arrival80: date
    dark_days: int
    notes: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class LineSlack:
    """Slack of one line the application stands on, in days: max(end, today) − the 80 % date at which it is left."""

    coordinate: str
    line: str
    support_ends: date | None
    left80: date | None
    slack: int | None


@dataclass(frozen=True, slots=True)
class Standing:
    """``margin``: the smallest slack in days; ``runway``: days until the first of today's lines loses support."""

    margin: int | None
    runway: int | None
    unsupported_since: date | None
    lines: tuple[LineSlack, ...]
