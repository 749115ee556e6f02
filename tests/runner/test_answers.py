"""The kept answer is given only while nothing that it depends on changed."""

from __future__ import annotations

import os
import time
from pathlib import Path

import pytest

from yoake.runner.answers import Request, read_request, write_whole
from yoake.store.command_answers import Answers

_OLD = time.time_ns() - 60_000_000_000


def _request(folder: Path, *more: str) -> Request:
    found = read_request(["scan", str(folder), "--to", "python@3.13", *more], [])
    assert found is not None
    return found


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A small folder to scan."""
    made = tmp_path / "app"
    (made / "pkg").mkdir(parents=True)
    (made / "pkg" / "a.py").write_text("import os\n")
    return made


def test_the_same_folder_gives_the_same_key(folder: Path) -> None:
    assert _request(folder).key == _request(folder).key


def test_a_changed_new_or_removed_file_gives_another_key(folder: Path) -> None:
    keys = [_request(folder).key]
    (folder / "pkg" / "a.py").write_text("import sys\n")
    keys.append(_request(folder).key)
    (folder / "pkg" / "b.py").write_text("")
    keys.append(_request(folder).key)
    (folder / "pkg" / "a.py").unlink()
    keys.append(_request(folder).key)
    assert len(set(keys)) == len(keys)


def test_content_of_the_same_length_and_time_gives_another_key(folder: Path) -> None:
    file = folder / "pkg" / "a.py"
    os.utime(file, ns=(_OLD, _OLD))
    before = _request(folder).key
    file.write_text("import re\n")
    os.utime(file, ns=(_OLD, _OLD))
    assert _request(folder).key != before


def test_other_arguments_give_another_key_and_the_output_file_does_not(folder: Path) -> None:
    assert _request(folder).key != _request(folder, "--format", "json").key
    assert _request(folder).key == _request(folder, "-o", "x.txt").key
    assert _request(folder, "-o", "x.txt").output == "x.txt"


def test_knowledge_counts(folder: Path, tmp_path: Path) -> None:
    own = tmp_path / "knowledge"
    own.mkdir()
    arguments = ["scan", str(folder), "--to", "python@3.13"]
    before = read_request(arguments, [str(own)])
    (own / "rules.yaml").write_text("a: 1\n")
    after = read_request(arguments, [str(own)])
    assert before is not None
    assert after is not None
    assert before.key != after.key


def test_what_changed_just_now_is_not_settled(folder: Path) -> None:
    assert not _request(folder).settled


def test_other_commands_and_commits_are_no_such_request(folder: Path) -> None:
    assert read_request(["serve"], []) is None
    assert read_request(["scan", str(folder), "--to", "python@3.13", "--ref", "main"], []) is None
    assert read_request(["scan", "no/such/folder", "--to", "python@3.13"], []) is None


def test_answers_come_back_and_the_oldest_make_room(tmp_path: Path) -> None:
    answers = Answers(tmp_path / "home" / "answers.sqlite")
    for number in range(150):
        answers.keep(f"k{number}", number % 2, f"text {number}")
    assert answers.find("k149") == (1, "text 149")
    assert answers.find("k0") is None
    answers.close()


def test_a_file_is_written_whole(tmp_path: Path) -> None:
    write_whole(tmp_path / "out.txt", "done\n")
    assert (tmp_path / "out.txt").read_text() == "done\n"
    assert [p.name for p in tmp_path.iterdir()] == ["out.txt"]
