"""Who uses whom: folders, loops, levels, and files that nobody names."""

from __future__ import annotations

from yoake.core.ecosystems.python.project import Project
from yoake.core.registered import ECOSYSTEMS
from yoake.core.scan.grouping import group
from yoake.core.scan.references import file_references


def references(files: dict[str, str], few: int = 0) -> tuple[dict[tuple[str, str], int], list[str]]:
    facts = {path: ECOSYSTEMS.read_source(path, text.encode()) for path, text in files.items()}
    project = Project(facts, [""], implicit_relative=False)
    targets = {
        path: {a.path: t for a in f.asks if a.form == "import" and (t := project.target_of(a.path, path))}
        for path, f in facts.items()
    }
    return file_references(facts, targets, ECOSYSTEMS, few)


FILES = {
    "app/__init__.py": "",
    "app/web/__init__.py": "",
    "app/web/pages.py": "from app.data.rows import Row\n",
    "app/data/__init__.py": "",
    "app/data/rows.py": "from app.web import pages\nRow = 1\n",
    "app/base/__init__.py": "",
    "app/base/text.py": "import os\n",
    "app/data/dead.py": "from app.base.text import x\n",
}


def test_folders_refer_to_folders_and_dead_files_are_named() -> None:
    edges, lonely = references(FILES)
    assert edges == {("app/web", "app/data"): 1, ("app/data", "app/web"): 1, ("app/data", "app/base"): 1}
    assert lonely == ["app/data/dead.py"]


def test_a_loop_is_one_level_and_has_a_number() -> None:
    edges, _ = references(FILES)
    parts, _ = group([(path, 10) for path in FILES], edges)
    held = {p.path: (p.cycle, p.level) for p in parts}
    assert held["app/web"] == held["app/data"] == (1, 1)
    assert held["app/base"] == (0, 0)


def test_in_a_small_application_files_stand_for_themselves() -> None:
    edges, lonely = references(FILES, few=24)
    assert edges[("app/web/pages.py", "app/data/rows.py")] == 1
    assert lonely == ["app/data/dead.py"]
    parts, found = group([(path, len(text)) for path, text in FILES.items()], edges)
    held = {p.path: p for p in parts}
    assert "app/__init__.py" not in held  # empty, and nobody names it
    assert held["app/data/dead.py"].level == held["app/base/text.py"].level + 1
    assert {(r.source, r.target) for r in found} == set(edges)


def test_a_stored_graph_of_folders_is_still_shown_by_folder() -> None:
    parts, _ = group([(path, 10) for path in FILES], {("app/web", "app/data"): 2})
    assert {p.path for p in parts} == {"app", "app/web", "app/data", "app/base"}


def test_deep_folders_are_put_together_until_they_fit() -> None:
    files = [(f"a/b{i}/c{j}/x.py", 5) for i in range(6) for j in range(10)]
    parts, found = group(files, {("a/b0/c1", "a/b1/c2"): 3, ("a/b0/c2", "a/b1/c3"): 2}, most=8)
    assert len(parts) == 6
    assert sum(p.files for p in parts) == 60
    assert [(r.source, r.target, r.count) for r in found] == [("a/b0", "a/b1", 5)]
