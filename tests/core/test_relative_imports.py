"""Imports that only lead to a file because it lies beside: Python 3 looks for them outside of the package."""

from __future__ import annotations

import pytest

from tests.core.test_project import scan
from yoake.core.knowledge.base import Knowledge

_SYMBOL = "syntax.implicit_relative_import"
PACKAGE = {
    "desk/__init__.py": "",
    "desk/fares.py": "def fare():\n    return 1\n",
    "calendar.py": "",
    "desk/calendar.py": "",
}


def told(
    knowledge: Knowledge, files: dict[str, str], start: str = "python@2.7", goal: str = "python@3.13"
) -> list[tuple[str, int]]:
    findings = scan(knowledge, PACKAGE | files, start, goal).findings
    return [(p.file, p.line) for f in findings if f.symbol == _SYMBOL for p in f.places]


@pytest.mark.parametrize(
    ("text", "lines"),
    [
        ("import fares\n", [1]),
        ("import os\nfrom fares import fare\nfare()\n", [2]),
        ("from fares import fare, other\n", [1]),
        ("import fares as f\nimport fares\n", [1, 2]),
        ("import calendar\n", [1]),
        ("from . import fares\n", []),
        ("from .fares import fare\n", []),
        ("from desk import fares\nimport desk.fares\n", []),
        ("from __future__ import absolute_import\nimport fares\n", []),
        ("try:\n    from . import fares\nexcept ImportError:\n    import fares\n", []),
        ("import sys\nif sys.version_info[0] == 2:\n    import fares\n", []),
        ("import json\n", []),
    ],
)
def test_an_import_of_a_file_beside_without_a_dot_is_told_once_a_statement(
    knowledge: Knowledge, text: str, lines: list[int]
) -> None:
    assert told(knowledge, {"desk/a.py": text}) == [("desk/a.py", line) for line in lines]


def test_it_can_be_mended_on_the_old_line(knowledge: Knowledge) -> None:
    findings = scan(knowledge, PACKAGE | {"desk/a.py": "import fares\n"}, "python@2.7", "python@3.13").findings
    found = next(f for f in findings if f.symbol == _SYMBOL)
    assert (found.level, found.confidence, found.window.state, found.window.old) == (
        "error",
        "certain",
        "now",
        ("2.7",),
    )


@pytest.mark.parametrize("goal", ["python@3.8", "python@3.13"])
def test_where_today_reads_it_no_more_nothing_is_said(knowledge: Knowledge, goal: str) -> None:
    assert told(knowledge, {"desk/a.py": "import fares\n"}, "python@3.6", goal) == []


def test_a_package_names_its_own_files_and_a_plain_folder_has_none(knowledge: Knowledge) -> None:
    files = {"desk/__init__.py": "import fares\nfrom desk import fares\n", "tools/a.py": "import b\n", "tools/b.py": ""}
    assert told(knowledge, files) == [("desk/__init__.py", 1)]


MAIN = "import fares\nif __name__ == '__main__':\n    fares.fare()\n"


@pytest.mark.parametrize(
    ("files", "found"),
    [
        ({"desk/run.py": MAIN}, []),
        ({"desk/setup.py": "import fares\n"}, []),
        ({"desk/run.py": MAIN, "desk/b.py": "from desk import run\n"}, [("desk/run.py", 1)]),
        ({"desk/run.py": MAIN, "desk/b.py": "import fares\n"}, [("desk/b.py", 1)]),
        (
            {"desk/tests/__init__.py": "", "desk/tests/fares.py": "", "desk/tests/test_a.py": MAIN},
            [("desk/tests/test_a.py", 1)],
        ),
    ],
)
def test_a_script_finds_what_lies_beside_it_as_before(
    knowledge: Knowledge, files: dict[str, str], found: list[tuple[str, int]]
) -> None:
    """What others import is no script, and tests are imported by what runs them."""
    assert told(knowledge, files) == found
