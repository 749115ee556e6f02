"""What is scanned is untrusted: archives, repositories and folders that try something."""

from __future__ import annotations

import io
import os
import tarfile
import zipfile
from pathlib import Path

import pytest

from tests.conftest import git, write
from yoake.core.values.errors import BadSource
from yoake.runner.archives import open_archive
from yoake.runner.git import GitRepository, mirror
from yoake.runner.home import Home
from yoake.runner.snapshots import CommitSnapshot, FolderSnapshot
from yoake.store.applications import Source
from yoake.usecases.sources import check_source, kind_of, open_snapshot


def zipped(path: Path, members: dict[str, bytes]) -> Path:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in members.items():
            archive.writestr(name, data)
    return path


@pytest.mark.parametrize("name", ["../evil.py", "/etc/evil.py", "a/../../evil.py", "C:/evil.py", "a\\..\\evil.py"])
def test_an_archive_that_points_outside_is_refused_whole(tmp_path: Path, name: str) -> None:
    with pytest.raises(BadSource, match="outside the archive"):
        open_archive(zipped(tmp_path / "a.zip", {"ok.py": b"", name: b"x"}))


def test_a_bomb_is_refused_without_unpacking(tmp_path: Path) -> None:
    with pytest.raises(BadSource, match="too much to be source code"):
        open_archive(zipped(tmp_path / "a.zip", {"a.py": b"0" * 200_000_000}))


@pytest.mark.parametrize("data", [b"", b"PK\x03\x04 broken", b"no archive at all"])
def test_what_is_no_archive_is_refused(tmp_path: Path, data: bytes) -> None:
    path = tmp_path / "a.zip"
    path.write_bytes(data)
    with pytest.raises(BadSource):
        open_archive(path)


def test_one_common_folder_of_an_archive_is_left_out_of_the_paths(tmp_path: Path) -> None:
    snapshot = open_archive(zipped(tmp_path / "a.zip", {"app-1.0/a.py": b"x = 1", "app-1.0/b/c.py": b""}))
    assert [e.path for e in snapshot.entries()] == ["a.py", "b/c.py"]
    assert snapshot.read("a.py") == b"x = 1"


def test_a_tar_is_read_and_its_links_are_not_followed(tmp_path: Path) -> None:
    path = tmp_path / "a.tar.gz"
    with tarfile.open(path, "w:gz") as archive:
        for name, data in (("app/a.py", b"x = 1"), ("app/b.py", b"")):
            info = tarfile.TarInfo(name)
            info.size = len(data)
            archive.addfile(info, io.BytesIO(data))
        link = tarfile.TarInfo("app/passwd.py")
        link.type, link.linkname = tarfile.SYMTYPE, "/etc/passwd"
        archive.addfile(link)
    snapshot = open_archive(path)
    refused = {e.path: e.refused for e in snapshot.entries()}
    assert refused == {"a.py": "", "b.py": "", "passwd.py": "a link, not followed"}
    snapshot.close()


def test_a_folder_names_links_and_skips_what_is_not_its_own(tmp_path: Path) -> None:
    write(tmp_path, {"a.py": "x", "node_modules/b.py": "", ".venv/c.py": "", "x.egg-info/d.py": ""})
    (tmp_path / "out.py").symlink_to("/etc/passwd")
    os.mkfifo(tmp_path / "pipe.py")
    entries = {e.path: e.refused for e in FolderSnapshot(tmp_path).entries()}
    assert entries == {"a.py": "", "out.py": "a link, not followed"}


def test_a_file_that_becomes_a_link_is_not_followed(tmp_path: Path) -> None:
    (tmp_path / "a.py").symlink_to("/etc/passwd")
    with pytest.raises(OSError, match="symbolic"):
        FolderSnapshot(tmp_path).read("a.py")


def test_a_commit_is_read_without_touching_the_work_tree(repository, home: Home) -> None:
    folder = repository("app", {"a.py": "x = 1\n", "sub/b.py": "y\n"})
    git(folder, "tag", "v1")
    repository("app", {"a.py": "x = 2\n"})
    write(folder, {"a.py": "dirty\n"})
    made = mirror(str(folder), home.mirrors)
    snapshot = CommitSnapshot(made, made.resolve("v1"), "v1")
    assert snapshot.read("a.py") == b"x = 1\n"
    snapshot.close()
    below = CommitSnapshot(made, made.resolve(""), "", "sub")
    assert [e.path for e in below.entries()] == ["b.py"]
    below.close()
    assert (folder / "a.py").read_text() == "dirty\n"


def test_a_repository_whose_configuration_names_a_command_does_not_run_it(
    repository, home: Home, tmp_path: Path
) -> None:
    folder = repository("app", {"a.py": "x = 1\n", ".gitattributes": "*.py filter=evil\n"})
    proof = tmp_path / "ran"
    for key in (
        "core.fsmonitor",
        "core.sshCommand",
        "filter.evil.smudge",
        "filter.evil.clean",
        "uploadpack.packObjectsHook",
        "core.pager",
        "diff.external",
    ):
        git(folder, "config", key, f"touch {proof}; cat")
    hook = folder / ".git" / "hooks" / "post-checkout"
    hook.parent.mkdir(exist_ok=True)
    hook.write_text(f"#!/bin/sh\ntouch {proof}\n")
    hook.chmod(0o755)
    made = mirror(str(folder), home.mirrors)
    snapshot = CommitSnapshot(made, made.resolve(""), "")
    assert snapshot.read("a.py") == b"x = 1\n"
    snapshot.close()
    assert not proof.exists()


@pytest.mark.parametrize("ref", ["nowhere", "-x", "--upload-pack=touch"])
def test_a_missing_ref_lists_those_that_there_are(repository, home: Home, ref: str) -> None:
    made = mirror(str(repository("app", {"a.py": ""})), home.mirrors)
    with pytest.raises(BadSource, match="main|is no ref"):
        made.resolve(ref)


def test_a_repository_without_a_commit_says_so(tmp_path: Path, home: Home) -> None:
    git(tmp_path, "init", "--quiet")
    with pytest.raises(BadSource, match="no commit yet|cannot be fetched"):
        mirror(str(tmp_path), home.mirrors)


@pytest.mark.parametrize(
    "source", ["ext::sh -c touch%20x", "--upload-pack=x", "/no/such/place", "https://127.0.0.1:9/none.git"]
)
def test_a_source_that_is_no_repository_is_refused_without_a_prompt(home: Home, source: str) -> None:
    with pytest.raises(BadSource):
        mirror(source, home.mirrors)


def test_a_plain_folder_is_fine_but_has_no_ref(tmp_path: Path, home: Home) -> None:
    write(tmp_path, {"a.py": ""})
    assert kind_of(str(tmp_path)) == "folder"
    open_snapshot(Source("folder", str(tmp_path)), home).close()
    with pytest.raises(BadSource, match="plain folder"):
        open_snapshot(Source("git", str(tmp_path), "main"), home)


@pytest.mark.parametrize("subfolder", ["../up", "/abs", "a/../../b"])
def test_a_subfolder_cannot_leave_the_source(tmp_path: Path, subfolder: str) -> None:
    with pytest.raises(BadSource, match="outside"):
        check_source(Source("folder", str(tmp_path), "", subfolder))


def test_a_moved_branch_is_seen_by_the_next_fetch(repository, home: Home) -> None:
    folder = repository("app", {"a.py": "1"})
    first = mirror(str(folder), home.mirrors).resolve("main")
    repository("app", {"a.py": "2"})
    again: GitRepository = mirror(str(folder), home.mirrors)
    assert again.resolve("main") != first
