"""How calls are written, chains of calls, and values under the name of their class."""

from __future__ import annotations

from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yoake.core.contract.path_style import PathStyle
from yoake.core.ecosystems.javascript.syntax import read_javascript
from yoake.core.ecosystems.python.syntax import read_python
from yoake.core.knowledge.models import Rule, RuleFile, unfolded
from yoake.core.knowledge.values import Values
from yoake.core.scan.text_rules import Texts, files_of, spoken_lines, without_comments
from yoake.core.values.facts import FileFacts, facts_from_json


def shown(facts: FileFacts) -> set[tuple[str, str, str]]:
    """(form, path, how it is written) of every use."""
    return {(use.form, use.path, use.written) for use in facts.uses}


def test_arguments_are_told_one_by_one() -> None:
    facts = read_python(
        b"import lib\nlib.f('a', b, *rest, key=[1, None], d={'x': 1}, g=lambda p, q: p, h=lib.k(1), n=-1, s=f'{b}')\n"
    )
    told = next(use.written for use in facts.uses if use.path == "lib.f")
    assert told == "'a' | b | ... | key=[1, None] | d={x: 1} | g=f2 | h=lib.k() | n=-1 | s='…'"


def test_a_name_that_is_bound_once_to_something_written_out_stands_for_it() -> None:
    source = b"""
import lib
KINDS = {'a', 'b'}
mode = 'rU'
mode = 'r'
lib.f(KINDS, mode, other)

def inner(KINDS):
    made = set(KINDS)
    lib.g(made, KINDS)

def outer():
    lib.h(KINDS)
"""
    told = {use.path: use.written for use in read_python(source).uses if use.written}
    assert told == {"lib.f": "{'a', 'b'} | mode | other", "lib.g": "set() | KINDS", "lib.h": "{'a', 'b'}"}
    facts = read_javascript(
        b"const lib = require('lib');\nconst how = {flat: false};\nlet n = 1; n = 2;\nlib.open('x', how, n);\n"
    )
    assert next(use.written for use in facts.uses if use.path == "lib.open") == "'x' | {flat: false} | n"


def test_objects_functions_and_patterns_of_javascript() -> None:
    facts = read_javascript(
        b"const lib = require('lib');\nnew lib.A(/x/, {a: 1, b, c() {}, ...d}, async (p) => 1, `t`);\n"
    )
    told = next(use.written for use in facts.uses if use.path == "lib.A")
    assert told == "/x/ | {a: 1, b: b, c: f0, ...} | f1 | 't'"


@pytest.mark.parametrize(
    ("code", "path"),
    [
        ("import lib\nlib.load().sort().last\n", "lib.load().sort().last"),
        ("import lib\nx = lib.load()\nx = x.sort()\nx.last\n", "lib.load().sort().last"),
        ("import lib\ndef f(x: lib.Frame):\n    x.last\n", "lib.Frame().last"),
        ("import lib\nwith lib.open() as x:\n    x.last\n", "lib.open().last"),
        ("import lib\nx: lib.Frame = make()\nx.last\n", "lib.Frame().last"),
        ("import lib\nasync def f():\n    x = await lib.load()\n    x.last\n", "lib.load().last"),
        ("from lib import make\nMaker = make(1)\nx = Maker()\nx.last\n", "lib.make()().last"),
    ],
)
def test_values_are_followed_to_what_made_them(code: str, path: str) -> None:
    assert path in {use.path for use in read_python(code.encode()).uses}


def test_a_name_that_is_bound_again_is_no_longer_what_it_was() -> None:
    facts = read_python(b"import lib\nx = lib.load()\nx = 1\nx.last\n")
    assert "lib.load().last" not in {use.path for use in facts.uses}


def test_classes_of_a_file_are_asked_through_their_names_and_what_they_make() -> None:
    facts = read_python(
        b"import lib\nclass A(lib.B):\n    class Meta:\n        x = True\na = A()\na.go()\nA.stay()\nA().rest()\n"
    )
    assert {
        ("inherited", "self:A.go", ""),
        ("inherited", "self:A.stay", ""),
        ("inherited", "self:A.rest", ""),
        ("member", "self:A.Meta.x", "True"),
    } <= shown(facts)


def test_what_a_handler_of_requests_is_given() -> None:
    facts = read_javascript(b"const h = (error, request, response, next) => { response.send(404, 'x'); next(); };\n")
    assert ("call", "(req, res).res().send", "404 | 'x'") in shown(facts)
    plain = read_javascript(b"const h = (a, b) => { b.send(404); };\n")
    assert not any(path.startswith("(req") for _, path, _ in shown(plain))


def test_elements_and_what_is_put_on_components() -> None:
    facts = read_javascript(
        b"import { R } from 'lib';\nconst F = () => <R exact path='/a' to={{x: 1}}><i ref='b'/></R>;\nF.defaults = {};\n",
        "tsx",
    )
    assert {
        ("element", "lib.R", "{exact: true, path: '/a', to: {x: 1}}"),
        ("element", "<>.element", "{ref: 'b'}"),
        ("member", "function().defaults", "{}"),
    } <= shown(facts)


def test_facts_with_what_is_written_come_back_from_their_kept_form() -> None:
    facts = read_python(b"import lib\nlib.f('a')\nlib.f('b')\nlib.f()\n")
    again = facts_from_json(facts.to_json())
    assert [use.written for use in again.uses if use.path == "lib.f"] == ["'a'", "'b'", ""]


