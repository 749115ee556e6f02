"""What the Proof screen is told."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from yoake.core.proof.gates import (
    GateKey,
    GateState,
)
from yoake.core.values.runs import Verdict
from yoake.views.application_rows import ApplicationRow


@dataclass(frozen=True, slots=True)
class GateItemView:
    """One item of a stage's gate."""

    key: GateKey
    state: GateState
    said: str
    at: str
    who: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ProofStage:
    """A stage against its evidence; ``number`` 0 is today. ``light``: proven, here (the first that is not) or later;
    ``branch``: the newest one that seems to be about it, empty where there is none."""

    number: int
    title: str
    lines: str
    light: str
    branch: str
    items: list[GateItemView]


@dataclass(frozen=True, slots=True)
class ToDo:
    """Something a stage lacks. ``kind``: changes, run, look, moved (packages that cannot), checks (reports of other tools), routes or leftovers
    (texts that name what is left behind); ``key``: the finding of a look, or when changes can be made."""

    kind: str
    title: str
    detail: str
    key: str = ""
    step: int | None = None


@dataclass(frozen=True, slots=True)
class TestGroup:
    """Tests of one module: a letter each, b alike, x breaks, o broke before, g gone, n new, f flaky."""

    name: str
    codes: str


@dataclass(frozen=True, slots=True)
class TestCause:
    """Tests that are not alike on both sides, of one verdict and for one reason. ``names``: the first of them."""

    verdict: Verdict
    note: str
    count: int
    names: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class SideView:
    """How the last run of one side went. ``packages``: how many were installed."""

    label: str
    lines: list[str]
    command: str
    ended: str
    said: str
    seconds: float
    tests: int
    packages: int
    log: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RunView:
    """One run: its sides, its tests by group, and those that are not alike by what went wrong; ``more`` causes are not shown."""

    id: int
    stage: int
    branch: str
    at: str
    who: str
    problem: str
    counts: dict[Verdict, int]
    sides: list[SideView]
    groups: list[TestGroup]
    causes: list[TestCause]
    more: int


@dataclass(frozen=True, slots=True, kw_only=True)
class RunRow:
    """One run in the list of them. ``stage``: its number when it ran; ``here``: that of the same stage now, None where the plan has it no more."""

    id: int
    stage: int
    here: int | None
    branch: str
    at: str
    who: str
    problem: str
    counts: dict[Verdict, int]
    fresh: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class RunSettingsView:
    """Whether and how its code is run."""

    allowed: bool
    module: str
    command: str
    beside: str
    asks: str
    minutes: float
    who: str
    at: str


@dataclass(frozen=True, slots=True)
class WorkLeft:
    """Days of work that were left on a day."""

    day: date
    days: float


@dataclass(frozen=True, slots=True)
class SupportWall:
    """When support of a line ends that it still stands on."""

    name: str
    day: date


@dataclass(frozen=True, slots=True, kw_only=True)
class ProofView:
    """The Proof screen. ``here``: the number of the first stage that is not proven, None when all are; ``job``: the run that is under way,
    ``failed`` why the last one came to nothing."""

    application: ApplicationRow
    heading: str
    emphasis: str
    stages: list[ProofStage]
    here: int | None
    todo: list[ToDo]
    settings: RunSettingsView
    modules: list[str]
    branches: list[str]
    job: int | None
    failed: str
    runs: list[RunRow]
    left: list[WorkLeft]
    today: date
    walls: list[SupportWall]
