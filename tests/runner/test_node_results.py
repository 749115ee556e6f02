"""What runners of Node write, read as tests: the same test has the same name whichever line and form it comes from."""

from __future__ import annotations

import json
from pathlib import Path

from yoake.core.values.runs import TestResult
from yoake.runner.clients.javascript.environments import read_results

_TAP = """TAP version 13
# Subtest: /copy/test/a.test.js
    # Subtest: adds
    ok 1 - adds
      ---
      duration_ms: 1.2
      ...
    # Subtest: old
    not ok 2 - old
    ok 3 - off # SKIP not here
    1..3
"""


def outcomes(tests: object) -> dict[str, str]:
    return {t.name: t.outcome for t in tests}  # type: ignore[attr-defined]


def test_tap_of_older_lines_and_junit_of_newer_ones_name_tests_alike(tmp_path: Path) -> None:
    assert outcomes(read_results(tmp_path, _TAP)) == {"adds": "passed", "old": "failed", "off": "skipped"}
    (tmp_path / "junit.xml").write_text(
        '<testsuites><testcase name="adds" classname="test"/><testcase name="old" classname="test"><failure message="no"/></testcase>'
        '<testcase name="off" classname="test"><skipped/></testcase></testsuites>'
    )
    assert outcomes(read_results(tmp_path, "")) == {"adds": "passed", "old": "failed", "off": "skipped"}


def test_mocha(tmp_path: Path) -> None:
    body = {
        "passes": [{"fullTitle": "sums adds", "duration": 3}],
        "failures": [{"fullTitle": "sums links", "err": {"message": "isRegExp is not a function\n at x"}}],
        "pending": [{"fullTitle": "sums off"}],
    }
    (tmp_path / "results.json").write_text(json.dumps(body))
    assert read_results(tmp_path, "") == [
        TestResult("sums adds", "passed", "", 0.003),
        TestResult("sums links", "failed", "isRegExp is not a function"),
        TestResult("sums off", "skipped"),
    ]


def test_jest_and_vitest_with_a_file_that_cannot_be_loaded(tmp_path: Path) -> None:
    body = {
        "testResults": [
            {
                "name": "/copy/a.test.js",
                "status": "passed",
                "assertionResults": [{"fullName": "adds", "status": "passed"}],
            },
            {
                "name": "/copy/b.test.js",
                "status": "failed",
                "message": "Cannot find module\nat",
                "assertionResults": [],
            },
        ]
    }
    (tmp_path / "results.json").write_text(json.dumps(body))
    assert read_results(tmp_path, "") == [
        TestResult("adds", "passed"),
        TestResult("b.test.js as a whole", "failed", "Cannot find module"),
    ]


def test_what_was_cut_while_it_was_written_tells_nothing(tmp_path: Path) -> None:
    (tmp_path / "results.json").write_text('{"passes": [')
    assert read_results(tmp_path, "") == ()
    (tmp_path / "junit.xml").write_text("<testsuites><testcase")
    assert read_results(tmp_path, "") == ()
