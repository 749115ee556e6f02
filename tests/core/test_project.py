"""Inside a project: which import is its own, what a compatibility module hands on, which module stands beside."""

from __future__ import annotations

from yoake.core.ecosystems.python.project import Project
from yoake.core.ecosystems.python.syntax import read_python
from yoake.core.knowledge.base import Knowledge
from yoake.core.scan.run import ScanInput, run_scan
from yoake.core.values.coordinates import parse_target
from yoake.core.values.findings import FileResult
from yoake.core.values.modules import Module
from yoake.core.values.results import ScanResult


def scan(
    knowledge: Knowledge,
    files: dict[str, str],
    start: str = "python@3.8",
    goal: str = "python@3.13",
    modules: tuple[str, ...] = ("",),
) -> ScanResult:
    facts = {name: read_python(text.encode()) for name, text in files.items()}
    results = [FileResult(path=name, state="scanned") for name in files]
    targets = [parse_target(t) for t in goal.split()]
    return run_scan(
        ScanInput(
            facts=facts,
            files=results,
            modules=[Module(path=m, name=m or "app") for m in modules],
            destination=targets,
            said=[parse_target(t) for t in start.split()],
        ),
        knowledge,
    )


def places(result: ScanResult, level: str | None = None) -> list[tuple[str, int, str]]:
    return sorted(
        (p.file, p.line, p.symbol) for f in result.findings for p in f.places if level is None or p.level == level
    )


def test_a_top_level_package_of_the_project_shadows_the_library(knowledge: Knowledge) -> None:
    assert places(scan(knowledge, {"imp/__init__.py": "", "imp/x.py": "", "a.py": "import imp\n"})) == []


def test_a_module_beside_the_file_does_not_shadow_an_absolute_import(knowledge: Knowledge) -> None:
    files = {"pkg/__init__.py": "", "pkg/imp.py": "", "pkg/a.py": "import imp\n"}
    assert places(scan(knowledge, files)) == [("pkg/a.py", 1, "imp")]


def test_on_python_2_a_module_beside_the_file_does_shadow(knowledge: Knowledge) -> None:
    files = {"pkg/__init__.py": "", "pkg/imp.py": "", "pkg/a.py": "import imp\n"}
    found = places(scan(knowledge, files, "python@2.7"))
    assert found == [("pkg/a.py", 1, "syntax.implicit_relative_import")]  # the module is meant, and not found any more


def test_a_lost_name_is_reported_where_the_compatibility_module_takes_it(knowledge: Knowledge) -> None:
    files = {
        "pkg/__init__.py": "",
        "pkg/compat.py": "from collections import Mapping\n",
        "pkg/a.py": "from .compat import Mapping\nMapping\n",
    }
    assert places(scan(knowledge, files)) == [("pkg/compat.py", 1, "collections.Mapping")]


def test_a_name_that_a_file_puts_back_itself_is_there(knowledge: Knowledge) -> None:
    put_back = (
        "import collections, collections.abc\ncollections.Callable = collections.abc.Callable\ncollections.Callable\n"
    )
    files = {
        "a.py": put_back,
        "b.py": "import collections\ncollections.Callable\n",
        "c.py": f"from collections import Callable\n{put_back}",
    }
    assert places(scan(knowledge, files)) == [("b.py", 2, "collections.Callable"), ("c.py", 1, "collections.Callable")]


def test_what_is_put_back_on_other_versions_or_for_a_while_is_lost_all_the_same(knowledge: Knowledge) -> None:
    use = "import collections, sys\n{}\ncollections.Callable\n"
    old = use.format("if sys.version_info < (3, 3):\n    collections.Callable = object")
    inside = use.format("def go():\n    collections.Callable = object")
    tested = use.format("if not hasattr(collections, 'Callable'):\n    collections.Callable = object")
    found = places(scan(knowledge, {"a.py": old, "b.py": inside, "c.py": tested}))
    assert found == [("a.py", 4, "collections.Callable"), ("b.py", 4, "collections.Callable")]


def test_what_is_reached_through_a_handed_on_module_is_reported_where_it_is_used(knowledge: Knowledge) -> None:
    files = {
        "pkg/__init__.py": "",
        "pkg/compat.py": "import collections\n",
        "pkg/a.py": "from pkg import compat\nx = compat.collections.Mapping\n",
    }
    assert places(scan(knowledge, files)) == [("pkg/a.py", 2, "collections.Mapping")]


