"""Sources made to break the reader: each costs one file, or is refused in words, and nothing is read that must not be."""

from __future__ import annotations

import gzip
import hashlib
import io
import os
import signal
import subprocess
import tarfile
import zipfile
import zlib
from collections.abc import Callable
from pathlib import Path

import pytest

from tests.conftest import git, write
from yoake.core.knowledge.base import Knowledge
from yoake.core.values.coordinates import parse_target
from yoake.core.values.errors import BadSource
from yoake.runner.archives import check_archive, open_archive
from yoake.runner.extraction import Extractor
from yoake.runner.git import mirror
from yoake.runner.home import Home
from yoake.runner.readers import Readers, ReadLimits
from yoake.runner.reading import TANGLED
from yoake.runner.snapshots import MAX_DEPTH, CommitSnapshot, FolderSnapshot
from yoake.shipped import KIT
from yoake.store.applications import Source
from yoake.store.facts_cache import FactsCache
from yoake.usecases.progress import Control
from yoake.usecases.scan import scan_snapshot
from yoake.usecases.scanned import Scanned
from yoake.usecases.sources import open_snapshot

TARGETS = [parse_target("python@3.13")]


def scan(folder: Path, knowledge: Knowledge, extractor: Extractor) -> Scanned:
    return scan_snapshot(
        snapshot=FolderSnapshot(folder),
        knowledge=knowledge,
        destination=TARGETS,
        said=[],
        extractor=extractor,
        control=Control(),
        name="hostile",
    )


def faults(scanned: Scanned) -> dict[str, str]:
    return {fault.file: fault.reason for module in scanned.result.modules for fault in module.faults}


MANIFESTS = {
    "Pipfile.lock": ["[]", '{"default": []}', '{"_meta": 7, "default": {"a": 1}}', '{"default": ' + "[" * 100_000, '{"default": {"a": {"version": 3}}}'],
    "poetry.lock": ["package = 3", 'package = ["a"]', "[[package]]\nname = 1", "a = " + "[" * 50_000, "a." * 20_000 + "a = 1"],
    "pyproject.toml": ["project = 3", "[project]\ndependencies = 7\nname = []", "x = " + "{a=" * 20_000, "[tool.poetry.dependencies]\na = [[1]]"],
    "package.json": ["7", '{"dependencies": []}', '{"dependencies": {"a": {}}}', "[" * 100_000, '{"engines": "x", "name": {}}'],
    "package-lock.json": ['{"packages": {"node_modules/a": 1}}', '{"dependencies": {"a": {"dependencies": 3}}}', "{" * 90_000],
    "tsconfig.json": ["/*" * 500_000, '"' * 500_001, '{"compilerOptions": {"paths": {"a": 3, "b": [1]}}}', "//" + "/*" * 300_000],
    "setup.cfg": ["[options]\ninstall_requires = \x00", "[" * 1000, "no header", "[a]\n" + " x\n" * 100_000],
    "requirements.txt": ["(" * 20_000, "a==" + "9" * 100_000, "a;" + "(" * 5_000, "x\\\n" * 50_000, "-r requirements.txt"],
    "bom.json": ['{"bomFormat": "CycloneDX", "specVersion": "1.5", "metadata": {"component": []}, "components": [[1], {"purl": 3}]}'],
    "setup.py": ["setup(" * 3_000, "x = [" + "x + " * 3_000, "setup(install_requires=x)\nx = x"],
    ".python-version": ["3." + "9" * 100_000, "\x00"],
    "yarn.lock": ["a@1:\n  version " + "9" * 100_000],
    "pnpm-lock.yaml": ["packages:\n  /a/" + "1" * 100_000 + ":\n"],
}  # fmt: skip


@pytest.mark.parametrize(
    ("name", "content"), [(name, text) for name, texts in MANIFESTS.items() for text in texts], ids=lambda v: v[:24]
)
def test_no_manifest_fails_its_application(
    name: str, content: str, tmp_path: Path, knowledge: Knowledge, extractor: Extractor
) -> None:
    folder = tmp_path / "app"
    folder.mkdir()
    (folder / name).write_bytes(content.encode("utf-8", "surrogateescape"))
    write(folder, {"a.py": "import imp\n"})
    scanned = scan(folder, knowledge, extractor)
    assert [f.symbol for f in scanned.result.findings if f.level == "error" and f.kind != "toolchain"] == ["imp"]


