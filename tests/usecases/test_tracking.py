"""From a scan to work and back: steps open and close on evidence, waivers, plans, history."""

from __future__ import annotations

import json
from datetime import timedelta
from pathlib import Path

import pytest

from tests.conftest import NOW, write
from tests.usecases.screens import files, findings, steps
from yoake.context.context import Context
from yoake.core.values.coordinates import parse_target
from yoake.core.values.errors import BadInput, NotFound, Stopped
from yoake.formats.tables import ApplicationRow
from yoake.runner.extraction import Extractor
from yoake.store.applications import get_application, list_applications
from yoake.usecases.progress import Control
from yoake.usecases.scan_application import scan_application
from yoake.usecases.take_in import preview, take_in
from yoake.usecases.track import (
    change_applications,
    change_step_fields,
    correct_line,
    remove_application,
)
from yoake.usecases.waive import unwaive, waive
from yoake.views.application_rows import portfolio
from yoake.views.evidence import evidence, source_text
from yoake.views.path import path

TO = "python@3.13 pypi/django@5.2"


def take(context: Context, source: Path, name: str = "app") -> int:
    return take_in(context, preview(context, [ApplicationRow(number=1, name=name, source=str(source))], TO), "Ines")[0]


def scan(context: Context, number: int, extractor: Extractor) -> str:
    return scan_application(context, number, extractor, Control())


@pytest.fixture
def app(tmp_path: Path) -> Path:
    return write(
        tmp_path / "src", {".python-version": "3.8\n", "a.py": "import imp\nimport asyncore\n", "b.py": "import os\n"}
    )


def states(context: Context) -> dict[str, str]:
    return {step.title.split(" ")[0]: step.state for step in steps(context)}


def test_a_step_closes_when_its_finding_is_gone_and_opens_again_when_it_is_back(
    context: Context, app: Path, extractor: Extractor
) -> None:
    number = take(context, app)
    scan(context, number, extractor)
    assert states(context)["imp"] == "open"
    write(app, {"a.py": "import asyncore\n"})
    scan(context, number, extractor)
    assert states(context)["imp"] == "closed"
    assert states(context)["asyncore"] == "open"
    write(app, {"b.py": "import imp\n"})
    scan(context, number, extractor)
    assert states(context)["imp"] == "reopened"
    events = [(e.subject, e.before, e.after) for e in path(context, "app").events if e.what == "state"]
    assert events == [("step imp → importlib", "closed", "reopened"), ("step imp → importlib", "open", "closed")]


def test_a_step_whose_file_was_not_read_stays_open_and_says_why(
    context: Context, app: Path, extractor: Extractor
) -> None:
    number = take(context, app)
    scan(context, number, extractor)
    (app / "a.py").write_bytes(b"\0\0binary")
    scan(context, number, extractor)
    step = next(s for s in steps(context) if s.title.startswith("imp"))
    assert (step.state, step.missing) == ("not seen", "a.py was not read by the last scan")


def test_a_deleted_file_closes_its_steps(context: Context, app: Path, extractor: Extractor) -> None:
    number = take(context, app)
    scan(context, number, extractor)
    (app / "a.py").unlink()
    scan(context, number, extractor)
    assert {s for t, s in states(context).items() if t in ("imp", "asyncore")} == {"closed"}


def test_owner_due_and_note_survive_the_next_scan(context: Context, app: Path, extractor: Extractor) -> None:
    number = take(context, app)
    scan(context, number, extractor)
    step = steps(context)[0]
    change_step_fields(context, step.id, {"owner": "Jon", "due": "2027-01-02", "note": "ask first"}, "Ines")
    write(app, {"c.py": "x = 1\n"})
    scan(context, number, extractor)
    again = next(s for s in steps(context) if s.id == step.id)
    assert (again.owner, again.due, again.note) == ("Jon", "2027-01-02", "ask first")


