"""The portfolio in time, measured: how far plans are from the bound, how quick they are, and how often the 80 % held.

    python -m bench.waves [--seconds 60]

Portfolios are drawn at random: paths of two to four stages of half a day to six days, teams of two to six people, support ends from a
quarter ago to two years ahead for three stages of five. In ``calm`` ones the teams have twice the days that in ``crowded`` ones they have.
"""

from __future__ import annotations

import argparse
import math
import random
import time
from datetime import date, timedelta

import numpy as np

from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.portfolio.axis import Axis
from yoake.core.portfolio.capacity import Person, Team
from yoake.core.portfolio.forecast import RUNS, simulate
from yoake.core.portfolio.learning import Closed, Kept, calibration, learn
from yoake.core.portfolio.stages import Due, Problem, WaveStage
from yoake.core.portfolio.timetable import place
from yoake.core.portfolio.waves import quick_waves
from yoake.usecases.plan_waves import search

TODAY = date(2026, 11, 30)


def portfolio(applications: int, teams: int, seed: int, plenty: float = 1.0) -> Problem:
    """A made-up portfolio."""
    draw = random.Random(seed)  # noqa: S311
    people = [
        Team(
            name=f"team {n}",
            people=tuple(
                Person(name=f"person {n}.{m}", days=min(5.0, plenty * draw.choice((1, 2, 3, 4)))) for m in range(draw.randint(2, 6))
            ),
        )
        for n in range(teams)
    ]
    stages: list[WaveStage] = []
    for a in range(applications):
        before: tuple[str, ...] = ()
        for number in range(1, draw.choice((2, 3, 3, 4)) + 1):
            days = draw.uniform(0.5, 6)
            end = TODAY + timedelta(days=draw.randint(-90, 700))
            dues = (Due(coordinate=Coordinate("pkg:generic/made-up"), line=Line(str(number)), end=end),) if draw.random() < 0.6 else ()
            key = f"app-{a}|{number}"
            stages.append(
                WaveStage(
                    key=key, application=f"app-{a}", name=f"app-{a}", number=number, title="x", team=people[a % teams].name,
                    days50=days, days80=days * 1.5, after=before, dues=dues,
                )
            )
            before = (key,)
    return Problem(stages, people, Axis(TODAY))


def plans(seconds: float) -> None:
    """Gaps of plans, and what a move by hand and a forecast take."""
    print(f"{'portfolio':28}{'stages':>7}{'at once':>9}{'s':>6}{'plan':>10}{'bound':>10}{'gap':>8}{'s':>6}{'a move':>9}{'forecast':>10}")
    for name, applications, teams, plenty in (
        ("80 applications, 6 teams", 80, 6, 1.0),
        ("500, 20 teams, calm", 500, 20, 2.0),
        ("500, 20 teams, crowded", 500, 20, 1.0),
    ):
        problem = portfolio(applications, teams, 1, plenty)
        began = time.perf_counter()
        quick = quick_waves(problem)
        at_once = time.perf_counter() - began
        began = time.perf_counter()
        waves = search(problem, seconds, tuple(problem.stages[i].key for i in quick.order))
        took = time.perf_counter() - began
        began = time.perf_counter()
        place(problem, [waves.order[-1], *waves.order])
        moved = time.perf_counter() - began
        began = time.perf_counter()
        simulate(problem, waves.table)
        drawn = time.perf_counter() - began
        gap = f"{waves.gap:8.1%}" if waves.gap is not None else f"{'?':>8}"
        print(
            f"{name:28}{len(problem.stages):7}{quick.table.cost:9.0f}{at_once:6.2f}{waves.table.cost:10.0f}{waves.bound or 0:10.0f}{gap}"
            f"{took:6.0f}{moved:7.2f} s{drawn:8.2f} s", flush=True,
        )
    stages = len(problem.stages)
    print(f"a forecast draws {stages * RUNS / drawn / 1e6:.1f} million stages a second ({RUNS:,} runs)")


def held(histories: int) -> None:
    """How often the 50 and 80 % dates held on made-up histories, and what is learnt of a team that is twice as slow."""
    draw = np.random.default_rng(5)
    print(f"\n{'true factor of the team':28}{'histories':>10}{'50 % held':>11}{'80 % held':>11}{'learnt':>9}")
    for name, centre, spread in (("as estimated, ± 40 %", 0.0, 0.35), ("twice as slow", math.log(2), 0.0), ("a third quicker", math.log(0.67), 0.0)):
        kept, learnt = [], []
        for n in range(histories):
            factor = math.exp(centre + spread * draw.standard_normal())
            closed = [Closed(estimated=60, spent=60 * factor * math.exp(0.7 * draw.standard_normal()), team="team 0") for _ in range(15)]
            lessons = learn([*closed, *[Closed(estimated=60, spent=60 * math.exp(0.7 * draw.standard_normal()), team="others") for _ in range(60)]])
            learnt.append(math.exp(lessons.teams["team 0"].factor.mean))
            problem = portfolio(3, 1, n)
            table = quick_waves(problem).table
            simulated = simulate(problem, table, lessons.learnt, 500, n)
            truth = simulate(problem, table, None, 1, 10_000 + n).live[:, 0]
            for i in range(len(problem.stages)):
                p50, p80, _ = simulated.quantiles([i])
                kept.append(Kept(days50=p50, days80=p80, took=float(truth[i]) * factor))
        found = calibration(kept)
        print(f"{name:28}{histories:10}{found.within50 / found.count:11.1%}{found.within80 / found.count:11.1%}{np.median(learnt):9.2f}", flush=True)


def main() -> None:
    """Plans, then calibration."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=58)
    given = parser.parse_args()
    plans(given.seconds)
    held(200)


if __name__ == "__main__":
    main()
