"""Waves keep capacity, order, freezes and what people fixed; of few stages the plan is the best there is."""

from __future__ import annotations

import itertools
import time
from datetime import date, timedelta

import pytest
from hypothesis import given, note, settings
from hypothesis import strategies as st

from tests.core.portfolio.made import MONDAY, chain, problems, stage, team
from yoake.core.portfolio.axis import WEEKS, Axis
from yoake.core.portfolio.capacity import NEVER, Away, Freeze, Person, Team
from yoake.core.portfolio.explanation import held_by, if_first, slips
from yoake.core.portfolio.from_plans import Mover, staged, with_assumed
from yoake.core.portfolio.prices import team_bound
from yoake.core.portfolio.stages import Problem
from yoake.core.portfolio.timetable import Timetable, earliest_live, place, sequence
from yoake.core.portfolio.waves import Waves, plan_waves, quick_waves, used
from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.effort import Effort
from yoake.core.values.plans import Move, Plan, Stage

EPS = 1e-6


def planned(problem: Problem, seconds: float = 0.5) -> Waves:
    began = time.perf_counter()
    return plan_waves(problem, lambda: time.perf_counter() - began, seconds)


def check_laws(problem: Problem, table: Timetable) -> None:
    for days, most in zip(used(problem, table), problem.weekly, strict=True):
        assert (days <= most + EPS).all(), "a team works more than it has"
    for i, held in enumerate(problem.before):
        assert all(table.start[i] >= table.live[j] - EPS for j in held), "a stage begins before what it needs is live"
        assert table.start[i] >= problem.axis.now - EPS
        for first, last in problem.frozen[i]:
            assert not first + EPS < table.live[i] < last - EPS, "a stage goes live in a freeze"
    for i, fixed in enumerate(problem.fixed):
        if fixed is not None and i not in table.misplaced:
            assert table.start[i] == pytest.approx(max(fixed, problem.axis.now)), "a fixed stage moved"


@given(problems())
@settings(max_examples=60, deadline=None)
def test_every_plan_keeps_capacity_order_and_freezes(problem: Problem) -> None:
    check_laws(problem, quick_waves(problem).table)


@given(problems(most=25), st.integers(0, 10_000))
@settings(max_examples=25, deadline=None)
def test_any_order_can_be_placed_and_keeps_the_laws(problem: Problem, seed: int) -> None:
    order = sorted(range(len(problem.stages)), key=lambda i: (seed * (i + 7919)) % 104_729)
    table = place(problem, sequence(problem, order))
    check_laws(problem, table)
    assert all(live < NEVER for live in table.live)


@given(problems(most=6))
@settings(max_examples=40, deadline=None)
def test_a_plan_of_few_stages_costs_what_the_best_of_all_orders_costs(problem: Problem) -> None:
    cheapest = min(
        place(problem, sequence(problem, order)).cost for order in itertools.permutations(range(len(problem.stages)))
    )
    found = quick_waves(problem)
    assert found.best
    assert found.table.cost == pytest.approx(cheapest, abs=1e-6)


def test_twelve_stages_of_one_team_are_planned_as_well_as_can_be() -> None:
    stages = [s for n in range(4) for s in chain(f"a{n}", 2.0 + n, 1.0, 3.5, ends=(30 - n, 45, 20 + 9 * n))]
    problem = Problem(stages, [team("Sales", 2.0, 1.0)], Axis(MONDAY))
    found = quick_waves(problem)
    cheapest = min(place(problem, order).cost for order in _interleavings(4, 3)[::7])
    assert found.best
    assert found.table.cost <= cheapest + 1e-6


def _interleavings(paths: int, long: int) -> list[list[int]]:
    """Orders of ``paths`` chains of ``long`` stages each, by what comes next; a few thousand of them."""
    found: list[list[int]] = []

    def go(order: list[int], at: list[int]) -> None:
        if len(found) >= 20_000:
            return
        if len(order) == paths * long:
            found.append(order)
            return
        for p in range(paths):
            if at[p] < long:
                go([*order, p * long + at[p]], [a + (q == p) for q, a in enumerate(at)])

    go([], [0] * paths)
    return found


