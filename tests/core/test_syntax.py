"""Facts of Python files: names as the language binds them, guards, classes, depth."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_project import scan
from yoake.core.ecosystems.python.syntax import read_python
from yoake.core.ecosystems.python.tree import parse
from yoake.core.ecosystems.python.version_tests import read_test
from yoake.core.knowledge.base import Knowledge
from yoake.core.values.facts import facts_from_json
from yoake.core.values.version_test import VersionTest


def uses(text: str, form: str | None = None) -> list[tuple[int, str]]:
    return [(u.line, u.path) for u in read_python(text.encode()).uses if form is None or u.form == form]


def test_an_alias_stands_for_what_was_imported() -> None:
    assert (2, "os.path.join") in uses("import os.path as p\np.join()\n")
    assert (2, "a.b.c.d") in uses("from a.b import c as x\nx.d\n")


def test_a_parameter_a_local_and_a_comprehension_shadow_an_import() -> None:
    for inner in (
        "def f(a):\n a.x\n",
        "def f():\n a = 1\n a.x\n",
        "[a.x for a in b]\n",
        "lambda a: a.x\n",
        "def f():\n for a in b: a.x\n",
    ):
        assert (3, "a.x") not in uses(f"import a\n{inner}")
        assert (2, "a.x") not in uses(f"import a\n{inner}")


def test_a_class_body_is_not_seen_from_its_methods() -> None:
    text = "from m import a\nclass C:\n    a = 1\n    def f(self):\n        return a\n"
    assert (5, "m.a") in uses(text)


def test_global_binds_in_the_module() -> None:
    assert (4, "m.a.x") in uses("def f():\n    global a\n    from m import a\na.x\n")


def test_the_last_binding_before_a_use_decides_in_the_same_scope() -> None:
    found = uses("from m import a\na.x\na = 1\na.y\n")
    assert (2, "m.a.x") in found
    assert (4, "m.a.y") not in found


def test_an_import_inside_a_function_holds_there_only() -> None:
    found = uses("def f():\n    import m\n    m.x\nm.y\n")
    assert (3, "m.x") in found
    assert (4, "m.y") not in found


def test_relative_imports_keep_their_dots() -> None:
    assert uses("from . import a\nfrom ..b import c\nfrom .. import d\n", "import") == [
        (1, ".a"),
        (2, "..b.c"),
        (3, "..d"),
    ]


def test_a_method_of_an_instance_is_used_through_its_class() -> None:
    assert (3, "m.C().go") in uses("from m import C\nc = C()\nc.go()\n")


def test_members_and_bases_of_classes_are_kept() -> None:
    facts = read_python(b"import m\nclass A(m.B):\n    x = 1\n    def f(self):\n        self.y = 2\n        self.z()\n")
    assert facts.classes["A"].bases == ("m.B",)
    assert facts.classes["A"].members == ("f", "x", "y")
    assert any(u.path == "self:A.z" for u in facts.uses)


def test_keywords_of_a_call_are_kept_with_it() -> None:
    use = next(u for u in read_python(b"from m import f\nf(1, a=2, **k)\n").uses if u.form == "call")
    assert (use.path, use.keywords) == ("m.f", ("a",))


def test_asking_whether_a_name_exists_is_no_use_of_it() -> None:
    assert not [p for _, p in uses('import m\nhasattr(m, "a.b")\n') if "a.b" in p]


def test_what_settings_assign_is_kept_with_its_line() -> None:
    assert read_python(b"A = 1\nUSE_L10N = True\nx = 2\n").assigned == {"A": 1, "USE_L10N": 2}


def test_exports_name_what_a_guard_may_bind() -> None:
    facts = read_python(
        b"try:\n    from a import X\nexcept ImportError:\n    from b import X\nimport c\ndef f(): pass\n"
    )
    assert facts.exports == {"X": ("?", "a.X", "b.X"), "c": ("c",), "f": ("",)}


@pytest.mark.parametrize(
    "text", ["x = " + "(" * 10_000 + "1" + ")" * 10_000, "x" + ".a" * 10_000, "1" + "+1" * 10_000, "x" + "()" * 10_000]
)
def test_ten_thousand_levels_deep_is_read(text: str) -> None:
    assert read_python(text.encode()).lines == 1


@settings(max_examples=60, deadline=None)
@given(st.text(alphabet="import from as def class:()\n\t .,'\"=#ab`<>", max_size=200))
def test_any_text_is_read_and_its_facts_survive_the_cache(text: str) -> None:
    facts = read_python(text.encode())
    assert facts_from_json(facts.to_json()) == facts


def test_broken_lines_are_named() -> None:
    assert read_python(b"x = 1\ndef f(:\n  pass\n").broken


@pytest.mark.parametrize(
    ("text", "line", "live"),
    [
        ("sys.version_info >= (3, 10)", (3, 10), True),
        ("sys.version_info < (3,)", (3, 13), False),
        ("sys.version_info > (3, 12)", (3, 12), True),
        ("sys.version_info[0] == 2", (3, 8), False),
        ("(3, 0) <= sys.version_info", (3, 8), True),
        ("sys.version_info[:2] >= (3, 9)", (3, 8), False),
        ("sys.version_info.major >= 3", (3, 8), True),
        ("six.PY2", (3, 8), False),
        ("not PY3", (3, 8), False),
        ("django.VERSION >= (4, 0)", (3, 2), False),
    ],
)
def test_a_version_test_is_decided_for_a_line(text: str, line: tuple[int, ...], live: bool) -> None:
    node = parse(f"if {text}:\n pass\n".encode()).root_node.named_children[0]
    test = read_test(node.child_by_field_name("condition"))
    assert test is not None
    assert test.holds(line) is live


@given(
    st.sampled_from(["<", "<=", ">", ">=", "==", "!="]),
    st.tuples(st.integers(2, 4), st.integers(0, 15)),
    st.tuples(st.integers(2, 4), st.integers(0, 15)),
)
def test_a_test_and_its_opposite_never_agree(op: str, version: tuple[int, int], line: tuple[int, int]) -> None:
    test = VersionTest("python", op, version)
    assert test.holds(line) != test.negated().holds(line)


@pytest.mark.parametrize(
    ("name", "subject"),
    [
        ("PY2", "== 2"), ("py2k", "== 2"), ("PY3", ">= 3"), ("is_py3", ">= 3"), ("py33", ">= 3.3"), ("PY37_PLUS", ">= 3.7"),
        ("PY_310", ">= 3.10"), ("compat.py36", ">= 3.6"), ("pypy", None), ("PYTHON_BIN", None), ("copy2", None),
    ],
)  # fmt: skip
def test_flags_for_versions_are_known_by_how_people_name_them(name: str, subject: str | None) -> None:
    source = f"if {name}:\n    import imp\n".encode()
    (ask,) = [a for a in read_python(source).asks if a.path == "imp"]
    found = [f"{g.test.op} {'.'.join(map(str, g.test.version))}" for g in ask.guards if g.test]
    assert found == ([subject] if subject else [])


def test_a_lost_base_behind_a_fallback_is_not_reported_through_its_members(knowledge: Knowledge) -> None:
    text = (
        "try:\n    from collections.abc import Mapping\nexcept ImportError:\n    from collections import Mapping\n"
        "class Rope(Mapping):\n    def knot(self):\n        return self.keys()\n"
    )
    errors = [f for f in scan(knowledge, {"a.py": text}).findings if f.level == "error"]
    assert errors == []
