"""Answers of a server that was started and asked for some paths, as tests: alike on both sides are those of the same status."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import replace
from typing import Any, Final

from yoake.core.values.runs import Run, TestResult

MARK: Final = "yoake-asked "
_OF_THE_SERVER: Final = 500  # from which on a status says that the server failed


def read_asked(output: str) -> tuple[TestResult, ...]:
    """The answers in what was said, one test a path; lines that are none are left out."""
    found = []
    for line in output.splitlines():
        if not line.startswith(MARK):
            continue
        try:
            answer = json.loads(line.removeprefix(MARK))
            found.append(_test(answer))
        except (ValueError, KeyError, TypeError):
            continue  # the server itself may write such a line
    return tuple(found)


def _test(answer: dict[str, Any]) -> TestResult:
    status = int(answer["status"])
    fine = 0 < status < _OF_THE_SERVER
    note = (
        f"{status} {answer['reason']}, {answer['kind']}, {int(answer['bytes'])} bytes"
        if status
        else f"no answer: {answer['reason']}"
    )
    return TestResult(f"GET {answer['path']}", "passed" if fine else "failed", note, float(answer["seconds"]))


def told_apart(old: Sequence[Run], new: Sequence[Run]) -> tuple[Run, ...]:
    """The new side with answers failed whose status is another one than on the old side."""
    before = {test.name: test.note for run in old for test in run.tests if test.outcome == "passed"}

    def compared(test: TestResult) -> TestResult:
        was = before.get(test.name)
        if test.outcome != "passed" or was is None or was.split(" ", 1)[0] == test.note.split(" ", 1)[0]:
            return test
        return replace(test, outcome="failed", note=f"{test.note}; before: {was}")

    return tuple(replace(run, tests=tuple(map(compared, run.tests))) for run in new)
