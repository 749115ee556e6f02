"""Clearance, effort, hops, dates: the laws they keep."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.planning.world import finding as world_finding
from tests.core.test_project import scan
from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.frameworks.django.names import DJANGO
from yoake.core.knowledge.base import Knowledge
from yoake.core.planning.compare import least_work
from yoake.core.planning.dates import standing
from yoake.core.planning.problem import Journey
from yoake.core.readiness.clearance import clearance
from yoake.core.readiness.effort import ALIKE, MANY, _one, draw, quantiles
from yoake.core.readiness.estimate import mean_days, three_point
from yoake.core.values.coordinates import Coordinate, Line, line_key
from yoake.core.values.findings import Finding, Tally
from yoake.core.values.journeys import Span
from yoake.core.values.plans import Plan
from yoake.formats.records import PLAN

minutes = st.floats(0, 1e6, allow_nan=False)
TODAY = date(2026, 11, 23)
PYTHON_LINES = ["3.6", "3.7", "3.8", "3.9", "3.10", "3.11", "3.12", "3.13"]
DJANGO_LINES = ["2.2", "3.0", "3.1", "3.2", "4.0", "4.1", "4.2", "5.0", "5.1", "5.2"]


def make_plan(spans: Mapping[Coordinate, Span], findings: Sequence[Finding], knowledge: Knowledge) -> Plan:
    """The plan of least work."""
    work = [f for f in findings if f.level != "note"]
    return least_work(
        Journey(name="", spans=spans, packages=(), findings=work, today=TODAY, days_per_week=2), knowledge
    )


@given(st.lists(st.builds(Tally, minutes, minutes, minutes), max_size=6))
def test_clearance_and_known_are_shares_and_nothing_known_has_no_percentage(tallies: list[Tally]) -> None:
    found = clearance(tallies)
    assert 0 <= found.known <= 1
    assert (found.clear is None) == (found.holds + found.fails == 0)
    assert found.clear is None or 0 <= found.clear <= 1


def test_clearance_is_what_holds_over_what_is_decided() -> None:
    found = clearance([Tally(30, 10, 60)])
    assert (found.clear, found.known) == (0.75, 0.4)


@pytest.fixture(scope="module")
def findings(knowledge: Knowledge):
    text = "import imp, asyncore, cgi\nfrom collections import Mapping\nimport asyncore\nimport imp\n"
    return scan(knowledge, {"a.py": text, "b.py": text}).findings


def test_the_same_findings_give_the_same_effort(findings, knowledge: Knowledge) -> None:
    table = knowledge.effort
    assert quantiles(draw(findings, table)) == quantiles(draw(findings, table))


def test_effort_lies_between_its_lowest_and_highest_sum(findings, knowledge: Knowledge) -> None:
    table = knowledge.effort
    points = [three_point(f, table) for f in findings]
    samples = draw(findings, table) * table.minutes_per_day
    assert samples.min() >= sum(p[0] for p in points) - 1e-6
    assert samples.max() <= sum(p[2] for p in points) + 1e-6
    effort = quantiles(draw(findings, table))
    assert effort.p50 <= effort.p80


def test_more_places_cost_more_but_less_than_as_many_findings(findings, knowledge: Knowledge) -> None:
    finding = next(f for f in findings if len(f.places) > 1)
    single = replace(finding, places=finding.places[:1])
    one, many = three_point(single, knowledge.effort)[1], three_point(finding, knowledge.effort)[1]
    assert one < many < one * len(finding.places)


@settings(max_examples=60, deadline=None)
@given(
    p0=st.sampled_from(PYTHON_LINES),
    d0=st.sampled_from(DJANGO_LINES),
    p1=st.sampled_from(PYTHON_LINES),
    d1=st.sampled_from(DJANGO_LINES),
)
def test_a_path_arrives_and_only_goes_forward(p0: str, d0: str, p1: str, d1: str, knowledge: Knowledge) -> None:
    spans = {PYTHON: Span(Line(p0), Line(p1)), DJANGO: Span(Line(d0), Line(d1))}
    plan = make_plan(spans, [], knowledge)
    state = {coordinate: span.today for coordinate, span in spans.items()}
    for stage in plan.stages:
        assert stage.moves
        for move in stage.moves:
            assert move.start == state[move.coordinate]
            assert line_key(move.goal) > line_key(move.start)
            state[move.coordinate] = move.goal
        assert dict(stage.state) == state
    for coordinate, span in spans.items() if not plan.blocked else ():
        assert state[coordinate] == (span.goal if line_key(span.goal) > line_key(span.today) else span.today)


@settings(max_examples=40, deadline=None)
@given(start=st.sampled_from([("3.6", "2.2"), ("3.8", "2.2"), ("3.8", "3.2"), ("3.7", "3.1"), ("3.10", "4.2")]))
def test_from_a_state_that_stands_every_stage_stands_on_stated_support(
    start: tuple[str, str], knowledge: Knowledge
) -> None:
    spans = {PYTHON: Span(Line(start[0]), Line("3.13")), DJANGO: Span(Line(start[1]), Line("5.2"))}
    for stage in make_plan(spans, [], knowledge).stages:
        state = dict(stage.state)
        facts = knowledge.line_facts(DJANGO, state[DJANGO])
        assert facts is not None
        assert state[PYTHON] in facts.runs_on


def test_every_finding_is_planned_once_and_at_its_earliest_safe_point(findings, knowledge: Knowledge) -> None:
    plan = make_plan({PYTHON: Span(Line("3.8"), Line("3.13"))}, findings, knowledge)
    planned = [*plan.before_keys, *(k for s in plan.stages for k in s.finding_keys)]
    work = [f for f in findings if f.level != "note"]
    assert sorted(planned) == sorted(f.key for f in work)
    assert {f.key for f in work if f.window.state == "now" and f.kind == "removed"} <= set(plan.before_keys)


def test_what_moves_together_says_what_would_be_broken(knowledge: Knowledge) -> None:
    plan = make_plan({PYTHON: Span(Line("3.6"), Line("3.13")), DJANGO: Span(Line("2.2"), Line("6.0"))}, [], knowledge)
    assert plan.stages
    for stage in plan.stages:
        assert stage.reasons
        if len(stage.moves) > 1 and stage.constraints:
            assert {c.grade for c in stage.constraints} <= {"hard", "stated", "observed", "tried"}
            assert any(c.text in stage.reasons for c in stage.constraints)


def test_a_plan_survives_being_stored(findings, knowledge: Knowledge) -> None:
    plan = make_plan({PYTHON: Span(Line("3.8"), Line("3.13"))}, findings, knowledge)
    assert PLAN.read(PLAN.write(plan)) == plan


def test_margin_is_the_smallest_slack_and_unsupported_is_told_apart(knowledge: Knowledge) -> None:
    plan = make_plan({PYTHON: Span(Line("3.8"), Line("3.13")), DJANGO: Span(Line("4.2"), Line("5.2"))}, [], knowledge)
    held = standing(plan, {PYTHON: Line("3.8"), DJANGO: Line("4.2")}, knowledge, TODAY, 2)
    slacks = [row.slack for row in held.lines if row.slack is not None]
    assert held.margin == min(slacks) < 0
    assert held.unsupported_since == date(2024, 10, 7)
    assert held.runway is None


def test_less_capacity_never_arrives_sooner(findings, knowledge: Knowledge) -> None:
    plan = make_plan({PYTHON: Span(Line("3.8"), Line("3.13"))}, findings, knowledge)
    slow, fast = (standing(plan, {PYTHON: Line("3.8")}, knowledge, TODAY, days) for days in (0.5, 4))
    assert slow.arrival50 > fast.arrival50
    assert slow.margin < fast.margin
    assert slow.arrival50 <= slow.arrival80


def test_a_supported_line_has_a_runway_and_what_stays_has_no_slack(knowledge: Knowledge) -> None:
    plan = make_plan({PYTHON: Span(Line("3.13"), Line("3.13"))}, [], knowledge)
    held = standing(plan, {PYTHON: Line("3.13")}, knowledge, TODAY, 2)
    assert (held.margin, held.runway, held.dark_days) == (None, (date(2029, 10, 31) - TODAY).days, 0)


def test_very_many_alike_are_drawn_at_once_and_come_out_the_same(knowledge: Knowledge) -> None:
    one = world_finding("3.12", 60, key="k")
    many = [replace(one, key=f"k{n}", effort=(20.0, 40.0, 120.0)) for n in range(MANY + 200)]
    apart: Any = sum(_one(f, *three_point(f, knowledge.effort)) for f in many) / knowledge.effort.minutes_per_day
    at_once = draw(many, knowledge.effort)
    assert quantiles(at_once).p50 == pytest.approx(quantiles(apart).p50, rel=0.005)
    assert quantiles(at_once).p80 == pytest.approx(quantiles(apart).p80, rel=0.005)


@pytest.mark.parametrize(("places", "factor"), [(1, 1.0), (2, 1.3), (4, 1.9)])
def test_the_first_place_counts_in_full_and_each_further_one_by_the_repeat_factor(
    places: int, factor: float, knowledge: Knowledge
) -> None:
    table = knowledge.effort.model_copy(
        update={"repeat": 0.3, "mechanical_repeat": 0.1, "review_minutes": 5.0, "minutes_per_day": 480.0}
    )
    plain = replace(world_finding("3.9"), effort=(6.0, 12.0, 48.0))
    made = replace(plain, places=plain.places * places)
    assert three_point(made, table) == pytest.approx((6 * factor, 12 * factor, 48 * factor))
    assert mean_days(made, table) == pytest.approx((6 + 4 * 12 + 48) * factor / 6 / 480)
    by_rote = replace(made, mechanical=True)
    assert three_point(by_rote, table)[1] == pytest.approx(12 * (1 + 0.1 * (places - 1)) + 5)


@pytest.mark.parametrize("effort", [(10.0, 20.0, 120.0), (10.0, 100.0, 110.0)])
def test_what_is_drawn_has_the_mean_and_spread_of_its_three_points(
    effort: tuple[float, float, float], knowledge: Knowledge
) -> None:
    table = knowledge.effort
    low, likely, high = effort
    many = [replace(world_finding("3.9", key=f"k{n}"), effort=effort) for n in range(MANY + ALIKE)]
    few = draw(many[:1], table) * table.minutes_per_day
    assert few.mean() == pytest.approx((low + 4 * likely + high) / 6, rel=0.03)
    together = draw(many, table) * table.minutes_per_day
    assert together.mean() == pytest.approx(len(many) * (low + 4 * likely + high) / 6, rel=0.01)
    assert together.std() == pytest.approx(len(many) ** 0.5 * few.std(), rel=0.15)
