"""Syntax of Python 2, written so that both read it: every outcome is read by the Python that runs these tests."""

from __future__ import annotations

import ast

import pytest

from yoake.core.ecosystems.python.edits import rename_in_python
from yoake.core.registered import ECOSYSTEMS
from yoake.core.values.edits import GONE, Edited, Rename, Spot, applied

_FUTURE = "from __future__ import print_function\n"


def edited(text: str, form: str) -> tuple[str, Edited]:
    """The text after one form is written otherwise at all of its places."""
    facts = ECOSYSTEMS.read_source("a.py", text.encode())
    path = f"syntax.{form}"
    asked = [i for i, ask in enumerate(facts.asks) if ask.path == path]
    spots = [Spot(u.line, u.column, u.end_column, "syntax", path) for i in asked for u in facts.uses_of(i)]
    assert spots
    made = rename_in_python(text.encode(), [Rename(key="k", old=path, new=GONE, home="", spots=tuple(spots))])
    return applied(text.encode(), made.changes).decode(), made


@pytest.mark.parametrize(
    ("form", "before", "after"),
    [
        ("print_statement", 'print "a"\n', 'print("a")\n'),
        ("print_statement", "print a + b  # shown\n", "print(a + b)  # shown\n"),
        ("print_statement", 'print "a", b\n', _FUTURE + 'print("a", b)\n'),
        ("print_statement", 'print "a",\n', _FUTURE + 'print("a", end=" ")\n'),
        ("print_statement", "print >>f, a, b\n", _FUTURE + "print(a, b, file=f)\n"),
        ("print_statement", 'print "a"\nprint\n', _FUTURE + 'print("a")\nprint()\n'),
        ("print_statement", '"""Doc."""\nimport os\nprint 1, 2\n', f'"""Doc."""\n{_FUTURE}import os\nprint(1, 2)\n'),
        ("print_statement", "# coding: utf-8\nx = 1\nprint 1, 2\n", f"# coding: utf-8\n{_FUTURE}x = 1\nprint(1, 2)\n"),
        ("print_statement", "from __future__ import print_function\nx\n", ""),
        ("exec_statement", "exec code\nexec code in a, b\n", "exec(code)\nexec(code, a, b)\n"),
        ("except_comma", "try:\n    a\nexcept E, e:\n    b\n", "try:\n    a\nexcept E as e:\n    b\n"),
        ("except_comma", "try:\n    a\nexcept (E, F), e:\n    b\n", "try:\n    a\nexcept (E, F) as e:\n    b\n"),
        ("raise_comma", 'raise E, "x" % y\n', 'raise E("x" % y)\n'),
        ("raise_comma", "raise a.E, (1, 2)\n", "raise a.E(1, 2)\n"),
        ("raise_comma", "raise E, told(x)\n", "raise E(told(x))\n"),
        ("old_octal", "a = 0755\nb = 00\n", "a = 0o755\nb = 00\n"),
        ("long_integer", "a = 10L + 0xFFl + 0755L\n", "a = 10 + 0xFF + 0o755\n"),
        ("backticks", "a = `b` + `c.d`\n", "a = repr(b) + repr(c.d)\n"),
        ("not_equal_sign", "a <> b\nif a <> 1: pass\n", "a != b\nif a != 1: pass\n"),
    ],
)
def test_an_old_form_is_written_so_that_both_read_it(form: str, before: str, after: str) -> None:
    if not after:
        assert not any(ask.form == "syntax" for ask in ECOSYSTEMS.read_source("a.py", before.encode()).asks)
        return
    text, made = edited(before, form)
    assert (text, made.refused) == (after, {})
    ast.parse(text)


@pytest.mark.parametrize(
    ("form", "text", "why"),
    [
        ("raise_comma", "raise E, told, traceback\n", "where it comes from"),
        ("raise_comma", "raise E, told\n", "only shows when it runs"),
        ("raise_comma", 'raise E(), "x"\n', "no plain name"),
        ("print_statement", "print a, b\nprint (a), b\n", "means something else as a function"),
        ("tuple_parameter", "f = lambda (a, b): a\n", "not written otherwise by itself"),
    ],
)
def test_what_may_mean_two_things_is_left_to_a_person_and_nothing_is_changed(form: str, text: str, why: str) -> None:
    after, made = edited(text, form)
    assert after == text
    assert why in made.refused["k"]


@pytest.mark.parametrize(
    ("before", "after"),
    [
        ("import fares\n", "from . import fares\n"),
        ("import fares as f\n", "from . import fares as f\n"),
        ("from fares import fare, other\n", "from .fares import fare, other\n"),
        ("from fares.day import fare\n", "from .fares.day import fare\n"),
        ("import fares.day\n", ""),
        ("import os, fares\n", ""),
    ],
)
def test_an_import_from_beside_gets_its_dot(before: str, after: str) -> None:
    spot = Spot(1, before.index("fares"), before.index("fares") + 5, "import", "fares")
    old = "syntax.implicit_relative_import"
    made = rename_in_python(before.encode(), [Rename(key="k", old=old, new=GONE, home="", spots=(spot,))])
    assert applied(before.encode(), made.changes).decode() == (after or before)
    assert bool(made.refused) is not bool(after)
