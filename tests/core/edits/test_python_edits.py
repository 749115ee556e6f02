"""Names written otherwise in Python text: what changes, what stays as it is to the byte, and what is left to a person."""

from __future__ import annotations

import ast

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yoake.core.ecosystems.python.edits import rename_in_python
from yoake.core.ecosystems.python.syntax import read_python
from yoake.core.values.edits import GONE, Edited, Rename, Spot, applied

HOMES = {
    "collections.abc.Mapping": "collections.abc",
    "collections.abc.Sequence": "collections.abc",
    "inspect.getfullargspec": "inspect",
    "datetime.timezone.utc": "datetime",
    "importlib.reload": "importlib",
    "harbour.text.gettext": "harbour.text",
    "harbour.text.gettext_lazy": "harbour.text",
    "shutil.which": "shutil",
    "builtins.str": "builtins",
    "unittest.TestCase.assertEqual": "unittest",
}
NAMES = {
    "collections.Mapping": "collections.abc.Mapping",
    "collections.Sequence": "collections.abc.Sequence",
    "inspect.getargspec": "inspect.getfullargspec",
    "harbour.clock.utc": "datetime.timezone.utc",
    "imp.reload": "importlib.reload",
    "harbour.text.ugettext": "harbour.text.gettext",
    "harbour.text.ugettext_lazy": "harbour.text.gettext_lazy",
    "distutils.spawn.find_executable": "shutil.which",
    "builtins.unicode": "builtins.str",
    "harbour.encoding.compatible": GONE,
}


def edited(source: str, names: dict[str, str] | None = None) -> tuple[str, Edited]:
    """The text with every name of the table written otherwise."""
    data = source.encode()
    uses = read_python(data).uses
    spots = {u: Spot(u.line, u.column, u.end_column, u.form, u.path) for u in uses}
    renames = [
        Rename(key=old, old=old, new=new, home=HOMES.get(new, ""), spots=held)
        for old, new in (names or NAMES).items()
        if (held := tuple(spots[u] for u in uses if u.path == old))
    ]
    lost = [spots[u] for u in uses if u.form == "import" and u.path == "imp"]
    made = rename_in_python(data, renames, lost)
    return applied(data, made.changes).decode(), made


@pytest.mark.parametrize(
    ("before", "after"),
    [
        ("from collections import Mapping\nMapping()\n", "from collections.abc import Mapping\nMapping()\n"),
        (
            "from collections import Mapping, OrderedDict\n",
            "from collections import OrderedDict\nfrom collections.abc import Mapping\n",
        ),
        (
            "from collections import OrderedDict, Mapping as M, Sequence\nM, Sequence\n",
            "from collections import OrderedDict\nfrom collections.abc import Mapping as M, Sequence\nM, Sequence\n",
        ),
        (
            "from inspect import (\n    getargspec,  # kept\n    isclass,\n)\ngetargspec(f)\n",
            "from inspect import (\n    getfullargspec,  # kept\n    isclass,\n)\ngetfullargspec(f)\n",
        ),
        (
            "import collections\nclass A(collections.Mapping): ...\n",
            "import collections\nimport collections.abc\nclass A(collections.abc.Mapping): ...\n",
        ),
        ("import imp\nimp.reload(imp)\n", "import imp\nimport importlib\nimportlib.reload(imp)\n"),
        ("import imp\nimp.reload(x)\n", "import importlib\nimportlib.reload(x)\n"),
        ("from harbour.text import ugettext as _\n_('x')\n", "from harbour.text import gettext as _\n_('x')\n"),
        (
            "from harbour.text import gettext, ugettext\nugettext(gettext)\n",
            "from harbour.text import gettext\ngettext(gettext)\n",
        ),
        (
            "from distutils.spawn import find_executable\nfind_executable('x')\n",
            "from shutil import which\nwhich('x')\n",
        ),
        (
            "from distutils.spawn import find_executable\nwhich = find_executable('x')\n",
            "from shutil import which as find_executable\nwhich = find_executable('x')\n",
        ),
        (
            "from datetime import datetime\nfrom harbour import clock\nclock.utc\n",
            "from datetime import datetime\nfrom harbour import clock\nfrom datetime import timezone\ntimezone.utc\n",
        ),
        (
            "from harbour.encoding import compatible\n\n@compatible\nclass A: ...\n",
            "\nclass A: ...\n",
        ),
        ("x = unicode(b)\n", "x = str(b)\n"),
        (
            "import collections\ny = '…', collections.Mapping\n",
            "import collections\nimport collections.abc\ny = '…', collections.abc.Mapping\n",
        ),
        (
            "import collections\ny = (collections\n     .Mapping)\n",
            "import collections\nimport collections.abc\ny = (collections.abc.Mapping)\n",
        ),
        ("from collections import Mapping\r\nMapping\r\n", "from collections.abc import Mapping\r\nMapping\r\n"),
        (
            "def f():\n    from collections import Mapping, deque\n    return Mapping\n",
            "def f():\n    from collections import deque\n    from collections.abc import Mapping\n    return Mapping\n",
        ),
    ],
)
def test_names_are_written_otherwise_and_nothing_else_changes(before: str, after: str) -> None:
    made, answer = edited(before)
    assert made == after
    assert answer.refused == {}


