"""What a scan finds."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final

from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.words import (
    CheckSort,
    CheckState,
    Confidence,
    FileRole,
    FileState,
    Grade,
    Kind,
    Level,
    StatedHow,
    WindowState,
)

OTHER_VERSIONS: Final = "runs only on other versions"
IMPORT_FALLBACK: Final = "has an import fallback"
"""Why a place may never run: neither today’s line nor any up to the destination takes its branch."""

ANALYSER: Final = "14"
"""Part of a scan's identity: raised when the same facts and knowledge give other findings."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """One place of a finding. ``guarded`` says why it may never run, empty when nothing guards it.

    ``first_line`` is where its statement begins, 0 when that is the same line; ``role`` is that of its file.
    """

    key: str
    file: str
    line: int
    column: int
    end_column: int
    symbol: str
    form: str
    scope: str
    guarded: str
    level: Level
    first_line: int = 0
    role: FileRole = "source"

    @property
    def is_work(self) -> bool:
        """Whether somebody has to change this very place: neither a note nor inside code that is renewed as a whole."""
        told = self.role in ("source", "test") or self.form in ("package", "toolchain")
        return told and self.level != "note"


@dataclass(frozen=True, slots=True)
class Window:
    """Lines that offer the old way, the new way and both. ``state``: now, hop, switch or unknown.

    ``axis`` are the lines drawn; ``here`` and ``goal`` are on it.
    """

    state: WindowState
    coordinate: Coordinate
    axis: tuple[Line, ...]
    old: tuple[Line, ...]
    new: tuple[Line, ...]
    both: tuple[Line, ...]
    here: Line
    goal: Line


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """Something that must be dealt with before or at a line.

    ``bites_at`` is a line of ``coordinate`` (None when it only warns); ``after`` the last line known to be fine where a
    gap lies between. ``effort``: low, likely, high minutes of the first place.
    """

    key: str
    module: str
    coordinate: Coordinate
    kind: Kind
    symbol: str
    title: str
    bites_at: Line | None
    after: Line | None
    level: Level
    confidence: Confidence
    replacement: str | None
    remedy: str
    mechanical: bool
    effort: tuple[float, float, float]
    window: Window
    evidence: tuple[str, ...]
    places: tuple[Place, ...] = ()


NO_READER = "this language is not read yet"
"""Reason of a file in a language that has no reader."""


@dataclass(frozen=True, slots=True, kw_only=True)
class FileResult:
    """What happened to one file. ``state``: scanned, skipped, failed or unread (a language not read yet).

    ``role``: source, test, vendored or generated.
    """

    path: str
    state: FileState
    reason: str = ""
    language: str = ""
    lines: int = 0
    digest: str = ""
    role: FileRole = "source"


@dataclass(slots=True)
class Tally:
    """Weights in minutes of the checks of one sort."""

    holds: float = 0.0
    fails: float = 0.0
    unknown: float = 0.0

    def add(self, state: CheckState, weight: float) -> None:
        """Count one check: ``holds``, ``fails`` or ``unknown``."""
        if state == "holds":
            self.holds += weight
        elif state == "fails":
            self.fails += weight
        else:
            self.unknown += weight


@dataclass(slots=True)
class Checks:
    """All checks, by sort (usage, package, toolchain, setting, unread_file), by file and by module."""

    by_sort: dict[CheckSort, Tally] = field(default_factory=dict)
    by_file: dict[str, Tally] = field(default_factory=dict)
    by_module: dict[str, Tally] = field(default_factory=dict)
    unknowns: dict[str, int] = field(default_factory=dict)

    def add(
        self,
        sort: CheckSort,
        state: CheckState,
        weight: float,
        file: str,
        module: str,
        why: str = "",
        *,
        times: int = 1,
    ) -> None:
        """Count one check, or ``times`` alike, everywhere it shows. ``weight`` is that of one."""
        self.by_sort.setdefault(sort, Tally()).add(state, weight * times)
        self.by_module.setdefault(module, Tally()).add(state, weight * times)
        if file:
            self.by_file.setdefault(file, Tally()).add(state, weight * times)
        if state == "unknown" and why:
            self.unknowns[why] = self.unknowns.get(why, 0) + times


@dataclass(frozen=True, slots=True, kw_only=True)
class PackageState:
    """One direct or locked package against the destination's runtime.

    ``state``: holds, fails or unknown. ``grade`` is what that rests on: *hard* (metadata, or a build for just that line), *stated*
    (the project claims it), *observed* (the code of that release), *none* (nothing speaks against it, and nothing for it).
    ``release`` is the one that was judged. ``wanted`` is the range of the manifest, ``exact`` the locked release. ``clean`` are the
    lines of the package on which this code finds everything it uses, ``breaks`` (line, symbol) the first losses on others; both
    empty where no timeline is known.
    """

    coordinate: Coordinate
    module: str
    line: Line
    how: StatedHow
    state: CheckState
    note: str
    file: str
    line_number: int
    suggestion: str = ""
    direct: bool = True
    wanted: str = ""
    exact: str = ""
    clean: tuple[str, ...] = ()
    breaks: tuple[tuple[Line, str], ...] = ()
    grade: Grade = "none"
    release: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ScanSummary:
    """What a scan says in all, beside its tables. ``files``: state → how many; ``languages`` without a reader; ``unknowns``: why → checks.

    ``gone``: the first titles of ``gone_count`` findings that the scan before it had.
    """

    files: Mapping[str, int] = field(default_factory=dict)
    languages: tuple[str, ...] = ()
    unknowns: Mapping[str, int] = field(default_factory=dict)
    notes: tuple[str, ...] = ()
    faults: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()
    gone_count: int = 0
