"""JUnit XML: what runners write is read, what would harm is refused with words, and what is written is read again."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yoake.core.values.errors import BadInput
from yoake.core.values.runs import TestResult
from yoake.formats import junit
from yoake.formats.junit import read_junit, write_junit

_PYTEST = b"""<?xml version="1.0" encoding="utf-8"?><testsuites><testsuite name="pytest" tests="4">
<testcase classname="tests.test_a.Case" name="test_fine" time="0.25"/>
<testcase classname="tests.test_a" name="test_off"><skipped message="not here">why</skipped></testcase>
<testcase classname="tests.test_a" name="test_bad"><failure message="assert 1 == 2&#10;more">trace</failure></testcase>
<testcase classname="" name="tests.test_b"><error message="collection failure">t.py:1
E   ImportError: no imp</error></testcase>
</testsuite></testsuites>"""


def test_what_pytest_writes() -> None:
    assert read_junit(_PYTEST, "results") == [
        TestResult("tests.test_a.Case::test_fine", "passed", "", 0.25),
        TestResult("tests.test_a::test_off", "skipped"),
        TestResult("tests.test_a::test_bad", "failed", "assert 1 == 2"),
        TestResult("tests.test_b", "failed", "ImportError: no imp"),
    ]


def test_what_the_runner_of_node_writes_one_suite_in_another() -> None:
    body = b'<testsuites><testsuite name="a"><testsuite name="b"><testcase name="c" classname="test" time="1e9"/></testsuite></testsuite></testsuites>'
    assert read_junit(body, "results") == [TestResult("test::c", "passed", "", 0.0)]


@pytest.mark.parametrize(
    ("body", "words"),
    [
        (b"", "no whole XML"),
        (b"<testsuite><testcase>", "no whole XML"),
        (b"<html></html>", "no JUnit XML"),
        (b'<!DOCTYPE x [<!ENTITY a "b">]><testsuite><testcase name="&a;"/></testsuite>', "document type"),
        (b'<!DOCTYPE x SYSTEM "file:///etc/passwd"><testsuite/>', "document type"),
    ],
)
def test_what_is_none_is_refused_with_words(body: bytes, words: str) -> None:
    with pytest.raises(BadInput, match=words):
        read_junit(body, "results")


def test_what_is_too_large_is_not_read(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(junit, "MAX_FILE", 10)
    with pytest.raises(BadInput, match="Leave output out"):
        read_junit(_PYTEST, "results")


_NAMES = st.text(min_size=1, max_size=20).map(lambda text: "".join(c for c in text if c.isalnum()) or "a")


@given(st.lists(st.tuples(_NAMES, _NAMES, st.sampled_from(["passed", "failed", "skipped"]))))
def test_what_is_written_is_read_again(rows: list[tuple[str, str, str]]) -> None:
    tests = [TestResult(f"{a}::{b}", outcome, "why" if outcome == "failed" else "") for a, b, outcome in rows]  # type: ignore[arg-type]
    assert read_junit(write_junit("suite", tests).encode(), "results") == tests


def test_signs_that_xml_cannot_hold_are_replaced() -> None:
    text = write_junit("suite", [TestResult("a::b", "failed", "bad \x00 sign")])
    assert read_junit(text.encode(), "results")[0].note == "bad � sign"
