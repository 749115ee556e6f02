"""What is said of a stage, and of what closes the way: in which order, and that each of it is needed."""

from __future__ import annotations

import pytest

from tests.core.planning.world import LAMP, NODE, ROPE, SAIL, facts, journey, lifecycle, package, record, world
from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.compatibility import Constraint
from yoake.core.knowledge.models import LineFacts
from yoake.core.planning import explain
from yoake.core.planning.compare import find_ways
from yoake.core.planning.conflict import conflicting, explain_conflict
from yoake.core.planning.explain import cell_reason, reasons_of, tied_constraints
from yoake.core.planning.problem import Problem, pose_problem
from yoake.core.values.coordinates import Line, parse_target
from yoake.core.values.journeys import Shape, Surroundings
from yoake.core.values.words import ConstraintGrade


@pytest.fixture(scope="module")
def problem(knowledge: Knowledge) -> Problem:
    """Python and Node travel; the lamp has to leave its line with Python, the rope says that it runs, nothing is known of the sail."""
    lamps = [facts("1.0", runs="3.8 3.9 3.10"), facts("2.0")]
    held = world(knowledge, [record(LAMP, lamps), record(ROPE, [facts("1.0")]), record(SAIL, [facts("1.0.0")])])
    trip = journey(
        {PYTHON: ("3.8", "3.13"), NODE: ("18", "22")},
        [package(LAMP, "1.0"), package(ROPE, "1.0"), package(SAIL, "1.0.0")],
    )
    return pose_problem(trip, held)


def state(problem: Problem, **lines: str) -> tuple[int, ...]:
    """Today's state, with some coordinates on other lines, by the last part of their names."""
    return tuple(
        track.lines.index(Line(lines[name])) if (name := track.coordinate.rpartition("/")[2]) in lines else 0
        for track in problem.space.tracks
    )


def at(problem: Problem, name: str) -> int:
    return next(c for c, t in enumerate(problem.space.tracks) if t.coordinate.rpartition("/")[2] == name)


def test_what_ties_a_stage_is_told_by_how_sure_it_is_and_each_once(
    problem: Problem, monkeypatch: pytest.MonkeyPatch
) -> None:
    grades: tuple[ConstraintGrade, ...] = ("observed", "stated", "tried", "hard")
    said = [Constraint(LAMP, PYTHON, grade, f"{word} {grade}", "") for grade in grades for word in ("b", "a")]
    monkeypatch.setattr(explain, "against_staying", lambda *_: said)
    told = tied_constraints(problem, state(problem), state(problem, python="3.13", lamp="2.0"))
    assert [c.text for c in told] == [f"{word} {grade}" for grade in reversed(grades) for word in ("a", "b")]


def test_each_cell_says_why_it_stands_where_it_stands(problem: Problem) -> None:
    here, there = state(problem), state(problem, python="3.13", lamp="2.0")
    said = {name: cell_reason(problem, here, there, at(problem, name)) for name in ("python", "node", "lamp", "rope")}
    assert said["python"].text == "the destination; nothing ties it to another move"
    assert (said["lamp"].grade, said["lamp"].text) == ("hard", "lamp 1.0 needs Python 3.8 3.9 3.10")
    assert said["node"].text == "stays: nothing known speaks against it; support is not stated"
    assert said["rope"].text == "stays: nothing known speaks against it; support is not stated"
    later = cell_reason(problem, there, state(problem, python="3.13", lamp="2.0", node="20"), at(problem, "node"))
    assert later.text == "a stop on the way; nothing ties it to another move"
    assert cell_reason(problem, there, there, at(problem, "python")).text == "has arrived"
    assert cell_reason(problem, here, state(problem, lamp="2.0"), at(problem, "lamp")).text == (
        "moves here because a later stage would cost more with it"
    )


def test_goals_that_share_a_stage_without_need_say_so(problem: Problem) -> None:
    together = "together: neither needs the other, and one stage costs less than two"
    here = state(problem)
    both = reasons_of(problem, here, state(problem, python="3.13", node="22", lamp="2.0"))
    assert both[:2] == ("Node 22 is the destination", "Python 3.13 is the destination")
    assert "lamp 1.0 needs Python 3.8 3.9 3.10" in both
    assert together in both
    assert together not in reasons_of(problem, here, state(problem, python="3.13", lamp="2.0"))
    assert "Node 20 is a long-term line" in reasons_of(problem, here, state(problem, node="20"))


def conflict_of(held: Knowledge, shape: Shape, **lines: str) -> tuple[list[str], list[str]]:
    """(texts of what is told, of what would open a way) for lamp and rope on 1.0 under Python 3.8 to 3.13."""
    trip = journey({PYTHON: ("3.8", "3.13")}, [package(LAMP, "1.0"), package(ROPE, "1.0")], (), shape)
    found = explain_conflict(pose_problem(trip, held))
    return [c.text for c in found.constraints], [r.text for r in found.releases]


def test_only_what_closes_the_way_is_told(knowledge: Knowledge) -> None:
    """The rope needs nothing that is lost; the policy of the lamp would forbid no step that is there to take."""
    lamps = [facts("1.0", runs="3.8 3.9"), facts("2.0", runs="3.8 3.9 3.10")]
    policy = lifecycle(LAMP, [LineFacts(line="1.0"), LineFacts(line="2.0")], "next-major")
    held = world(knowledge, [record(LAMP, lamps), record(ROPE, [facts("1.0"), facts("2.0")])], [policy])
    told, opens = conflict_of(held, Shape(avoid=(parse_target("pypi/rope@2.0"),)))
    assert told == ["lamp 2.0 needs Python 3.8 3.9 3.10"]
    assert "arrive at python 3.10 instead of 3.13" in opens
    assert "replace pypi/lamp by another package, carry it yourself, or drop it" in opens
    assert not [text for text in opens if "rope" in text]