@pytest.mark.parametrize(
    ("before", "after"),
    [
        (
            "from collections import Mapping\nclass A(Mapping):\n    def keys(self):\n        return Mapping.keys(self)\n",
            "from collections.abc import Mapping\nclass A(Mapping):\n    def keys(self):\n        return Mapping.keys(self)\n",
        ),
        (
            "import distutils.spawn\ndistutils.spawn.find_executable.__doc__\n",
            "import shutil\nshutil.which.__doc__\n",
        ),
        (
            "import collections\ncollections.Mapping.keys(x)\n",
            "import collections\nimport collections.abc\ncollections.abc.Mapping.keys(x)\n",
        ),
    ],
)
def test_members_of_what_moved_come_along(before: str, after: str) -> None:
    data = before.encode()
    uses = read_python(data).uses
    renames = [
        Rename(key=old, old=old, new=NAMES[old], home=HOMES.get(NAMES[old], ""), spots=held)
        for old in ("collections.Mapping", "distutils.spawn.find_executable")
        if (
            held := tuple(
                Spot(u.line, u.column, u.end_column, u.form, old)
                for u in uses
                if u.path == old or u.path.startswith(f"{old}.")
            )
        )
    ]
    lost = [Spot(u.line, u.column, u.end_column, u.form, u.path) for u in uses if u.path == "distutils.spawn"]
    made = rename_in_python(data, renames, lost)
    assert applied(data, made.changes).decode() == after
    assert not made.refused


@pytest.mark.parametrize(
    ("source", "why"),
    [
        ("from harbour.encoding import compatible\ncompatible(A)\n", "only a decorator"),
        ("from harbour.encoding import compatible\nf = [compatible]\n", "only a decorator"),
        ("from harbour.clock import utc\n__all__ = ['utc']\n", "a member, which cannot be imported"),
        ("import collections; collections.Mapping\n", "other statements stand on the same line"),
        ("from collections import Mapping, deque; x = 1\n", "other statements stand on the same line"),
        ("from collections import Mapping\nclass (:\n", "cannot be read whole"),
    ],
)
def test_what_cannot_be_done_surely_is_left_as_it_is_and_says_why(source: str, why: str) -> None:
    made, answer = edited(source)
    assert made == source
    assert why in " ".join(answer.refused.values())


def test_a_name_that_others_may_import_keeps_its_name() -> None:
    made, _ = edited("from inspect import getargspec\n__all__ = ['getargspec']\n")
    assert made == "from inspect import getfullargspec as getargspec\n__all__ = ['getargspec']\n"


def test_a_method_of_a_class_changes_only_its_own_name() -> None:
    source = "import unittest\nclass T(unittest.TestCase):\n    def test(self):\n        self.assertEquals(1, 1)\n"
    uses = [u for u in read_python(source.encode()).uses if u.path.endswith("assertEquals")]
    spots = tuple(Spot(u.line, u.column, u.end_column, u.form, "unittest.TestCase.assertEquals") for u in uses)
    rename = Rename(
        key="k", old="unittest.TestCase.assertEquals", new="unittest.TestCase.assertEqual", home="unittest", spots=spots
    )
    made = rename_in_python(source.encode(), [rename])
    assert applied(source.encode(), made.changes).decode() == source.replace("assertEquals", "assertEqual")


PIECES = st.sampled_from(
    [
        "import collections",
        "import imp",
        "from collections import Mapping",
        "from collections import Sequence, OrderedDict as O",
        "from inspect import getargspec, isclass",
        "from harbour.text import ugettext as _, ugettext_lazy",
        "x = collections.Mapping",
        "imp.reload(x)",
        "y = Mapping, Sequence",
        "getargspec(ugettext_lazy)",
        "def f(a):\n    from collections import Mapping as M\n    return M(a), collections.Sequence",
        "'''text with collections.Mapping'''  # and a comment: getargspec",
        "z = unicode('ü'), _('…')",
    ]
)


@given(st.lists(PIECES, min_size=1, max_size=9), st.sampled_from(["\n", "\r\n"]))
def test_a_changed_text_parses_and_changing_it_again_changes_nothing(pieces: list[str], newline: str) -> None:
    source = newline.join("\n".join(pieces).split("\n")) + newline
    made, answer = edited(source)
    ast.parse(made)
    again, second = edited(made)
    if not answer.refused:
        assert (again, second.changes) == (made, ())
    assert made.count("\r\n") == made.count("\n") if newline == "\r\n" else "\r" not in made
    for text in ("'''text with collections.Mapping'''  # and a comment: getargspec", "ü", "…"):
        assert made.count(text) == source.count(text)
