"""Which findings the command line edits: what is safe now, what one stage needs, or all; and what manifests name from then on."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import pytest

from tests.conftest import write
from yoake.core.knowledge.base import Knowledge
from yoake.core.values.coordinates import Coordinate, parse_target
from yoake.core.values.errors import BadInput
from yoake.core.values.results import ScanResult
from yoake.runner.extraction import Extractor
from yoake.runner.snapshots import FolderSnapshot
from yoake.usecases.edit_scope import scope_of
from yoake.usecases.goal_side import goal_side
from yoake.usecases.progress import Control
from yoake.usecases.scan import scan_snapshot

TO = (parse_target("python@3.13"), parse_target("pypi/django@5.2"))
FILES = {
    ".python-version": "3.8\n",
    "requirements.txt": "Django==3.2.25\npytz==2021.3\n",
    "desk/a.py": "import imp\nfrom collections import Mapping\nfrom django.utils.timezone import utc\n",
    "desk/b.py": "import asyncio\nasyncio.get_child_watcher()\n",
}
TODAY = date(2026, 11, 23)


@pytest.fixture
def result(tmp_path: Path, knowledge: Knowledge, extractor: Extractor) -> ScanResult:
    folder = FolderSnapshot(write(tmp_path / "desk", FILES))
    return scan_snapshot(folder, knowledge, TO, (), extractor, Control()).result


def test_what_is_safe_now_is_left_to_the_findings_and_moves_no_version(
    result: ScanResult, knowledge: Knowledge
) -> None:
    assert scope_of("now", result, TO, knowledge, TODAY) == (None, {})


def test_all_is_every_finding_and_where_the_last_stage_ends(result: ScanResult, knowledge: Knowledge) -> None:
    keys, taken = scope_of("all", result, TO, knowledge, TODAY)
    assert keys == frozenset(f.key for f in result.findings)
    assert taken[Coordinate("pkg:generic/python")] == "3.13"
    assert taken[Coordinate("pkg:pypi/django")].startswith("5.2")
    assert Coordinate("pkg:pypi/pytz") not in taken  # it fits as it is


def test_a_stage_is_what_has_to_change_with_it(result: ScanResult, knowledge: Knowledge) -> None:
    keys, taken = scope_of("1", result, TO, knowledge, TODAY)
    every = {f.key for f in result.findings}
    now = {f.key for f in result.findings if f.window.state == "now"}
    assert keys is not None
    assert keys <= every - now
    assert taken
    plain, _ = scope_of("all", result, TO, knowledge, TODAY)
    assert plain is not None
    assert keys < plain
    assert {f.title for f in result.findings if f.key in keys}


@pytest.mark.parametrize("when", ["9", "0", "soon", ""])
def test_what_is_no_stage_is_refused_with_those_that_there_are(
    when: str, result: ScanResult, knowledge: Knowledge
) -> None:
    with pytest.raises(BadInput, match="is none of now, all and the stages 1 to"):
        scope_of(when, result, TO, knowledge, TODAY)


def test_where_there_is_no_stage_that_is_said(tmp_path: Path, knowledge: Knowledge, extractor: Extractor) -> None:
    folder = FolderSnapshot(write(tmp_path / "done", {".python-version": "3.13\n", "a.py": "import os\n"}))
    arrived = scan_snapshot(folder, knowledge, TO[:1], (), extractor, Control()).result
    with pytest.raises(BadInput, match="a stage, of which there is none here"):
        scope_of("1", arrived, TO[:1], knowledge, TODAY)


def test_the_goal_of_a_run_is_what_the_last_stage_takes(result: ScanResult, knowledge: Knowledge) -> None:
    side = goal_side("goal", result, result.today[""], TO, knowledge, TODAY, ref="main")
    assert (side.label, side.locked, side.ref) == ("goal", False, "main")
    assert side.lines[Coordinate("pkg:generic/python")] == "3.13"
    assert side.releases[Coordinate("pkg:pypi/django")].startswith("5.2.")
    assert side.releases[Coordinate("pkg:pypi/pytz")] == "2021.3"


def test_where_no_path_leads_there_the_goal_is_its_lines_alone(
    tmp_path: Path, knowledge: Knowledge, extractor: Extractor
) -> None:
    folder = FolderSnapshot(write(tmp_path / "done", {".python-version": "3.13\n", "a.py": "import os\n"}))
    arrived = scan_snapshot(folder, knowledge, TO[:1], (), extractor, Control()).result
    side = goal_side("goal", arrived, arrived.today[""], TO[:1], knowledge, TODAY)
    assert dict(side.lines) == {Coordinate("pkg:generic/python"): "3.13"}
    assert not side.releases
