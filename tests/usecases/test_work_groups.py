"""Work by stage and by person: what can be done now comes first, and several steps are changed at once."""

from __future__ import annotations

from datetime import timedelta
from pathlib import Path

import pytest

from tests.conftest import NOW, write
from yoake.context.context import Context
from yoake.core.values.errors import BadInput, NotFound
from yoake.formats.tables import ApplicationRow
from yoake.runner.extraction import Extractor
from yoake.store.applications import get_application
from yoake.store.steps import renew_live
from yoake.store.waves import Outside
from yoake.usecases.ask_vendor import set_outside
from yoake.usecases.change_steps import change_steps
from yoake.usecases.progress import Control
from yoake.usecases.scan_application import scan_application
from yoake.usecases.take_in import preview, take_in
from yoake.usecases.track import change_step_fields, remove_application
from yoake.usecases.waive import waive
from yoake.views.work import StepQuery, work
from yoake.views.work_groups import work_groups

CODE = "import imp\nfrom collections import Mapping\nimport asyncore\n"


@pytest.fixture
def two(context: Context, tmp_path: Path, extractor: Extractor) -> Context:
    """A library, and an application that requires it; both have something to do before any move, and in a stage."""
    lib = {"pyproject.toml": '[project]\nname = "tide"\nversion = "1"\nrequires-python = "==3.8.*"\n', "tide.py": CODE}
    app = {"requirements.txt": "tide==1\n", ".python-version": "3.8\n", "app.py": "import tide\n" + CODE}
    rows = [
        ApplicationRow(number=n, name=name, source=str(write(tmp_path / name, held)))
        for n, (name, held) in enumerate((("tide", lib), ("desk", app)), 1)
    ]
    for number in take_in(context, preview(context, rows, "python@3.13"), "Ines"):
        scan_application(context, number, extractor, Control())
    return context


def test_by_stage_what_can_be_done_now_comes_first_and_the_rest_says_what_it_waits_for(two: Context) -> None:
    found = work_groups(two, StepQuery(), "stage")
    waiting = [bool(group.waits) for group in found.groups]
    assert waiting == sorted(waiting)
    assert found.now == waiting.count(False)
    first = next(g for g in found.groups if (g.slug, g.stage) == ("desk", 1))
    assert "what comes before any move" in first.waits
    assert first.title.startswith("stage 1: Python 3.1")
    assert any(one.startswith("tide: ") for one in first.waits)
    assert sum(group.steps for group in found.groups) == work(two, StepQuery()).open


def test_before_there_is_a_plan_only_the_order_of_stages_is_known(
    two: Context, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("yoake.views.work_groups.plan_at_hand", lambda _context: None)
    with two.db.write() as connection:
        connection.execute("UPDATE steps SET stage = 2 WHERE stage = 1")
        renew_live(connection, get_application(two.db, "desk").id)
    waits = {g.stage: g.waits for g in work_groups(two, StepQuery(slug="desk"), "stage").groups}
    assert waits == {0: [], 2: ["stage 1"]}


def test_what_a_vendor_moves_waits_for_its_release_whole(two: Context) -> None:
    away = Outside(
        vendor="Weighbridge Works", contact="", asked=None, answer="", promised=None, chase=None, arrived=None
    )
    set_outside(two, "tide", away, "Ines")
    groups = work_groups(two, StepQuery(slug="tide"), "stage").groups
    assert groups
    assert all(g.waits[0] == "the release of Weighbridge Works" for g in groups)


def test_the_rows_of_a_group_are_as_many_as_it_says(two: Context) -> None:
    for state in ("open", "all"):
        for by in ("stage", "person"):
            for group in work_groups(two, StepQuery(state=state), by).groups:
                query = StepQuery(
                    slug=group.slug or None,
                    state=state,
                    stage=group.stage if group.slug else None,
                    owner=None if group.slug else group.owner,
                )
                assert len(work(two, query, limit=200).rows) == group.steps > 0


def test_what_is_waived_or_of_a_removed_application_is_in_no_group(two: Context) -> None:
    before = {g.key: g.steps for g in work_groups(two, StepQuery(slug="desk"), "stage").groups}
    row = next(r for r in work(two, StepQuery(slug="desk", stage=0)).rows if r.title.startswith("imp"))
    waive(two, "desk", row.finding_key, "Ines", "goes away in spring", (NOW + timedelta(days=30)).date().isoformat())
    after = {g.key: g.steps for g in work_groups(two, StepQuery(slug="desk"), "stage").groups}
    assert after == before | {"desk|0": before["desk|0"] - 1}
    remove_application(two, "tide", "Ines")
    assert {g.slug for g in work_groups(two, StepQuery(), "stage").groups} == {"desk"}


def test_by_person_late_ones_come_first_and_nobody_last(two: Context) -> None:
    rows = work(two, StepQuery(slug="desk")).rows
    change_step_fields(two, rows[0].id, {"owner": "Asa", "due": "2020-01-01"}, "Ines")
    for row in rows[1:3]:
        change_step_fields(two, row.id, {"owner": "Jon"}, "Ines")
    change_step_fields(two, rows[3].id, {"owner": "jon"}, "Ines")
    groups = work_groups(two, StepQuery(), "person").groups
    assert [(g.title, g.steps, g.late) for g in groups[:2]] == [("Asa", 1, 1), ("Jon", 3, 0)]
    assert groups[-1].title == "nobody"


def test_a_filter_narrows_groups_and_unknown_applications_are_told(two: Context) -> None:
    groups = work_groups(two, StepQuery(text="asyncore"), "stage").groups
    assert {g.slug for g in groups} == {"desk", "tide"}
    assert all(g.steps == 1 for g in groups)
    with pytest.raises(NotFound):
        work_groups(two, StepQuery(slug="nothing"), "stage")


def test_several_steps_get_an_owner_and_what_somebody_else_changed_is_left_alone(two: Context) -> None:
    rows = work(two, StepQuery(slug="desk")).rows[:3]
    change_step_fields(two, rows[2].id, {"owner": "Asa"}, "Asa")
    found = change_steps(two, [(r.id, r.version) for r in rows], {"owner": "Jon", "due": "2027-03-01"}, "Ines")
    assert (found.changed, found.outdated) == (2, [rows[2].id])
    now = {r.id: (r.owner, r.due) for r in work(two, StepQuery(slug="desk")).rows}
    assert [now[r.id] for r in rows] == [("Jon", "2027-03-01"), ("Jon", "2027-03-01"), ("Asa", None)]


def test_of_several_steps_none_is_changed_where_one_cannot_be(two: Context) -> None:
    rows = work(two, StepQuery(slug="desk")).rows[:2]
    chosen = [(r.id, r.version) for r in rows]
    with pytest.raises(NotFound):
        change_steps(two, [*chosen, (10**9, 1)], {"owner": "Jon"}, "Ines")
    with pytest.raises(BadInput):
        change_steps(two, chosen, {"due": "2027-W10"}, "Ines")
    assert all(r.owner == get_application(two.db, "desk").owner for r in work(two, StepQuery(slug="desk")).rows[:2])