def test_a_date_that_is_none_is_refused_and_nothing_is_changed(
    context: Context, app: Path, extractor: Extractor
) -> None:
    scan(context, take(context, app), extractor)
    step = steps(context)[0]
    with pytest.raises(BadInput, match="2027-03-12"):
        change_step_fields(context, step.id, {"owner": "Jon", "due": "soon"}, "Ines")
    assert steps(context)[0].owner == ""


def test_the_same_content_is_not_stored_twice(context: Context, app: Path, extractor: Extractor) -> None:
    number = take(context, app)
    assert scan(context, number, extractor) == ""
    assert scan(context, number, extractor) == "unchanged since the last scan"
    assert len(evidence(context, "app").history) == 1


def test_a_waiver_takes_a_finding_out_of_the_plan_but_not_out_of_clearance(
    context: Context, app: Path, extractor: Extractor
) -> None:
    scan(context, take(context, app), extractor)
    before = portfolio(context).rows[0]
    key = next(f.key for f in findings(context, "app") if f.symbol == "asyncore")
    waive(context, "app", key, "Ines", "replaced next year", "2027-06-01")
    after = portfolio(context).rows[0]
    assert after.effort50 < before.effort50
    assert after.clear == before.clear
    assert next(s for s in steps(context) if s.finding_key == key).waived
    unwaive(context, "app", key, "Ines")
    assert portfolio(context).rows[0].effort50 == before.effort50


def test_a_waiver_that_ran_out_counts_no_longer(context: Context, app: Path, extractor: Extractor) -> None:
    scan(context, take(context, app), extractor)
    key = next(f.key for f in findings(context, "app") if f.symbol == "asyncore")
    waive(context, "app", key, "Ines", "for now", "2026-12-01")
    context.clock = lambda: NOW + timedelta(days=30)
    waiver = next(f.waiver for f in findings(context, "app") if f.key == key)
    assert waiver is not None
    assert waiver.expired


def test_a_waiver_names_who_and_why(context: Context, app: Path, extractor: Extractor) -> None:
    scan(context, take(context, app), extractor)
    with pytest.raises(BadInput, match="top bar"):
        waive(context, "app", "k", "", "because", None)


def test_what_a_person_says_of_today_wins_and_can_be_taken_back(
    context: Context, app: Path, extractor: Extractor
) -> None:
    number = take(context, app)
    scan(context, number, extractor)
    correct_line(context, "app", "python", "3.12", "Ines")
    scan(context, number, extractor)
    line = evidence(context, "app").application.today[0]
    assert (line.line, line.how) == ("3.12", "said")
    correct_line(context, "app", "python", "", "Ines")
    scan(context, number, extractor)
    assert evidence(context, "app").application.today[0].line == "3.8"


def test_a_new_destination_keeps_the_work_towards_the_old_one(
    context: Context, app: Path, extractor: Extractor
) -> None:
    number = take(context, app)
    scan(context, number, extractor)
    assert "imp" in states(context)
    change_applications(context, ["app"], {"destination": "python@3.10"}, "Ines")
    scan(context, number, extractor)
    assert "imp" not in states(context)
    change_applications(context, ["app"], {"destination": "Python 3.13, Django 5.2"}, "Ines")
    assert states(context)["imp"] == "open"


def test_a_removed_application_comes_back_with_its_history(context: Context, app: Path, extractor: Extractor) -> None:
    scan(context, take(context, app), extractor)
    remove_application(context, "app", "Ines")
    assert list_applications(context.db) == []
    remove_application(context, "app", "Ines", restore=True)
    assert len(evidence(context, "app").history) == 1


def test_a_stopped_scan_leaves_the_last_one_as_it_was(context: Context, app: Path, extractor: Extractor) -> None:
    number = take(context, app)
    scan(context, number, extractor)
    write(app, {"a.py": "x = 1\n"})
    with pytest.raises(Stopped):
        scan_application(context, number, extractor, Control(stopped=lambda: True))
    assert states(context)["imp"] == "open"


