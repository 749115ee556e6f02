"""Releases tried for real: packages made here, installed by the real package client without a network, and imported."""

from __future__ import annotations

import sys
import zipfile
from datetime import date
from pathlib import Path

import pytest

from tests.usecases.test_cli import yoake
from yoake.core.values.coordinates import Coordinate, Line, parse_coordinate, parse_target
from yoake.core.values.errors import BadCoordinate, BadKnowledge, BadSource
from yoake.runner.clients.python.interpreters import find_interpreters
from yoake.runner.clients.python.trying import try_release
from yoake.runner.knowledge_files import read_tried
from yoake.shipped import KIT
from yoake.usecases.try_release import TryTask, check_trial, try_now

LINE = f"{sys.version_info.major}.{sys.version_info.minor}"


def wheel(folder: Path, name: str, release: str, files: dict[str, str], needs: str = "") -> None:
    """A wheel with these files."""
    folder.mkdir(parents=True, exist_ok=True)
    inside = f"{name}-{release}.dist-info"
    metadata = f"Metadata-Version: 2.1\nName: {name}\nVersion: {release}\n" + (
        f"Requires-Dist: {needs}\n" if needs else ""
    )
    with zipfile.ZipFile(folder / f"{name}-{release}-py3-none-any.whl", "w") as archive:
        for path, text in files.items():
            archive.writestr(path, text)
        archive.writestr(f"{inside}/METADATA", metadata)
        archive.writestr(f"{inside}/WHEEL", "Wheel-Version: 1.0\nRoot-Is-Purelib: true\nTag: py3-none-any\n")
        listed = "".join(
            f"{path},,\n" for path in (*files, f"{inside}/METADATA", f"{inside}/WHEEL", f"{inside}/RECORD")
        )
        archive.writestr(f"{inside}/RECORD", listed)


@pytest.fixture
def shelf(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A folder that the package client takes wheels from, and nothing else."""
    if LINE not in find_interpreters():
        pytest.skip(f"there is no Python {LINE} on PATH or under pyenv")
    monkeypatch.setenv("PIP_NO_INDEX", "1")
    monkeypatch.setenv("PIP_FIND_LINKS", str(tmp_path / "shelf"))
    return tmp_path / "shelf"


def test_what_can_be_imported_runs_and_what_cannot_says_why(shelf: Path) -> None:
    lamp = parse_coordinate("pypi/lamp")
    wheel(shelf, "lamp", "1.0", {"lamp/__init__.py": "import wick\n"}, needs="wick")
    wheel(shelf, "wick", "0.1", {"wick.py": "x = 1\n"})
    wheel(shelf, "lamp", "1.1", {"lamp/__init__.py": "from json import never_there\n"})
    assert try_release(lamp, "1.0", Line(LINE)).runs
    failed = try_release(lamp, "1.1", Line(LINE))
    assert not failed.runs
    assert failed.note.startswith("cannot be imported: ImportError: cannot import name 'never_there' from 'json'")
    assert "/" not in failed.note
    assert try_release(lamp, "9.9", Line(LINE)).note.startswith("does not install: ERROR:")


def test_a_module_inside_counts_only_where_the_runtime_is_to_blame(shelf: Path) -> None:
    lamp = parse_coordinate("pypi/lamp")
    wheel(shelf, "lamp", "1.0", {"lamp/__init__.py": "", "lamp/more.py": "import optional_thing\n"})
    wheel(shelf, "lamp", "1.1", {"lamp/__init__.py": "", "lamp/more.py": "from inspect import never_there\n"})
    assert try_release(lamp, "1.0", Line(LINE)).runs
    assert "lamp.more: ImportError" in try_release(lamp, "1.1", Line(LINE)).note


def test_what_runs_only_with_something_beside_it_says_so(shelf: Path) -> None:
    wheel(shelf, "lamp", "1.0", {"lamp.py": "import six\n"})
    wheel(shelf, "six", "1.16", {"six.py": ""})
    trial = try_release(parse_coordinate("pypi/lamp"), "1.0", Line(LINE))
    assert (trial.runs, trial.beside) == (True, "six")


def test_a_line_that_is_not_on_this_machine_is_refused_with_those_that_are() -> None:
    with pytest.raises(BadSource, match="There are: .*" + LINE if LINE in find_interpreters() else "There are"):
        try_release(parse_coordinate("pypi/lamp"), "1.0", Line("2.6"))


def test_a_trial_is_kept_where_every_scan_finds_it(shelf: Path, tmp_path: Path) -> None:
    wheel(shelf, "lamp", "1.0", {"lamp.py": ""})
    home, on = tmp_path / "home", parse_target(f"python@{LINE}")
    said: list[str] = []
    task = TryTask(home, parse_coordinate("pypi/Lamp"), "1.0", on, date(2026, 11, 26))
    fact = try_now(task, KIT, lambda progress: said.append(progress.phase))
    assert fact.runs
    assert said == [f"trying lamp 1.0 on python@{LINE}"]
    assert KIT.knowledge(home / "knowledge").tried(Coordinate("pkg:pypi/lamp"), "1.0", Line(LINE)) == fact
    (home / "knowledge" / "tried" / "own.json.gz").write_bytes(b"no archive")
    with pytest.raises(BadKnowledge, match="Delete it"):
        read_tried(home / "knowledge" / "tried" / "own.json.gz")


@pytest.mark.parametrize(
    ("coordinate", "release", "on"),
    [
        ("npm/express", "4.0.0", "node@24"),
        ("pypi/lamp", "1.0", "node@24"),
        ("pypi/lamp", "--index-url=x", "python@3.13"),
        ("pypi/lamp", "1.0 six", "python@3.13"),
    ],
)
def test_what_cannot_be_tried_is_refused(coordinate: Coordinate, release: str, on: str) -> None:
    with pytest.raises(BadCoordinate):
        check_trial(KIT, parse_coordinate(coordinate), release, parse_target(on))


def test_the_command_says_what_came_of_it(shelf: Path, tmp_path: Path) -> None:
    wheel(shelf, "lamp", "1.0", {"lamp.py": ""})
    arguments = ("knowledge", "try", "pypi/lamp@1.0", "--on", f"python@{LINE}")
    done = yoake(*arguments, home=tmp_path / "home")
    assert done.returncode == 0, done.stderr
    assert f"lamp 1.0 on python@{LINE}: was installed and imported there on" in done.stdout
    failed = yoake("knowledge", "try", "pypi/lamp@2.0", "--on", f"python@{LINE}", home=tmp_path / "home")
    assert (failed.returncode, "does not install" in failed.stdout) == (1, True)
