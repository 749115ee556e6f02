"""A path: what can be done before any version moves, then stages, each with its moves and what goes with them."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date
from typing import Final

from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.effort import NO_EFFORT, Effort
from yoake.core.values.words import SettledState


@dataclass(frozen=True, slots=True)
class Move:
    """One coordinate from one line to another."""

    coordinate: Coordinate
    start: Line
    goal: Line


@dataclass(frozen=True, slots=True)
class Reason:
    """A sentence about a line or a stage; ``grade``: hard, stated, observed or empty; ``source``: who says so."""

    text: str
    grade: str = ""
    source: str = ""


@dataclass(frozen=True, slots=True)
class Settled:
    """What a stage does with one package that a manifest asks for. ``state``: keeps (today's range admits the release), change (the range
    has to move), none (nothing fits: ``why`` says what stands in the way) or unknown (no release record). ``before``: the release of the
    stage before; at the first stage today's, or the range where no lock says it."""

    coordinate: Coordinate
    release: str
    state: SettledState
    why: str = ""
    before: str = ""

    @property
    def moves(self) -> bool:
        """Whether this stage is the one that takes it out of what stood before."""
        return self.state == "change" and self.release != self.before


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """A deployable set of lines. ``reached``: days of work from today until it is done, all before it included.

    ``reasons`` say why these moves are here or together, ``constraints`` what would be broken if one stayed behind. ``releases``:
    what stands for each line. ``safe_keys``: findings that bite here and can be dealt with before any move. ``notes``: what
    packages lose. ``packages``: what it does with each package that a manifest asks for. ``title``: set where a strategy names its
    stages. ``group``: the set of modules that travels.
    """

    number: int
    moves: tuple[Move, ...]
    state: tuple[tuple[Coordinate, Line], ...]
    reasons: tuple[str, ...]
    finding_keys: tuple[str, ...]
    lines_crossed: int
    effort: Effort
    reached: Effort
    releases: tuple[tuple[Coordinate, str], ...] = ()
    constraints: tuple[Reason, ...] = ()
    safe_keys: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    title: str = ""
    group: str = ""
    packages: tuple[Settled, ...] = ()


STAGE_PREFIX: Final = "stage:"
"""Begins the key of a step that stands for a stage and not for a finding."""
ROUTE_PREFIX: Final = "route:"
"""Begins the key of a step that takes a route out, or the old side with it: no scan of names closes it, but what reads routes does."""
OLD_SIDE: Final = "route:old side off"
"""The key of the step that switches the old side off."""
GATEWAY_STAGE: Final = "gateway in front"
NEW_SIDE_STAGE: Final = "new side stands"
OLD_SIDE_STAGE: Final = "old side off"
"""Titles of the stages around the slices of an application that moves piece by piece."""


def stage_key(stage: Stage, named: Collection[str]) -> str:
    """What names a stage by where it leads, however it is numbered; one that moves nothing by its title. ``named``: coordinates of the
    destination."""
    moved = [m for m in stage.moves if m.coordinate in named] or list(stage.moves)
    if not moved:
        return STAGE_PREFIX + stage.title
    return STAGE_PREFIX + "+".join(sorted(f"{m.coordinate}@{m.goal}" for m in moved))


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """From today to the destination, in days of work. ``before_keys`` are safe now and need no move; ``blocked`` says what cannot
    hold together where nothing leads there."""

    today: tuple[tuple[Coordinate, Line], ...] = ()
    before_keys: tuple[str, ...] = ()
    before: Effort = NO_EFFORT
    stages: tuple[Stage, ...] = ()
    total: Effort = NO_EFFORT
    blocked: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class StageDates:
    """When a stage starts and is done, at 50 % and 80 %."""

    starts50: date
    arrives50: date
    arrives80: date


@dataclass(frozen=True, slots=True, kw_only=True)
class LineSlack:
    """Slack of one line the application stands on, in days: max(end, today) − the 80 % date at which it is left."""

    coordinate: Coordinate
    line: Line
    support_ends: date | None
    since50: date | None
    left50: date | None
    left80: date | None
    slack: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
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
