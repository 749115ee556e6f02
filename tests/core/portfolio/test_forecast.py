"""Forecasts: more capacity never makes them later, an 80 % date holds for eight of ten, and what was learnt moves them."""

from __future__ import annotations

import math
import random
from dataclasses import replace
from datetime import date

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.portfolio.made import MONDAY, chain, problems, stage, team
from yoake.core.portfolio.axis import Axis
from yoake.core.portfolio.capacity import NEVER, Freeze, Person, Team
from yoake.core.portfolio.forecast import Factor, Learnt, simulate
from yoake.core.portfolio.learning import Closed, Kept, calibration, learn
from yoake.core.portfolio.stages import Problem
from yoake.core.portfolio.waves import quick_waves


def more_of(teams: list[Team], which: int, extra: float) -> list[Team]:
    """The same teams, the people of one with more days a week."""
    return [
        Team(name=t.name, people=tuple(Person(name=p.name, days=p.days + extra) for p in t.people)) if n == which else t
        for n, t in enumerate(teams)
    ]


@given(problems(most=12, freezes=False), st.integers(0, 2), st.sampled_from([0.1, 0.5, 3.0]))
@settings(max_examples=40, deadline=None)
def test_more_capacity_never_makes_the_forecast_later(problem: Problem, which: int, extra: float) -> None:
    table = quick_waves(problem).table
    before = simulate(problem, table, runs=300, seed=3)
    richer = Problem(problem.stages, more_of(problem.teams, which % len(problem.teams), extra), problem.axis)
    after = simulate(richer, table, runs=300, seed=3)
    assert (after.live <= before.live + 1e-6).all()


def test_the_same_seed_gives_the_same_forecast() -> None:
    problem = Problem(chain("a", 3.0, 4.0), [team()], Axis(MONDAY))
    table = quick_waves(problem).table
    first, again = (simulate(problem, table, runs=500, seed=5) for _ in range(2))
    assert np.array_equal(first.live, again.live)


def test_no_stage_is_live_before_what_it_needs_in_any_run() -> None:
    problem = Problem([*chain("a", 3.0, 4.0, 1.0), *chain("b", 2.0, 2.0)], [team("Sales", 2.0, 3.0)], Axis(MONDAY))
    live = simulate(problem, quick_waves(problem).table, runs=500).live
    assert all((live[i] > live[j]).all() for i, held in enumerate(problem.before) for j in held)


def test_the_middle_of_the_runs_is_the_plan_and_the_80_percent_date_is_what_the_stage_says() -> None:
    problem = Problem([stage("a", days=50.0, days80=75.0)], [team()], Axis(MONDAY))
    table = quick_waves(problem).table
    p50, p80, p95 = simulate(problem, table, runs=20_000).quantiles([0])
    assert p50 == pytest.approx(table.live[0] / 0.96, rel=0.03)  # people are away for 4 % of the days
    assert p80 == pytest.approx(1.5 * p50, rel=0.04)
    assert p95 > p80


def test_an_estimate_as_wide_as_can_be_gives_dates_all_the_same() -> None:
    problem = Problem([stage("a", days=1e-167, days80=3_000.0), stage("b", days=4.0)], [team()], Axis(MONDAY))
    live = simulate(problem, quick_waves(problem).table, runs=500).live
    assert np.isfinite(live).all()


def test_a_freeze_moves_the_days_of_all_runs_that_end_in_it() -> None:
    freeze = Freeze(first=date(2026, 12, 7), last=date(2027, 1, 15))
    problem = Problem([stage("a", days=6.0, days80=8.0)], [team()], Axis(MONDAY), {"a": (freeze,)})
    live = simulate(problem, quick_waves(problem).table, runs=500).live[0]
    (first, last), *_ = problem.frozen[0]
    assert not ((live > first + 1e-6) & (live < last - 1e-6)).any()


def test_a_team_without_days_never_gets_there() -> None:
    problem = Problem(chain("a", 1.0, 1.0), [Team(name="Sales")], Axis(MONDAY))
    simulated = simulate(problem, quick_waves(problem).table, runs=50)
    assert all(problem.axis.ends(t) is None for t in simulated.quantiles([0, 1]))
    assert simulated.quantiles([]) == []
    assert (simulated.live[0] == NEVER).all()


