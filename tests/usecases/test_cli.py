"""The command line, as a person and as CI run it: in a process of its own."""

from __future__ import annotations

import csv
import io
import json
import os
import subprocess
import sys
import time
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest

from tests.conftest import git, write
from yoake.context.context import Context
from yoake.formats.tables import ApplicationRow as Listed
from yoake.runner.extraction import Extractor
from yoake.usecases.progress import Control
from yoake.usecases.scan_application import scan_application
from yoake.usecases.take_in import preview, take_in
from yoake.usecases.waive import waive
from yoake.views.findings import Query, find_findings
from yoake.views.waivers import waivers_file


def yoake(*arguments: str, home: Path) -> subprocess.CompletedProcess[str]:
    environment = {**os.environ, "YOAKE_HOME": str(home)}
    command = [sys.executable, "-m", "yoake", *arguments]
    return subprocess.run(command, capture_output=True, text=True, env=environment, timeout=300, check=False)


FILES = {
    ".python-version": "3.8\n",
    "pkg/a.py": "from collections import Mapping\ntry:\n    import imp\nexcept ImportError:\n    imp = None\n",
}


def test_findings_end_with_1_and_say_where(tmp_path: Path) -> None:
    done = yoake("scan", str(write(tmp_path / "app", FILES)), "--to", "python@3.13", home=tmp_path / "home")
    assert done.returncode == 1
    assert "collections.Mapping → collections.abc.Mapping  removed at python@3.10; safe now" in done.stdout
    assert "pkg/a.py:1" in done.stdout
    assert done.stderr == ""


def test_nothing_found_ends_with_0_and_fail_on_moves_that(tmp_path: Path) -> None:
    folder = write(tmp_path / "app", {"a.py": "try:\n    import imp\nexcept ImportError:\n    imp = None\n"})
    arguments = ("scan", str(folder), "--to", "python@3.13", "--from", "python@3.8")
    assert yoake(*arguments, home=tmp_path / "home").returncode == 0
    assert yoake(*arguments, "--fail-on", "note", home=tmp_path / "home").returncode == 1


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (("/no/such/place", "--to", "python@3.13"), "nothing at"),
        ((".", "--to", "python@9"), "no line 9"),
        ((".", "--to", "pypi/unheard-of@1"), "Nothing is known of"),
        ((".", "--to", "three"), "names no line"),
        (("empty", "--to", "python@3.13"), "nothing to scan"),
        (("repo", "--ref", "nowhere", "--to", "python@3.13"), "no ref “nowhere”"),
    ],
)
def test_what_cannot_run_ends_with_2_and_says_why(arguments: tuple[str, ...], said: str, tmp_path: Path) -> None:
    (tmp_path / "empty").mkdir()
    write(tmp_path / "repo", {"a.py": "x\n"})
    git(tmp_path / "repo", "init", "--quiet")
    git(tmp_path / "repo", "add", "--all")
    git(tmp_path / "repo", "commit", "--quiet", "-m", "x")
    first = str(tmp_path / arguments[0]) if arguments[0] in ("empty", "repo") else arguments[0]
    done = yoake("scan", first, *arguments[1:], home=tmp_path / "home")
    assert done.returncode == 2
    assert said in done.stderr
    assert "Traceback" not in done.stderr


def test_sarif_names_each_place_with_what_the_contract_asks(tmp_path: Path) -> None:
    out = tmp_path / "out.sarif"
    done = yoake(
        "scan",
        str(write(tmp_path / "app", FILES)),
        "--to",
        "python@3.13",
        "--format",
        "sarif",
        "-o",
        str(out),
        home=tmp_path / "home",
    )
    assert (done.returncode, done.stdout) == (1, "")
    results = json.loads(out.read_text())["runs"][0]["results"]
    found = {
        (
            r["properties"]["symbol"],
            r["locations"][0]["physicalLocation"]["artifactLocation"]["uri"],
            r["locations"][0]["physicalLocation"]["region"]["startLine"],
            r["level"],
        )
        for r in results
    }
    assert ("collections.Mapping", "pkg/a.py", 1, "error") in found
    assert ("imp", "pkg/a.py", 3, "note") in found


def test_json_and_csv_can_be_read_back_and_the_second_run_is_the_same(tmp_path: Path) -> None:
    folder, home = write(tmp_path / "app", FILES), tmp_path / "home"
    first, second = (
        yoake("scan", str(folder), "--to", "python@3.13", "--format", "json", home=home).stdout for _ in range(2)
    )
    assert first == second
    assert json.loads(first)["today"][""]["pkg:generic/python"]["how"] == "pin"
    rows = list(
        csv.DictReader(
            io.StringIO(yoake("scan", str(folder), "--to", "python@3.13", "--format", "csv", home=home).stdout)
        )
    )
    assert rows[0]["symbol"] == "collections.Mapping"


