"""What a team can put into migrations, week by week: people, their days, absences, holidays, and what features take."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Final

import numpy as np
from numpy.typing import NDArray

from yoake.core.portfolio.axis import WEEKS, WORKING, Axis

Numbers = NDArray[np.float64]

_TAIL: Final = 52  # weeks whose mean goes on after the last that is planned in detail
_LATER: Final = 20_000.0  # weeks by which a curve goes on at that mean
_SLOPE: Final = 1e-9  # days a week, so that a week without capacity has a place for every amount of work
NEVER: Final = float("inf")


@dataclass(frozen=True, slots=True, kw_only=True)
class Person:
    """Somebody with ``days`` a week for migrations, from ``since`` to ``until`` (None: always)."""

    name: str
    days: float
    since: date | None = None
    until: date | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Away:
    """Days on which a person, or with an empty name everybody, does not work; first and last included."""

    first: date
    last: date
    person: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Freeze:
    """Days on which nothing goes live, first and last included. Work goes on; what gets ready waits until after."""

    first: date
    last: date
    title: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Team:
    """Who works on what. ``features``: share of their days that features take.

    ``assumed``: nobody said who they are, so that each ``application`` of theirs has somebody with its own days a week.
    """

    name: str
    application: str = ""
    people: tuple[Person, ...] = ()
    away: tuple[Away, ...] = ()
    features: float = 0.0
    assumed: bool = False

    @property
    def lanes(self) -> int:
        """Stages that it works on at once: one for each of its people."""
        return max(1, sum(1 for person in self.people if person.days > 0))


def weekly(team: Team, axis: Axis) -> Numbers:
    """Days of work (WEEKS,) that a team has in each week; of this week those that are left."""
    days = np.zeros((WEEKS, WORKING))
    off = {name: _days_off(team, name, axis) for name in {p.name for p in team.people}}
    for person in team.people:
        here = ~off[person.name]
        if person.since is not None:
            here &= _from(axis, person.since)
        if person.until is not None:
            here &= ~_from(axis, person.until + timedelta(days=1))
        days += here * (person.days / WORKING)
    days[~_from(axis, axis.today)] = 0.0
    return np.asarray(days.sum(axis=1) * (1.0 - team.features))


def _days_off(team: Team, name: str, axis: Axis) -> NDArray[np.bool_]:
    off = np.zeros((WEEKS, WORKING), dtype=np.bool_)
    for away in team.away:
        if away.person in ("", name):
            for day in axis.days(away.first, away.last):
                week, weekday = divmod((day - axis.monday).days, 7)
                off[week, weekday] = True
    return off


def _numbers() -> Numbers:
    """The working days of all weeks, numbered in weeks (WEEKS, WORKING)."""
    return np.asarray(np.arange(WEEKS)[:, None] + np.arange(WORKING)[None, :] / WORKING)


def _from(axis: Axis, day: date) -> NDArray[np.bool_]:
    return np.asarray(_numbers() >= axis.at(day) - 1e-9)


class Curve:
    """Work that one lane of a team has done by a time, and the time at which an amount of work is done.

    Inside a week work is spread evenly over what is left of it.
    """

    def __init__(self, days: Sequence[float] | Numbers, lanes: int, axis: Axis) -> None:
        """``days``: of the whole team, week by week, at most WEEKS of them."""
        held = np.asarray(days, dtype=np.float64)
        tail = float(held[-_TAIL:].mean()) if len(held) else 0.0
        self.lanes = lanes
        edges = np.concatenate([[axis.now], np.arange(1, len(held) + 1, dtype=np.float64), [len(held) + _LATER]])
        edges[1] = max(edges[1], axis.now + 1e-6)  # on a weekend nothing of this week is left
        work = np.concatenate([[0.0], held, [tail * _LATER]]) / lanes
        self.edges = edges
        self.done: Numbers = np.asarray(np.cumsum(work) + _SLOPE * np.arange(len(work)))
        self.most = float(self.done[-1]) if tail > 0 else float(self.done[-2])
        self._edges: list[float] = edges.tolist()
        self._done: list[float] = self.done.tolist()

    def worked(self, time: float) -> float:
        """Days that one lane has worked by ``time``."""
        week = int(time) if time >= 1.0 else 0  # the border before it: they are whole weeks but for the first
        if week >= len(self._edges) - 2:
            return _between(self._edges, self._done, time)
        first, last = self._edges[week], self._edges[week + 1]
        if time <= first:
            return self._done[week]
        done = self._done[week]
        return done + (time - first) / (last - first) * (self._done[week + 1] - done)

    def when(self, work: float) -> float:
        """The time at which one lane has worked so many days; NEVER where it does not come to that."""
        return NEVER if work > self.most + 1e-6 else _between(self._done, self._edges, work)

    def worked_all(self, times: Numbers) -> Numbers:
        """``worked`` of many times at once."""
        return np.asarray(np.interp(times, self.edges, self.done))

    def when_all(self, work: Numbers) -> Numbers:
        """``when`` of many amounts at once."""
        found = np.interp(work, self.done, self.edges)
        if work.size and float(work.max()) > self.most + 1e-6:
            found = np.where(work > self.most + 1e-6, NEVER, found)
        return np.asarray(found)


def _between(xs: list[float], ys: list[float], x: float) -> float:
    i = bisect_right(xs, x) - 1
    if i < 0:
        return ys[0]
    if i >= len(xs) - 1:
        return ys[-1]
    return ys[i] + (x - xs[i]) / (xs[i + 1] - xs[i]) * (ys[i + 1] - ys[i])
