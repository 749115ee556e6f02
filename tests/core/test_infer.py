"""Today's line where nothing states it: never the newest of all, never past the destination unless the code says so."""

from __future__ import annotations

import pytest

from tests.core.test_project import scan
from yoake.core.knowledge.base import Knowledge
from yoake.core.values.coordinates import Coordinate, Line


@pytest.mark.parametrize(
    ("code", "goal", "line"),
    [
        ("import os\n", "python@3.13", "3.9"),  # the oldest that was supported when 3.13 came out
        ("import os\n", "python@3.11", "3.7"),
        ("import tomllib\n", "python@3.13", "3.11"),  # there since 3.11
        ("import tomllib\n", "python@3.11", "3.11"),  # it stands there, whatever was supported
        ("print 'a'\n", "python@3.13", "2.7"),
        ("import imp\n", "python@3.13", "3.9"),
        ("import asyncio.compat\n", "python@3.13", "3.6"),  # gone since 3.7: nothing that was supported then has it
        ("from django.db import models\n", "pypi/django@5.2", "4.2"),
        ("from django.urls import path\nfrom django.utils.encoding import force_text\n", "pypi/django@5.2", "3.2"),
    ],
)
def test_the_likeliest_line_is_one_from_which_somebody_would_plan_to_move(
    knowledge: Knowledge, code: str, goal: Line, line: Line
) -> None:
    result = scan(knowledge, {"a.py": code}, Line(""), goal)
    name = goal.split("@", maxsplit=1)[0]
    coordinate = f"pkg:{name}" if "/" in name else f"pkg:generic/{name}"
    stated = result.today[""][Coordinate(coordinate)]
    assert (stated.line, stated.how) == (line, "inferred")
