"""Ways in a made-up world: what is tied, what is refused and why, what closes the way, and how a reader bends it."""

from __future__ import annotations

import csv
import io
import json
from dataclasses import replace
from typing import Any

import pytest

from tests.core.planning.world import LAMP, ROPE, facts, finding, journey, lifecycle, package, record, world
from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.models import LineFacts
from yoake.core.planning.alternatives import OBJECTIVES, Ways
from yoake.core.planning.compare import find_ways, least_work
from yoake.core.planning.problem import pose_problem
from yoake.core.values.coordinates import Coordinate, Line, parse_target
from yoake.core.values.findings import Finding
from yoake.core.values.journeys import Shape, Surroundings
from yoake.formats.plan_text import (
    conflict_json,
    refused_json,
    ways_csv,
    ways_json,
    ways_markdown,
    ways_mermaid,
    ways_text,
)

SERVICE = Surroundings(known=0.9, tests=3, serves=(Coordinate("pkg:pypi/flask"),), generated=(), used_by=())


@pytest.fixture(scope="module")
def packed(knowledge: Knowledge) -> Knowledge:
    """lamp 1 runs up to 3.9, lamp 2 from 3.9 on, lamp 3 everywhere; rope 1 wants lamp below 2."""
    lamps = [facts("1.0", runs="3.8 3.9"), facts("2.0", runs="3.9 3.10 3.11 3.12 3.13"), facts("3.0")]
    ropes = [facts("1.0", needs={"lamp": "<2"}), facts("2.0", needs={"lamp": ">=2"})]
    return world(knowledge, [record(LAMP, lamps), record(ROPE, ropes)])


def to_313(*packages, findings=(), shape: Shape | None = None):
    return journey({PYTHON: ("3.8", "3.13")}, packages, findings, shape)


def moves(ways: Ways, choice: str) -> list[list[str]]:
    way = ways.way(choice)
    assert way is not None
    return [[f"{m.coordinate.split('/')[-1]} {m.goal}" for m in stage.moves] for stage in way.plan.stages]


def test_a_package_moves_only_when_something_forces_it_and_then_to_the_newest(packed: Knowledge) -> None:
    ways = find_ways(to_313(package(LAMP, "1.0")), packed, SERVICE)
    assert moves(ways, "work") == [["python 3.13", "lamp 3.0"]]
    still = find_ways(to_313(package(LAMP, "3.0")), packed, SERVICE)
    assert moves(still, "work") == [["python 3.13"]]


def test_what_constraints_tie_together_is_one_stage_and_says_why(packed: Knowledge) -> None:
    ways = find_ways(to_313(package(LAMP, "1.0"), package(ROPE, "1.0")), packed, SERVICE)
    (stage,) = ways.way("work").plan.stages
    assert {m.coordinate for m in stage.moves} == {PYTHON, LAMP, ROPE}
    texts = {c.text for c in stage.constraints}
    assert {"rope 1.0 needs lamp <2", "lamp 1.0 needs Python 3.8 3.9"} <= texts
    assert texts & set(stage.reasons)


def test_dear_changes_are_told_apart_by_more_stages_and_the_jump_stays_on_show(packed: Knowledge) -> None:
    work = [finding("3.10", 4000), finding("3.12", 4000, key="later")]
    ways = find_ways(to_313(findings=work), packed, SERVICE)
    assert len(ways.way("work").plan.stages) > 1
    direct = ways.way("direct")
    assert direct is not None
    assert len(direct.plan.stages) == 1
    assert direct.plan.total.p50 > ways.way("work").plan.total.p50
    assert len(ways.way("stages").plan.stages) == 1


def test_work_that_an_earlier_stop_makes_ready_is_not_multiplied(packed: Knowledge) -> None:
    tied, ready = finding("3.12", 4000), finding("3.12", 4000, both=("3.11",))
    one, other = (find_ways(to_313(findings=[f]), packed, SERVICE).way("work").plan.total.p50 for f in (tied, ready))
    assert other <= one