def test_a_star_import_of_the_project_hands_names_on(knowledge: Knowledge) -> None:
    files = {
        "pkg/__init__.py": "from .base import *\n",
        "pkg/base.py": "import collections\n",
        "a.py": "from pkg import collections\ncollections.Mapping\n",
    }
    assert places(scan(knowledge, files)) == [("a.py", 2, "collections.Mapping")]


def test_imports_in_a_circle_end(knowledge: Knowledge) -> None:
    files = {"p/__init__.py": "", "p/a.py": "from .b import x\n", "p/b.py": "from .a import x\n"}
    assert places(scan(knowledge, files)) == []


def test_a_base_class_in_another_file_is_followed(knowledge: Knowledge) -> None:
    files = {
        "t/__init__.py": "",
        "t/base.py": "import unittest\nclass Base(unittest.TestCase):\n    def assertNotEquals(self, a, b): pass\n",
        "t/a.py": "from .base import Base\nclass T(Base):\n    def test(self):\n        self.assertEquals(1, 1)\n        self.assertNotEquals(1, 2)\n",
    }
    assert [(f, n) for f, n, _ in places(scan(knowledge, files))] == [("t/a.py", 4)]


def test_a_src_folder_is_a_root() -> None:
    project = Project(
        {"src/pkg/__init__.py": read_python(b""), "src/pkg/a.py": read_python(b"")}, [""], implicit_relative=False
    )
    assert project.module_of["src/pkg/a.py"] == "pkg.a"
    assert project.is_local("pkg")


def test_each_module_is_judged_from_its_own_line(knowledge: Knowledge) -> None:
    result = scan(knowledge, {"one/a.py": "import imp\n", "two/b.py": "x = 1\n"}, modules=("one", "two"))
    assert {f.module for f in result.findings} == {"one"}
    assert set(result.today) == {"one", "two"}


def test_the_same_input_gives_the_same_findings_in_the_same_order(knowledge: Knowledge) -> None:
    files = {f"m{i}.py": "import imp, asyncore\nfrom collections import Mapping\n" for i in range(5)}
    first, second = scan(knowledge, files), scan(knowledge, dict(reversed(files.items())))
    assert first.findings == second.findings


def test_a_key_does_not_move_with_lines_or_destination(knowledge: Knowledge) -> None:
    one = scan(knowledge, {"a.py": "def f():\n    import imp\n"}, goal="python@3.12")
    two = scan(knowledge, {"a.py": "x = 1\n\n\ndef f():\n    import imp\n"}, goal="python@3.13")
    assert one.findings[0].key == two.findings[0].key
    assert one.findings[0].places[0].key == two.findings[0].places[0].key


def test_what_is_written_for_a_later_line_is_not_called_removed(knowledge: Knowledge) -> None:
    result = scan(knowledge, {"a.py": "import tomllib\n"}, "python@3.8", "python@3.10")
    assert result.findings == []
    assert result.checks.by_sort["usage"].unknown > 0


def test_names_never_seen_are_not_known_and_never_clear(knowledge: Knowledge) -> None:
    result = scan(knowledge, {"a.py": "import os\nos.no_such_name_ever\n"})
    assert result.findings == []
    assert result.checks.by_sort["usage"].unknown == 10


def test_deprecated_and_guarded_hold_and_lost_fails(knowledge: Knowledge) -> None:
    text = "import datetime\ndatetime.datetime.utcnow()\ntry:\n    import imp\nexcept ImportError:\n    imp = None\nimport asyncore\n"
    tally = scan(knowledge, {"a.py": text}).checks.by_sort["usage"]
    assert tally.fails == 10
    assert tally.unknown == 0


def test_below_an_import_that_fails_nothing_of_its_try_is_run(knowledge: Knowledge) -> None:
    text = "try:\n    import imp\n    x = unicode\nexcept ImportError:\n    y = unicode\nz = unicode\n"
    found = places(scan(knowledge, {"a.py": text}), "error")
    lines = {line for _, line, symbol in found if symbol == "builtins.unicode"}
    assert lines == {5, 6}


def test_an_import_that_goes_on_working_hides_nothing_below_it(knowledge: Knowledge) -> None:
    text = "try:\n    import json\n    x = unicode\nexcept ImportError:\n    pass\n"
    assert ("a.py", 3, "builtins.unicode") in places(scan(knowledge, {"a.py": text}), "error")