@given(problems(most=8))
@settings(max_examples=40, deadline=None)
def test_no_plan_costs_less_than_the_bound(problem: Problem) -> None:
    best = quick_waves(problem)
    earliest = earliest_live(problem)
    last = max(best.table.start)
    bounds = [team_bound(problem, t, earliest, last, best.table.cost, lambda: True) for t in range(len(problem.teams))]
    note(f"{problem.stages} {problem.teams}")
    assert sum(bound.cost for bound in bounds) <= best.table.cost + 1e-6


def test_a_plan_of_many_stages_says_how_far_it_can_be_from_the_best() -> None:
    stages = [s for n in range(12) for s in chain(f"a{n}", 2.0 + n % 3, 4.0, ends=(20 + 11 * n, 90))]
    problem = Problem(stages, [team("Sales", 3.0, 2.0)], Axis(MONDAY))
    found = planned(problem, 2.0)
    assert found.gap is not None
    assert found.gap >= 0
    assert found.gap <= 0.1


def test_a_team_works_on_as_many_stages_at_once_as_it_has_people() -> None:
    problem = Problem([stage(f"a{n}", days=5.0) for n in range(3)], [team("Sales", 5.0, 5.0)], Axis(MONDAY))
    table = quick_waves(problem).table
    assert sorted(table.start) == pytest.approx([0.0, 0.0, 1.0])
    assert [problem.axis.ends(t) for t in sorted(table.live)] == [
        date(2026, 12, 4),
        date(2026, 12, 4),
        date(2026, 12, 11),
    ]


def test_the_dearer_lateness_comes_first() -> None:
    late = stage("late", days=5.0, end=4)
    plain = stage("plain", days=5.0)
    table = quick_waves(Problem([plain, late], [team()], Axis(MONDAY))).table
    assert table.start == pytest.approx([1.0, 0.0])


def test_a_fixed_stage_stays_and_others_go_around_it() -> None:
    fixed = stage("fixed", days=5.0, fixed=MONDAY + timedelta(days=7))
    others = [stage(f"a{n}", days=5.0, end=3) for n in range(2)]
    problem = Problem([fixed, *others], [team()], Axis(MONDAY))
    table = quick_waves(problem).table
    assert table.start == pytest.approx([1.0, 0.0, 2.0])
    assert not table.misplaced
    check_laws(problem, table)


def test_a_stage_fixed_before_what_it_needs_is_told() -> None:
    first, second = chain("a", 10.0, 5.0)
    second = stage("a", 2, 5.0, after=(first.key,), fixed=MONDAY)
    problem = Problem([first, second], [team()], Axis(MONDAY))
    table = quick_waves(problem).table
    assert table.misplaced == [1]
    check_laws(problem, table)


def test_what_gets_ready_in_a_freeze_goes_live_after_it() -> None:
    freeze = Freeze(first=date(2026, 12, 3), last=date(2026, 12, 9))
    first, second = chain("a", 5.0, 1.0)
    problem = Problem([first, second], [team()], Axis(MONDAY), {"": (freeze,)})
    table = quick_waves(problem).table
    assert problem.axis.ends(table.ready[0]) == date(2026, 12, 4)
    assert problem.axis.ends(table.live[0]) == date(2026, 12, 9)
    assert problem.axis.starts(table.start[1]) == date(2026, 12, 10)


def test_stages_that_wait_for_one_another_are_told_and_planned() -> None:
    a = stage("a", after=("b|1",))
    b = stage("b", after=("a|1",))
    problem = Problem([a, b], [team()], Axis(MONDAY))
    assert [c.keys for c in problem.circles] == [("a|1", "b|1")]
    assert all(live < NEVER for live in quick_waves(problem).table.live)


@pytest.mark.parametrize("held", [Team(name="Sales"), Team(name="Sales", people=(Person(name="x", days=0.0),))])
def test_without_capacity_nothing_is_reached_and_that_is_the_reason(held: Team) -> None:
    problem = Problem(chain("a", 1.0, 1.0), [held], Axis(MONDAY))
    found = planned(problem)
    assert found.table.live == [NEVER, NEVER]
    assert held_by(problem, found.table, 0).by == "capacity"
    assert held_by(problem, found.table, 1).by == "before"


