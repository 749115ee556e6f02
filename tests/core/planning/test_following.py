"""An adopted path over time, the sheet of a stage, and what a library must bridge."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest

from tests.core.planning.world import LAMP, ROPE, facts, finding, journey, package, record, world
from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.frameworks.django.names import DJANGO
from yoake.core.knowledge.base import Knowledge
from yoake.core.planning.adopted_plan import dearer, follow
from yoake.core.planning.checklist import Ground, checklist_of
from yoake.core.planning.compare import find_ways, least_work
from yoake.core.planning.plan import combined
from yoake.core.planning.problem import pose_problem
from yoake.core.planning.shared_library import bridges
from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.effort import Effort
from yoake.core.values.journeys import Surroundings
from yoake.core.values.plans import LineSlack, Move, Plan, Stage

AROUND = Surroundings(known=0.9, tests=1, serves=(), generated=(), used_by=())
WORK = [finding("3.10", 6000), finding("3.12", 6000, key="later")]


@pytest.fixture(scope="module")
def packed(knowledge: Knowledge) -> Knowledge:
    lamps = [facts("1.0", runs="3.8 3.9"), facts("2.0"), facts("3.0")]
    return world(knowledge, [record(LAMP, lamps), record(ROPE, [facts("1.0", needs={"lamp": "<3"})])])


def trip(today: str = "3.8", **how):
    return journey({PYTHON: (today, "3.13")}, [package(LAMP, how.pop("lamp", "1.0"))], how.pop("work", WORK))


@pytest.fixture
def taken(packed: Knowledge) -> Plan:
    plan = least_work(trip(), packed)
    assert len(plan.stages) > 1
    return plan


def test_an_adopted_path_is_kept_as_long_as_nothing_moves_under_it(packed: Knowledge, taken: Plan) -> None:
    found = follow(pose_problem(trip(), packed), taken)
    assert (found.finished, found.moved) == ((), ())
    assert found.plan is not None
    assert [s.moves for s in found.plan.stages] == [s.moves for s in taken.stages]


def test_a_stage_that_was_reached_is_finished_and_the_rest_goes_on(packed: Knowledge, taken: Plan) -> None:
    reached = dict(taken.stages[0].state)
    later = trip(reached[PYTHON], lamp=f"{reached[LAMP]}")
    found = follow(pose_problem(later, packed), taken)
    assert found.finished == taken.stages[:1]
    assert found.plan is not None
    assert [s.moves for s in found.plan.stages] == [s.moves for s in taken.stages[1:]]
    assert not any("stands on" in text for text in found.moved)


def test_lines_that_moved_elsewhere_and_changes_that_came_are_said(packed: Knowledge, taken: Plan) -> None:
    at = dict(taken.stages[0].state)
    passed = trip(at[PYTHON], lamp="1.0", work=[*WORK, finding("3.13", 30, key="new")])
    first = replace(taken, stages=taken.stages[1:])  # a path that never meant to stop there
    found = follow(pose_problem(passed, packed), first)
    assert f"Python stands on {at[PYTHON]}; the path counted from 3.8" in found.moved
    assert "1 change came since the path was taken" in found.moved


def test_a_state_that_no_longer_stands_ends_the_path_and_names_the_constraint(
    knowledge: Knowledge, taken: Plan
) -> None:
    lamps = [facts("1.0", runs="3.8 3.9"), facts("2.0", runs="3.8"), facts("3.0", runs="3.8")]
    found = follow(pose_problem(trip(), world(knowledge, [record(LAMP, lamps)])), taken)
    assert found.plan is None
    assert any("does not stand any more: lamp" in text for text in found.moved)


def test_a_strategy_that_names_its_stages_is_made_anew(packed: Knowledge) -> None:
    ways = find_ways(trip(), packed, AROUND)
    copy = ways.way("parallel-copy").plan
    assert follow(ways.problem, copy, titled=copy).plan == copy
    assert follow(ways.problem, copy).plan is None


def test_a_new_plan_is_offered_only_when_it_saves_something(taken: Plan) -> None:
    cheaper = replace(taken, total=Effort(taken.total.p50 - 2, taken.total.p80 - 2))
    assert dearer(taken, cheaper) == "a new search finds a path with 2.0 days less work"
    assert dearer(taken, taken) == ""


def test_plans_of_several_sets_follow_one_another(taken: Plan) -> None:
    both = combined([("web", taken), ("jobs", taken)])
    assert [s.number for s in both.stages] == list(range(1, 2 * len(taken.stages) + 1))
    assert {s.group for s in both.stages} == {"web", "jobs"}
    reached = [s.reached.p50 for s in both.stages]
    assert reached == sorted(reached)
    assert both.total.p50 == pytest.approx(2 * taken.total.p50)


GROUND = Ground(
    tests=2,
    kind="git",
    owner="",
    team="",
    pins=(("Dockerfile", 1, PYTHON, "3.8"),),
    manifests=("requirements.txt", "poetry.lock"),
    scanned=40,
)


def stage(*moves: Move, keys: tuple[str, ...] = (), number: int = 2) -> Stage:
    nothing = Effort(0, 0)
    return Stage(
        number=number,
        moves=moves,
        state=tuple((m.coordinate, m.goal) for m in moves),
        reasons=(),
        finding_keys=keys,
        lines_crossed=1,
        effort=nothing,
        reached=nothing,
    )


def test_every_item_of_a_sheet_names_its_evidence(knowledge: Knowledge) -> None:
    sheet = checklist_of(stage(Move(PYTHON, Line("3.8"), Line("3.12")), keys=("k",)), {}, GROUND, knowledge)
    for item in (*sheet.needs, *sheet.after, *sheet.gate):
        assert item.evidence
    needs = {item.text: item.evidence for item in sheet.needs}
    assert needs["Python 3.12 where it is built, tested and run"] == "named in Dockerfile:1"
    assert needs["stage 1 has passed its gate"]
    assert "someone who does it" in needs
    assert any("poetry.lock" in item.text for item in sheet.after)
    assert any("images" in item.text for item in sheet.after)
    assert any("tests pass on Python 3.12" in item.text for item in sheet.gate)


def test_items_without_evidence_are_not_there(knowledge: Knowledge) -> None:
    bare = replace(GROUND, tests=0, kind="folder", owner="Jo", pins=(), manifests=())
    sheet = checklist_of(stage(Move(DJANGO, Line("3.2"), Line("4.2")), number=1), {}, bare, knowledge)
    shown = " ".join(item.text for item in (*sheet.needs, *sheet.after, *sheet.gate))
    assert "commit" not in shown
    assert "someone" not in shown
    assert "images" not in shown
    assert "by hand" in shown


def test_what_knowledge_lists_and_the_code_does_not_need_stands_apart(knowledge: Knowledge) -> None:
    rules = [r for r in knowledge.rule_files[DJANGO].rules if r.at in ("4.0", "4.1", "4.2")]
    move = Move(DJANGO, Line("3.2"), Line("4.2"))
    sheet = checklist_of(stage(move), {}, GROUND, knowledge)
    assert 0 < len(sheet.not_needed) <= len(rules)
    met = finding("4.0", coordinate=DJANGO)
    subject = rules[0].symbol or rules[0].setting or rules[0].absent or ""
    fewer = checklist_of(stage(move), {"k": replace(met, symbol=subject)}, GROUND, knowledge)
    assert len(fewer.not_needed) == len(sheet.not_needed) - 1 or len(rules) > len(sheet.not_needed)


def slack(line: Line, left: date | None, coordinate: Coordinate = PYTHON) -> LineSlack:
    return LineSlack(
        coordinate=coordinate, line=line, support_ends=None, since50=None, left50=left, left80=left, slack=None
    )


def test_a_library_serves_a_line_until_the_last_user_leaves_it() -> None:
    users = [
        ("till", [slack(Line("3.8"), date(2027, 1, 1)), slack(Line("3.13"), None)]),
        ("desk", [slack(Line("3.8"), date(2027, 3, 1)), slack(Line("4.2"), date(2027, 2, 1), DJANGO)]),
    ]
    found = {(str(b.coordinate), str(b.line)): b for b in bridges(users, frozenset({PYTHON}))}
    assert found[PYTHON, "3.8"].until == date(2027, 3, 1)
    assert found[PYTHON, "3.8"].users == ("desk", "till")
    assert found[PYTHON, "3.13"].until is None
    assert all(coordinate == PYTHON for coordinate, _ in found)


def test_names_that_begin_to_warn_are_told_where_what_warns_moves(knowledge: Knowledge) -> None:
    warns = {
        "lamp": replace(finding("3.12", coordinate=LAMP), kind="deprecated", title="lamp.glow"),
        "python": replace(finding("3.12"), kind="deprecated", title="imp.reload"),
    }
    sheet = checklist_of(stage(Move(PYTHON, Line("3.8"), Line("3.12")), keys=tuple(warns)), warns, GROUND, knowledge)
    told = [item.text for item in sheet.after if "to warn" in item.text]
    assert told == ["1 name in use begins to warn: imp.reload"]
    assert "a scan reads these lines as today's" in {item.text for item in sheet.gate}


def test_a_stage_is_reached_by_what_is_still_there(packed: Knowledge, taken: Plan) -> None:
    """The lamp is gone from the application; Python alone says that the stage was reached."""
    reached = dict(taken.stages[0].state)
    later = journey({PYTHON: (reached[PYTHON], "3.13")}, (), WORK)
    assert follow(pose_problem(later, packed), taken).finished[:1] == taken.stages[:1]
