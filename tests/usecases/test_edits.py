"""Edits of whole applications: checked by scanning what would stand there, and committed without touching what is checked out."""

from __future__ import annotations

import subprocess
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import pytest

from tests.conftest import git, write
from yoake.core.knowledge.base import Knowledge
from yoake.core.values.coordinates import parse_target
from yoake.core.values.edits import Change, Edited, Proposal, Rename, Spot
from yoake.core.values.errors import BadSource, Conflict
from yoake.formats.patches import patch
from yoake.runner.branches import commit_steps, head_of
from yoake.runner.extraction import Extractor
from yoake.runner.home import Home
from yoake.store.applications import Source
from yoake.usecases.edit import propose
from yoake.usecases.edit_tasks import EditTask
from yoake.usecases.progress import Control
from yoake.usecases.sources import open_snapshot

FILES = {
    ".python-version": "3.8\n",
    "pkg/__init__.py": "",
    "pkg/a.py": "import collections\nfrom collections import Mapping, OrderedDict\n\nclass A(Mapping, collections.Sequence):\n    '''ü'''\n",
    "pkg/b.py": "from pkg.a import A\nfrom base64 import encodestring\n\nprint(encodestring(b''))\n",
    "pkg/c.py": "try:\n    from collections.abc import Mapping\nexcept ImportError:\n    from collections import Mapping\n",
    "pkg/d.py": "from pipes import Template\n",
    "pkg/e.py": "from pkg.f import Iterable\n",
    "pkg/f.py": "from collections import Iterable as Iterable\nimport base64\nencode = base64.encodestring\n",
}


def proposed(folder: Path, home: Home, knowledge: Knowledge, extractor: Extractor, **how: Any) -> Proposal:
    source = Source("git" if (folder / ".git").exists() else "folder", str(folder), "")
    task = EditTask(
        home=home.folder, name="desk", source=source, targets=(parse_target("python@3.13"),), said=(), **how
    )
    snapshot = open_snapshot(source, home)
    try:
        return propose(task, snapshot, knowledge, extractor, Control())
    finally:
        snapshot.close()


def test_what_is_safe_today_is_edited_file_by_file_and_the_rest_says_why(
    tmp_path: Path, home: Home, knowledge: Knowledge, extractor: Extractor
) -> None:
    folder = write(tmp_path / "desk", FILES)
    made = proposed(folder, home, knowledge, extractor)
    outcomes = {f.path: f.outcome for f in made.files}
    assert outcomes == {"pkg/a.py": "changed", "pkg/b.py": "changed", "pkg/c.py": "hand", "pkg/f.py": "changed"}
    after = {f.path: f.after.decode() for f in made.files}
    assert after["pkg/a.py"] == (
        "import collections\nfrom collections import OrderedDict\nfrom collections.abc import Mapping\nimport collections.abc\n\n"
        "class A(Mapping, collections.abc.Sequence):\n    '''ü'''\n"
    )
    assert after["pkg/b.py"] == "from pkg.a import A\nfrom base64 import encodebytes\n\nprint(encodebytes(b''))\n"
    hand = next(f for f in made.files if f.path == "pkg/c.py").hand
    assert list(hand.values()) == ["it is guarded here: the code tells versions apart already"]
    assert [why for title, why in made.by_hand.values() if "pipes" in title] != []
    assert (folder / "pkg/a.py").read_text("utf-8") == FILES["pkg/a.py"]


def test_what_is_not_written_here_is_not_edited(
    tmp_path: Path, home: Home, knowledge: Knowledge, extractor: Extractor
) -> None:
    """A copy is renewed as a whole: an edit in it would be lost."""
    copied = {"pkg/_vendor/knots.py": FILES["pkg/a.py"]}
    made = proposed(write(tmp_path / "desk", {**FILES, **copied}), home, knowledge, extractor)
    assert {f.path for f in made.files if f.outcome == "changed"} == {"pkg/a.py", "pkg/b.py", "pkg/f.py"}


def test_a_branch_that_no_line_of_the_destination_runs_stays_as_it_is(
    tmp_path: Path, home: Home, knowledge: Knowledge, extractor: Extractor
) -> None:
    branches = (
        "import sys\n\nif sys.version_info >= (3,):\n    from collections import {}\nelse:\n    from collections import {}\n\n\n"
        "class A({}):\n    pass\n"
    )
    files = {".python-version": "3.8\n"}
    files["a.py"] = branches.format("Mapping", "Mapping", "Mapping")
    files["b.py"] = branches.format("Mapping as M", "Mapping as M", "M")
    made = proposed(write(tmp_path / "desk", files), home, knowledge, extractor)
    after = {f.path: f.after.decode() for f in made.files if f.outcome == "changed"}
    for path in ("a.py", "b.py"):
        assert after[path] == files[path].replace("from collections import", "from collections.abc import", 1)