def test_a_policy_that_forbids_the_jump_is_named(knowledge: Knowledge) -> None:
    lines = [LineFacts(line=f"{n}.0") for n in (1, 2, 3)]
    held = world(
        knowledge, [record(LAMP, [facts("1.0"), facts("2.0"), facts("3.0")])], [lifecycle(LAMP, lines, "next-major")]
    )
    ways = find_ways(journey({LAMP: ("1.0", "3.0")}), held, SERVICE)
    assert moves(ways, "stages") == [["lamp 2.0"], ["lamp 3.0"]]
    (direct,) = [r for r in ways.refused if r.strategy == "direct"]
    assert direct.reasons == ("lamp supports one major line at a time (made-up lifecycle)",)


def test_long_term_lines_are_not_skipped_where_the_policy_says_so(knowledge: Knowledge) -> None:
    lines = [LineFacts(line=x, kind=k) for x, k in (("1.0", "long-term"), ("1.1", "current"), ("1.2", "long-term"), ("1.3", "current"), ("1.4", "long-term"))]  # fmt: skip
    held = world(knowledge, [], [lifecycle(LAMP, lines, "long-term")])
    assert moves(find_ways(journey({LAMP: ("1.0", "1.4")}), held, SERVICE), "stages") == [["lamp 1.2"], ["lamp 1.4"]]


def test_when_nothing_leads_there_the_smallest_conflict_is_named_and_every_release_opens_a_way(
    knowledge: Knowledge,
) -> None:
    """The lamp is pinned, so it cannot be left behind; without the pin it would only have to be replaced."""
    held = world(knowledge, [record(LAMP, [facts("1.0", runs="3.8 3.9 3.10")]), record(ROPE, [facts("1.0")])])
    trip = to_313(package(LAMP, "1.0"), package(ROPE, "1.0"))
    pinned = replace(trip, shape=Shape(pins=(parse_target("pypi/lamp@1.0"),)))
    ways = find_ways(pinned, held, SERVICE)
    assert not any(w.objectives for w in ways.ways)
    assert [c.text for c in ways.conflict.constraints][-1] == "lamp 1.0 needs Python 3.8 3.9 3.10"
    assert {("line", "3.10"), ("stay", "3.8")} <= {(r.what, r.line) for r in ways.conflict.releases}
    shaped = replace(trip, shape=Shape(dropped=frozenset({LAMP})))
    assert find_ways(shaped, held, SERVICE).conflict is None
    blocked = least_work(pinned, held)
    assert "lamp 1.0 needs Python 3.8 3.9 3.10" in blocked.blocked
    assert blocked.stages == ()


def test_a_package_that_keeps_the_destination_out_is_to_be_replaced_and_the_path_goes_on(knowledge: Knowledge) -> None:
    held = world(knowledge, [record(LAMP, [facts("1.0", runs="3.8 3.9 3.10")]), record(ROPE, [facts("1.0")])])
    trip = to_313(package(LAMP, "1.0"), package(ROPE, "1.0"))
    ways = find_ways(trip, held, SERVICE)
    assert ways.conflict is None
    way = ways.way("work")
    told = {p.coordinate: (p.state, p.why) for p in way.plan.stages[-1].packages}
    assert told[LAMP] == ("none", "no release up to 1.0 runs on Python 3.13: replace or drop it")
    assert told[ROPE][0] == "keeps"
    kept = least_work(trip, held)
    assert [s.state for s in kept.stages] == [s.state for s in way.plan.stages]
    free = least_work(to_313(package(ROPE, "1.0")), held)
    assert kept.total.p50 > free.total.p50 + 0.3  # the days that it takes to replace somebody else's library


def test_what_is_only_stated_gives_way_when_nothing_else_leads_there(knowledge: Knowledge) -> None:
    lamps = [
        facts("1.0", states=("python@3.8",)),
        facts("2.0", states=("python@3.13",), runs="3.12", needs={"rope": ">9"}),
    ]
    held = world(knowledge, [record(LAMP, lamps), record(ROPE, [facts("1.0")])])
    ways = find_ways(to_313(package(LAMP, "1.0"), package(ROPE, "1.0")), held, SERVICE)
    assert ways.conflict is None
    assert ways.problem.compatibility.lenient