def test_a_version_without_end_is_told_as_a_fault_of_its_file(
    tmp_path: Path, knowledge: Knowledge, extractor: Extractor
) -> None:
    folder = write(
        tmp_path,
        {
            "requirements.txt": "django==" + "9" * 100_000,
            "Pipfile.lock": '{"default": {"a": {"version": "==' + "9" * 5000 + '"}}}',
        },
    )
    scanned = scan(folder, knowledge, extractor)
    assert "256 characters" in faults(scanned)["Pipfile.lock"]
    assert scanned.result.packages == []


def test_names_that_are_no_utf_8_are_read_and_written_out(
    tmp_path: Path, knowledge: Knowledge, extractor: Extractor
) -> None:
    base = os.fsencode(tmp_path)
    os.mkdir(base + b"/caf\xe9")  # noqa: PTH102  bytes
    for name in (b"/caf\xe9/a.py", b"/\xff.py"):
        with open(base + name, "w") as handle:  # noqa: PTH123  bytes
            handle.write("import imp\n")
    scanned = scan(tmp_path, knowledge, extractor)
    assert {f.path for f in scanned.result.files if f.state == "scanned"} == {"caf\\xe9/a.py", "\\xff.py"}
    assert sum(len(f.places) for f in scanned.result.findings if f.symbol == "imp") == 2


def test_folders_deeper_than_any_are_one_line_in_the_result(
    tmp_path: Path, knowledge: Knowledge, extractor: Extractor
) -> None:
    write(tmp_path, {"a.py": "import imp\n"})
    here = os.open(tmp_path, os.O_RDONLY)
    for _ in range(1900):
        os.mkdir("d", dir_fd=here)
        deeper = os.open("d", os.O_RDONLY, dir_fd=here)
        os.close(here)
        here = deeper
    os.close(here)
    scanned = scan(tmp_path, knowledge, extractor)
    refused = [f for f in scanned.result.files if f.path.endswith("/")]
    assert [f.reason for f in refused] == [f"deeper than {MAX_DEPTH} folders in one another"]
    assert {f.symbol for f in scanned.result.findings} >= {"imp"}
    subprocess.run(["rm", "-rf", str(tmp_path / "d")], check=True)


@pytest.mark.parametrize(
    ("content", "reason"),
    [
        (b"# coding: punycode\n" + b"a" * 400_000 + b"-" + b"b" * 100, "unknown encoding"),
        (b"# coding: idna\n" + b"x = 1\n" * 50_000, "unknown encoding"),
        (b"x = '" + b"a" * 3_000_000 + b"'", "a line of more than 500 kB"),
        (b"x = " + b"(" * 60_000, ""),
        (b"x = " + b"-" * 90_000 + b"1", ""),
        (b"if x:\n" + b"".join(b" " * i + b"if x:\n" for i in range(1, 400)), ""),
    ],
)
def test_no_source_file_fails_its_application(
    content: bytes, reason: str, tmp_path: Path, knowledge: Knowledge
) -> None:
    write(tmp_path, {"good.py": "import imp\n"})
    (tmp_path / "bad.py").write_bytes(content)
    extractor = Extractor(FactsCache(None), KIT.ecosystems, 1)
    scanned = scan(tmp_path, knowledge, extractor)
    extractor.close()
    bad = next(f for f in scanned.result.files if f.path == "bad.py")
    assert bad.reason.startswith(reason)
    assert any(f.symbol == "imp" for f in scanned.result.findings)


def big(number: int) -> tuple[str, bytes, str]:
    return f"g{number}.py", b"import imp\n" + b"x = 1\n" * 5_000, str(number)


