"""Hand-written knowledge, validated: lifecycles, rules, and the table of weights and efforts."""

from __future__ import annotations

import re
from datetime import date
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.words import ForeignRole

Minutes = tuple[float, float, float]
"""Low, likely and high effort in minutes."""


class _Strict(BaseModel):
    model_config = ConfigDict(
        extra="forbid", frozen=True, defer_build=True
    )  # built by who validates: few starts need all


class LineFacts(_Strict):
    """One release line with its support dates. ``runs_on`` lists runtime lines it states support for."""

    line: Line
    released: date | None = None
    support_ends: date | None = None
    kind: Literal["long-term", "current", "preview"] = "current"
    runs_on: tuple[str, ...] = ()


class Lifecycle(_Strict):
    """The lines of one coordinate. ``policy``: which hops the project supports."""

    format: Literal[1]
    coordinate: Coordinate
    source: str
    as_of: date
    recalled: bool = False
    line_length: int | None = Field(default=None, ge=1, le=4)
    policy: Literal["any", "next-major", "long-term"] = "any"
    runs_on_source: str = ""
    lines: tuple[LineFacts, ...]


class Rewrite(_Strict):
    """A pattern over a text, and what stands there instead, with ``\\1`` for what its groups hold.

    ``unless``: a pattern that some other part of the file holds where this is left to a person.
    """

    was: str
    now: str
    unless: str | None = None

    @model_validator(mode="after")
    def _readable(self) -> Rewrite:
        try:
            re.sub(self.was, self.now, "")
            re.compile(self.unless or "")
        except (re.error, IndexError) as error:
            raise ValueError(f"“{self.was}” or “{self.now}” cannot be read: {error}") from error
        return self


class Shape(_Strict):
    """How a use of a name is written, as code with named holes, and what stands there instead.

    ``was`` begins with the name of the rule, or with ``{value}.name`` for a member: ``lib.f({a}, key={b}, {*rest})``. A hole takes one argument,
    ``{*rest}`` those that nothing else takes; a word stands for itself. ``now`` says names in full; what they need is imported by itself.
    For JavaScript see ``core.ecosystems.javascript.shapes``: holes of a kind, ``{a:number}``, and names of modules, ``module#name``.
    """

    was: str
    now: str

    @model_validator(mode="after")
    def _same_holes(self) -> Shape:
        taken, given = (set(re.findall(r"\{(\*?\w+)(?::\w+)?\}", text)) for text in (self.was, self.now))
        if given - taken:
            raise ValueError(
                f"“{self.now}” has holes that “{self.was}” does not fill: {', '.join(sorted(given - taken))}"
            )
        return self


