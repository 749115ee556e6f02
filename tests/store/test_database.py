"""The records: whole transactions, readers that cannot write, migrations once."""

from __future__ import annotations

import threading
from pathlib import Path

import pytest

from yoake.core.values.coordinates import parse_target
from yoake.core.values.errors import BadRecords, NotFound
from yoake.store.applications import (
    Source,
    add_application,
    ensure_destination,
    get_application,
    list_destinations,
    said_lines,
    say_line,
)
from yoake.store.database import Database
from yoake.store.events import Event, add_event, events_of
from yoake.store.jobs import add_job, set_job

TARGETS = (parse_target("python@3.13"),)


@pytest.fixture
def db(tmp_path: Path):
    made = Database(tmp_path / "records.sqlite")
    yield made
    made.close()


def add(db: Database, name: str = "app") -> int:
    with db.write() as connection:
        destination = ensure_destination(connection, "Spring", TARGETS)
        return add_application(
            connection, name, Source("folder", f"/srv/{name}"), destination, owner="", team="", at="2026"
        )


def test_a_transaction_that_fails_leaves_nothing(db: Database) -> None:
    def fails() -> None:
        with db.write() as connection:
            ensure_destination(connection, "Spring", TARGETS)
            raise RuntimeError

    with pytest.raises(RuntimeError):
        fails()
    assert list_destinations(db) == []


def test_readers_cannot_write(db: Database) -> None:
    with pytest.raises(BadRecords, match="readonly"):
        db.all("INSERT INTO destinations (name, targets) VALUES ('x', '[]')")


def test_a_reader_never_sees_half_a_transaction(db: Database) -> None:
    seen: list[int] = []
    with db.write() as connection:
        ensure_destination(connection, "Spring", TARGETS)
        reader = threading.Thread(target=lambda: seen.append(len(db.all("SELECT * FROM destinations"))))
        reader.start()
        reader.join()
    assert seen == [0]
    assert len(db.all("SELECT * FROM destinations")) == 1


def test_migrations_run_once_and_what_is_there_stays(tmp_path: Path) -> None:
    first = Database(tmp_path / "records.sqlite")
    add(first)
    first.close()
    second = Database(tmp_path / "records.sqlite")
    assert get_application(second, "app").source.location == "/srv/app"
    assert second.one("PRAGMA user_version")[0] >= 1
    second.close()


def test_one_source_may_carry_several_applications(db: Database) -> None:
    with db.write() as connection:
        destination = ensure_destination(connection, "Spring", TARGETS)
        for name in ("one", "two"):
            add_application(connection, name, Source("folder", "/srv/both"), destination, owner="", team="", at="2026")
    assert len(db.all("SELECT * FROM sources")) == 1


def test_what_does_not_exist_is_told(db: Database) -> None:
    with pytest.raises(NotFound, match="Horizon"):
        get_application(db, "nobody")


def test_what_a_person_says_of_a_line_replaces_what_was_said_before(db: Database) -> None:
    number = add(db)
    with db.write() as connection:
        say_line(connection, number, parse_target("python@3.8"), "python")
        say_line(connection, number, parse_target("python@3.9"), "python")
    assert [str(t) for t in said_lines(db, number)] == ["python@3.9"]
    with db.write() as connection:
        say_line(connection, number, None, "python")
    assert said_lines(db, number) == []


def test_an_application_has_one_unfinished_job_at_most(db: Database) -> None:
    number = add(db)
    with db.write() as connection:
        first = add_job(connection, number, "b", "", "2026")
        assert add_job(connection, number, "c", "", "2026") == first
        set_job(connection, first, "done", "2026")
        assert add_job(connection, number, "d", "", "2026") != first


def test_events_are_only_ever_added_newest_first(db: Database) -> None:
    number = add(db)
    with db.write() as connection:
        for i in range(3):
            add_event(connection, Event(at=str(i), application=number, subject="x", what=str(i)))
    assert [e["what"] for e in events_of(db, number)] == ["2", "1", "0"]
