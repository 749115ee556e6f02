"""One scan as a whole: what was not read, what is older than anything known, what comes back, and what is never reached."""

from __future__ import annotations

import pytest

from tests.core.test_project import scan
from yoake.core.ecosystems.python.names import PYTHON, pypi
from yoake.core.knowledge.base import Knowledge
from yoake.core.planning.sets import sets_of
from yoake.core.scan.manifests import pins_to_tell
from yoake.core.scan.run import ScanInput, run_scan
from yoake.core.values.coordinates import Line, parse_target
from yoake.core.values.findings import IMPORT_FALLBACK, NO_READER, FileResult
from yoake.core.values.modules import Module, Pin, Requirement


def test_what_was_not_read_counts_as_not_known_and_says_why(knowledge: Knowledge) -> None:
    files = [
        FileResult(path="a.rb", state="unread", language="Ruby", reason=NO_READER),
        FileResult(path="b.py", state="failed", language="Python", reason="too deep"),
        FileResult(path="c.py", state="unread", language="Python", reason="larger than 2 MB"),
        FileResult(path="d.png", state="skipped"),
    ]
    given = ScanInput(
        facts={}, files=files, modules=[Module(path="", name="app")], destination=[parse_target("python@3.13")]
    )
    checks = run_scan(given, knowledge).checks
    assert checks.unknowns == {"Ruby not read yet": 1, "files that could not be read": 2}
    assert checks.by_sort["unread_file"].unknown == 3 * knowledge.effort.weights.unread_file
    assert set(checks.by_file) == {"a.rb", "b.py", "c.py"}


def test_what_today_is_older_than_anything_known_still_bites_where_it_is_lost(knowledge: Knowledge) -> None:
    text = "from django.conf.urls import url\nurl()\n"
    found = scan(knowledge, {"a.py": text}, "pypi/django@1.2", "pypi/django@5.2").findings
    assert [(f.title, f.bites_at, f.after) for f in found] == [("django.conf.urls.url", "4.0", None)]


def test_a_name_that_comes_back_is_old_and_there_again(knowledge: Knowledge) -> None:
    text = "import numpy\nnumpy.bool\n"
    found = next(
        f for f in scan(knowledge, {"a.py": text}, "pypi/numpy@1.19", "pypi/numpy@1.26").findings if f.level == "error"
    )
    assert (found.title, found.bites_at) == ("numpy.bool", "1.24")
    assert {"1.23", "2.0"} <= set(found.window.old)
    assert not {"1.24", "1.25", "1.26"} & set(found.window.old)


_TESTS = "    class T(unittest.TestCase):\n        def t(self):\n            self.assertEquals(1, 1)\n"


@pytest.mark.parametrize(
    ("body", "reached"), [("    import imp\n" + _TESTS, False), (_TESTS + "    import imp\n", True)]
)
def test_below_an_import_that_fails_and_is_caught_nothing_is_run(
    knowledge: Knowledge, body: str, reached: bool
) -> None:
    """The import itself keeps its own guard."""
    text = f"import unittest\ntry:\n{body}except ImportError:\n    pass\n"
    places = {p.symbol: p.guarded for f in scan(knowledge, {"a.py": text}).findings for p in f.places}
    assert (places["unittest.TestCase.assertEquals"] == "") is reached
    assert places["imp"] == IMPORT_FALLBACK


def pin(file: str, version: str = "3.8") -> Pin:
    return Pin(coordinate=PYTHON, version=version, file=file, line=1, how="ci")


def test_a_pin_is_told_by_the_module_of_its_file_else_by_the_first_that_has_it() -> None:
    shared, own = pin(".github/tests.yml"), pin("b/.python-version")
    modules = [
        Module(path=path, name=path, pins=pins)
        for path, pins in (("a", [shared]), ("b", [shared, own, own]), ("c", [own]))
    ]
    told = pins_to_tell(modules, lambda file: file.partition("/")[0])
    assert told == {"a": [shared], "b": [own], "c": []}


def test_what_somebody_said_of_today_wins_over_what_is_inferred_and_read(knowledge: Knowledge) -> None:
    result = scan(knowledge, {"a.py": "import imp\n"}, "python@3.11", "python@3.13")
    assert (result.today[""][PYTHON].line, result.today[""][PYTHON].how) == (Line("3.11"), "said")


def test_a_destination_that_a_manifest_asks_for_and_nobody_places_is_told_as_such(knowledge: Knowledge) -> None:
    """Django is asked for without a line, Celery by nobody, NumPy stands on its line: only the first has no place."""
    to = [parse_target(t) for t in ("python@3.13", "pypi/django@5.2", "pypi/celery@5.4", "pypi/numpy@2.0")]
    asked = [
        Requirement(coordinate=pypi(name), name=name, specifier=wanted, file="requirements.txt", line=1)
        for name, wanted in (("django", ""), ("numpy", "==1.19.5"))
    ]
    given = ScanInput(
        facts={},
        files=[],
        modules=[Module(path="", name="app", manifests=["requirements.txt"], requirements=asked)],
        destination=to,
        said=[parse_target("python@3.8")],
    )
    (made,) = sets_of(run_scan(given, knowledge), to, knowledge.ecosystems)
    assert made.unplaced == {pypi("django"): "5.2"}
    assert set(made.spans) == {PYTHON, pypi("numpy")}
