"""The queue: one scan an application, failures kept apart, nothing lost when the process ends."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.conftest import write
from tests.waiting import until
from yoake.core.interchange.tables import ApplicationRow
from yoake.store.applications import application_by_id, list_applications
from yoake.store.jobs import get_job
from yoake.work.intake import preview, take_in
from yoake.work.office import Office
from yoake.work.queue import Queue


@pytest.fixture
def queue(office: Office) -> Iterator[Queue]:
    made = Queue(office, workers=1)
    yield made
    made.close()


def take(office: Office, *sources: Path) -> None:
    rows = [ApplicationRow(i, p.name, str(p)) for i, p in enumerate(sources)]
    take_in(office, preview(office, rows, "python@3.13"), "Ines")


def state(office: Office, job: int) -> str:
    row = get_job(office.db, job)
    return row["state"] if row else ""


def test_two_scans_of_one_application_at_once_are_one(office: Office, queue: Queue, tmp_path: Path) -> None:
    take(office, write(tmp_path / "a", {"a.py": "import imp\n"}))
    first, second = queue.ask(list_applications(office.db), "x"), queue.ask(list_applications(office.db), "y")
    assert first == second
    queue.start()
    until(lambda: state(office, first[0]) == "done")


def test_a_scan_that_fails_says_why_and_the_others_go_on(office: Office, queue: Queue, tmp_path: Path) -> None:
    bad, good = write(tmp_path / "bad", {"a.py": ""}), write(tmp_path / "good", {"a.py": ""})
    take(office, bad, good)
    (bad / "a.py").unlink()
    jobs = queue.ask([application_by_id(office.db, n) for n in (1, 2)], "x")
    queue.start()
    until(lambda: state(office, jobs[1]) == "done")
    row = get_job(office.db, jobs[0])
    assert row["state"] == "failed"
    assert "nothing to scan" in row["problem"]


def test_a_waiting_scan_can_be_stopped(office: Office, queue: Queue, tmp_path: Path) -> None:
    take(office, write(tmp_path / "a", {"a.py": ""}))
    job = queue.ask(list_applications(office.db), "x")[0]
    queue.stop(job)
    assert state(office, job) == "stopped"


def test_what_ran_when_the_process_was_killed_is_taken_up_again(office: Office, tmp_path: Path) -> None:
    take(office, write(tmp_path / "a", {"a.py": "import imp\n"}))
    killed = Queue(office, workers=1)
    job = killed.ask(list_applications(office.db), "x")[0]
    with office.db.write() as connection:
        connection.execute("UPDATE jobs SET state = 'running'")
    fresh = Queue(office, workers=1)
    fresh.start()
    until(lambda: state(office, job) == "done")
    fresh.close()


def test_an_unexpected_error_is_kept_as_a_reason(
    office: Office, queue: Queue, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    take(office, write(tmp_path / "a", {"a.py": ""}))
    with office.db.write() as connection:
        connection.execute("UPDATE destinations SET targets = '{'")
    with office.db.write() as connection:
        connection.execute("INSERT INTO jobs (kind, application_id, state, asked_at) VALUES ('scan', 1, 'waiting', '')")
    queue.start()
    until(lambda: state(office, 1) == "failed")
    assert "unexpected" in get_job(office.db, 1)["problem"]
    assert "scan failed" in capsys.readouterr().out
