"""``yoake waves``, ``forecast`` and ``digest`` on the records of a home: JSON as described, what-ifs from a file, clear refusals."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from yoake.cli import main
from yoake.context.context import open_context
from yoake.formats.tables import ApplicationRow
from yoake.runner.extraction import Extractor
from yoake.runner.home import Home
from yoake.shipped import KIT
from yoake.store.facts_cache import FactsCache
from yoake.usecases.progress import Control
from yoake.usecases.scan_application import scan_application
from yoake.usecases.take_in import preview, take_in

Run = Callable[..., tuple[int, str, str]]


@pytest.fixture
def home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Home:
    made = Home(tmp_path / "home")
    monkeypatch.setenv("YOAKE_HOME", str(made.folder))
    context = open_context(made, KIT)
    folder = tmp_path / "desk"
    (folder / "pkg").mkdir(parents=True)
    (folder / ".python-version").write_text("3.12\n")
    (folder / "pkg" / "a.py").write_text("import cgi\n")
    take_in(
        context,
        preview(
            context,
            [
                ApplicationRow(
                    number=1,
                    name="desk",
                    source=str(folder),
                    ref="",
                    subfolder="",
                    owner="",
                    team="Sales",
                    destination="",
                )
            ],
            "python@3.13",
        ),
        "Ines",
    )
    cache = FactsCache(made.facts)
    extractor = Extractor(cache, KIT.ecosystems)
    scan_application(context, 1, extractor, Control())
    extractor.close()
    cache.close()
    context.db.close()
    return made


@pytest.fixture
def run(capfd: pytest.CaptureFixture[str]) -> Run:
    def go(*words: str) -> tuple[int, str, str]:
        with pytest.raises(SystemExit) as ended:
            main(words)
        out, err = capfd.readouterr()
        return int(ended.value.code or 0), out, err

    return go


def test_waves_as_json_has_weeks_teams_stages_late_ones_and_the_gap(home: Home, run: Run) -> None:
    code, out, _ = run("waves", "--format", "json")
    body = json.loads(out)
    assert code == 0
    assert {"weeks", "teams", "stages", "late", "gap"} <= body.keys()
    assert body["teams"][0]["name"] == "Sales"
    assert len(body["teams"][0]["capacity"]) == len(body["teams"][0]["used"]) == len(body["weeks"])
    last = body["stages"][-1]
    assert (last["application"], last["set"], last["team"]) == ("desk", "", "Sales")
    assert last["start"] <= last["end"]
    assert body["gap"] == 0


def test_a_what_if_from_a_file_stands_beside_the_plan(home: Home, run: Run, tmp_path: Path) -> None:
    soon = (datetime.now(UTC) + timedelta(days=3)).date()
    file = tmp_path / "if.yaml"
    file.write_text(
        f"dates:\n  - {{coordinate: python, line: '3.12', end: {soon}}}\ncapacity:\n  - {{team: Sales, days: 0.1, person: desk}}\n"
    )
    code, out, _ = run("waves", "--what-if", str(file), "--format", "json")
    body = json.loads(out)
    assert code == 1
    assert body["late"][0]["chance"] > 0.2
    assert body["whatIf"]["whatIf"]["atRisk"] == 1
    assert body["whatIf"]["present"]["atRisk"] == 0
    file.write_text("capacity: [{team: Nobody, days: 1}]\n")
    code, _, err = run("waves", "--what-if", str(file))
    assert (code, err) == (2, "yoake: There is no team “Nobody”.\n")
    file.write_text("wrong: 1\n")
    code, _, err = run("waves", "--what-if", str(file))
    assert code == 2
    assert "wrong" in err


def test_the_text_the_calendar_and_the_forecast_say_the_same_stage(home: Home, run: Run) -> None:
    assert "desk 1" in run("waves")[1]
    assert "BEGIN:VEVENT" in run("waves", "--format", "ics")[1]
    body = json.loads(run("forecast", "--format", "json")[1])
    assert body["runs"] == 5000
    assert body["applications"][0]["name"] == "desk"
    assert body["applications"][0]["misses"][0]["coordinate"] == "python"
    assert "desk" in run("forecast")[1]
    assert "What happened" in run("digest")[1]
    assert "Subject: Yoake" in run("digest", "--format", "mail", "--to", "a@b")[1]


def test_records_that_are_not_there_or_are_older_are_told(
    home: Home, run: Run, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    with sqlite3.connect(home.records) as db:
        db.execute("PRAGMA user_version = 9")
    code, _, err = run("waves")
    assert code == 2
    assert "older Yoake (schema 9)" in err
    monkeypatch.setenv("YOAKE_HOME", str(tmp_path / "nowhere"))
    assert "There are no records" in run("forecast")[2]
