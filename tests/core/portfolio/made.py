"""Made-up portfolios for tests: teams, stages and their support ends."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

from hypothesis import strategies as st

from yoake.core.portfolio.axis import Axis
from yoake.core.portfolio.capacity import Away, Freeze, Person, Team
from yoake.core.portfolio.stages import Due, Problem, WaveStage
from yoake.core.values.coordinates import Coordinate, Line

MONDAY = date(2026, 11, 30)


def team(name: str = "Sales", *days: float, away: tuple[Away, ...] = (), features: float = 0.0) -> Team:
    people = tuple(Person(name=f"{name}{n}", days=d) for n, d in enumerate(days or (5.0,)))
    return Team(name=name, people=people, away=away, features=features)


def stage(name: str, number: int = 1, days: float = 5.0, end: int | None = None, **more: Any) -> WaveStage:
    """``end``: days from the Monday on which the line that it leaves loses support."""
    values: dict[str, Any] = {"team": "Sales", "days80": days * 1.4} | more
    dues = (
        ()
        if end is None
        else (
            Due(coordinate=Coordinate("pkg:generic/made-up"), line=Line(str(number)), end=MONDAY + timedelta(days=end)),
        )
    )
    return WaveStage(
        key=f"{name}|{number}",
        application=name,
        name=name,
        number=number,
        title=f"line {number}",
        days50=days,
        dues=dues,
        **values,
    )


def chain(name: str, *days: float, ends: tuple[int | None, ...] = (), **more: Any) -> list[WaveStage]:
    """Stages of one path, each after the one before."""
    made: list[WaveStage] = []
    for n, d in enumerate(days, 1):
        end = ends[n - 1] if n <= len(ends) else None
        made.append(stage(name, n, d, end, after=(made[-1].key,) if made else (), **more))
    return made


@st.composite
def problems(draw: st.DrawFn, most: int = 9, freezes: bool = True, today: date | None = None) -> Problem:
    """Portfolios of a few teams with paths that may wait for one another's first stage."""
    teams = [
        team(f"t{n}", *draw(st.lists(st.sampled_from([0.5, 1.0, 2.0, 4.0]), min_size=1, max_size=3)))
        for n in range(draw(st.integers(1, 3)))
    ]
    stages: list[WaveStage] = []
    firsts: list[str] = []
    number = 0
    while len(stages) < draw(st.integers(1, most)) and number < most:
        number += 1
        days: list[float] = draw(st.lists(st.sampled_from([0.25, 1.0, 2.5, 6.0]), min_size=1, max_size=3))[
            : most - len(stages)
        ]
        if not days:
            break
        ends = tuple(draw(st.sampled_from([None, -50, 6, 20, 90])) for _ in days)
        made = chain(f"a{number}", *days, ends=ends, team=draw(st.sampled_from(teams)).name)
        waiting: bool = draw(st.booleans()) if firsts else False
        if waiting:
            waits = draw(st.sampled_from(firsts))
            made[0] = stage(f"a{number}", 1, days[0], ends[0], team=made[0].team, after=(waits,))
        firsts.append(made[0].key)
        stages += made
    held = (
        {"": (Freeze(first=MONDAY + timedelta(days=7), last=MONDAY + timedelta(days=13)),)}
        if freezes and draw(st.booleans())
        else {}
    )
    return Problem(stages, teams, Axis(today or MONDAY), held)
