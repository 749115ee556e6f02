"""Small laws of a scan: whose file is whose, how checks add up, and which texts are worth a look."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from yoake.core.contract.source_files import suffix_of
from yoake.core.ecosystems.javascript.names import NODE
from yoake.core.ecosystems.python.names import PYTHON, pypi
from yoake.core.inventory.mentions import find_mentions
from yoake.core.registered import ECOSYSTEMS
from yoake.core.scan.run import Owners
from yoake.core.values.findings import Checks
from yoake.core.values.modules import Module
from yoake.core.values.words import CheckState

folders = st.lists(st.sampled_from(["", "a", "a/b", "a/b/c", "ab", "b"]), unique=True, min_size=1)
files = st.sampled_from(["x.py", "a/x.py", "a/b/x.py", "a/b/c/d/x.py", "ab/x.py", "b/x.py", "abc/x.py"])


@given(folders, files)
def test_a_file_belongs_to_the_nearest_module_above_it_else_to_the_first(paths: list[str], file: str) -> None:
    inside = [path for path in paths if path == "" or file.startswith(f"{path}/")]
    wanted = max(inside, key=len, default=paths[0])
    assert Owners([Module(path=path, name=path or "app") for path in paths]).of(file) == wanted


def test_without_a_module_everything_belongs_to_the_top() -> None:
    assert Owners([]).of("a/b.py") == ""


@given(st.lists(st.tuples(st.sampled_from(["holds", "fails", "unknown"]), st.integers(1, 5)), max_size=12))
def test_checks_counted_together_are_checks_counted_one_by_one(rows: list[tuple[CheckState, int]]) -> None:
    once, singly = Checks(), Checks()
    for state, times in rows:
        once.add("usage", state, 0.5, "a.py", "m", "why", times=times)
        for _ in range(times):
            singly.add("usage", state, 0.5, "a.py", "m", "why")
    assert once == singly


def test_a_text_that_names_a_version_anywhere_is_gone_through_line_by_line() -> None:
    text = "# notes\n\nFROM python:3.8-slim\nRUN x\nuses Django==3.2\nnode 14 here, python 2.7 there\n"
    found = [
        (m.coordinate, m.version, m.line)
        for m in find_mentions("Dockerfile", text, [PYTHON, NODE, pypi("django")], ECOSYSTEMS)
    ]
    assert found == [
        (PYTHON, "3.8", 3),
        (pypi("django"), "3.2", 5),
        (PYTHON, "2.7", 6),
        (NODE, "14", 6),
    ]
    assert not list(find_mentions("README", "no number\n1.0 of something\n", [PYTHON, NODE], ECOSYSTEMS))


def test_a_suffix_is_what_stands_behind_the_last_dot_of_the_name() -> None:
    shown = {"a/b.PY": ".py", "a.d.ts": ".ts", ".bashrc": "", "dir.x/file": "", "a.": "", "x.tar.gz": ".gz", "": ""}
    assert {path: suffix_of(path) for path in shown} == shown
    assert ECOSYSTEMS.language_of_file("web/App.TSX") == "TypeScript"
    assert ECOSYSTEMS.language_of_file(".py") is None


def test_what_says_that_a_tool_wrote_it_is_generated_only_when_it_says_so_at_the_top() -> None:
    assert ECOSYSTEMS.role_of("a.py", b"# Code generated. DO NOT EDIT\n") == "generated"
    assert ECOSYSTEMS.role_of("a.py", b"\n" * 2_000 + b"# DO NOT EDIT\n") == "source"
    assert ECOSYSTEMS.role_of("vendor/a.py", b"") == "vendored"
    assert ECOSYSTEMS.role_of("tests/a.py", b"") == "test"