def test_a_ref_is_scanned_without_touching_the_work_tree(
    tmp_path: Path, repository: Callable[[str, dict[str, str]], Path]
) -> None:
    folder = repository("app", FILES)
    git(folder, "tag", "old")
    repository("app", {"pkg/a.py": "x = 1\n"})
    assert yoake("scan", str(folder), "--ref", "old", "--to", "python@3.13", home=tmp_path / "home").returncode == 1
    assert yoake("scan", str(folder), "--to", "python@3.13", home=tmp_path / "home").returncode == 1, (
        "the toolchain pin stays"
    )
    assert git(folder, "status", "--porcelain") == ""


def test_a_target_is_matched_by_prefix(tmp_path: Path) -> None:
    folder = write(tmp_path / "app", {"a.py": "import imp\n"})
    done = yoake(
        "scan",
        str(folder),
        "--to",
        "pypi/django@5",
        "--to",
        "python@3.13.2",
        "--from",
        "python@3.8.1",
        home=tmp_path / "home",
    )
    assert done.stdout.startswith("To pypi/django@5.2, python@3.13;")


def test_a_library_is_made_known_from_its_artefacts_or_refused(tmp_path: Path) -> None:
    done = yoake("knowledge", "build", "gem/rails", home=tmp_path / "home")
    assert done.returncode == 2
    assert "only python, pypi/NAME, node" in done.stderr
    listed = yoake("knowledge", "list", home=tmp_path / "home")
    assert "pypi/django: 1.8 to 6.1" in listed.stdout


def test_the_demo_is_built_once(tmp_path: Path) -> None:
    first = yoake("demo", "--build-only", home=tmp_path / "home")
    assert "Made 15 repositories" in first.stdout, first.stderr
    second = yoake("demo", "--build-only", home=tmp_path / "home")
    assert second.stdout == "The demo portfolio is there already.\n"


def test_a_library_is_made_known_from_files_at_hand_and_what_is_none_is_refused(tmp_path: Path) -> None:
    wheels = []
    for release, text in (("1.0", "def lost(): ...\n"), ("2.0", "def kept(): ...\n")):
        wheels.append(tmp_path / f"harbour_lights-{release}-py3-none-any.whl")
        with zipfile.ZipFile(wheels[-1], "w") as packed:
            packed.writestr("harbour_lights/__init__.py", text)
    files = [part for wheel in wheels for part in ("--file", str(wheel))]
    home = tmp_path / "home"
    assert yoake("knowledge", "build", "pypi/harbour-lights", *files, home=home).returncode == 0
    folder = write(tmp_path / "app", {"a.py": "from harbour_lights import lost\n"})
    done = yoake("scan", str(folder), "--to", "pypi/harbour-lights@2.0", "--from", "pypi/harbour-lights@1.0", home=home)
    assert "harbour_lights.lost" in done.stdout
    assert done.returncode == 1
    bad = tmp_path / "harbour_lights-3.0-py3-none-any.whl"
    bad.write_text("no archive")
    refused = yoake("knowledge", "build", "pypi/harbour-lights", "--file", str(bad), home=home)
    assert (refused.returncode, "is no wheel" in refused.stderr) == (2, True)


def test_only_what_is_new_since_a_baseline_counts(tmp_path: Path) -> None:
    folder = write(tmp_path / "app", {"a.py": "import imp\n"})
    asked = ("scan", str(folder), "--to", "python@3.13", "--from", "python@3.8")
    before = tmp_path / "before.sarif"
    assert yoake(*asked, "--format", "sarif", "-o", str(before), home=tmp_path / "home").returncode == 1
    assert yoake(*asked, "--baseline", str(before), home=tmp_path / "home").returncode == 0
    write(folder, {"b.py": "import asyncore\n"})
    done = yoake(*asked, "--baseline", str(before), home=tmp_path / "home")
    assert (done.returncode, "asyncore" in done.stdout, "imp" in done.stdout.split("asyncore")[0]) == (1, True, False)
    assert yoake(*asked, "--baseline", "no-such-file", home=tmp_path / "home").returncode == 2


