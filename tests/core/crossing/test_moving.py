"""A route moves on when it has shown what it should, and says what is missing until then."""

from __future__ import annotations

from datetime import date, timedelta

import pytest

from yoake.core.crossing.moving import MovePolicy, NextMove, RouteState, Stop, last_day, next_move
from yoake.core.crossing.parts import Needs, Part
from yoake.core.crossing.rules import Standing
from yoake.core.crossing.slices import SliceBasis, loops, made, needed_by_many, ordered, proposed
from yoake.core.values.routes import Route

TODAY = date(2026, 11, 30)
POLICY = MovePolicy(answers=100, days=3)


def state(standing: Standing, **more: object) -> RouteState:
    given = {"method": "GET", "weekly": 10.0, "since": TODAY - timedelta(days=5)} | more
    return RouteState(standing=standing, **given)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("given", "move"),
    [
        (state(Standing.OLD), NextMove(Standing.MIRRORED)),
        (state(Standing.OLD, on_new=False), NextMove(Standing.MIRRORED, stop=Stop.NOT_THERE)),
        (state(Standing.OLD, method="POST"), NextMove(Standing.MIRRORED, stop=Stop.UNSAFE)),
        (state(Standing.OLD, method="POST", safe=True), NextMove(Standing.MIRRORED)),
        (state(Standing.MIRRORED, compared=100, alike=100), NextMove(Standing.SHARED, 5.0)),
        (state(Standing.MIRRORED, compared=100, alike=98), NextMove(Standing.SHARED, 5.0, Stop.DIFFERS, 2)),
        (state(Standing.MIRRORED, compared=40, alike=40), NextMove(Standing.SHARED, 5.0, Stop.FEW_ANSWERS, 60)),
        (
            state(Standing.MIRRORED, compared=100, alike=100, tested=False),
            NextMove(Standing.SHARED, 5.0, Stop.UNTESTED),
        ),
        (state(Standing.SHARED, share=5.0, tested=False), NextMove(Standing.SHARED, 25.0)),
        (state(Standing.OLD, weekly=0.0, counted=True), NextMove(Standing.MIRRORED, stop=Stop.NOBODY)),
        (state(Standing.OLD, weekly=0.0), NextMove(Standing.MIRRORED)),
        (state(Standing.MIRRORED, weekly=0.0, counted=True), NextMove(Standing.SHARED, 5.0, Stop.NOBODY)),
        (state(Standing.MIRRORED, weekly=0.0), NextMove(Standing.SHARED, 5.0, Stop.FEW_ANSWERS, 100)),
        (
            state(Standing.MIRRORED, compared=100, alike=100, since=TODAY),
            NextMove(Standing.SHARED, 5.0, Stop.TOO_SOON, 3),
        ),
        (state(Standing.SHARED, share=5.0), NextMove(Standing.SHARED, 25.0)),
        (state(Standing.SHARED, share=60.0), NextMove(Standing.NEW)),
        (state(Standing.SHARED, share=60.0, fell_back="slow"), NextMove(Standing.NEW, stop=Stop.FELL_BACK)),
        (state(Standing.NEW), NextMove(None)),
        (state(Standing.NEW, fell_back="slow"), NextMove(Standing.NEW, stop=Stop.FELL_BACK)),
    ],
)
def test_where_a_route_goes_next_and_what_stops_it(given: RouteState, move: NextMove) -> None:
    assert next_move(given, POLICY, TODAY) == move


def test_a_test_is_asked_for_only_where_somebody_wants_that() -> None:
    given = state(Standing.MIRRORED, compared=100, alike=100, tested=False)
    assert next_move(given, MovePolicy(answers=100, days=3, tests=False), TODAY) == NextMove(Standing.SHARED, 5.0)


def test_the_old_side_goes_off_at_the_pace_of_the_moves() -> None:
    moves = [TODAY - timedelta(days=20), TODAY - timedelta(days=10)]
    assert last_day(moves, 3, TODAY) == TODAY + timedelta(days=30)
    assert last_day(moves, 0, TODAY) == TODAY
    assert last_day(moves[:1], 3, TODAY) is None


def part(name: str, lines: int) -> Part:
    return Part("a.py", lines, name, lines)


ROUTES = [
    Route(method="GET", path=path, file="h.py", line=number) for number, path in enumerate(("/a/1", "/a/2", "/b"), 1)
]
NEEDS = {
    "GET /a/1": Needs(parts={part("shared", 50), part("one", 10)}),
    "GET /a/2": Needs(parts={part("shared", 50)}, tables={"Ticket"}),
    "GET /b": Needs(parts={part("b", 5)}, tables={"Ticket"}),
}
CALLS = {"GET /a/1": 10.0, "GET /a/2": 50.0, "GET /b": 30.0}


def test_an_order_counts_shared_code_once_and_pays_early() -> None:
    slices = proposed(SliceBasis.PREFIX, ROUTES, NEEDS, CALLS)
    assert {each.name: (each.own, each.shared) for each in slices} == {"a": (60, 0), "b": (5, 0)}
    found = ordered(slices, NEEDS)
    assert [(each.slice.name, each.brings, each.cumulated) for each in found] == [("b", 5, 5), ("a", 60, 65)]
    assert found[-1].calls_share == pytest.approx(1.0)
    apart = made({"one": ["GET /a/1"], "two": ["GET /a/2"]}, NEEDS, CALLS)
    assert [(each.own, each.shared) for each in apart] == [(10, 50), (0, 50)]
    assert [each.brings for each in ordered(apart, NEEDS)] == [50, 10]
    assert ordered(apart, NEEDS, there=["GET /a/2"])[0].brings in (0, 10)


def test_slices_by_code_and_by_tables() -> None:
    assert {each.routes for each in proposed(SliceBasis.CODE, ROUTES, NEEDS, CALLS)} == {
        ("GET /a/1", "GET /a/2"),
        ("GET /b",),
    }
    tables = {each.name: set(each.routes) for each in proposed(SliceBasis.TABLES, ROUTES, NEEDS, CALLS)}
    assert tables == {"Ticket": {"GET /a/2", "GET /b"}, "no tables of their own": {"GET /a/1"}}


def test_what_many_need_is_named_first_and_loops_are_told() -> None:
    assert [(each.part.name, each.routes) for each in needed_by_many(NEEDS)] == [("shared", 2)]
    tangled = {
        "GET /a/1": Needs(parts={Part("h.py", 3, "b", 3)}),
        "GET /b": Needs(parts={Part("h.py", 1, "a1", 3)}),
    }
    slices = proposed(SliceBasis.PREFIX, ROUTES, tangled, {})
    assert loops(slices, tangled, ROUTES) == [("a", "b")]


def test_slices_of_one_route_are_put_together_where_there_are_many() -> None:
    routes = [Route(method="GET", path=f"/p{number}") for number in range(14)] + [
        Route(method="GET", path="/p0/more"),
        Route(method="GET", path="/api/v2/p0/{id}"),
    ]
    found = {each.name: len(each.routes) for each in proposed(SliceBasis.PREFIX, routes, {}, {})}
    assert found == {"p0": 3, "single routes": 13}