def test_a_reader_that_hangs_is_replaced_and_its_files_are_read_one_by_one() -> None:
    readers = Readers(1, ReadLimits(seconds=4))
    readers._give([big(0)])  # a reader that has started
    assert [row[0] for rows in readers.run(iter([[big(1), big(2)]]), lambda: False) for row in rows if row[2]]
    hung = readers._idle[0].process.pid
    os.kill(hung, signal.SIGSTOP)
    read = [row for rows in readers.run(iter([[big(3), big(4)]]), lambda: False) for row in rows]
    assert sorted((path, bool(facts)) for path, _, facts, _ in read) == [("g3.py", True), ("g4.py", True)]
    assert readers._idle[0].process.pid != hung
    readers.close()


def test_thirty_bytes_that_keep_a_grammar_busy_without_end_cost_one_file(
    tmp_path: Path, knowledge: Knowledge, extractor: Extractor
) -> None:
    """Found by fuzzing: each way to read them opens more ways. Read in the process of the scan they would end all of it."""
    files = {"bad.tsx": 'return(<C c="""e{}:${.l}`,o.[&', "good.py": "import imp\n"}
    scanned = scan(write(tmp_path / "desk", files), knowledge, extractor)
    assert next(f.reason for f in scanned.result.files if f.path == "bad.tsx") == TANGLED
    assert any(f.symbol == "imp" for f in scanned.result.findings)


def test_a_file_that_wants_too_much_memory_costs_itself_alone() -> None:
    readers = Readers(1, ReadLimits(memory=260 * 1024**2))
    large = ("large.py", b"x = [[1, 2], {3: 4}, (5, 6)]\n" * 160_000, "d")
    read = {
        path: (bool(facts), why)
        for rows in readers.run(iter([[large, big(1)]]), lambda: False)
        for path, _, facts, why in rows
    }
    assert read["g1.py"][0]
    assert (read["large.py"][0], "memory" in read["large.py"][1]) == (False, True)
    readers.close()


def test_requirements_that_include_one_another_are_read_once_each(
    tmp_path: Path, knowledge: Knowledge, extractor: Extractor
) -> None:
    names = [f"requirements-{i}.txt" for i in range(9)]
    everything = "\n".join(f"-r {name}" for name in names)
    write(tmp_path, {name: f"{everything}\nlib{i}==1.0\n" for i, name in enumerate(names)} | {"a.py": "import imp\n"})
    scanned = scan(tmp_path, knowledge, extractor)
    assert len(scanned.result.modules[0].requirements) == 9


def packed_tar(path: Path, members: list[tuple[str, bytes]]) -> Path:
    with tarfile.open(path, "w:gz", format=tarfile.PAX_FORMAT) as tar:
        for name, data in members:
            info = tarfile.TarInfo(name)
            info.size = len(data)
            tar.addfile(info, io.BytesIO(data))
    return path


def test_a_tar_in_reverse_order_is_read_in_one_pass(tmp_path: Path) -> None:
    members = [(f"app/f{i:04}.py", os.urandom(2_000)) for i in range(1500)][::-1]
    snapshot = open_archive(packed_tar(tmp_path / "a.tar.gz", members))
    assert {entry.path: snapshot.read(entry.path) for entry in snapshot.entries()} == {n[4:]: d for n, d in members}
    snapshot.close()


def test_a_tar_header_of_gigabytes_is_refused_before_it_is_read(tmp_path: Path) -> None:
    info = tarfile.TarInfo("././@LongLink")
    info.type, info.size = tarfile.GNUTYPE_LONGNAME, 3 * 1024**3
    path = tmp_path / "a.tar.gz"
    with gzip.open(path, "wb", 1) as handle:
        handle.write(info.tobuf(tarfile.GNU_FORMAT))
        handle.write(b"a" * 2_000_000)
    check_archive(path)  # begins like a tar; nothing more is looked at while somebody waits
    with pytest.raises(BadSource, match="a header says that it has 3,221"):
        open_archive(path)


def test_names_in_a_tar_that_are_no_utf_8_are_written_out(tmp_path: Path) -> None:
    path = tmp_path / "a.tar"
    with tarfile.open(path, "w", format=tarfile.GNU_FORMAT, encoding="latin-1") as tar:
        info = tarfile.TarInfo("app/caf\xe9.py")
        info.size = 3
        tar.addfile(info, io.BytesIO(b"x=1"))
    snapshot = open_archive(path)
    assert [(e.path, snapshot.read(e.path)) for e in snapshot.entries()] == [("caf\\xe9.py", b"x=1")]
    snapshot.close()


