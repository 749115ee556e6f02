"""Windows: when the edit can be made, seen on real knowledge."""

from __future__ import annotations

import pytest

from tests.core.test_project import scan
from yoake.core.knowledge.base import Knowledge
from yoake.core.values.coordinates import Line


@pytest.mark.parametrize(
    ("text", "start", "goal", "state"),
    [
        ("from collections import Mapping\n", "python@3.8", "python@3.13", "now"),
        ("import ConfigParser\n", "python@2.7", "python@3.13", "switch"),
        ("import ConfigParser\n", "python@3.8", "python@3.13", "now"),
        ("import StringIO\n", "python@3.8", "python@3.13", "now"),
        ("import inspect\ninspect.getargspec(f)\n", "python@2.7", "python@3.13", "hop"),
        ("import asyncore\n", "python@3.8", "python@3.13", "now"),
        ("import nntplib\n", "python@3.8", "python@3.13", "unknown"),
        ("from distutils.version import LooseVersion\n", "python@3.8", "python@3.13", "now"),
        ("from distutils.dir_util import copy_tree\ncopy_tree(a, b)\n", "python@3.6", "python@3.13", "hop"),
        ("from distutils.dir_util import copy_tree\ncopy_tree(a, b)\n", "python@3.8", "python@3.13", "now"),
    ],
)
def test_the_window_says_when_the_edit_can_be_made(
    knowledge: Knowledge, text: str, start: Line, goal: Line, state: str
) -> None:
    finding = next(f for f in scan(knowledge, {"a.py": text}, start, goal).findings if f.level == "error")
    assert finding.window.state == state


def test_both_ways_are_offered_on_every_line_of_the_overlap_and_nowhere_else(knowledge: Knowledge) -> None:
    window = scan(knowledge, {"a.py": "from collections import Mapping\n"}).findings[0].window
    assert set(window.both) == set(window.old) & set(window.new)
    assert window.old[-1] == "3.9"
    assert "3.13" in window.new


def test_a_replacement_is_the_home_of_the_alias_when_no_rule_names_one(knowledge: Knowledge) -> None:
    finding = scan(knowledge, {"a.py": "from collections import MutableMapping\n"}).findings[0]
    assert finding.replacement == "collections.abc.MutableMapping"


def test_it_bites_at_the_first_line_after_today_that_lacks_it(knowledge: Knowledge) -> None:
    assert scan(knowledge, {"a.py": "import imp\n"}, "python@3.8", "python@3.13").findings[0].bites_at == "3.12"


def test_what_is_lost_past_the_destination_does_not_bite(knowledge: Knowledge) -> None:
    assert scan(knowledge, {"a.py": "import imp\n"}, "python@3.8", "python@3.11").findings[0].level == "note"


def test_a_name_that_stays_and_means_something_else_is_old_only_before_that(knowledge: Knowledge) -> None:
    text = "from django.db import models\n\n\nclass A(models.Model):\n    b = models.NullBooleanField()\n"
    findings = scan(knowledge, {"a.py": text}, "pypi/django@3.2", "pypi/django@5.2").findings
    window = next(f for f in findings if "NullBooleanField" in f.title).window
    assert (window.old[-1], window.new[-1]) == ("3.2", "6.1")
    assert window.both[-1] == "3.2"


def test_a_gap_between_captured_lines_is_told(knowledge: Knowledge) -> None:
    finding = scan(knowledge, {"a.py": "import urllib2\n"}, "python@2.7", "python@3.6").findings[0]
    assert (finding.after, finding.bites_at) == ("2.7", "3.6")
