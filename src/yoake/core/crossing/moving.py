"""When a route may move on, what stops it, and when the last one will have moved."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum
from typing import Final

from yoake.core.crossing.rules import SAFE_METHODS, Standing

SHARES: Final = (5.0, 25.0, 60.0, 100.0)
"""The steps in which a share grows, in percent of the callers."""


class Stop(StrEnum):
    """Why a route cannot move on now."""

    NOT_THERE = "not there"
    DIFFERS = "differs"
    FEW_ANSWERS = "few answers"
    UNTESTED = "untested"
    TOO_SOON = "too soon"
    UNSAFE = "unsafe"
    FELL_BACK = "fell back"
    NOBODY = "nobody calls"


@dataclass(frozen=True, slots=True, kw_only=True)
class MovePolicy:
    """What a route has to show: ``answers`` that were compared, all alike, over ``days``; ``quiet`` days without a call before the old
    side's part goes off; ``tests``: a test of the new side has to call it."""

    answers: int = 200
    days: int = 3
    quiet: int = 14
    tests: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class RouteState:
    """What is known of a route. ``compared`` and ``alike`` since it stands where it stands and since the last difference was mended;
    ``since`` is the day from which it stands there; ``on_new``: whether the new side has a route for it, True where nobody knows;
    ``counted``: whether anybody counted calls, so that ``weekly`` says something;
    ``tested``: whether a test of the new side calls it; ``fell_back``: why it went back by itself."""

    method: str
    standing: Standing
    share: float = 0.0
    on_new: bool = True
    safe: bool = False
    compared: int = 0
    alike: int = 0
    since: date | None = None
    weekly: float = 0.0
    counted: bool = False
    tested: bool = True
    fell_back: str = ""


@dataclass(frozen=True, slots=True)
class NextMove:
    """The next standing with its share, and what stops it: nothing when it may go now. ``left``: answers or days that are missing."""

    standing: Standing | None
    share: float = 0.0
    stop: Stop | None = None
    left: int = 0


def next_move(state: RouteState, policy: MovePolicy, today: date) -> NextMove:
    """Where a route goes next."""
    if state.standing is Standing.NEW:
        return NextMove(Standing.NEW, stop=Stop.FELL_BACK) if state.fell_back else NextMove(None)
    if state.standing is Standing.OLD and state.counted and state.weekly == 0:
        return NextMove(Standing.MIRRORED, stop=Stop.NOBODY)
    if not state.on_new:
        return NextMove(Standing.MIRRORED, stop=Stop.NOT_THERE)
    if state.standing is Standing.OLD:
        if state.method not in SAFE_METHODS and state.method != "ANY" and not state.safe:
            return NextMove(Standing.MIRRORED, stop=Stop.UNSAFE)
        return NextMove(Standing.MIRRORED)
    stop, left = _stop(state, policy, today)
    return NextMove(*_after(state), stop, left)


def _stop(state: RouteState, policy: MovePolicy, today: date) -> tuple[Stop | None, int]:
    """What stops a route that is on its way, and how many answers or days are missing."""
    if state.fell_back:
        return Stop.FELL_BACK, 0
    if state.standing is Standing.MIRRORED:
        if state.compared > state.alike:
            return Stop.DIFFERS, state.compared - state.alike
        if state.counted and state.weekly == 0 and state.compared == 0:
            return Stop.NOBODY, 0
        if state.compared < policy.answers:
            return Stop.FEW_ANSWERS, policy.answers - state.compared
        if policy.tests and not state.tested:
            return Stop.UNTESTED, 0
    days = (today - state.since).days if state.since is not None else 0
    return (Stop.TOO_SOON, policy.days - days) if days < policy.days else (None, 0)


def _after(state: RouteState) -> tuple[Standing, float]:
    if state.standing is Standing.MIRRORED:
        return Standing.SHARED, SHARES[0]
    larger = [share for share in SHARES if share > state.share and share < 100]
    return (Standing.SHARED, larger[0]) if larger else (Standing.NEW, 0.0)


def last_day(moves: Sequence[date], left: int, today: date) -> date | None:
    """When the old side goes off at the pace of the moves so far; None where there is no pace. ``moves``: days on which routes arrived."""
    if left == 0:
        return today
    if len(moves) < 2:
        return None
    span = max((today - min(moves)).days, 1)
    return today + timedelta(days=round(left * span / len(moves)))
