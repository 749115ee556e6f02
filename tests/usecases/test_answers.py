"""Kept answers: given while nothing they depend on changed, made again when something did; and what old scans keep."""

from __future__ import annotations

import gzip
import json
from datetime import timedelta
from pathlib import Path

import pytest

from tests.conftest import NOW, write
from tests.usecases.screens import findings, steps
from yoake.context.context import Context
from yoake.core.values.errors import BadRecords
from yoake.formats.tables import ApplicationRow
from yoake.runner.extraction import Extractor
from yoake.shipped import KIT
from yoake.store.database import Database
from yoake.store.kept_answers import kept_marks
from yoake.usecases.keep_answers import AnswersTask, answer, keep_answers, stale_applications
from yoake.usecases.make_answers import AnswersWorker
from yoake.usecases.progress import Control
from yoake.usecases.scan_application import scan_application
from yoake.usecases.take_in import take_in
from yoake.usecases.track import change_step_fields
from yoake.views.path import path_json
from yoake.views.reports import report_page


@pytest.fixture
def desk(context: Context, extractor: Extractor, tmp_path: Path) -> Path:
    source = write(tmp_path / "desk", {".python-version": "3.8\n", "a.py": "import imp\nimport asyncore\n"})
    take_in(
        context,
        [
            ApplicationRow(
                number=1,
                name="desk",
                source=str(source),
                ref="",
                subfolder="",
                owner="",
                team="",
                destination="python@3.13",
            )
        ],
        "Ines",
    )
    scan_application(context, 1, extractor, Control())
    return source


def test_an_answer_is_made_once_and_again_when_somebody_decided_something(context: Context, desk: Path) -> None:
    first = answer(context, "desk", "path", path_json)
    mark = kept_marks(context.db)[1, "path"]
    assert answer(context, "desk", "path", path_json) is first
    change_step_fields(context, steps(context)[0].id, {"owner": "Jon"}, "Ines")
    assert b"Jon" in gzip.decompress(answer(context, "desk", "path", path_json))
    assert kept_marks(context.db)[1, "path"] != mark


def test_an_answer_of_yesterday_is_not_given_today(context: Context, desk: Path) -> None:
    answer(context, "desk", "path", path_json)
    answer(context, "desk", "report", report_page)
    assert stale_applications(context) == []
    context.clock = lambda: NOW + timedelta(days=1)
    assert stale_applications(context) == [1]


def test_a_process_of_its_own_makes_what_the_server_would(context: Context, desk: Path) -> None:
    context.clock = lambda: NOW
    made = AnswersWorker(KIT)(AnswersTask(context.home.folder, 1), lambda *_: None)
    assert {name for name, _, _ in made} == {"path", "report"}
    keep_answers(context, 1, made)
    here = json.loads(gzip.decompress(answer(context, "desk", "path", path_json)))
    there = json.loads(gzip.decompress(next(body for name, _, body in made if name == "path")))
    assert [w["key"] for w in here["ways"]] == [w["key"] for w in there["ways"]]


def test_old_scans_keep_their_summary_and_lose_what_they_found(
    context: Context, desk: Path, extractor: Extractor
) -> None:
    for number in range(3):
        (desk / f"b{number}.py").write_text(f"import imp\nx = {number}\n")
        scan_application(context, 1, extractor, Control())
    rows = context.db.all("SELECT has_detail, errors FROM scans ORDER BY id")
    assert [(row["has_detail"], row["errors"] > 0) for row in rows] == [(0, True), (0, True), (1, True), (1, True)]
    held = context.db.all(
        "SELECT DISTINCT scan_id FROM findings UNION SELECT DISTINCT scan_id FROM places UNION SELECT scan_id FROM plans"
    )
    assert [row["scan_id"] for row in held] == [3, 4]
    orphans = context.db.one("SELECT count(*) AS n FROM texts WHERE digest NOT IN (SELECT digest FROM scan_files)")
    assert orphans["n"] == 0
    assert findings(context, "desk")


def test_what_reads_for_others_cannot_write(context: Context, desk: Path) -> None:
    readonly = Database(context.home.records, read_only=True)
    with pytest.raises(BadRecords), readonly.write() as connection:
        connection.execute("DELETE FROM scans")
    readonly.close()
    assert context.db.one("SELECT count(*) AS n FROM scans")["n"] == 1
