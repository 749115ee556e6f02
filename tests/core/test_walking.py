"""The walk that both readers share: order, scopes and guards, whatever the shape of the tree."""

from __future__ import annotations

from hypothesis import given, settings
from hypothesis import strategies as st

from yoake.core.ecosystems.javascript.syntax import read_javascript
from yoake.core.ecosystems.python.syntax import read_python
from yoake.core.values.facts import FileFacts, facts_from_json

PYTHON_PARTS = (
    "import a\n",
    "from m import a\n",
    "a.x\n",
    "def f(a=a.d):\n    a.y\n    return b.z\n",
    "if sys.version_info < (3, 8):\n    import a as b\nelse:\n    import c as b\n",
    "try:\n    import b\nexcept ImportError:\n    b = None\n",
    "class C(a.B):\n    def g(self): return self.h(a.x)\n",
    "with a.open() as b:\n    b.read()\n",
    "[a.x for a in b if a.ok]\n",
    "b = a.Thing(key=a.v)\n",
    "print 'old'\n",
)
SCRIPT_PARTS = (
    "var a = require('a');\n",
    "const { x, y: z } = require('m');\n",
    "a.b.c(a.d, x);\n",
    "function f(a) { return a.y || b.z; }\n",
    "if (a.ready && !b.x) { a.go(); } else { b.stop(); }\n",
    "try { b = require('b'); } catch (e) { b = null; }\n",
    "class C extends a.B { m() { return this.h(a.x); } }\n",
    "a.b().c[d].e();\n",
    "const g = (x) => x ? a.p : a.q;\n",
)


def places(facts: FileFacts) -> list[tuple[int, int, str, str]]:
    return [(u.line, u.column, u.path, u.form) for u in facts.uses]


@given(st.lists(st.sampled_from(PYTHON_PARTS), max_size=8))
@settings(max_examples=60, deadline=None)
def test_what_a_function_body_holds_is_found_as_it_is_at_the_top(parts: list[str]) -> None:
    """Wrapping code that binds nothing outside moves its uses by one line and one step in, and loses none."""
    inside = "".join(f"    {line}\n" for part in parts for line in part.splitlines())
    plain = places(read_python("".join(["x = 0\n", *parts]).encode()))
    wrapped = places(read_python(f"def outer():\n{inside or '    pass'}\n".encode()))
    named = {(line, path) for line, _, path, form in plain if form in ("import", "syntax")}
    assert {(line, path) for line, _, path, form in wrapped if form in ("import", "syntax")} == named


@given(st.lists(st.sampled_from(PYTHON_PARTS), max_size=8), st.lists(st.sampled_from(SCRIPT_PARTS), max_size=8))
@settings(max_examples=60, deadline=None)
def test_a_file_reads_the_same_every_time_and_through_its_stored_form(python: list[str], script: list[str]) -> None:
    for read, parts in ((read_python, python), (read_javascript, script)):
        first = read("".join(parts).encode())
        assert first == read("".join(parts).encode())
        assert facts_from_json(first.to_json()) == first
        assert all(1 <= line <= first.lines for line, *_ in places(first))


def test_guards_end_where_their_statement_ends() -> None:
    text = "import a\nif sys.version_info < (3,):\n    a.old\n    def f():\n        a.inner\na.after\n"
    guarded = {u.path: bool(u.guards) for u in read_python(text.encode()).uses if u.path.startswith("a")}
    assert guarded == {"a": False, "a.old": True, "a.inner": True, "a.after": False}


def test_a_very_deep_expression_costs_no_recursion() -> None:
    deep = "import a\nx = " + "(" * 800 + "a.b" + ")" * 800 + "\n"
    assert (2, "a.b") in [(u.line, u.path) for u in read_python(deep.encode()).uses]
    chain = "const a = require('a');\na" + ".b()" * 800 + ";\n"
    assert read_javascript(chain.encode()).uses


def test_async_as_the_name_of_an_attribute_anywhere_in_a_chain() -> None:
    for text in (
        "import a\na.async\n",
        "import a\na.async.b\n",
        "f().async.b\n",
        "import a\na.b(async=1)\n",
        "async = 1\nasync.x\n",
    ):
        assert "syntax.async_name" in {u.path for u in read_python(text.encode()).uses}, text


def test_a_huge_condition_is_no_test_of_a_member() -> None:
    """A program wrapped into ``!function () {…}()`` guards nothing inside it."""
    body = "var u = require('util'); u.isString(1);\n" * 40
    facts = read_javascript(f"!function () {{ {body} }}();\n".encode())
    uses = [u for u in facts.uses if u.path == "util.isString"]
    assert len(uses) == 40
    assert not any(u.guards for u in uses)