def test_what_a_vendor_promised_is_waited_for() -> None:
    release = stage("theirs", days=0.0, team="Vendor", waits=(date(2026, 12, 14), "Vendor"))
    ours = stage("ours", after=(release.key,))
    problem = Problem([release, ours], [team(), Team(name="Vendor")], Axis(MONDAY))
    table = quick_waves(problem).table
    assert problem.axis.starts(table.start[1]) == date(2026, 12, 14)
    assert held_by(problem, table, 1).by == "before"
    unknown = stage("theirs", days=0.0, team="Vendor", waits=(date.max, "Vendor"))
    problem = Problem([unknown, ours], [team(), Team(name="Vendor")], Axis(MONDAY))
    assert quick_waves(problem).table.live == [NEVER, NEVER]


def test_absences_holidays_and_people_who_come_and_go_change_what_a_team_has() -> None:
    people = (
        Person(name="Ada", days=5.0),
        Person(name="Ben", days=2.5, since=date(2026, 12, 14), until=date(2026, 12, 25)),
    )
    away = (
        Away(first=date(2026, 12, 7), last=date(2026, 12, 9), person="Ada"),
        Away(first=date(2026, 12, 25), last=date(2026, 12, 25)),
    )
    problem = Problem([], [Team(name="Sales", people=people, away=away, features=0.2)], Axis(date(2026, 12, 2)))
    weeks = problem.weekly[0][:5].tolist()
    assert weeks == pytest.approx([0.8 * d for d in (3.0, 2.0, 7.5, 6.0, 5.0)])
    assert len(problem.weekly[0]) == WEEKS


def test_who_leaves_on_a_weekend_is_not_there_on_the_monday_after() -> None:
    person = Person(name="Ada", days=5.0, until=date(2026, 12, 5))
    problem = Problem([], [Team(name="Sales", people=(person,))], Axis(MONDAY))
    assert problem.weekly[0][:3].tolist() == [5.0, 0.0, 0.0]


def test_two_sets_that_lead_to_the_same_line_are_two_stages() -> None:
    def made(number: int, group: str) -> Stage:
        move = Move(Coordinate("pkg:generic/made-up"), Line("1"), Line("2"))
        return Stage(
            number=number,
            moves=(move,),
            state=((Coordinate("pkg:generic/made-up"), Line("2")),),
            reasons=(),
            finding_keys=(),
            lines_crossed=1,
            effort=Effort(1.0, 1.5),
            reached=Effort(1.0, 1.5),
            group=group,
        )

    plan = Plan(today=((Coordinate("pkg:generic/made-up"), Line("1")),), stages=(made(1, "shop"), made(2, "desk")))
    mover = Mover(
        slug="a", name="a", plan=plan, teams={"Sales": 1.0}, named=frozenset(("pkg:generic/made-up",)), days=2.0
    )
    found = staged([mover], [], lambda _purl, _line: None, lambda stage: stage.group)
    problem = Problem(found.stages, with_assumed([], [mover]), Axis(MONDAY))
    assert len(problem.index) == 2
    assert problem.before == [[], [0]]
    assert not problem.circles


def test_the_week_of_a_year_with_53_weeks_and_of_a_weekend() -> None:
    axis = Axis(date(2026, 12, 27))  # a Sunday, in the week 52 of a year with 53
    assert axis.monday == date(2026, 12, 21)
    assert axis.now == 1.0
    assert axis.starts(1.0) == date(2026, 12, 28)
    assert axis.week(2) == date(2027, 1, 4)
    table = quick_waves(Problem([stage("a")], [team()], axis)).table
    assert axis.ends(table.live[0]) == date(2027, 1, 1)


def test_why_not_earlier_names_who_is_busy_and_what_would_slip() -> None:
    late, plain = stage("late", days=5.0, end=4), stage("plain", days=5.0)
    problem = Problem([plain, late], [team()], Axis(MONDAY))
    found = quick_waves(problem)
    held = held_by(problem, found.table, 0)
    assert (held.by, held.stages) == ("busy", (1,))
    slip = slips(problem, found.table, if_first(problem, found.order, 0))
    assert [(s.stage, s.late) for s in slip] == [(1, True), (0, False)]


def test_parts_that_have_nothing_to_do_with_one_another_are_planned_by_themselves() -> None:
    stages = [*chain("a", 1.0, 2.0), *chain("b", 1.0, team="Other"), stage("c", after=("b|1",), team="Third")]
    problem = Problem(stages, [team(), team("Other"), team("Third")], Axis(MONDAY))
    assert problem.parts() == [[0, 1], [2, 3]]
