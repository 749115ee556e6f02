"""A path: what can be done before any version moves, then stages, each with its moves and what goes with them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Any

from yoake.core.readiness.effort import Effort


@dataclass(frozen=True, slots=True)
class Move:
    """One coordinate from one line to another."""

    coordinate: str
    start: str
    goal: str


@dataclass(frozen=True, slots=True)
class Stage:
    """A deployable set of lines. ``reached``: days of work from today until it is done, all before it included.

    ``reasons`` say why these moves are here or together.
    """

    number: int
    moves: tuple[Move, ...]
    state: tuple[tuple[str, str], ...]
    reasons: tuple[str, ...]
    finding_keys: tuple[str, ...]
    lines_crossed: int
    effort: Effort
    reached: Effort


@dataclass(frozen=True, slots=True)
class Plan:
    """Hop by hop from today to the destination, in days of work. ``before_keys`` are safe now and need no move."""

    today: tuple[tuple[str, str], ...]
    before_keys: tuple[str, ...]
    before: Effort
    stages: tuple[Stage, ...]
    total: Effort


@dataclass(frozen=True, slots=True)
class StageDates:
    """When a stage starts and is done, at 50 % and 80 %."""

    starts50: date
    arrives50: date
    arrives80: date


@dataclass(frozen=True, slots=True)
class LineSlack:
    """Slack of one line the application stands on, in days: max(end, today) − the 80 % date at which it is left."""

    coordinate: str
    line: str
    support_ends: date | None
    since50: date | None
    left50: date | None
    left80: date | None
    slack: int | None


@dataclass(frozen=True, slots=True)
class Standing:
    """A plan with dates. ``margin``: the smallest slack in days; ``runway``: days until the first of today's lines loses
    support; ``dark_days``: days from today on that lines are unsupported until they are left, at 50 %."""

    margin: int | None
    runway: int | None
    unsupported_since: date | None
    lines: tuple[LineSlack, ...]
    stages: tuple[StageDates, ...]
    before_until50: date
    arrival50: date
    arrival80: date
    dark_days: int


def plan_from_json(body: dict[str, Any]) -> Plan:
    """Read back what ``dataclasses.asdict`` wrote."""
    stages = tuple(
        Stage(
            s["number"],
            tuple(Move(**m) for m in s["moves"]),
            tuple((p, x) for p, x in s["state"]),
            tuple(s["reasons"]),
            tuple(s["finding_keys"]),
            s["lines_crossed"],
            Effort(**s["effort"]),
            Effort(**s["reached"]),
        )
        for s in body["stages"]
    )
    today = tuple((p, x) for p, x in body["today"])
    return Plan(today, tuple(body["before_keys"]), Effort(**body["before"]), stages, Effort(**body["total"]))
