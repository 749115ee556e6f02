"""What is done with the value of a call: lost members are told, a lost call is told once."""

from __future__ import annotations

from tests.core.test_project import places, scan
from yoake.core.knowledge.base import Knowledge

FORM = """\
import cgi
form = cgi.FieldStorage()
print(form.value)
for item in form.list:
    print(item)
"""


def test_a_lost_call_is_told_where_it_is_called_not_at_all_that_is_done_with_its_value(knowledge: Knowledge) -> None:
    assert places(scan(knowledge, {"a.py": FORM})) == [("a.py", 1, "cgi"), ("a.py", 2, "cgi.FieldStorage")]


def test_a_lost_member_of_a_value_is_told_where_it_is_used(knowledge: Knowledge) -> None:
    text = "import threading\nworker = threading.Thread()\nworker.isAlive()\n"
    assert places(scan(knowledge, {"a.py": text})) == [("a.py", 3, "threading.Thread.isAlive")]


def test_a_value_that_another_module_made_is_told_in_that_module(knowledge: Knowledge) -> None:
    files = {
        "pkg/__init__.py": "",
        "pkg/form.py": FORM.split("print", maxsplit=1)[0],
        "pkg/a.py": "from .form import form\nform.value\n",
    }
    assert {file for file, _, _ in places(scan(knowledge, files))} == {"pkg/form.py"}


def test_a_name_that_a_module_brings_on_demand_is_deprecated_not_gone(knowledge: Knowledge) -> None:
    """``sqlite3.version`` is in no listing of Python 3.12 and 3.13; asked for, it is there and warns."""
    found = scan(knowledge, {"a.py": "import sqlite3\nsqlite3.version\n"}).findings
    assert [(f.kind, f.level) for f in found] == [("deprecated", "note")]


def test_a_string_that_only_begins_like_a_module_is_no_use_of_it(knowledge: Knowledge) -> None:
    text = "from flask import url_for\nurl_for('user.profile')\nwhere = ['user.settings', 'imp.find_module']\n"
    assert places(scan(knowledge, {"a.py": text}, "python@2.7")) == [("a.py", 3, "imp.find_module")]