def test_what_nobody_promised_never_comes_nor_what_waits_for_it_and_others_go_on() -> None:
    promised = replace(stage("a", days=2.0), waits=(date.max, "Weighbridge Works"))
    waiting = replace(stage("b", days=2.0, team="Harbour"), after=(promised.key,))
    other = stage("c", days=2.0)
    problem = Problem([promised, waiting, other], [team(), team("Harbour")], Axis(MONDAY))
    simulated = simulate(problem, quick_waves(problem).table, runs=50)
    assert simulated.arriving == [2]
    assert (simulated.live[:2] == NEVER).all()
    alone = Problem([other], [team()], Axis(MONDAY))
    assert simulated.quantiles([2], (0.5,))[0] == pytest.approx(
        simulate(alone, quick_waves(alone).table, runs=50).quantiles([0], (0.5,))[0], rel=0.3
    )


def test_a_team_twice_as_slow_is_found_within_fifteen_closed_steps() -> None:
    draw = random.Random(4)  # noqa: S311
    found = []
    for _ in range(40):
        steps = [Closed(estimated=60, spent=60 * draw.lognormvariate(0, 0.5), team="others") for _ in range(60)]
        steps += [Closed(estimated=30, spent=60 * draw.lognormvariate(0, 0.5), team="slow") for _ in range(15)]
        found.append(math.exp(learn(steps).teams["slow"].factor.mean))
    assert 1.6 < sum(found) / len(found) < 2.3
    assert sum(1 for factor in found if factor > 1.4) >= 38


def test_few_steps_move_a_factor_less_than_many() -> None:
    few = learn(
        [Closed(estimated=10, spent=30, team="a"), *[Closed(estimated=10, spent=10, team="b") for _ in range(50)]]
    )
    many = learn([Closed(estimated=10, spent=30, team="a")] * 40 + [Closed(estimated=10, spent=10, team="b")] * 50)
    assert 1 < math.exp(few.teams["a"].factor.mean) < 2 < math.exp(many.teams["a"].factor.mean) < 3
    assert few.teams["a"].factor.deviation > many.teams["a"].factor.deviation


def test_nothing_is_learnt_from_nothing_and_from_slips_of_a_finger() -> None:
    assert learn([]).steps == 0
    assert learn([Closed(estimated=0, spent=5), Closed(estimated=5, spent=0)]).steps == 0
    assert learn([]).learnt.of("anybody").mean == 0


def test_what_was_learnt_moves_the_forecast() -> None:
    problem = Problem([stage("a", days=20.0)], [team()], Axis(MONDAY))
    table = quick_waves(problem).table
    plain = simulate(problem, table, runs=4_000).quantiles([0])[0]
    slow = simulate(problem, table, Learnt({"Sales": Factor(math.log(2.0), 0.1)}), runs=4_000).quantiles([0])[0]
    assert slow == pytest.approx(2 * plain, rel=0.03)


def test_the_80_percent_interval_holds_for_about_eight_of_ten_histories() -> None:
    """Made-up histories whose teams are slower or faster than estimated by what the model takes for usual."""
    draw = np.random.default_rng(11)
    kept = []
    for n in range(400):
        factor = math.exp(draw.normal(0, 0.35))
        closed = [
            Closed(estimated=60, spent=60 * factor * math.exp(draw.normal(0, 0.7)), team="Sales") for _ in range(30)
        ]
        problem = Problem([stage("a", days=20.0, days80=30.0)], [team()], Axis(MONDAY))
        simulated = simulate(problem, quick_waves(problem).table, learn(closed).learnt, runs=400, seed=n)
        p50, p80, _ = simulated.quantiles([0])
        took = 20.0 / 5 / 0.96 * factor * math.exp(draw.normal(0, math.log(1.5) / 0.8416))
        kept.append(Kept(days50=p50 * 7, days80=p80 * 7, took=took * 7))
    found = calibration(kept)
    assert 0.75 <= found.within80 / found.count <= 0.85
    assert 0.43 <= found.within50 / found.count <= 0.57