def test_a_package_that_no_line_lets_run_is_named_and_does_not_close_the_way(knowledge: Knowledge) -> None:
    held = world(knowledge, [record(LAMP, [facts("1.0", observed=("3.12", "imp in lamp/__init__.py:3"))])])
    ways = find_ways(to_313(package(LAMP, "1.0")), held, SERVICE)
    assert ways.conflict is None
    assert any("cannot be imported on Python 3.13" in n for s in ways.way("work").plan.stages for n in s.notes)


def test_a_pin_is_stopped_at_a_line_to_avoid_is_not_and_an_order_is_kept(packed: Knowledge) -> None:
    pinned = find_ways(to_313(shape=Shape(pins=(parse_target("python@3.11"),))), packed, SERVICE)
    assert moves(pinned, "work") == [["python 3.11"], ["python 3.13"]]
    dear = [finding("3.12", 4000)]
    free, kept = (
        find_ways(to_313(findings=dear, shape=Shape(avoid=avoid)), packed, SERVICE)
        for avoid in ((), (parse_target("python@3.11"),))
    )
    assert ["python 3.11"] in moves(free, "work")
    assert ["python 3.11"] not in moves(kept, "work")
    ordered = journey({PYTHON: ("3.8", "3.13"), LAMP: ("2.0", "3.0")}, shape=Shape(order=((PYTHON, LAMP),)))
    held = find_ways(ordered, world(packed, list(packed.catalogues.values()), [lifecycle(LAMP, [LineFacts(line="2.0"), LineFacts(line="3.0")])]), SERVICE)  # fmt: skip
    assert moves(held, "stages") == [["python 3.13"], ["lamp 3.0"]]


def test_a_part_left_out_comes_along_only_when_it_is_needed(packed: Knowledge) -> None:
    spans = {PYTHON: ("3.8", "3.13"), LAMP: ("1.0", "2.0")}
    lines = [LineFacts(line=x, runs_on=r) for x, r in (("1.0", ("3.8",)), ("2.0", ("3.9", "3.10")))]
    held = world(packed, [], [lifecycle(LAMP, lines)])
    ways = find_ways(journey(spans, shape=Shape(out=frozenset({PYTHON}))), held, SERVICE)
    (stage,) = ways.way("work").plan.stages
    assert {m.coordinate for m in stage.moves} == {PYTHON, LAMP}
    assert dict(stage.state)[PYTHON] in ("3.9", "3.10")


def test_a_pin_that_closes_the_way_is_named_and_can_be_released(packed: Knowledge) -> None:
    ways = find_ways(to_313(package(LAMP, "1.0"), shape=Shape(pins=(parse_target("pypi/lamp@1.0"),))), packed, SERVICE)
    assert any(c.grade == "asked" for c in ways.conflict.constraints)
    assert any(r.what == "pin" for r in ways.conflict.releases)


def test_what_a_package_loses_on_the_way_is_work_of_its_stage(packed: Knowledge) -> None:
    plain = find_ways(to_313(package(LAMP, "1.0")), packed, SERVICE).way("work").plan
    lost = [("2.0", "lamp.wick"), ("3.0", "lamp.wick")]
    broken = find_ways(to_313(package(LAMP, "1.0", lost)), packed, SERVICE).way("work").plan
    (stage,) = broken.stages
    assert len(stage.notes) == 1
    assert stage.notes[0].endswith("no longer has lamp.wick, used here")
    came_back = find_ways(to_313(package(LAMP, "1.0", lost[:1])), packed, SERVICE).way("work").plan
    assert came_back.stages[0].notes == ()
    assert broken.total.p50 > plain.total.p50


