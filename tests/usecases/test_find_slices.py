"""What a scan says of the routes of an application, for the price of moving it piece by piece."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.conftest import write
from yoake.core.knowledge.base import Knowledge
from yoake.core.values.coordinates import parse_target
from yoake.runner.extraction import Extractor
from yoake.runner.snapshots import FolderSnapshot
from yoake.usecases import find_slices as slices
from yoake.usecases.progress import Control
from yoake.usecases.scan import scan_snapshot
from yoake.usecases.scanned import Scanned

APPLICATION = {
    "requirements.txt": "flask==1.1.4\n",
    "desk.py": """
import imp
from flask import Flask
from fares import fare
app = Flask(__name__, static_folder=None)

@app.get("/sailings")
def sailings():
    return {}

@app.get("/fares/<port>")
def fares(port):
    return {"fare": fare(port)}
""",
    "fares.py": "import time\n\ndef fare(port):\n    return time.clock()\n",
    "cron.py": "import asyncore\n",
}


def scanned(folder: Path, knowledge: Knowledge, extractor: Extractor) -> Scanned:
    targets = [parse_target("python@3.13")]
    return scan_snapshot(FolderSnapshot(folder), knowledge, targets, [parse_target("python@3.7")], extractor, Control())


def test_changes_belong_to_the_slice_that_brings_their_code(
    tmp_path: Path, knowledge: Knowledge, extractor: Extractor
) -> None:
    result = scanned(write(tmp_path, APPLICATION), knowledge, extractor)
    (found,) = slices.find_slices(result, knowledge.ecosystems).values()
    titles = {finding.key: finding.symbol for finding in result.result.findings}
    assert {(each.name, each.routes, tuple(titles[key] for key in each.findings)) for each in found} == {
        ("sailings", 1, ("imp",)),
        ("fares", 1, ("time.clock",)),
    }
    chosen = {"everything": ["GET /fares/{port}", "GET /sailings"]}
    (found,) = slices.find_slices(result, knowledge.ecosystems, chosen).values()
    assert [(each.name, each.routes, len(each.findings)) for each in found] == [("everything", 2, 2)]


def test_nothing_is_read_where_no_web_framework_is_asked_for(
    tmp_path: Path, knowledge: Knowledge, extractor: Extractor
) -> None:
    files = APPLICATION | {"requirements.txt": "requests==2.0\n"}
    assert slices.find_slices(scanned(write(tmp_path, files), knowledge, extractor), knowledge.ecosystems) == {}
    bare = {name: text for name, text in APPLICATION.items() if name != "requirements.txt"}
    found = slices.find_slices(scanned(write(tmp_path / "bare", bare), knowledge, extractor), knowledge.ecosystems)
    assert sum(each.routes for held in found.values() for each in held) == 2


def test_a_scan_does_not_fail_for_its_routes(
    tmp_path: Path, knowledge: Knowledge, extractor: Extractor, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fails(*_: object, **__: object) -> None:
        raise KeyError("nobody thought of this")

    monkeypatch.setattr(slices, "read_code_routes", fails)
    assert slices.find_slices(scanned(write(tmp_path, APPLICATION), knowledge, extractor), knowledge.ecosystems) == {}
