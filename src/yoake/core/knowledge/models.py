"""Hand-written knowledge, validated: lifecycles, rules, and the table of weights and efforts."""

from __future__ import annotations

from datetime import date
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

Minutes = tuple[float, float, float]
"""Low, likely and high effort in minutes."""


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


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
    """What no surface shows: about a ``symbol``, a ``setting``, or a setting that is ``absent``."""

    id: str
    symbol: str | None = None
    setting: str | None = None
    absent: str | None = None
    at: str | None = None
    deprecated: str | None = None
    kind: Literal["removed", "moved", "reshaped", "behaviour", "deprecated", "setting"] | None = None
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


class Catalogue(_Strict):
    """Which releases of PyPI projects fit which Python line, as the package client answers.

    ``fits[line]``: releases whose metadata admits that line; ``built[line]``: those of them with a wheel for it.
    """

    format: Literal[1]
    coordinate: str
    as_of: date
    how: str
    releases: tuple[str, ...]
    fits: dict[str, tuple[str, ...]]
    built: dict[str, tuple[str, ...]]