def offered(packed: Knowledge, around: Surroundings, work: list[Finding]) -> dict[str, Any]:
    ways = find_ways(to_313(findings=work), packed, around)
    found: dict[str, Any] = {w.strategy: w.plan for w in ways.ways if not w.objectives}
    found.update({r.strategy: r.reasons for r in ways.refused})
    found.update({o.strategy: o for o in ways.staying})
    return found


def test_every_strategy_is_offered_or_refused_with_a_reason(packed: Knowledge) -> None:
    found = offered(packed, SERVICE, [finding("3.12", 300, state="switch")])
    assert set(found) == {"dual-run", "parallel-copy", "piecewise", "fresh-base", "rework-first", "hold", "retire"}
    assert [s.title for s in found["dual-run"].stages] == ["both green", "switch", "clear switches"]
    assert [s.title for s in found["piecewise"].stages] == ["gateway in front", "routes move", "old side off"]
    assert [s.title for s in found["parallel-copy"].stages] == ["copy stands", "switch over"]
    assert "no trace of a generated starting point" in found["fresh-base"][0]
    assert "has been without support since" in found["hold"][0]


def test_strategies_follow_from_what_is_around_the_code(packed: Knowledge) -> None:
    around = Surroundings(known=0.4, tests=0, serves=(), generated=("angular.json",), used_by=("till",))
    found = offered(packed, around, [finding("3.12", 300)])
    assert "till" in found["parallel-copy"][0]
    assert "till" in found["retire"][0]
    assert "no web framework" in found["piecewise"][0]
    assert found["fresh-base"].stages[0].title == "new base"
    assert any("only 40%" in reason for reason in found["rework-first"].reasons)
    assert any("no tests" in reason for reason in found["rework-first"].reasons)
    nothing = offered(packed, SERVICE, [])
    assert "can be made today" in nothing["dual-run"][0]


def test_a_supported_line_may_be_held_until_its_last_day(packed: Knowledge) -> None:
    ways = find_ways(journey({PYTHON: ("3.12", "3.13")}), packed, SERVICE)
    (hold,) = [o for o in ways.staying if o.strategy == "hold"]
    assert hold.until == packed.line_facts(PYTHON, Line("3.12")).support_ends


def test_arrived_already_has_no_ways_and_no_conflict(packed: Knowledge) -> None:
    ways = find_ways(journey({PYTHON: ("3.13", "3.13")}), packed, SERVICE)
    assert (ways.ways, ways.conflict) == ((), None)


def test_the_written_forms_say_the_same(packed: Knowledge) -> None:
    ways = find_ways(to_313(package(LAMP, "1.0"), findings=[finding("3.12", 4000)]), packed, SERVICE)
    rows = ways_json("", ways, OBJECTIVES)
    assert {r["objective"] for r in rows} == {"work", "stages", "danger", None}
    best = next(r for r in rows if r["objective"] == "work")
    assert json.loads(json.dumps(best)) == best
    last = best["stages"][-1]
    assert last["state"]["pkg:pypi/lamp"] == {"line": "3.0", "release": "3.0"}
    assert set(best["arrival"]) == {"p50", "p80"}
    assert conflict_json(ways) is None
    assert all(r["reasons"] for r in refused_json(ways))
    table = list(csv.DictReader(io.StringIO(ways_csv(ways))))
    assert {"way", "stage", "coordinate", "line", "release"} <= set(table[0])
    way = ways.way("work")
    assert ways_mermaid(way.plan, packed.spoken).startswith("flowchart LR\n")
    assert "python 3.13" in ways_mermaid(way.plan, packed.spoken).lower()
    page = ways_markdown("berth | planner", way, {}, ways.problem.journey.today, packed.spoken)
    assert page.startswith("# berth | planner: ")
    assert "| before |" in page
    shown = ways_text("web", ways, OBJECTIVES)
    assert shown.startswith("web\n")
    assert "Why this one: " in shown
    assert "not possible" not in shown
    assert "not possible" in ways_text("web", ways, OBJECTIVES, every=True)


