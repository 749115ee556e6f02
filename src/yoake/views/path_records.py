"""What the Path screen is told."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from yoake.core.values.words import ConstraintGrade, Strategy
from yoake.views.application_rows import ApplicationRow


@dataclass(frozen=True, slots=True, kw_only=True)
class EditView:
    """One change of a stage, with the step that stands for it (None when it is not work yet)."""

    key: str
    title: str
    places: int
    mechanical: bool
    safe_now: bool
    step: int | None
    done: bool


@dataclass(frozen=True, slots=True)
class ItemView:
    """One item of a stage's sheet and its evidence."""

    text: str
    evidence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CellView:
    """One coordinate after a stage: its line and release, whether it moved, and why it stands there."""

    coordinate: str
    line: str
    release: str
    moved: bool
    tied: bool
    reason: str
    grade: str
    source: str


@dataclass(frozen=True, slots=True)
class TakenPackage:
    """A package that a stage takes along, from what stood before to a release, and why; without a release when none fits."""

    name: str
    before: str
    release: str
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StageView:
    """One stage of a way; number 0 is what can be done before any version moves.

    ``along``: packages that have to come along; ``stuck``: those for which nothing fits; ``unknown``: how many have no release record.
    """

    number: int
    title: str
    cells: list[CellView]
    reasons: list[str]
    notes: list[str]
    edits: list[EditView]
    edit_count: int
    open_count: int
    mechanical_count: int
    safe: int
    effort50: float
    effort80: float
    reached50: float
    reached80: float
    starts: date
    arrives50: date
    arrives80: date
    needs: list[ItemView]
    after: list[ItemView]
    gate: list[ItemView]
    not_needed: list[ItemView]
    along: list[TakenPackage]
    stuck: list[TakenPackage]
    unknown: int


@dataclass(frozen=True, slots=True, kw_only=True)
class WayView:
    """One way on the common scale. ``key`` names it in links; ``adopted``: it is the path that was taken; ``recommended``: why it is the one to
    take, empty for all others."""

    key: str
    title: str
    subtitle: str
    strategy: Strategy
    objectives: list[str]
    proven: bool
    reasons: list[str]
    stages: list[StageView]
    effort50: float
    effort80: float
    dark_days: int
    arrival50: date
    arrival80: date
    adopted: bool
    recommended: str


@dataclass(frozen=True, slots=True)
class RefusedView:
    """A strategy that cannot be taken, or one that does not travel (``possible``), with reasons."""

    strategy: Strategy
    title: str
    reasons: list[str]
    possible: bool
    until: date | None


@dataclass(frozen=True, slots=True)
class ReleaseView:
    """A change that would open a way."""

    what: str
    coordinate: str
    line: str
    text: str


@dataclass(frozen=True, slots=True)
class ConstraintView:
    """One of the constraints that cannot hold together."""

    text: str
    grade: ConstraintGrade
    source: str


@dataclass(frozen=True, slots=True)
class ConflictView:
    """Why nothing leads to the destination."""

    constraints: list[ConstraintView]
    releases: list[ReleaseView]


@dataclass(frozen=True, slots=True)
class LineChoice:
    """A line that can be pinned or avoided."""

    line: str
    kind: str
    support_ends: date | None


@dataclass(frozen=True, slots=True, kw_only=True)
class TrackView:
    """One tracked coordinate. ``named``: the destination names it; ``out``: it was left out by the reader."""

    coordinate: str
    name: str
    today: str
    goal: str | None
    named: bool
    out: bool
    lines: list[LineChoice]


@dataclass(frozen=True, slots=True)
class SetView:
    """A set of modules that travels together."""

    name: str
    title: str
    modules: int


@dataclass(frozen=True, slots=True, kw_only=True)
class SlackView:
    """Slack of one line."""

    coordinate: str
    name: str
    line: str
    support_ends: date | None
    left80: date | None
    slack: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class EventView:
    """Something that happened."""

    at: str
    who: str
    subject: str
    what: str
    why: str
    before: str | None
    after: str | None


@dataclass(frozen=True, slots=True)
class BridgeView:
    """A line that this library must serve while users stand on it."""

    coordinate: str
    name: str
    line: str
    until: date | None
    users: list[str]


@dataclass(frozen=True, slots=True)
class SharedGoal:
    """The newest line of a coordinate that a library and all its users can stand on once they have arrived."""

    name: str
    line: str
    users: int


@dataclass(frozen=True, slots=True, kw_only=True)
class PathView:
    """The Path screen of one set of modules."""

    application: ApplicationRow
    heading: str
    emphasis: str
    base_days: float
    line_days: float
    major_days: float
    kappa: float
    sets: list[SetView]
    set: str
    ways: list[WayView]
    others: list[RefusedView]
    conflict: ConflictView | None
    tracks: list[TrackView]
    adopted: Adopted | None
    slacks: list[SlackView]
    events: list[EventView]
    bridges: list[BridgeView]
    shared: list[SharedGoal]
    warnings: list[str]


@dataclass(frozen=True, slots=True)
class Finished:
    """A stage of the adopted path that was reached."""

    title: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Adopted:
    """The path that was taken. ``moved``: what changed under it; ``fresh``: whether a new plan can be taken instead."""

    choice: str
    title: str
    at: str
    who: str
    why: str
    moved: list[str]
    finished: list[Finished]
    fresh: bool
    version: int
