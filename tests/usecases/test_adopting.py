"""Taking a path: its stages become work, finished stages stay finished, and it says what moved under it."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.conftest import write
from tests.usecases.screens import steps
from tests.usecases.test_tracking import scan, take
from yoake.context.context import Context
from yoake.core.values.coordinates import parse_target
from yoake.core.values.errors import BadInput, Conflict, NotFound
from yoake.core.values.journeys import Shape
from yoake.runner.extraction import Extractor
from yoake.usecases.adopt import adopt, leave
from yoake.views.application_rows import portfolio
from yoake.views.path import path
from yoake.views.path_documents import write_path
from yoake.views.path_records import PathView

STOP = Shape(pins=(parse_target("python@3.11"),))


@pytest.fixture
def desk(context: Context, tmp_path: Path, extractor: Extractor) -> int:
    files = {".python-version": "3.8\n", "a.py": "import imp\nimport asyncore\n", "requirements.txt": "six==1.16.0\n"}
    number = take(context, write(tmp_path / "src", files))
    scan(context, number, extractor)
    return number


def stages(context: Context) -> dict[str, str]:
    return {s.title: s.state for s in steps(context) if s.finding_key.startswith("stage:")}


def keys(view: PathView) -> list[str]:
    return [w.key for w in view.ways]


def test_ways_stand_side_by_side_and_every_cell_says_why(context: Context, desk: int) -> None:
    view = path(context, "app")
    assert "work" in keys(view)
    for way in view.ways:
        assert way.stages[0].title == "Before any version moves"
        assert way.effort50 <= way.effort80
        assert way.arrival50 <= way.arrival80
        assert all(cell.reason for stage in way.stages for cell in stage.cells)
    assert {t.name for t in view.tracks} >= {"Python", "six"}
    assert all(other.reasons for other in view.others)


def test_taking_a_path_makes_its_stages_work_and_taking_it_back_ends_that(context: Context, desk: int) -> None:
    assert stages(context) == {}
    adopt(context=context, slug="app", set_name="", choice="work", shape=STOP, who="Ines", why="calm")
    assert set(stages(context).values()) == {"open"}
    assert {"Move to Python 3.11", "Move to Python 3.13"} <= {t.split(" with ")[0] for t in stages(context)}
    view = path(context, "app")
    assert view.adopted is not None
    assert (view.adopted.who, view.adopted.why, view.adopted.moved) == ("Ines", "calm", [])
    assert any(w.adopted for w in view.ways)
    assert [s.label for s in portfolio(context).rows[0].stages] == ["3.11", "3.13"]
    leave(context, "app", "", "Ines")
    assert path(context, "app").adopted is None
    assert set(stages(context).values()) == {"closed"}


def test_a_stage_closes_when_a_scan_reads_its_lines_and_stays_finished(
    context: Context, desk: int, tmp_path: Path, extractor: Extractor
) -> None:
    adopt(context=context, slug="app", set_name="", choice="work", shape=STOP, who="Ines", why="")
    write(tmp_path / "src", {".python-version": "3.11\n"})
    scan(context, desk, extractor)
    done = {title.split(" with ")[0]: state for title, state in stages(context).items()}
    assert done == {"Move to Python 3.11": "closed", "Move to Python 3.13": "open"}
    view = path(context, "app")
    assert view.adopted is not None
    assert next(f.title for f in view.adopted.finished).startswith("Python 3.11")
    adopt(context=context, slug="app", set_name="", choice="work", shape=Shape(), who="Ines", why="again")
    again = path(context, "app").adopted
    assert again is not None
    assert again.finished == view.adopted.finished


def test_what_moved_under_a_path_is_said(context: Context, desk: int, tmp_path: Path, extractor: Extractor) -> None:
    adopt(context=context, slug="app", set_name="", choice="work", shape=STOP, who="Ines", why="")
    write(tmp_path / "src", {"b.py": "import cgi\n", ".python-version": "3.9\n"})
    scan(context, desk, extractor)
    adopted = path(context, "app").adopted
    assert adopted is not None
    assert "Python stands on 3.9; the path counted from 3.8" in adopted.moved
    assert any("came since" in text for text in adopted.moved)
    assert adopted.fresh


def test_holding_is_taken_like_a_path_and_only_where_it_is_possible(context: Context, desk: int) -> None:
    with pytest.raises(NotFound):
        adopt(
            context=context, slug="app", set_name="", choice="hold", shape=Shape(), who="Ines", why=""
        )  # 3.8 lost support long ago
    adopt(context=context, slug="app", set_name="", choice="retire", shape=Shape(), who="Ines", why="nobody uses it")
    assert path(context, "app").adopted.title == "Retire"
    assert stages(context) != {}


def test_what_cannot_be_taken_says_why(context: Context, desk: int, tmp_path: Path) -> None:
    with pytest.raises(BadInput, match="by someone"):
        adopt(context=context, slug="app", set_name="", choice="work", shape=Shape(), who=" ", why="")
    with pytest.raises(NotFound, match="no option “sideways”"):
        adopt(context=context, slug="app", set_name="", choice="sideways", shape=Shape(), who="Ines", why="")
    with pytest.raises(NotFound, match="no set of modules"):
        path(context, "app", "web")
    with pytest.raises(BadInput, match="destination itself"):
        path(context, "app", None, Shape(avoid=(parse_target("python@3.13"),)))
    with pytest.raises(NotFound):
        leave(context, "app", "", "Ines")
    take(context, write(tmp_path / "other", {"a.py": ""}), "unscanned")
    with pytest.raises(Conflict):
        adopt(context=context, slug="unscanned", set_name="", choice="work", shape=Shape(), who="Ines", why="")


def test_a_path_is_written_down_in_every_form(context: Context, desk: int) -> None:
    for form, begins in (("markdown", "# app: "), ("mermaid", "flowchart LR"), ("csv", "way,strategy"), ("json", "{")):
        assert write_path(context, "app", form, "work", None, Shape()).startswith(begins)
    with pytest.raises(NotFound):
        write_path(context, "app", "markdown", "sideways", None, Shape())


def test_a_library_is_told_which_lines_its_users_need(context: Context, tmp_path: Path, extractor: Extractor) -> None:
    library = {
        "setup.py": "from setuptools import setup\nsetup(name='lamp-common', python_requires='>=3.8')\n",
        "lamp.py": "import imp\n",
    }
    shared = take(context, write(tmp_path / "library", library), "lamp-common")
    user = take(context, write(tmp_path / "user", {".python-version": "3.9\n", "requirements.txt": "lamp-common==1.0\n", "a.py": "import imp\n"}), "till")  # fmt: skip
    scan(context, shared, extractor)
    scan(context, user, extractor)
    view = path(context, "lamp-common")
    served = {(b.name, b.line): b.users for b in view.bridges}
    assert served["Python", "3.9"] == ["till"]
    assert [(g.name, g.line, g.users) for g in view.shared] == [("Python", "3.13", 1)]
    assert any("till" in reason for o in view.others for reason in o.reasons)


def test_modules_under_their_own_lock_files_travel_apart(
    context: Context, tmp_path: Path, extractor: Extractor
) -> None:
    lock = '[[package]]\nname = "six"\nversion = "1.16.0"\n'
    files = {
        f"{part}/{name}": text
        for part, line in (("web", "3.8"), ("jobs", "3.11"))
        for name, text in (
            ("pyproject.toml", f'[project]\nname = "{part}"\nrequires-python = "~={line}.0"\ndependencies = ["six"]\n'),
            ("poetry.lock", lock),
            ("a.py", "import imp\n"),
        )
    }
    scan(context, take(context, write(tmp_path / "src", files)), extractor)
    view = path(context, "app")
    assert [s.name for s in view.sets] == ["jobs", "web"]
    today = {name: path(context, "app", name).tracks[0].today for name in ("jobs", "web")}
    assert today == {"jobs": "3.11", "web": "3.8"}
    assert len(portfolio(context).rows[0].stages) == 2