def test_an_unchanged_folder_is_answered_from_what_is_kept(tmp_path: Path) -> None:
    folder = write(tmp_path / "app", {"a.py": "import imp\n"})
    long_ago = time.time() - 3600
    asked = ("scan", str(folder), "--to", "python@3.13", "--from", "python@3.8")
    first = yoake(*asked, home=tmp_path / "home")
    os.utime(folder / "a.py", (long_ago, long_ago))
    second = yoake(*asked, home=tmp_path / "home")
    assert (first.stdout, first.returncode) == (second.stdout, second.returncode)
    write(folder, {"a.py": "import os\n"})
    assert yoake(*asked, home=tmp_path / "home").returncode == 0


def test_paths_are_written_as_agreed(tmp_path: Path) -> None:
    folder = write(tmp_path / "app", {**FILES, "requirements.txt": "six==1.16.0\n"})
    asked = ("path", str(folder), "--to", "python@3.13", "--pin", "python@3.11", "--format", "json")
    done = yoake(*asked, home=tmp_path / "home")
    assert (done.returncode, done.stderr) == (0, "")
    body = json.loads(done.stdout)
    assert body["noWay"] is None
    best = next(p for p in body["paths"] if p["objective"] == "work")
    assert best["set"] == ""
    assert {"findings", "effort"} <= set(best["before"])
    assert [s["moves"][0] for s in best["stages"]] == [
        {"coordinate": "pkg:generic/python", "from": "3.8", "to": "3.11"},
        {"coordinate": "pkg:generic/python", "from": "3.11", "to": "3.13"},
    ]
    last = best["stages"][-1]
    assert last["state"]["pkg:generic/python"]["line"] == "3.13"
    assert set(last) >= {"moves", "state", "constraints", "findings", "safeNow", "effort"}
    assert set(best["arrival"]) == {"p50", "p80"}
    assert isinstance(best["darkDays"], int)
    (direct,) = [r for r in body["refused"] if r["strategy"] == "direct"]
    assert direct["reasons"] == ["python@3.11 is pinned: it has to be stopped at"]
    one = json.loads(yoake(*asked, "--objective", "stages", home=tmp_path / "home").stdout)
    assert {p["objective"] for p in one["paths"]} == {"stages", None}


def test_no_way_ends_with_1_and_says_what_would_open_one(tmp_path: Path) -> None:
    folder = write(tmp_path / "app", {**FILES, "requirements.txt": "numpy==1.19.5\n"})
    asked = ("path", str(folder), "--to", "python@3.13", "--pin", "pypi/numpy@1.19")
    done = yoake(*asked, home=tmp_path / "home")
    assert done.returncode == 1
    assert "These cannot hold together:" in done.stdout
    assert "no longer pin pypi/numpy@1.19" in done.stdout


def test_what_was_waived_does_not_fail_a_build_until_it_runs_out(tmp_path: Path) -> None:
    folder = write(tmp_path / "app", {"a.py": "import imp\n"})
    home = tmp_path / "home"
    asked = ("scan", str(folder), "--to", "python@3.13", "--from", "python@3.8")
    [finding] = json.loads(yoake(*asked, "--format", "json", home=home).stdout)["findings"]
    file = tmp_path / "waivers.toml"

    def waived(until: str) -> subprocess.CompletedProcess[str]:
        file.write_text(f"[[waiver]]\nfinding = '{finding['key']}'\nby = 'Ines'\nwhy = 'next year'\nuntil = {until}\n")
        return yoake(*asked, "--waivers", str(file), home=home)

    done = waived("2099-01-01")
    assert (done.returncode, "waived by Ines: next year" in done.stdout, "waived: 1" in done.stdout) == (0, True, True)
    assert waived("2020-01-01").returncode == 1
    refused = waived("soon")
    assert (refused.returncode, "no TOML" in refused.stderr) == (2, True)
    assert yoake(*asked, "--waivers", "no-such-file", home=home).returncode == 2


def test_the_file_that_a_server_gives_is_the_one_that_a_build_reads(
    tmp_path: Path, context: Context, extractor: Extractor
) -> None:
    folder = write(tmp_path / "app", {".python-version": "3.8\n", "a.py": "import imp\nimport asyncore\n"})
    number = take_in(
        context, preview(context, [Listed(number=1, name="app", source=str(folder))], "python@3.13"), "Ines"
    )[0]
    scan_application(context, number, extractor, Control())
    keys = [row.key for row in find_findings(context, "app", Query("all"), 0, 10).rows]
    for key in keys:
        waive(context, "app", key, "Ines", "goes with the module", None)
    file = tmp_path / "waivers.toml"
    file.write_text(waivers_file(context, "app"))
    asked = ("scan", str(folder), "--to", "python@3.13")
    assert yoake(*asked, home=tmp_path / "home").returncode == 1
    assert yoake(*asked, "--waivers", str(file), home=tmp_path / "home").returncode == 0


