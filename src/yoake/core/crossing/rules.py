"""Rules of a gateway: on which side every route is answered, who is asked instead, and what is compared."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property
from typing import TYPE_CHECKING, Final

from yoake.core.crossing.matching import RouteMatcher

if TYPE_CHECKING:
    from yoake.core.values.routes import Route

SAFE_METHODS: Final = frozenset(("GET", "HEAD", "OPTIONS"))
"""Methods that change nothing (RFC 9110, 9.2.1): such requests may be asked of both sides."""

_BUCKETS: Final = 10_000  # a hundredth of a percent of the callers each


class Standing(StrEnum):
    """Where a route stands between the old side and the new."""

    OLD = "old"
    MIRRORED = "mirrored"
    SHARED = "shared"
    NEW = "new"


class Side(StrEnum):
    """One of the two applications."""

    OLD = "old"
    NEW = "new"

    @property
    def other(self) -> Side:
        """The other one."""
        return Side.NEW if self is Side.OLD else Side.OLD


@dataclass(frozen=True, kw_only=True)
class Comparison:
    """What counts as alike. ``headers``: names in lower case; ``ignored``: paths into JSON such as ``$.items[*].at``;
    ``tolerances``: path → how far two numbers may be apart; ``ignored_text``: patterns taken out of visible text."""

    headers: tuple[str, ...] = ("content-type", "location")
    ignored: tuple[str, ...] = ()
    tolerances: Mapping[str, float] = field(default_factory=dict)
    ignored_text: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class FallBack:
    """When a route goes back by itself: ``errors`` is how much larger the share of failures of the new side may be than that of the old
    (0.02: two of a hundred), ``slower`` how many times the 95th percentile may be, ``least`` answers of the new side before anything
    is decided, ``window`` the latest answers that are looked at."""

    errors: float = 0.02
    slower: float = 1.5
    least: int = 50
    window: int = 400


@dataclass(frozen=True, kw_only=True)
class RouteRule:
    """One route. ``share`` in percent where it is shared. ``safe``: a person says that it may be asked twice, against test data."""

    route: Route
    standing: Standing
    share: float = 0.0
    safe: bool = False
    comparison: Comparison = Comparison()

    def may_be_repeated(self, method: str) -> bool:
        """Whether a request of that method may be asked of both sides."""
        return self.safe or method in SAFE_METHODS


@dataclass(frozen=True, kw_only=True)
class Limits:
    """Time limits in seconds."""

    connect: float = 2.0
    answer: float = 30.0


@dataclass(frozen=True, kw_only=True)
class Session:
    """How a log-in on one side is checked on the other: the request that logs in, and one that needs it."""

    login: str
    form: Mapping[str, str]
    then: str


@dataclass(frozen=True, kw_only=True)
class CrossingRules:
    """All rules of one gateway. Addresses of the sides have no slash at their end. A route without a rule is answered by the old
    side. ``comparison``: how answers are compared where a rule says nothing else."""

    application: str
    old: str
    new: str
    routes: tuple[RouteRule, ...]
    limits: Limits = Limits()
    fall_back: FallBack = FallBack()
    tester_header: str = "x-crossing-side"
    tester_cookie: str = "crossing_side"
    caller_cookie: str = "crossing_caller"
    record: str = "crossing-record"
    session: Session | None = None
    comparison: Comparison = Comparison()

    @cached_property
    def matcher(self) -> RouteMatcher:
        """Finds the rule of a request."""
        return RouteMatcher([rule.route for rule in self.routes])

    def address(self, side: Side) -> str:
        """The address of a side."""
        return self.old if side is Side.OLD else self.new

    def rule_of(self, method: str, path: str) -> RouteRule | None:
        """The rule of a request; None where no route fits."""
        position = self.matcher.find(method, path)
        return self.routes[position] if position is not None else None


@dataclass(frozen=True, slots=True)
class Decision:
    """Who answers; ``mirror``: whether the new side is asked too; ``instead``: whether the other side may answer when this one
    cannot be reached."""

    side: Side
    mirror: bool = False
    instead: bool = False


def bucket(caller: str, application: str) -> int:
    """The place of a caller among all, 0 to 9,999: the same for every route, so that nobody is sent back and forth, and whoever is on
    the new side stays there when the share grows."""
    digest = hashlib.blake2b(f"{application}\0{caller}".encode(), digest_size=8).digest()
    return int.from_bytes(digest) % _BUCKETS


def decide(
    rule: RouteRule | None, asked: str, caller: str, application: str, *, method: str = "GET", fallen: bool = False
) -> Decision:
    """Who answers a request. ``asked``: the side a tester asks for, else empty; ``fallen``: the route went back by itself."""
    if asked in (Side.OLD, Side.NEW):
        return Decision(Side(asked))
    if rule is None:
        return Decision(Side.OLD)
    here = rule.standing
    if here is Standing.OLD or fallen:
        return Decision(Side.OLD)
    if here is Standing.MIRRORED:
        return Decision(Side.OLD, mirror=rule.may_be_repeated(method))
    if here is Standing.NEW:
        return Decision(Side.NEW, instead=True)
    chosen = Side.NEW if bucket(caller, application) < rule.share * _BUCKETS / 100 else Side.OLD
    return Decision(chosen, instead=True)


def tester_side(headers: Mapping[str, str], cookies: Mapping[str, str], rules: CrossingRules) -> str:
    """The side that somebody who tries asks for by header or cookie; empty for everybody else."""
    wanted = headers.get(rules.tester_header, "") or cookies.get(rules.tester_cookie, "")
    return wanted if wanted in (Side.OLD, Side.NEW) else ""