def test_what_a_rule_about_texts_writes_is_told_in_its_words_and_not_by_its_name(
    tmp_path: Path, home: Home, knowledge: Knowledge, extractor: Extractor
) -> None:
    files = {"requirements.txt": "django==3.2\n", "desk/views.py": "def view(request):\n    return request.is_ajax()\n"}
    source = Source("folder", str(write(tmp_path / "desk", files)), "")
    said = (parse_target("python@3.8"),)
    task = EditTask(home=home.folder, name="desk", source=source, targets=(parse_target("pypi/django@4.2"),), said=said)
    made = propose(task, open_snapshot(source, home), knowledge, extractor, Control())
    (step,) = made.steps
    assert (step.old, step.new) == ("request.is_ajax()", "")
    assert step.message.startswith("Write otherwise: request.is_ajax()\n\nThe old way ends at Django 4.0.")
    assert b"x-requested-with" in step.files["desk/views.py"]


def test_what_others_take_from_a_file_is_not_taken_out_of_it(
    tmp_path: Path, home: Home, knowledge: Knowledge, extractor: Extractor
) -> None:
    files = FILES | {"pkg/b.py": "from base64 import encodestring\n", "pkg/g.py": "from .b import encodestring\n"}
    made = proposed(write(tmp_path / "desk", files), home, knowledge, extractor)
    b = next(f for f in made.files if f.path == "pkg/b.py")
    assert (b.outcome, b.why) == ("cannot", "pkg/g.py takes encodestring from here")


@pytest.mark.parametrize(
    ("spoil", "said"),
    [
        (
            lambda c: [type(x)(x.start, x.end, x.text.replace(b"encodebytes", b"decodestring")) for x in c],
            "decodestring",
        ),
        (lambda c: c[:-1], "nothing in the new text says what encodestring is"),
        (lambda c: c[1:], "nothing in the new text says what encodebytes is"),
        (lambda c: [type(c[0])(0, 0, b"# nothing\n")], "still finds base64.encodestring"),
    ],
)
def test_a_file_whose_new_text_a_scan_would_complain_about_is_not_offered(
    tmp_path: Path,
    home: Home,
    knowledge: Knowledge,
    extractor: Extractor,
    spoil: Callable[[Sequence[Change]], list[Change]],
    said: str,
) -> None:
    """The ecosystem is made to write a name that is no better, or to leave a place out: only the scan of the new text can tell."""
    python = next(e for e in knowledge.ecosystems.ecosystems if e.language == "python")
    written = python.rename
    assert written is not None

    def worse(text: bytes, renames: Sequence[Rename], lost: Sequence[Spot]) -> Edited:
        made = written(text, renames, lost)
        return Edited(tuple(spoil(made.changes)), made.refused)

    object.__setattr__(python, "rename", worse)
    try:
        made = proposed(write(tmp_path / "desk", FILES), home, knowledge, extractor)
    finally:
        object.__setattr__(python, "rename", written)
    b = next(f for f in made.files if f.path == "pkg/b.py")
    assert b.outcome == "cannot"
    assert said in b.why


def test_encodings_marks_and_line_ends_come_back_as_they_were(
    tmp_path: Path, home: Home, knowledge: Knowledge, extractor: Extractor
) -> None:
    folder = write(tmp_path / "desk", {".python-version": "3.8\n"})
    latin = "# -*- coding: latin-1 -*-\r\nfrom base64 import encodestring\r\nname = 'Müller'\r\nencodestring(b'')\r\n"
    (folder / "latin.py").write_bytes(latin.encode("latin-1"))
    (folder / "marked.py").write_bytes(b"\xef\xbb\xbffrom base64 import encodestring\n\x0c\nx = encodestring")
    made = {f.path: f for f in proposed(folder, home, knowledge, extractor).files}
    assert made["latin.py"].after == latin.replace("encodestring", "encodebytes").encode("latin-1")
    assert made["marked.py"].after == b"\xef\xbb\xbffrom base64 import encodebytes\n\x0c\nx = encodebytes"


def test_a_patch_is_one_that_git_takes(
    tmp_path: Path,
    repository: Callable[[str, dict[str, str]], Path],
    home: Home,
    knowledge: Knowledge,
    extractor: Extractor,
) -> None:
    folder = repository("desk", FILES | {"pkg/end.py": "from base64 import encodestring\r\nencodestring"})
    made = proposed(folder, home, knowledge, extractor)
    changed = [(f.path, f.before, f.after) for f in made.files if f.outcome == "changed"]
    (tmp_path / "all.patch").write_bytes(patch(changed))
    git(folder, "apply", str(tmp_path / "all.patch"))
    assert {path: (folder / path).read_bytes() for path, _, _ in changed} == {path: after for path, _, after in changed}


