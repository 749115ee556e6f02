"""Windows of steps: the filter finds what a person would find by reading every step, wherever a word stands."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from pathlib import Path

import pytest

from yoake.core.values.coordinates import parse_target
from yoake.store.applications import Source, add_application, ensure_destination, get_application
from yoake.store.database import Database
from yoake.store.steps import (
    WantedSteps,
    change_step,
    count_steps,
    narrowed,
    put_step,
    renew_live,
    set_step_state,
    step_window,
)

TODAY = date(2027, 1, 4)
TEAMS = {"ferry-desk": "Quay", "tariffs": "Harbour 7", "imp-museum": "quayside"}


@pytest.fixture
def db(tmp_path: Path) -> Iterator[Database]:
    made = Database(tmp_path / "records.sqlite")
    with made.write() as connection:
        destination = ensure_destination(connection, "Spring", (parse_target("python@3.13"),))
        for name, team in TEAMS.items():
            source = Source("folder", f"/srv/{name}")
            number = add_application(connection, name, source, destination, owner="", team=team, at="2026")
            for title in ("imp", "asyncore.dispatcher", "100 % of distutils", "collections.Mapping"):
                values = {"application": number, "destination": destination, "key": title, "stage": 1, "title": title}
                put_step(
                    connection,
                    {**values, "state": "open", "why": "", "places": 1, "minutes": 5, "files": "", "at": "2026"},
                )
            renew_live(connection, number)
        change_step(connection, 2, "owner", "Ines Quayle")
        change_step(connection, 3, "note", "ask the IMP first")
        set_step_state(connection, 4, "reopened", "", None)
    yield made
    made.close()


def read_through(db: Database, words: list[str]) -> set[int]:
    """What somebody would find who reads every step."""
    rows = db.all("SELECT s.*, a.name, a.team FROM steps s JOIN applications a ON a.id = s.application_id")
    fields = ("title", "name", "team", "owner", "state", "note")
    return {r["id"] for r in rows if all(any(w.lower() in r[f].lower() for f in fields) for w in words)}


@pytest.mark.parametrize(
    "text",
    [
        "imp",
        "IMP",
        "quay",
        "ines",
        "ask imp",
        "reopened",
        "open imp",
        "7",
        "% of",
        "100_",
        "mapping tariffs",
        "nowhere",
        "o",
    ],
)
def test_a_filter_finds_what_reading_every_step_finds(db: Database, text: str) -> None:
    wanted = narrowed(db, WantedSteps(today=TODAY, state="all", text=text))
    found = step_window(db, wanted, 0, 100)
    assert {row["id"] for row in found} == read_through(db, text.split())
    assert len(found) == count_steps(db, wanted)


def test_windows_of_a_filter_follow_one_another_and_found_again_comes_first(db: Database) -> None:
    wanted = narrowed(db, WantedSteps(today=TODAY, text="collections"))
    whole = [row["id"] for row in step_window(db, wanted, 0, 10)]
    assert whole[0] == 4
    assert [row["id"] for at in range(3) for row in step_window(db, wanted, at, 1)] == whole


def test_a_filter_within_one_application_stays_there(db: Database) -> None:
    number = get_application(db, "tariffs").id
    rows = step_window(db, narrowed(db, WantedSteps(today=TODAY, application_id=number, text="imp")), 0, 10)
    assert [(row["slug"], row["title"]) for row in rows] == [("tariffs", "imp")]
