"""What is not written here is told apart: it breaks, is renewed as a whole, and costs nobody anything place by place."""

from __future__ import annotations

from yoake.core.ecosystems.python.syntax import read_python
from yoake.core.knowledge.base import Knowledge
from yoake.core.readiness.estimate import mean_days, needs_work, three_point
from yoake.core.scan.foreign_code import foreign_code
from yoake.core.scan.run import ScanInput, run_scan
from yoake.core.values.coordinates import Coordinate, parse_target
from yoake.core.values.findings import FileResult
from yoake.core.values.modules import Module
from yoake.core.values.results import ScanResult
from yoake.core.values.words import FileRole

_LOST = "import imp\nimp.find_module('a')\n"


def _scan(knowledge: Knowledge, files: dict[str, tuple[FileRole, str]]) -> ScanResult:
    facts = {name: read_python(text.encode()) for name, (_, text) in files.items()}
    results = [
        FileResult(path=name, state="scanned", language="Python", role=role) for name, (role, _) in files.items()
    ]
    targets = [parse_target("python@3.13")]
    return run_scan(
        ScanInput(
            facts=facts,
            files=results,
            modules=[Module(path="", name="app")],
            destination=targets,
            said=[parse_target("python@3.8")],
        ),
        knowledge,
    )


def test_places_in_copies_are_no_work_and_their_tree_is_one_piece_of_it(knowledge: Knowledge) -> None:
    result = _scan(
        knowledge,
        {
            "desk/main.py": ("source", _LOST),
            "desk/_vendor/knots/a.py": ("vendored", _LOST * 20),
            "desk/_vendor/knots/b.py": ("vendored", "import asyncore\n" * 20),
        },
    )
    found = {f.symbol: f for f in result.findings}
    assert {p.file: p.is_work for p in found["imp"].places} == {"desk/main.py": True, "desk/_vendor/knots/a.py": False}
    assert not needs_work(found["asyncore"])
    assert result.findings[-1].symbol == "asyncore"  # what is nobody's work here comes after what is
    tree = found["vendored desk/_vendor/knots"]
    assert (tree.level, tree.bites_at, needs_work(tree)) == ("error", "3.12", True)
    assert tree.title == "desk/_vendor/knots: a copy to renew, 60 places in it break"
    low, likely, high = three_point(tree, knowledge.effort)
    assert (low, likely, high) == knowledge.effort.foreign["vendored"]  # once, however many files
    alone = _scan(knowledge, {"desk/main.py": ("source", _LOST)})
    assert three_point(found["imp"], knowledge.effort) == three_point(alone.findings[0], knowledge.effort)


def test_what_a_copy_asks_for_is_not_asked_for_here() -> None:
    files = [
        FileResult(path="desk/main.py", state="scanned", language="Python"),
        FileResult(path="desk/static/pen/pen.js", state="scanned", language="JavaScript", role="vendored"),
    ]
    pen = Module(path="desk/static/pen", name="pen")
    bare = Module(path="deploy", name="deploy")
    root = Module(path="", name="desk")
    assert foreign_code(files).own_modules([root, bare, pen]) == [root, bare]
    assert foreign_code(files[1:]).own_modules([root, pen]) == [
        root,
        pen,
    ]  # of what there is only as a copy, that is looked at


def test_a_bundle_is_one_check_however_much_is_in_it(knowledge: Knowledge) -> None:
    """Else a large one would be the whole figure."""
    bundle: dict[str, tuple[FileRole, str]] = {
        "static/all.py": ("generated", "\n".join(f"import {name}" for name in ("imp", "asyncore", "os", "sys", "json")))
    }
    own: dict[str, tuple[FileRole, str]] = {"desk/main.py": ("source", "import os\n")}
    tallies = _scan(knowledge, {**own, **bundle}).checks.by_sort["usage"]
    weight = knowledge.effort.weights.usage
    assert (tallies.holds, tallies.fails) == (weight, weight)


def test_making_a_bundle_again_costs_less_than_its_places_would(knowledge: Knowledge) -> None:
    text = "".join(f"import imp\nimp.find_module('{n}')\n" for n in range(300))
    made = {
        f.kind: f for f in _scan(knowledge, {"a.py": ("source", ""), "static/all.py": ("generated", text)}).findings
    }
    by_hand = {f.kind: f for f in _scan(knowledge, {"a.py": ("source", text)}).findings}
    assert made["toolchain"].title.startswith("static: to be made again from its source")
    assert mean_days(made["toolchain"], knowledge.effort) < mean_days(by_hand["removed"], knowledge.effort)


def test_a_tree_is_the_largest_folder_that_holds_nothing_else() -> None:
    def file(path: str, role: FileRole) -> FileResult:
        return FileResult(path=path, state="scanned", language="Python", role=role)

    found = foreign_code(
        [
            file("a/x.py", "source"),
            file("a/copied/knots/y.py", "vendored"),
            file("a/copied/knots/deep/z.py", "vendored"),
            file("a/vendor/one/y.py", "vendored"),
            file("a/vendor/two.py", "vendored"),
            file("a/w.py", "vendored"),
        ]
    )
    assert found.trees == {
        "a/copied/knots/y.py": "a/copied",
        "a/copied/knots/deep/z.py": "a/copied",
        "a/vendor/one/y.py": "a/vendor/one",
        "a/vendor/two.py": "a/vendor/two.py",
        "a/w.py": "a/w.py",
    }


def test_what_is_not_written_here_says_nothing_of_today(knowledge: Knowledge) -> None:
    """Copies for older runtimes lie in many trees."""
    files: dict[str, tuple[FileRole, str]] = {
        "desk/main.py": ("source", "import os\n"),
        "desk/_vendor/knots.py": ("vendored", "print 'a'\n"),
    }
    facts = {name: read_python(text.encode()) for name, (_, text) in files.items()}
    results = [
        FileResult(path=name, state="scanned", language="Python", role=role) for name, (role, _) in files.items()
    ]
    found = run_scan(
        ScanInput(
            facts=facts, files=results, modules=[Module(path="", name="app")], destination=[parse_target("python@3.13")]
        ),
        knowledge,
    )
    assert found.today[""][Coordinate("pkg:generic/python")].line == "3.9"


def test_what_an_older_runtime_wanted_is_nothing_to_renew(knowledge: Knowledge) -> None:
    """It does not run today either, so nothing on the way breaks it."""
    old: tuple[FileRole, str] = ("vendored", "import Queue\nimport cPickle\n")
    found = _scan(knowledge, {"desk/main.py": ("source", _LOST), "desk/_vendor/py2.py": old}).findings
    assert not [f for f in found if f.symbol.startswith("vendored ")]
