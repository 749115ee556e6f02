"""Hand-written knowledge, validated: lifecycles, rules, and the table of weights and efforts."""

from __future__ import annotations

from datetime import date
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from yoake.core.coordinates import PYTHON, Coordinate, line_key
from yoake.core.versions import admits

_OLDEST_NODE, _NEWEST_NODE = 12, 26  # the lines whose surfaces were captured

Minutes = tuple[float, float, float]
"""Low, likely and high effort in minutes."""


class _Strict(BaseModel):
    model_config = ConfigDict(
        extra="forbid", frozen=True, defer_build=True
    )  # built by who validates: few starts need all


class LineFacts(_Strict):
    """One release line with its support dates. ``runs_on`` lists runtime lines it states support for."""

    line: str
    released: date | None = None
    support_ends: date | None = None
    kind: Literal["long-term", "current", "preview"] = "current"
    runs_on: tuple[str, ...] = ()


class Lifecycle(_Strict):
    """The lines of one coordinate. ``policy``: which hops the project supports."""

    format: Literal[1]
    coordinate: str
    source: str
    as_of: date
    recalled: bool = False
    line_length: int = Field(default=2, ge=1, le=4)
    policy: Literal["any", "next-major", "long-term"] = "any"
    runs_on_source: str = ""
    lines: tuple[LineFacts, ...]


class Rule(_Strict):
    """What no surface shows: about a ``symbol``, a ``setting``, or a setting that is ``absent``.

    ``form`` narrows a rule about a symbol to one way of using it, such as ``call``.
    """

    id: str
    symbol: str | None = None
    setting: str | None = None
    absent: str | None = None
    at: str | None = None
    deprecated: str | None = None
    kind: Literal["removed", "moved", "reshaped", "behaviour", "deprecated", "setting"] | None = None
    form: str | None = None
    title: str = ""
    replacement: str | None = None
    remedy: str = ""
    mechanical: bool = False
    effort: Minutes | None = None

    @model_validator(mode="after")
    def _one_subject(self) -> Rule:
        if sum(value is not None for value in (self.symbol, self.setting, self.absent)) != 1:
            raise ValueError("a rule is about exactly one of symbol, setting, absent")
        if (self.setting or self.absent) and not self.at:
            raise ValueError("a rule about a setting names the line at which it bites")
        return self


class RuleFile(_Strict):
    """The rules of one coordinate."""

    format: Literal[1]
    coordinate: str
    source: str
    as_of: date
    recalled: bool = False
    rules: tuple[Rule, ...]


class Weights(_Strict):
    """Minutes that one check of each sort weighs in clearance."""

    usage: float
    package: float
    toolchain: float
    setting: float
    unread_file: float


class WayCosts(_Strict):
    """What strategies cost beside their edits: days to set up a second set of dependencies, a copy, a gateway or a new base;
    minutes to write and to clear one version switch; the share of the work that is done again for what changes meanwhile."""

    second_set_days: float = Field(default=0.5, ge=0)
    copy_days: float = Field(default=1.0, ge=0)
    gateway_days: float = Field(default=3.0, ge=0)
    base_days: float = Field(default=1.5, ge=0)
    switch_minutes: tuple[float, float] = (15, 5)
    carry: float = Field(default=0.15, ge=0, le=1)


class EffortTable(_Strict):
    """Weights, three-point efforts and planning constants, shown and adjustable."""

    format: Literal[1]
    source: str
    as_of: date
    weights: Weights
    minutes_per_day: float = Field(gt=0)
    days_per_week: float = Field(gt=0, le=7)
    stage_base_days: float = Field(ge=0)
    kappa: float = Field(ge=0)
    review_minutes: float = Field(ge=0)
    repeat: float = Field(ge=0, le=1)
    mechanical_repeat: float = Field(ge=0, le=1)
    kinds: dict[str, Minutes]
    ways: WayCosts = WayCosts()


class ReleaseFacts(_Strict):
    """What the metadata of one release says. ``runs``: range of its runtime; ``needs`` and ``peers``: package → range.

    ``needs_when``: (package, range, marker) of requirements that hold under a condition only. ``states``: runtime and framework
    lines it claims support for, such as ``python@3.12`` or ``pypi/django@5.0``. ``observed``: the first Python line on which its
    own code cannot be imported, and what it uses there; empty when nothing was seen.
    """

    release: str
    released: date | None = None
    runs: str = ""
    needs: dict[str, str] = Field(default_factory=dict)
    needs_when: tuple[tuple[str, str, str], ...] = ()
    peers: dict[str, str] = Field(default_factory=dict)
    observed: tuple[str, ...] = ()
    states: tuple[str, ...] = ()
    withdrawn: str = ""


class Catalogue(_Strict):
    """The releases of one package, as its package client answers.

    ``fits[line]``: releases whose metadata admits that Python line; ``built[line]``: those of them with a wheel for it.
    For npm both are empty and ``details`` decides by ``engines``. ``details`` holds for PyPI the newest release of each line.
    """

    format: Literal[1]
    coordinate: str
    as_of: date
    how: str
    releases: tuple[str, ...]
    fits: dict[str, tuple[str, ...]] = Field(default_factory=dict)
    built: dict[str, tuple[str, ...]] = Field(default_factory=dict)
    details: tuple[ReleaseFacts, ...] = ()

    def speaks_of(self, runtime: Coordinate, line: str) -> bool:
        """Whether the record can tell which releases run on a line of a runtime."""
        return line in self.fits if runtime == PYTHON else bool(self.details)

    def fitting(self, runtime: Coordinate, line: str) -> tuple[str, ...]:
        """Releases whose metadata admits a line of a runtime, oldest first."""
        if runtime == PYTHON:
            return self.fits.get(line, ())
        return tuple(d.release for d in self.details if not d.runs or admits(runtime, d.runs, line))

    def can_be_had(self, release: str, line: str) -> bool:
        """Whether a release that is built apart for Python lines is built for this one; what is never built so always can."""
        return release in self.built.get(line, ()) or not any(release in held for held in self.built.values())

    def lines_of(self, runtime: Coordinate) -> list[str]:
        """Lines of a runtime that the record knows by name, oldest first."""
        if runtime == PYTHON:
            return sorted(self.fits, key=line_key)
        return [str(major) for major in range(_OLDEST_NODE, _NEWEST_NODE + 1)]