class Rule(_Strict):
    """What no surface shows: about a ``symbol``, a ``setting``, a setting that is ``absent``, or a ``text`` in files of some names.

    A symbol may name several in braces: ``lib.{a,b}.c``. ``form`` narrows a rule about a symbol to one way of using it, such as
    ``call``. ``written``: a pattern over how a call is written (``core.syntax.written``); with it, or with ``anyhow``, the rule is
    about what the name does and not about whether it is there. ``unless``: a pattern that takes such a place out.

    ``text``: a pattern over whole files whose name, or the end of whose path, fits one of ``files``; comments are blanked out
    before, unless it is about ``comments``. Only files with one of the words in ``holds`` are looked through, which is what makes
    that quick; ``beside``: another pattern that the same file has to hold; ``elsewhere``: one that some file of the module among
    ``files`` has to hold, ``nowhere``: one that none of them may.

    ``edits``: how a text is written otherwise, one after the other, where a rule about texts can say it. ``shapes``: how uses of a symbol are
    written otherwise, the first that fits.

    ``since``: the line of its coordinate from which the new way works as it is written, where that is later than its names.
    ``safe``: the new way works on older lines as well. ``provided_by``: packages that bring back what their runtime lost, in their
    short form, with a range of releases after ``@`` where only some do. ``faulty`` and ``fine`` are samples: on each of the first
    the rule speaks, on none of the others.
    """

    id: str
    symbol: str | None = None
    setting: str | None = None
    absent: str | None = None
    text: str | None = None
    files: tuple[str, ...] = ()
    holds: tuple[str, ...] = ()
    comments: bool = False
    beside: str | None = None
    elsewhere: str | None = None
    nowhere: str | None = None
    written: str | None = None
    unless: str | None = None
    anyhow: bool = False
    at: Line | None = None
    deprecated: Line | None = None
    kind: Literal["removed", "moved", "reshaped", "behaviour", "deprecated", "setting"] | None = None
    form: str | None = None
    title: str = ""
    replacement: str | None = None
    remedy: str = ""
    mechanical: bool = False
    edits: tuple[Rewrite, ...] = ()
    shapes: tuple[Shape, ...] = ()
    effort: Minutes | None = None
    provided_by: tuple[str, ...] = ()
    safe: bool = False
    since: str | None = None
    confidence: Literal["certain", "likely", "possible"] = "likely"
    faulty: tuple[str, ...] = ()
    fine: tuple[str, ...] = ()

    @property
    def is_about_use(self) -> bool:
        """Whether it is about how a name is used, whatever the surfaces say of the name."""
        return self.symbol is not None and (self.written is not None or self.anyhow)

    @property
    def symbols(self) -> tuple[str, ...]:
        """The names it speaks of, braces unfolded."""
        return unfolded(self.symbol) if self.symbol is not None else ()

    def between(self, today: Line, goal: Line) -> Literal["fails", "deprecated"] | None:
        """fails: it bites on the way; deprecated: it warns on the way; None: it does not matter between these lines."""
        if self.at is not None and today < self.at <= goal:
            return "fails"
        warned = self.deprecated is not None and self.deprecated <= goal
        ended = self.at is not None and self.at <= today
        return "deprecated" if warned and not ended else None

    @model_validator(mode="after")
    def _one_subject(self) -> Rule:
        if sum(value is not None for value in (self.symbol, self.setting, self.absent, self.text)) != 1:
            raise ValueError("a rule is about exactly one of symbol, setting, absent, text")
        if (self.setting or self.absent or self.text or self.is_about_use) and not (self.at or self.deprecated):
            raise ValueError("a rule about a setting, a text or a use names the line at which it bites")
        if (self.text is None) != (not self.files):
            raise ValueError("a rule about a text names the files it may stand in, and no other rule does")
        for pattern in (self.text, self.beside, self.elsewhere, self.nowhere, self.written, self.unless):
            try:
                re.compile(pattern or "")
            except re.error as error:
                raise ValueError(f"“{pattern}” is no pattern: {error}") from error
        return self


def laid_out(sample: str) -> dict[str, str]:
    """Path → text of the files of a sample, where lines such as ``# file: src/a.js`` say so; empty where none does."""
    parts = re.split(r"^# file: (.+)\n", sample, flags=re.MULTILINE)
    return {path.strip(): text for path, text in zip(parts[1::2], parts[2::2], strict=True)}


def unfolded(written: str) -> tuple[str, ...]:
    """``a.{b,c}.d`` as ``a.b.d`` and ``a.c.d``."""
    before, brace, rest = written.partition("{")
    if not brace:
        return (written,)
    inside, _, after = rest.partition("}")
    return tuple(each for part in inside.split(",") for each in unfolded(f"{before}{part}{after}"))