VALUES = Values(
    [
        RuleFile(
            format=1,
            coordinate="pkg:pypi/lib",
            source="x",
            as_of=date(2026, 1, 1),
            returns={
                "lib.load": "lib.Frame",
                "lib.Frame.{sort,head}": "lib.Frame",
                "lib.maker": "lib.maker",
                "lib.maker.__call__": "lib.Session",
            },
            same={"lib.core.Frame": "lib.Frame", "lib.Db.session": "lib.Session"},
            rules=(),
        )
    ],
    PathStyle(default_part="default"),
)


@pytest.mark.parametrize(
    ("path", "plain"),
    [
        ("lib.load().x", "lib.Frame.x"),
        ("lib.load().sort().head().x", "lib.Frame.x"),
        ("lib.core.Frame().sort().x", "lib.Frame.x"),
        ("lib.maker()().x", "lib.Session.x"),
        ("lib.maker().x", "lib.maker.x"),
        ("lib.Db().session.x", "lib.Session.x"),
        ("lib.default.load().x", "lib.Frame.x"),
        ("lib.unknown().x", "lib.unknown.x"),
        ("lib.x", "lib.x"),
    ],
)
def test_a_value_stands_under_the_name_of_its_class(path: str, plain: str) -> None:
    assert VALUES.plain(path) == plain


@given(st.lists(st.sampled_from(["load", "Frame", "sort", "x", "()"]), min_size=1, max_size=9))
def test_telling_a_path_twice_says_the_same(parts: list[str]) -> None:
    path = ".".join(["lib", *parts]).replace(".()", "()")
    assert VALUES.plain(VALUES.plain(path)) == VALUES.plain(path)


@given(st.text(alphabet="ab{},.", max_size=12))
def test_braces_unfold_to_names_without_braces(text: str) -> None:
    found = unfolded(text)
    assert found
    assert all("{" not in name for name in found)


def rule(**fields: object) -> Rule:
    return Rule.model_validate({"id": "r", "text": "gone", "files": ["*.vue"], "at": "2", **fields})


def test_a_text_is_not_looked_for_in_comments() -> None:
    text = "<!-- gone\n gone -->\n<p>gone</p> // gone\n"
    kept = without_comments("a.vue", text)
    assert len(kept) == len(text)
    assert [line for line, _ in spoken_lines(rule(), kept)] == [3]
    assert [line for line, _ in spoken_lines(rule(), without_comments("a.sh", "# gone\ngone # gone\n"))] == [2]
    assert without_comments("a.js", "x('http://a//b')") == "x('http://a//b')"


def test_what_has_to_stand_elsewhere_and_what_nowhere() -> None:
    given = {"id": "r", "text": "old", "files": ["*.js"], "at": "2"}
    both = {"a.js": "x\nold", "b.js": "here"}
    assert Texts(both).places(Rule(**given)) == [("a.js", 2, "old")]
    assert Texts(both).places(Rule(**given, elsewhere="here")) == [("a.js", 2, "old")]
    assert Texts(both).places(Rule(**given, elsewhere="there")) == []
    assert Texts(both).places(Rule(**given, nowhere="here")) == []
    assert Texts({**both, "b.css": "there"}).places(Rule(**given, nowhere="there")) == [("a.js", 2, "old")]


def test_a_rule_about_comments_sees_them_and_no_rule_sees_lines_nobody_wrote() -> None:
    given = {"id": "r", "text": "old", "files": ["*.js"], "at": "2"}
    texts = Texts({"a.js": "// old", "b.js": f"{'x' * 5001} old\nold"})
    assert texts.places(Rule(**given)) == [("b.js", 2, "old")]
    assert texts.places(Rule(**given, comments=True)) == [("a.js", 1, "// old"), ("b.js", 2, "old")]


def test_elements_are_values_in_assignments_and_comprehensions() -> None:
    paths = {
        ask.path
        for ask in read_python(b"import lib\na = lib.make()['x']\na.go()\n[e.stop() for e in lib.all()]\n").asks
    }
    assert {"lib.make().[]().go", "lib.all().[]().stop"} <= paths
    assert "lib.make().[]().go" not in {a.path for a in read_python(b"import lib\na = lib.make()[1:2]\na.go()\n").asks}


def test_what_has_to_stand_beside_and_what_takes_a_place_out() -> None:
    assert list(spoken_lines(rule(beside="sign"), "gone")) == []
    assert [line for line, _ in spoken_lines(rule(beside="sign"), "sign\ngone gone")] == [2]
    assert list(spoken_lines(rule(text="gone.*", unless="kept"), "gone kept")) == []


@pytest.mark.parametrize(
    ("glob", "path", "fits"),
    [
        ("*.vue", "src/A.vue", True),
        ("webpack*.js", "config/webpack.dev.js", True),
        ("webpack*.js", "config/webpack/dev.js", False),
        ("src/*.js", "a/src/b.js", True),
        ("src/*.js", "a/srcs/b.js", False),
        ("Procfile", "Procfile", True),
        ("*.py", "a.pyc", False),
    ],
)
def test_files_are_named_by_name_or_by_the_end_of_their_path(glob: str, path: str, fits: bool) -> None:
    assert bool(files_of((glob,)).search(path.lower())) is fits


@pytest.mark.parametrize(
    ("fields", "said"),
    [
        ({"text": None}, "exactly one"),
        ({"at": None}, "names the line"),
        ({"files": []}, "names the files"),
        ({"text": "(open"}, "is no pattern"),
    ],
)
def test_a_rule_that_cannot_be_is_refused_with_a_reason(fields: dict[str, object], said: str) -> None:
    with pytest.raises(ValueError, match=said):
        rule(**fields)