def test_each_of_two_lines_that_were_asked_for_can_be_released_alone(knowledge: Knowledge) -> None:
    lamps = [facts("1.0", runs="3.8 3.9"), facts("2.0", runs="3.8 3.9"), facts("3.0")]
    held = world(knowledge, [record(LAMP, lamps), record(ROPE, [facts("1.0")])])
    two = Shape(pins=(parse_target("pypi/lamp@2.0"), parse_target("python@3.10")))
    told, opens = conflict_of(held, two)
    assert "pypi/lamp@2.0 is pinned" in told
    assert "python@3.10 is pinned" not in told
    assert "no longer pin pypi/lamp@2.0" in opens
    assert "no longer pin python@3.10" not in opens
    avoided = Shape(avoid=(parse_target("pypi/lamp@3.0"), parse_target("python@3.11")))
    told, opens = conflict_of(held, avoided)
    assert "pypi/lamp@3.0 is to be avoided" in told
    assert "no longer avoid pypi/lamp@3.0" in opens
    assert not [text for text in (*told, *opens) if "python@3.11" in text]


def test_a_package_that_was_dropped_stays_dropped_while_others_are_tried(knowledge: Knowledge) -> None:
    """Both block: without the rope, which is dropped already, only the lamp is in the way."""
    blocked = [facts("1.0", runs="3.8 3.9")]
    held = world(knowledge, [record(LAMP, blocked), record(ROPE, blocked)])
    trip = journey(
        {PYTHON: ("3.8", "3.13")}, [package(LAMP, "1.0"), package(ROPE, "1.0")], (), Shape(dropped=frozenset((ROPE,)))
    )
    made = pose_problem(trip, held)
    assert [c.text for c in conflicting(made)] == ["lamp 1.0 needs Python 3.8 3.9"]
    opens = [r.text for r in explain_conflict(made).releases]
    assert "replace pypi/lamp by another package, carry it yourself, or drop it" in opens


def test_a_line_that_two_steps_lead_past_is_a_policy(knowledge: Knowledge) -> None:
    """Only with every jump allowed there would be a way: the policy belongs to what closes it, by name and by both lines."""
    lines = [LineFacts(line=f"{n}.0") for n in (1, 2, 3)]
    held = world(
        knowledge, [record(LAMP, [facts("1.0"), facts("2.0"), facts("3.0")])], [lifecycle(LAMP, lines, "next-major")]
    )
    trip = journey({LAMP: ("1.0", "3.0")}, (), (), Shape(avoid=(parse_target("pypi/lamp@2.0"),)))
    found = explain_conflict(pose_problem(trip, held))
    assert [c.text for c in found.constraints] == [
        "pypi/lamp@2.0 is to be avoided",
        "lamp supports one major line at a time (made-up lifecycle)",
    ]
    assert found.releases[0].text == "no longer avoid pypi/lamp@2.0"


def test_what_binds_on_some_lines_of_the_runtime_only_decides_who_moves_with_it(knowledge: Knowledge) -> None:
    """The rope wants the old lamp up to Python 3.9 and the new one from 3.10 on: one stage moves Python and the lamp, and says why."""
    ropes = [
        facts(
            "1.0",
            needs_when=(("lamp", "<2", 'python_version < "3.10"'), ("lamp", ">=2", 'python_version >= "3.10"')),
        )
    ]
    held = world(knowledge, [record(LAMP, [facts("1.0"), facts("2.0")]), record(ROPE, ropes)])
    trip = journey({PYTHON: ("3.8", "3.13")}, [package(LAMP, "1.0"), package(ROPE, "1.0")])
    made = pose_problem(trip, held)
    places = {name: at(made, name) for name in ("python", "lamp", "rope")}
    assert made.space.triples
    for line, lamp, stands in (
        ("3.8", "1.0", True),
        ("3.8", "2.0", False),
        ("3.13", "1.0", False),
        ("3.13", "2.0", True),
    ):
        assert made.space.stands(state(made, python=line, lamp=lamp)) is stands, (line, lamp)
    ways = find_ways(trip, held, Surroundings(known=1.0, tests=1))
    work = ways.way("work")
    assert work is not None
    (stage,) = work.plan.stages
    assert {m.coordinate for m in stage.moves} == {PYTHON, LAMP}
    assert "rope 1.0 needs lamp >=2" in {c.text for c in stage.constraints}
    assert places["rope"] not in {places[m.coordinate.rpartition("/")[2]] for m in stage.moves}


def test_what_two_that_stay_break_today_already_is_not_held_against_the_runtime(knowledge: Knowledge) -> None:
    """A condition that holds on every line is a plain requirement; what runs today without it runs."""
    ropes = [facts("1.0", needs_when=(("lamp", ">=2", 'python_version >= "3.6"'),))]
    held = world(
        knowledge, [record(LAMP, [facts("1.0"), facts("2.0"), facts("3.0")]), record(ROPE, [*ropes, facts("2.0")])]
    )
    trip = journey({PYTHON: ("3.8", "3.13")}, [package(LAMP, "1.0"), package(ROPE, "1.0")])
    made = pose_problem(trip, held)
    assert made.space.triples == {}
    assert made.space.stands(state(made, python="3.13"))
    assert made.space.stands(state(made, python="3.13", lamp="2.0"))
    assert not made.broken(at(made, "lamp"), 0, at(made, "rope"), 0, Line("3.13"))
