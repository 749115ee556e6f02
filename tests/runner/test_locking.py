"""Lock files are renewed by the programs that write them, and stay as they were where that does not work."""

from __future__ import annotations

import json
import shutil
import sys
from pathlib import Path

import psutil
import pytest

from tests.conftest import git, write
from yoake.core.values.errors import BadSource
from yoake.runner.branches import commit_steps, head_of
from yoake.runner.clients.locking import LockWriter, renew_locks, run_writer
from yoake.shipped import KIT

COUNTS = LockWriter(
    "made.toml",
    (
        sys.executable,
        "-c",
        "import pathlib; pathlib.Path('made.lock').write_text(pathlib.Path('made.toml').read_text() + '!')",
    ),
)


def test_a_lock_file_beside_a_changed_manifest_or_above_it_is_renewed(tmp_path: Path) -> None:
    root = write(
        tmp_path / "r",
        {"made.toml": "1", "made.lock": "0", "a/b/made.toml": "2", "c/made.toml": "3", "c/made.lock": "3!", "x.py": ""},
    )
    found = renew_locks(root, ["a/b/made.toml", "c/made.toml", "x.py"], {"made.lock": COUNTS})
    assert found.done == ("made.lock",)  # that of c said the same before
    assert (root / "made.lock").read_text() == "1!"
    assert found.failed == ()


@pytest.mark.parametrize(
    ("writer", "said"),
    [
        (
            LockWriter(
                "made.toml",
                (sys.executable, "-c", "open('made.lock', 'w').write('half'); raise SystemExit('no such release')"),
            ),
            "no such release",
        ),
        (LockWriter("made.toml", ("no-such-program-here", "lock")), "run “no-such-program-here lock” there"),
        (LockWriter("made.toml", (sys.executable, "lock"), by_hand=True), "run “"),
    ],
)
def test_what_cannot_be_renewed_stays_as_it_was_and_says_what_to_run(
    tmp_path: Path, writer: LockWriter, said: str
) -> None:
    root = write(tmp_path / "r", {"made.toml": "1", "made.lock": "0"})
    found = renew_locks(root, ["made.toml"], {"made.lock": writer})
    assert found.done == ()
    assert [path for path, _ in found.failed] == ["made.lock"]
    assert said in found.failed[0][1]
    assert (root / "made.lock").read_text() == "0"


def test_a_stop_ends_the_writer_and_everything_it_started(tmp_path: Path) -> None:
    root = write(tmp_path / "r", {"made.toml": "1", "made.lock": "0"})
    code = "import subprocess, sys, time; subprocess.Popen([sys.executable, '-c', 'import time; time.sleep(987)']); time.sleep(987)"
    looks = iter([False] * 5)
    with pytest.raises(BadSource, match="was stopped"):
        run_writer(LockWriter("made.toml", (sys.executable, "-c", code)), root, lambda: next(looks, True))
    assert not [p for p in psutil.process_iter(["cmdline"]) if "time.sleep(987)" in " ".join(p.info["cmdline"] or [])]
    assert (root / "made.lock").read_text() == "0"  # what the work tree holds is not the keeper's to take away


def test_a_lock_file_that_is_a_link_is_left_alone(tmp_path: Path) -> None:
    root = write(tmp_path / "r", {"made.toml": "1"})
    (tmp_path / "else").write_text("theirs")
    (root / "made.lock").symlink_to(tmp_path / "else")
    assert renew_locks(root, ["made.toml"], {"made.lock": COUNTS}).done == ()
    assert (tmp_path / "else").read_text() == "theirs"


@pytest.mark.skipif(shutil.which("npm") is None, reason="needs npm")
def test_npm_renews_its_lock_on_a_branch_and_nothing_that_is_checked_out_changes(tmp_path: Path) -> None:
    manifest = {"name": "desk", "version": "1.0.0", "dependencies": {"tide": "file:./tide"}}
    files = {
        "package.json": json.dumps(manifest),
        "tide/package.json": '{"name": "tide", "version": "2.1.0"}',
        ".gitignore": "node_modules\n",
    }
    root = write(tmp_path / "desk", files)
    run_writer(KIT.clients.locks["package-lock.json"], root)
    git(root, "init", "-q")
    git(root, "add", "-A")
    git(root, "commit", "-qm", "one")
    before = (root / "package-lock.json").read_bytes()
    changed = json.dumps(manifest | {"dependencies": {}}).encode()

    def renew(tree: Path) -> tuple[str, tuple[str, ...]]:
        return "Renew the lock", renew_locks(tree, ["package.json"], KIT.clients.locks).done

    done = commit_steps(
        root,
        head_of(root),
        "yoake/up",
        [("Drop tide", {"package.json": changed})],
        {"package.json": json.dumps(manifest).encode()},
        last=renew,
    )
    assert [subject for _, subject in done.commits] == ["Drop tide", "Renew the lock"]
    assert "tide" in before.decode()
    assert "node_modules/tide" not in git(root, "show", "yoake/up:package-lock.json")
    assert (root / "package-lock.json").read_bytes() == before
    assert git(root, "status", "--porcelain") == ""


def test_every_writer_names_a_manifest_and_runs_no_scripts_of_packages() -> None:
    assert all(writer.manifest and writer.words for writer in KIT.clients.locks.values())
    assert all(
        "--ignore-scripts" in w.words or w.by_hand
        for name, w in KIT.clients.locks.items()
        if w.manifest == "package.json"
    )
    with pytest.raises(BadSource, match="yarn install"):
        run_writer(KIT.clients.locks["yarn.lock"], Path("/"))
