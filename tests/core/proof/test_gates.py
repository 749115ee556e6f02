"""A gate opens on evidence that is there and fresh, and says what is missing otherwise."""

from __future__ import annotations

from dataclasses import replace

import pytest

from yoake.core.proof.gates import CheckEvidence, Look, RouteEvidence, RunEvidence, StageFacts, gate_of, is_proven
from yoake.core.proof.test_groups import MOST_GROUPS, OTHERS, groups_of
from yoake.core.values.runs import Compared

RUN = RunEvidence(at="2026-11-20", who="Inés", counts={"both": 4}, problem="", content="commit:a")
LOOK = Look(finding="key", who="Ines Calder", note="sorted otherwise", at="2026-11-21", places=2, files=("a.py",))
CHECK = CheckEvidence("tide-lint", 0, "commit:a", "2026-11-22", "build 214")
PROVEN = StageFacts(
    changes=0,
    behaviours={"key": (2, ("a.py",))},
    looks={"key": LOOK},
    run=RUN,
    content="commit:a",
    scanned_at="2026-11-22",
    tests=3,
)


def states(facts: StageFacts) -> list[str]:
    return [item.state for item in gate_of(facts)]


def test_a_stage_with_all_its_evidence_is_proven() -> None:
    assert states(PROVEN) == ["there", "there", "there", "not needed"]
    assert states(replace(PROVEN, checks=(CHECK,)))[3] == "there"
    assert is_proven(gate_of(PROVEN))
    moved = replace(PROVEN, routes=RouteEvidence(moved=3, whole=3, at="2026-11-23", who="Inés"))
    assert (states(moved)[4], gate_of(moved)[4].said) == ("there", "all 3 on the new side")
    assert is_proven(gate_of(moved))


@pytest.mark.parametrize(
    ("changed", "item", "state", "said"),
    [
        ({"changes": 2}, 0, "not yet", "2 changes left"),
        ({"run": None}, 1, "not yet", "not run yet"),
        ({"run": None, "tests": 0}, 1, "not yet", "no tests here: run what there is"),
        ({"run": replace(RUN, problem="today: no such Python")}, 1, "not yet", "today: no such Python"),
        ({"content": "commit:b"}, 1, "stale", "the code moved on since"),
        ({"run": replace(RUN, moved_on=True)}, 1, "stale", "the code moved on since"),
        ({"run": replace(RUN, counts={"both": 4, "breaks": 1})}, 1, "breaks", "1 test breaks"),
        ({"run": replace(RUN, counts={"broke before": 4})}, 1, "not yet", "no test passes on both sides"),
        ({"run": replace(RUN, counts={"both": 4, "gone": 2})}, 1, "part", "2 no longer run"),
        ({"looks": {}}, 2, "not yet", "1 to look at"),
        ({"checks": (replace(CHECK, errors=2),)}, 3, "breaks", "2 errors of tide-lint"),
        ({"checks": (replace(CHECK, content="commit:b"),)}, 3, "stale", "tide-lint: the code moved on since"),
        ({"routes": RouteEvidence(moved=0, whole=3)}, 4, "not yet", "0 of 3 on the new side"),
        ({"routes": RouteEvidence(moved=2, whole=3)}, 4, "part", "2 of 3 on the new side"),
        (
            {"routes": RouteEvidence(moved=0, whole=0, problem="the crossing has not begun")},
            4,
            "not yet",
            "the crossing has not begun",
        ),
        ({"behaviours": {"key": (3, ("a.py",))}}, 2, "stale", "1 changed since"),
        ({"behaviours": {"key": (2, ("a.py",)), "other": (1, ())}}, 2, "part", "1 of 2 to look at"),
    ],
)
def test_what_is_missing_keeps_it_shut_and_is_said(
    changed: dict[str, object], item: int, state: str, said: str
) -> None:
    items = gate_of(replace(PROVEN, **changed))  # type: ignore[arg-type]
    assert (items[item].state, items[item].said) == (state, said)
    assert not is_proven(items)


def test_a_stage_without_changed_behaviour_needs_no_look() -> None:
    facts = replace(PROVEN, behaviours={}, looks={})
    assert states(facts)[2] == "not needed"
    assert is_proven(gate_of(facts))


def named(*names: str) -> list[Compared]:
    return [Compared(name, "passed", "passed", "both") for name in names]


def test_tests_stand_with_the_module_they_are_about() -> None:
    found = groups_of(
        named("tests.test_berths.Case::test_a", "tests.test_berths::test_b", "harbour.tariffs.tests.ImportTest.test_c")
    )
    assert {name: len(held) for name, held in found.items()} == {"berths": 2, "harbour.tariffs": 1}


def test_there_are_never_more_groups_than_can_be_seen_and_no_test_is_lost() -> None:
    tests = named(*(f"m{n}.x::test" for n in range(40)), "m1.x::other")
    found = groups_of(tests)
    assert len(found) == MOST_GROUPS
    assert OTHERS in found
    assert sum(map(len, found.values())) == len(tests)
    deep = groups_of(named(*(f"app.part{n % 3}.module{n}::test" for n in range(40))))
    assert set(deep) == {"app.part0", "app.part1", "app.part2"}
