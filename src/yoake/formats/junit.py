"""Results of tests as JUnit XML: read from any machine, written for continuous integration."""

from __future__ import annotations

import re
from collections.abc import Iterable
from io import BytesIO
from typing import Final

from lxml import etree

from yoake.core.values.errors import BadInput
from yoake.core.values.runs import TestOutcome, TestResult

MAX_FILE: Final = 64 * 1024**2
"""Bytes: 100,000 tests with their output; what is larger holds logs, which nobody reads here."""
_MOST_TESTS: Final = 200_000
_MOST_NOTE: Final = 300
_BROKEN: Final = ("failure", "error")
_WHILE_COLLECTING: Final = "collection failure"
_UNFIT: Final = re.compile("[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
"""What XML 1.0 cannot hold."""


def read_junit(data: bytes, name: str) -> list[TestResult]:
    """Tests of a JUnit file in its order. Raises BadInput for what is none, is too large or uses entities."""
    if len(data) > MAX_FILE:
        raise BadInput(f"{name} has more than {MAX_FILE // 1024**2} MB. Leave output out of the results.")
    tests: list[TestResult] = []
    reading = etree.iterparse(
        BytesIO(data), events=("start", "end"), resolve_entities=False, no_network=True, load_dtd=False
    )
    root: etree._Element | None = None
    try:
        for event, element in reading:
            if root is None:
                root = element
                _check_root(root, name)
            if event == "end" and element.tag == "testcase":
                tests.append(_test(element))
                element.clear()
            if len(tests) > _MOST_TESTS:
                raise BadInput(f"{name} holds more than {_MOST_TESTS:,} tests. Give it in parts.")
    except etree.XMLSyntaxError as error:
        raise BadInput(f"{name} is no whole XML: {error.msg}.") from error
    return tests


def _check_root(root: etree._Element, name: str) -> None:
    if root.getroottree().docinfo.internalDTD is not None:
        raise BadInput(f"{name} brings a document type, with which entities could be made; leave it out.")
    if root.tag not in ("testsuites", "testsuite"):
        raise BadInput(f"{name} is no JUnit XML: it begins with <{str(root.tag)[:60]}>.")


def _test(element: etree._Element) -> TestResult:
    owner, name = element.get("classname") or "", element.get("name") or "without a name"
    broken = next((child for child in element if child.tag in _BROKEN), None)
    outcome: TestOutcome = "passed"
    note = ""
    if broken is not None:
        outcome = "failed"
        note = _note(broken)
    elif any(child.tag == "skipped" for child in element):
        outcome = "skipped"
    try:
        seconds = max(0.0, float((element.get("time") or "0").replace(",", "")))
    except ValueError:
        seconds = 0.0
    return TestResult(f"{owner}::{name}" if owner else name, outcome, note, seconds if seconds < 1e6 else 0.0)


def _note(broken: etree._Element) -> str:
    """What went wrong: the message, or the error at the end of the trace where the message only says where it was met."""
    message, text = broken.get("message") or "", broken.text or ""
    errors = [row[1:].strip() for row in text.splitlines() if row.startswith("E ")]
    return last_word(
        errors[-1] if errors and message == _WHILE_COLLECTING else message or text or broken.get("type") or ""
    )


def last_word(text: str) -> str:
    """One line of what went wrong."""
    rows = [row.strip() for row in text.splitlines() if row.strip()]
    return rows[0][:_MOST_NOTE] if rows else ""


def write_junit(suite: str, tests: Iterable[TestResult]) -> str:
    """One suite of tests."""
    held = list(tests)
    root = etree.Element(
        "testsuite",
        name=_fit(suite),
        tests=str(len(held)),
        failures=str(sum(t.outcome == "failed" for t in held)),
        errors="0",
        skipped=str(sum(t.outcome == "skipped" for t in held)),
        time=f"{sum(t.seconds for t in held):.3f}",
    )
    for test in held:
        owner, _, name = test.name.rpartition("::")
        case = etree.SubElement(root, "testcase", classname=_fit(owner), name=_fit(name), time=f"{test.seconds:.3f}")
        if test.outcome == "failed":
            etree.SubElement(case, "failure", message=_fit(test.note or "failed"))
        elif test.outcome == "skipped":
            etree.SubElement(case, "skipped")
    return '<?xml version="1.0" encoding="utf-8"?>\n' + etree.tostring(root, encoding="unicode") + "\n"


def _fit(text: str) -> str:
    return _UNFIT.sub("�", text)