class RuleFile(_Strict):
    """The rules of one coordinate.

    ``returns``: function or method → the class of what it gives back. ``same``: a further path → the one that rules and ``returns``
    use. Both may hold braces. ``formerly``: coordinates under which older lines of the same thing are required. ``helpers``: name →
    function that shapes may call as ``own#name``, which a file gets once.
    """

    format: Literal[1]
    coordinate: Coordinate
    source: str
    as_of: date
    recalled: bool = False
    returns: dict[str, str] = Field(default_factory=dict)
    same: dict[str, str] = Field(default_factory=dict)
    formerly: tuple[Coordinate, ...] = ()
    helpers: dict[str, str] = Field(default_factory=dict)
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
    minutes to write and to clear one version switch; the share of the work that is done again for what changes meanwhile; minutes to
    take one route across (mirror it, look at what differs, let its share grow) and to bring one line of code over as it is."""

    second_set_days: float = Field(default=0.5, ge=0)
    copy_days: float = Field(default=1.0, ge=0)
    gateway_days: float = Field(default=3.0, ge=0)
    base_days: float = Field(default=1.5, ge=0)
    switch_minutes: tuple[float, float] = (15, 5)
    carry: float = Field(default=0.15, ge=0, le=1)
    route_minutes: float = Field(default=20.0, ge=0)
    line_minutes: float = Field(default=0.05, ge=0)


class Unseen(_Strict):
    """What no scan sees, priced all the same (DESIGN 4.5): tests, data, settings, deployment and a look over everything.

    ``line_days`` for each line that the destination's coordinates cross, ``major_days`` for each major of a framework. The days of a
    stage are then spread by a lognormal factor of median 1; its spread is ``spread`` and more for each line crossed, each package
    that moves, the share of checks that is not known, and where there are no tests; at most ``most``.
    """

    line_days: float = Field(default=0.1, ge=0)
    major_days: float = Field(default=1.0, ge=0)
    spread: float = Field(default=0.42, ge=0, le=2)
    spread_line: float = Field(default=0.02, ge=0)
    spread_package: float = Field(default=0.01, ge=0)
    spread_unknown: float = Field(default=0.4, ge=0)
    spread_untested: float = Field(default=0.15, ge=0)
    most: float = Field(default=1.0, ge=0, le=2)


def _foreign_minutes() -> dict[ForeignRole, Minutes]:
    """A copied package is looked up, taken anew and tried; a build is run."""
    return {"vendored": (20, 90, 480), "generated": (5, 20, 90)}


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
    foreign: dict[ForeignRole, Minutes] = Field(default_factory=_foreign_minutes)
    ways: WayCosts = WayCosts()
    unseen: Unseen = Unseen()


class ReleaseFacts(_Strict):
    """What the metadata of one release says. ``runs``: range of its runtime; ``needs`` and ``peers``: package → range; ``optional``:
    peers that need not be there.

    ``needs_when``: (package, range, marker) of requirements that hold under a condition only. ``states``: runtime and framework
    lines it claims support for, in their short form. ``observed``: the first line of its runtime on which its
    own code cannot be imported, and what it uses there; empty when nothing was seen.
    """

    release: str
    released: date | None = None
    runs: str = ""
    needs: dict[str, str] = Field(default_factory=dict)
    needs_when: tuple[tuple[str, str, str], ...] = ()
    peers: dict[str, str] = Field(default_factory=dict)
    optional: tuple[str, ...] = ()
    observed: tuple[str, ...] = ()
    states: tuple[str, ...] = ()
    withdrawn: str = ""


class TriedFact(_Strict):
    """One release installed and used on one line of its runtime. ``beside``: what had to stand beside it, ``note``: what went wrong."""

    coordinate: Coordinate
    release: str
    on: Line
    runs: bool
    beside: str = ""
    note: str = ""
    as_of: date

    @property
    def story(self) -> str:
        """In words, after the name and release: ``was installed and imported there``."""
        if not self.runs:
            return f"was tried there on {self.as_of:%-d %b %Y} and {self.note}"
        beside = f", with {self.beside} beside it" if self.beside else ""
        return f"was installed and imported there on {self.as_of:%-d %b %Y}{beside}"


class TriedFile(_Strict):
    """What was tried, and how."""

    format: Literal[1]
    how: str
    facts: tuple[TriedFact, ...]


class Catalogue(_Strict):
    """The releases of one package, as its package client answers.

    ``fits[line]``: releases whose metadata admits that line of their runtime; ``built[line]``: those of them that are built for it.
    Where both are empty, ``details`` decides by the ranges in ``runs``; else it holds the newest release of each line.
    """

    format: Literal[1]
    coordinate: Coordinate
    as_of: date
    how: str
    releases: tuple[str, ...]
    fits: dict[Line, tuple[str, ...]] = Field(default_factory=dict)
    built: dict[Line, tuple[str, ...]] = Field(default_factory=dict)
    details: tuple[ReleaseFacts, ...] = ()

    def can_be_had(self, release: str, line: Line) -> bool:
        """Whether a release that is built apart for lines of its runtime is built for this one; what is never built so always can."""
        return release in self.built.get(line, ()) or not any(release in held for held in self.built.values())