def test_the_source_is_shown_as_it_was_scanned(context: Context, app: Path, extractor: Extractor) -> None:
    scan(context, take(context, app), extractor)
    write(app, {"a.py": "changed\n"})
    assert source_text(context, "app", "a.py").text == "import imp\nimport asyncore\n"
    with pytest.raises(NotFound):
        source_text(context, "app", "../records.sqlite")


def test_an_application_in_a_language_not_read_is_never_clear(
    context: Context, tmp_path: Path, extractor: Extractor
) -> None:
    folder = write(tmp_path / "js", {"go.mod": "module m\n", "main.go": "package main\n"})
    scan(context, take(context, folder, "portal"), extractor)
    row = portfolio(context).rows[0]
    assert (row.clear, row.known, row.margin, row.arrived) == (None, 0.0, None, False)
    assert row.languages == ["Go"]
    assert "not known" in portfolio(context).heading or "nothing is known" in portfolio(context).heading
    assert evidence(context, "portal").heading.startswith("Not known")


def test_a_file_too_large_to_be_source_counts_as_not_known(
    context: Context, tmp_path: Path, extractor: Extractor
) -> None:
    folder = write(tmp_path / "big", {"a.py": "import os\n", "data.py": "x = 1\n" * 1_000_000})
    scan(context, take(context, folder), extractor)
    result = {f.path: (f.state, f.reason) for f in files(context, "app")}
    assert result["data.py"][0] == "unread"
    assert "larger than" in result["data.py"][1]
    assert portfolio(context).rows[0].known < 1


def test_two_modules_with_their_own_lines_are_shown_apart(
    context: Context, tmp_path: Path, extractor: Extractor
) -> None:
    folder = write(
        tmp_path / "two",
        {
            "x/setup.py": "setup(python_requires='>=3.8')",
            "y/setup.py": "setup(python_requires='>=3.12')",
            "x/a.py": "import imp\n",
            "y/b.py": "import os\n",
        },
    )
    scan(context, take(context, folder), extractor)
    assert [(v.module, v.line) for v in evidence(context, "app").application.today] == [("x", "3.8"), ("y", "3.12")]


def test_capacity_moves_the_arrival_and_is_kept_inside_reason(
    context: Context, app: Path, extractor: Extractor
) -> None:
    scan(context, take(context, app), extractor)
    before = portfolio(context).rows[0].arrival80
    change_applications(context, ["app"], {"days_per_week": 0.25}, "Ines")
    assert portfolio(context).rows[0].arrival80 > before
    with pytest.raises(BadInput, match="days a week"):
        change_applications(context, ["app"], {"days_per_week": 90}, "Ines")
    assert get_application(context.db, "app").days_per_week == 0.25


def test_every_change_is_an_event(context: Context, app: Path, extractor: Extractor) -> None:
    number = take(context, app)
    scan(context, number, extractor)
    change_applications(context, ["app"], {"owner": "Jon"}, "Ines")
    rows = context.db.all("SELECT who, what, after FROM events ORDER BY id")
    assert ("Ines", "owner", "Jon") in [(r["who"], r["what"], r["after"]) for r in rows]


def test_targets_are_stored_as_people_write_them(context: Context, app: Path) -> None:
    take(context, app)
    row = context.db.one("SELECT targets FROM destinations")
    assert [parse_target(t) for t in json.loads(row["targets"])] == list(
        list_applications(context.db)[0].destination.targets
    )


def test_a_change_in_a_manifest_alone_is_a_change(context: Context, app: Path, extractor: Extractor) -> None:
    number = take(context, app)
    scan(context, number, extractor)
    assert "unchanged" in scan(context, number, extractor)
    write(app, {".python-version": "3.11\n"})
    assert "unchanged" not in scan(context, number, extractor)
    assert portfolio(context).rows[0].today[0].line == "3.11"