@pytest.fixture
def committer(monkeypatch: pytest.MonkeyPatch) -> None:
    for role in ("AUTHOR", "COMMITTER"):
        monkeypatch.setenv(f"GIT_{role}_NAME", "Test")
        monkeypatch.setenv(f"GIT_{role}_EMAIL", "test@harrowmere.example")


def steps_of(made: Proposal) -> tuple[list[tuple[str, dict[str, bytes]]], dict[str, bytes]]:
    before = {f.path: f.before for f in made.files if f.outcome == "changed"}
    return [(s.message, dict(s.files)) for s in made.steps], before


def stand_of(folder: Path) -> tuple[str, ...]:
    """HEAD, the branch that is checked out, the index, and what differs from it."""
    index = (folder / ".git" / "index").read_bytes().hex()
    return (git(folder, "rev-parse", "HEAD"), git(folder, "branch", "--show-current"), index, git(folder, "diff"))


@pytest.mark.usefixtures("committer")
def test_each_step_is_a_commit_on_a_branch_and_what_is_checked_out_stays_as_it_is(
    repository: Callable[[str, dict[str, str]], Path], home: Home, knowledge: Knowledge, extractor: Extractor
) -> None:
    folder = repository("desk", FILES)
    made = proposed(folder, home, knowledge, extractor)
    write(folder, {"notes.txt": "unsaved thoughts\n", "pkg/__init__.py": "dirty = True\n"})
    before = stand_of(folder)
    steps, expected = steps_of(made)
    done = commit_steps(folder, head_of(folder), "yoake/now", steps, expected)
    assert stand_of(folder) == before
    assert (folder / "notes.txt").read_text() == "unsaved thoughts\n"
    assert git(folder, "worktree", "list").count("\n") == 0
    assert len(done.commits) == len(steps) == int(git(folder, "rev-list", "--count", f"{done.base}..yoake/now"))
    subjects = git(folder, "log", "--reverse", "--format=%s", f"{done.base}..yoake/now").splitlines()
    assert subjects == [message.splitlines()[0] for message, _ in steps]
    for file in made.files:
        if file.outcome == "changed":
            shown = subprocess.run(
                ["git", "show", f"yoake/now:{file.path}"], cwd=folder, capture_output=True, check=True
            ).stdout
            assert shown == file.after
    for commit, _ in done.commits:  # every step stands by itself
        text = git(folder, "show", f"{commit}:pkg/a.py")
        compile(text, "a.py", "exec")


@pytest.mark.usefixtures("committer")
def test_what_stands_in_the_way_of_a_branch_is_said_and_leaves_nothing_behind(
    repository: Callable[[str, dict[str, str]], Path], home: Home, knowledge: Knowledge, extractor: Extractor
) -> None:
    folder = repository("desk", FILES)
    steps, expected = steps_of(proposed(folder, home, knowledge, extractor))
    head = head_of(folder)
    git(folder, "branch", "taken")
    with pytest.raises(Conflict, match="There is a branch taken already"):
        commit_steps(folder, head, "taken", steps, expected)
    with pytest.raises(BadSource, match="no name for a branch"):
        commit_steps(folder, head, "--force", steps, expected)
    newer = head_of(repository("desk", {"pkg/b.py": "somebody = 'else'\n"}))
    with pytest.raises(Conflict, match=r"pkg/b\.py: what was scanned is not what is committed there"):
        commit_steps(folder, newer, "late", steps, expected)
    hook = folder / ".git" / "hooks" / "pre-commit"
    hook.write_text("#!/bin/sh\necho 'no commits on Fridays' >&2\nexit 1\n")
    hook.chmod(0o755)
    with pytest.raises(BadSource, match="no commits on Fridays"):
        commit_steps(folder, head, "hooked", steps, expected)
    assert set(git(folder, "branch", "--format=%(refname:short)").split()) == {"main", "taken"}
    assert git(folder, "worktree", "list").count("\n") == 0


def test_without_a_name_to_commit_under_git_is_not_asked_to_commit(
    repository: Callable[[str, dict[str, str]], Path], monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    folder = repository("desk", FILES)
    monkeypatch.setenv("HOME", str(tmp_path))
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    monkeypatch.setenv("GIT_AUTHOR_NAME", "")
    git(folder, "config", "user.useConfigOnly", "true")
    with pytest.raises(BadSource, match="git does not know who commits here"):
        commit_steps(folder, head_of(folder), "yoake/now", [], {})
