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
    return Run(
        side=Side("side", {}),
        command=Command(name="tests", words=("python", "-m", "unittest")),
        ended=ended,
        code=0,
        seconds=1.0,
        tests=made,
    )


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


def test_tests_of_a_module_that_cannot_be_imported_any_more_break_with_it() -> None:
    old = ran(("tests.test_a.Case::test_b", "passed"), ("tests.test_b::test_c", "passed"))
    found = compare(
        [old], [ran(("tests.test_a", "failed"), ("tests.test_b::test_c", "passed"), note="ImportError: gone")]
    )
    assert [(t.name, t.verdict, t.note) for t in found] == [
        ("tests.test_a.Case::test_b", "breaks", "ImportError: gone"),
        ("tests.test_b::test_c", "both", "ImportError: gone"),
    ]


def test_so_do_those_that_unittest_cannot_load() -> None:
    old = ran(("berths.tests.Case.test_b", "passed"))
    found = compare([old], [ran(("unittest.loader._FailedTest.berths.tests", "failed"))])
    assert [(t.name, t.verdict) for t in found] == [("berths.tests.Case.test_b", "breaks")]


def test_a_command_that_fails_before_its_first_test_breaks_all_of_them() -> None:
    found = compare([ran(("a", "passed"), ("b", "failed"))], [ran(ended="failed")])
    assert [(t.name, t.verdict) for t in found] == [("a", "breaks"), ("b", "broke before")]