def test_a_zip_with_too_many_files_is_refused_by_its_last_bytes(tmp_path: Path) -> None:
    path = tmp_path / "a.zip"
    with zipfile.ZipFile(path, "w") as made:
        made.writestr("a.py", "x = 1")
    data = bytearray(path.read_bytes())
    at = data.rfind(b"PK\x05\x06")
    data[at + 12 : at + 16] = (900_000_000).to_bytes(4, "little")  # the size of its directory
    path.write_bytes(data)
    with pytest.raises(BadSource, match="more than 200,000 files"):
        open_archive(path)


def test_a_git_tree_that_unfolds_without_end_is_refused(repository: Callable[..., Path], home: Home) -> None:
    folder = repository("app", {"a.py": "x = 1\n"})

    def store(kind: bytes, body: bytes) -> bytes:
        data = kind + b" %d\0" % len(body) + body
        name = hashlib.sha1(data).hexdigest()  # noqa: S324  as git names objects
        at = folder / ".git" / "objects" / name[:2] / name[2:]
        at.parent.mkdir(exist_ok=True)
        at.write_bytes(zlib.compress(data))
        return bytes.fromhex(name)

    inner = store(b"blob", b"x = 1\n")
    tree = store(b"tree", b"".join(b"100644 f%03d.py\0" % i + inner for i in range(100)))
    for _ in range(12):
        tree = store(b"tree", b"".join(b"40000 d%03d\0" % i + tree for i in range(100)))
    commit = store(
        b"commit", b"tree %s\nauthor a <a@b> 0 +0000\ncommitter a <a@b> 0 +0000\n\nx\n" % tree.hex().encode()
    )
    (folder / ".git" / "refs" / "heads" / "main").write_text(commit.hex() + "\n")
    made = mirror(str(folder), home.mirrors)
    with pytest.raises(BadSource, match="more than 200,000 files"):
        CommitSnapshot(made, made.resolve("main"), "main")


def test_no_setting_of_a_repository_has_an_effect_not_even_a_pipe_it_includes(
    repository: Callable[..., Path], home: Home
) -> None:
    folder = repository("app", {"a.py": "x = 1\n"})
    os.mkfifo(folder / "pipe")
    git(folder, "config", "include.path", str(folder / "pipe"))
    made = mirror(str(folder), home.mirrors)  # hung for ever while git itself opened the repository
    snapshot = CommitSnapshot(made, made.resolve(""), "")
    assert snapshot.read("a.py") == b"x = 1\n"
    snapshot.close()
    assert (mirror(f"file://{folder}", home.mirrors)).resolve("main") == made.resolve("main")


def test_what_points_to_another_repository_is_refused(
    repository: Callable[..., Path], home: Home, tmp_path: Path
) -> None:
    private = repository("private", {"secret.py": "x = 1\n"})
    bait = tmp_path / "bait"
    bait.mkdir()
    (bait / ".git").write_text(f"gitdir: {private}/.git\n")
    with pytest.raises(BadSource, match="points to another repository"):
        mirror(str(bait), home.mirrors)
    borrowing = repository("borrowing", {"a.py": ""})
    (borrowing / ".git" / "objects" / "info").mkdir(exist_ok=True)
    (borrowing / ".git" / "objects" / "info" / "alternates").write_text(f"{private}/.git/objects\n")
    with pytest.raises(BadSource, match="borrows objects"):
        mirror(str(borrowing), home.mirrors)
    linked = tmp_path / "linked"
    linked.mkdir()
    (linked / ".git").symlink_to(private / ".git")
    with pytest.raises(BadSource, match="is a link"):
        mirror(str(linked), home.mirrors)


def test_a_subfolder_that_is_a_link_out_of_the_source_is_refused(home: Home, tmp_path: Path) -> None:
    write(tmp_path / "private", {"secret.py": "x = 1\n"})
    write(tmp_path / "app", {"a.py": "x = 1\n"})
    (tmp_path / "app" / "sub").symlink_to(tmp_path / "private")
    with pytest.raises(BadSource, match="leads out of"):
        open_snapshot(Source("folder", str(tmp_path / "app"), "", "sub"), home)
