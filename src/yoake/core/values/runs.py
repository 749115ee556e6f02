"""Runs: one command, on one runtime, in a fresh copy, and how each test of it went; on one side or on two."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final, Literal

from yoake.core.values.coordinates import Lines, Releases
from yoake.core.values.words import CommandKind

TestOutcome = Literal["passed", "failed", "skipped"]
Verdict = Literal["both", "breaks", "broke before", "gone", "new", "flaky"]
"""Of one test on two sides: the same on both; passes on the old side and fails on the new; fails on the old side already; no longer run,
or newly run; answers differ between repeats."""
RunEnd = Literal["passed", "failed", "refused", "cut"]
"""passed or failed: the command ended by itself; refused: its environment could not be made; cut: it was ended from outside."""
WHOLE: Final = "the command as a whole"
"""Stands for the tests of a command that tells of none."""


@dataclass(frozen=True, slots=True)
class TestResult:
    """How one test went. ``note``: the last word of what went wrong; ``seconds``: how long it took."""

    __test__ = False

    name: str
    outcome: TestOutcome
    note: str = ""
    seconds: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Command:
    """What can be run in a module: words, never a shell. ``kind``: test, build, check or serve; ``why``: the file that says so; ``runtime``: the
    coordinate of what it runs on, empty for any; ``beside``: packages that it needs and that no file asks for; ``asks``: of a server, the paths that
    it is asked for once it listens on the port that PORT and “{port}” in its words name."""

    name: str
    words: tuple[str, ...]
    kind: CommandKind = "test"
    why: str = ""
    runtime: str = ""
    beside: tuple[str, ...] = ()
    asks: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Side:
    """One of the two sides of a run. ``lines``: runtime → line; ``releases``: package → release that stands for what manifests ask
    for; ``locked``: whether lock files hold for what is not among them; ``ref``: the commit or branch, empty for the source as it is."""

    label: str
    lines: Lines
    releases: Releases = field(default_factory=dict)
    locked: bool = True
    ref: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Run:
    """What came of one command on one side. ``said``: what ended it, in words; ``log``: the kept log, a path below the home;
    ``installed``: package → release in its environment; ``identity``: the content that ran."""

    side: Side
    command: Command
    ended: RunEnd
    code: int
    seconds: float
    said: str = ""
    tests: tuple[TestResult, ...] = ()
    log: str = ""
    installed: Mapping[str, str] = field(default_factory=dict)
    identity: str = ""


@dataclass(frozen=True, slots=True)
class Compared:
    """One test on two sides: ``old`` and ``new`` are outcomes, empty where it was not run."""

    name: str
    old: str
    new: str
    verdict: Verdict
    note: str = ""


@dataclass(frozen=True, slots=True)
class RunOutcome:
    """What came of a request: the runs of each side in the order they were made, and with two sides their tests beside each other."""

    old: tuple[Run, ...]
    new: tuple[Run, ...] = ()
    tests: tuple[Compared, ...] = ()