def test_the_ratchet_lets_nothing_grow_and_tightens_what_became_less(tmp_path: Path) -> None:
    folder, home = write(tmp_path / "app", FILES), tmp_path / "home"
    file = folder / "yoake-ratchet.json"
    tried = yoake("ratchet", str(folder), "--to", "python@3.13", "--try", home=home)
    assert (tried.returncode, file.exists()) == (0, False)
    assert yoake("ratchet", str(folder), "--to", "python@3.13", home=home).returncode == 0
    before = json.loads(file.read_text())
    assert before["to"] == ["python@3.13"]
    (folder / "pkg/b.py").write_text("import asyncore\nfrom collections import Mapping\n")
    grown = yoake("ratchet", str(folder), "--to", "python@3.13", home=home)
    assert grown.returncode == 1
    assert "asyncore is new, at 1 place." in grown.stdout
    assert "collections.Mapping is used at 1 place more (2, were 1)." in grown.stdout
    assert "pkg/b.py:1" in grown.stdout
    assert json.loads(file.read_text()) == before
    shown = yoake("ratchet", str(folder), "--to", "python@3.13", "--format", "junit", home=home).stdout
    assert shown.count("<failure") == 2
    sarif = json.loads(yoake("ratchet", str(folder), "--to", "python@3.13", "--format", "sarif", home=home).stdout)
    assert len(sarif["runs"][0]["results"]) == 3
    other = yoake("ratchet", str(folder), "--to", "python@3.12", home=home)
    assert (other.returncode, "--record" in other.stderr) == (2, True)
    for name in ("a.py", "b.py"):
        (folder / "pkg" / name).write_text("from collections.abc import Mapping\n")
    assert yoake("ratchet", str(folder), "--to", "python@3.13", home=home).returncode == 0
    assert "collections.Mapping" not in file.read_text()
    (folder / "pkg/a.py").write_text("from collections import Mapping\n")
    assert yoake("ratchet", str(folder), "--to", "python@3.13", home=home).returncode == 1
    assert yoake("ratchet", str(folder), "--to", "python@3.13", "--record", home=home).returncode == 0


def test_edits_are_shown_copied_or_written_and_what_is_left_ends_with_1(tmp_path: Path) -> None:
    home = tmp_path / "home"
    folder = write(
        tmp_path / "app", {".python-version": "3.8\n", "a.py": "from collections import Mapping\nprint(Mapping)\n"}
    )
    arguments = ("edit", str(folder), "--to", "python@3.13")
    shown = yoake(*arguments, "--format", "json", home=home)
    body = json.loads(shown.stdout)
    assert shown.returncode == 0, shown.stderr
    assert body["files"][0]["outcome"] == "changed"
    assert body["files"][0]["edits"][0] | {"finding": ""} == {
        "finding": "",
        "symbol": "collections.Mapping",
        "rule": "",
        "source": "timeline",
        "line": 1,
        "was": "from collections import Mapping",
        "now": "from collections.abc import Mapping",
    }
    assert body["checks"] == {"parsed": 1, "resolved": 1, "rescanned": 1, "steady": 1, "refused": 0}
    assert "collections import Mapping" in (folder / "a.py").read_text()
    copied = yoake(*arguments, "--copy", str(tmp_path / "copy"), home=home)
    assert copied.returncode == 0
    assert "collections.abc" in (tmp_path / "copy/a.py").read_text()
    assert "is there already" in yoake(*arguments, "--copy", str(tmp_path / "copy"), home=home).stderr
    assert "Choose one" in yoake(*arguments, "--write", "--patch", "x", home=home).stderr
    everything = yoake(*arguments, "--when", "all", "--write", home=home)
    assert everything.returncode == 0, everything.stdout
    assert (folder / "a.py").read_text() == "from collections.abc import Mapping\nprint(Mapping)\n"
    assert (folder / ".python-version").read_text() == "3.13\n"
    again = yoake(*arguments, "--when", "all", home=home)
    assert (again.returncode, "Nothing here can be edited" in again.stdout) == (0, True)


def test_a_stage_that_there_is_not_is_told_with_those_that_there_are(tmp_path: Path) -> None:
    folder = write(tmp_path / "app", FILES)
    done = yoake("edit", str(folder), "--to", "python@3.13", "--when", "7", home=tmp_path / "home")
    assert (done.returncode, "stages 1 to 1" in done.stderr) == (2, True)