def test_what_no_scan_sees_costs_days_for_lines_and_for_majors_of_a_framework_and_spreads_them(
    knowledge: Knowledge,
) -> None:
    known = world(knowledge, (), (knowledge.lifecycles[Coordinate("pkg:pypi/django")],))
    table = known.effort
    alone = least_work(to_313(), known)
    assert alone.total.p50 == pytest.approx(table.stage_base_days + 5 * table.unseen.line_days, rel=0.06)
    assert alone.total.p80 > 1.4 * alone.total.p50
    django = journey({Coordinate("pkg:pypi/django"): ("3.2", "5.2")})
    plan = least_work(django, known)
    crossed = sum(stage.lines_crossed for stage in plan.stages)
    seen = len(plan.stages) * table.stage_base_days + crossed * table.unseen.line_days + 2 * table.unseen.major_days
    assert plan.total.p50 == pytest.approx(seen, rel=0.06)
    tested = least_work(replace(django, around=Surroundings(known=1.0, tests=9)), known)
    assert tested.total.p80 < least_work(replace(django, around=Surroundings(known=0.3, tests=0)), known).total.p80


def test_every_way_pays_for_the_lines_it_crosses(packed: Knowledge) -> None:
    table = packed.effort
    ways = find_ways(to_313(package(LAMP, "1.0")), packed, SERVICE)
    least = table.stage_base_days + 5 * table.unseen.line_days
    assert len(ways.ways) > 1
    assert all(way.plan.total.p50 > 0.93 * least for way in ways.ways)
    assert all(way.plan.total.p80 > 1.2 * way.plan.total.p50 for way in ways.ways)


def test_a_move_of_one_line_costs_what_bites_there(packed: Knowledge) -> None:
    """3.9 brings the change; the move to the very next line pays for it as any longer one does."""
    (track,) = pose_problem(journey({PYTHON: ("3.8", "3.13")}, (), [finding("3.9", 480)]), packed).space.tracks
    at = track.lines.index(Line("3.9"))
    assert track.edits[0][at] == track.edits[0][at + 1] > 0
    assert track.edits[at][at + 1] == 0


def test_an_order_that_closes_the_way_is_named(packed: Knowledge) -> None:
    """lamp 1 ends with Python 3.9, so Python cannot arrive before lamp moves."""
    first = Shape(order=((PYTHON, LAMP),))
    ways = find_ways(journey({PYTHON: ("3.8", "3.13"), LAMP: ("1.0", "3.0")}, shape=first), packed, SERVICE)
    assert not [way for way in ways.ways if way.objectives]
    assert "python is to arrive before pypi/lamp moves" in {c.text for c in ways.conflict.constraints}


def test_a_copy_spares_half_of_what_telling_changes_apart_costs(packed: Knowledge) -> None:
    work = [finding("3.12", 4800)]
    ways = find_ways(to_313(findings=work), packed, SERVICE)
    table = packed.effort
    straight, copied = (ways.way(name).plan.stages[0] for name in ("direct", "parallel-copy"))
    crossed = straight.lines_crossed
    assert crossed > 1
    alone = 4800 / table.minutes_per_day
    spared = alone * table.kappa * (crossed - 1) / 2
    apart = copied.effort.p50 - straight.effort.p50
    assert apart == pytest.approx(table.ways.copy_days - spared, rel=0.35)


def test_the_release_of_a_package_is_work_of_the_stage_in_which_that_moves(packed: Knowledge) -> None:
    """Whatever line of the runtime it was found against."""
    due = replace(finding("3.13", 300), kind="package", symbol="release lamp")
    dear = [finding("3.10", 6000), finding("3.12", 6000, key="later")]
    plan = least_work(to_313(package(LAMP, "1.0"), findings=[due, *dear]), packed)
    (at,) = [stage for stage in plan.stages if due.key in stage.finding_keys]
    assert LAMP in {m.coordinate for m in at.moves}
    assert at.number < len(plan.stages)
