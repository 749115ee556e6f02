"""Tests on two sides: each verdict follows from the outcomes, and nothing else."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yoake.core.proof.comparing import compare, counted, verdict
from yoake.core.values.runs import WHOLE, Command, Run, RunEnd, Side, TestOutcome, TestResult

OUTCOMES = st.sampled_from(["passed", "failed", "skipped"])
ROWS = st.lists(OUTCOMES, max_size=3)


def ran(*tests: tuple[str, TestOutcome], ended: RunEnd = "passed", note: str = "") -> Run:
    made = tuple(TestResult(name, outcome, note) for name, outcome in tests)
    return Run(Side("side", {}), Command("tests", ("python", "-m", "unittest")), ended, 0, 1.0, tests=made)


@pytest.mark.parametrize(
    ("old", "new", "expected"),
    [
        (["passed"], ["passed"], "both"),
        (["skipped"], ["skipped"], "both"),
        (["passed"], ["failed"], "breaks"),
        (["failed"], ["failed"], "broke before"),
        (["failed"], ["passed"], "broke before"),
        (["failed"], [], "broke before"),
        (["passed"], [], "gone"),
        (["passed"], ["skipped"], "gone"),
        ([], ["passed"], "new"),
        ([], ["failed"], "new"),
        (["skipped"], ["passed"], "new"),
        (["passed"], ["failed", "passed"], "flaky"),
        (["failed", "passed"], ["passed"], "flaky"),
    ],
)
def test_each_verdict(old: list[TestOutcome], new: list[TestOutcome], expected: str) -> None:
    assert verdict(old, new) == expected


@given(ROWS, ROWS)
def test_only_a_test_that_passed_every_time_it_ran_before_can_break(
    old: list[TestOutcome], new: list[TestOutcome]
) -> None:
    if verdict(old, new) == "breaks":
        assert {o for o in old if o != "skipped"} == {"passed"}
        assert {o for o in new if o != "skipped"} == {"failed"}


@given(st.dictionaries(st.sampled_from("abcdef"), OUTCOMES), st.dictionaries(st.sampled_from("abcdef"), OUTCOMES))
def test_every_test_of_either_side_stands_there_once(old: dict[str, TestOutcome], new: dict[str, TestOutcome]) -> None:
    # a command of which no test is known stands for one by itself, so both sides have some here
    found = compare([ran(("z", "passed"), *old.items())], [ran(("z", "passed"), *new.items())])
    assert [t.name for t in found] == sorted({"z", *old, *new})
    assert sum(counted(found).values()) == len(found)


def test_what_went_wrong_is_told_beside_the_test() -> None:
    found = compare([ran(("a", "passed"))], [ran(("a", "failed"), note="AttributeError: gone")])
    assert (found[0].verdict, found[0].note) == ("breaks", "AttributeError: gone")


def test_a_command_that_tells_of_no_test_is_compared_as_a_whole() -> None:
    found = compare([ran()], [ran(ended="failed")])
    assert [(t.name, t.verdict) for t in found] == [(WHOLE, "breaks")]


def test_a_side_that_never_ran_tells_nothing_of_its_tests() -> None:
    found = compare([ran(("a", "passed"))], [ran(ended="refused")])
    assert [(t.name, t.verdict) for t in found] == [("a", "gone")]


def test_of_several_tests_of_one_name_the_one_that_failed_counts() -> None:
    found = compare([ran(("a", "passed"))], [ran(("a", "failed"), ("a", "passed"))])
    assert found[0].verdict == "breaks"
