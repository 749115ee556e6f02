"""Standing watch: what is due is done once, a digest says what got worse, and it goes out as a file or through a mail server."""

from __future__ import annotations

import email
import socket
import threading
from collections.abc import Iterator
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

import pytest

from tests.waiting import until
from yoake.context.context import Context, open_context
from yoake.core.portfolio.axis import Axis
from yoake.core.values.errors import BadInput, Outdated
from yoake.formats.tables import ApplicationRow
from yoake.runner.extraction import Extractor
from yoake.runner.home import Home
from yoake.runner.mail import MailServer, read_mail_server
from yoake.shipped import KIT
from yoake.store.applications import application_by_id, list_applications
from yoake.store.facts_cache import FactsCache
from yoake.store.jobs import count_jobs
from yoake.store.watch import KeptForecast, Watch, forecasts_before, keep_forecasts, kept_work, read_watch
from yoake.store.waves import Outside
from yoake.usecases.ask_vendor import set_outside
from yoake.usecases.jobs import JOBS
from yoake.usecases.progress import Control
from yoake.usecases.queue import Queue
from yoake.usecases.scan_application import scan_application
from yoake.usecases.set_watch import set_watch
from yoake.usecases.take_in import preview, take_in
from yoake.usecases.watch import Watcher, keep_forecast
from yoake.views.digest import digest
from yoake.views.forecasts import calibrated, forecast_view
from yoake.views.work import StepQuery, work

NOW = datetime(2026, 11, 30, 9, tzinfo=UTC)


@pytest.fixture
def clock() -> list[datetime]:
    return [NOW]


@pytest.fixture
def context(tmp_path: Path, clock: list[datetime]) -> Iterator[Context]:
    """One application on Python 3.10, whose support ends in October 2026, and one on 3.11."""
    made = open_context(Home(tmp_path / "home"), KIT, lambda: clock[0])
    for name, line in (("desk", "3.11"), ("tide", "3.12")):
        folder = tmp_path / name
        (folder / "pkg").mkdir(parents=True)
        (folder / ".python-version").write_text(f"{line}\n")
        (folder / "pkg" / "a.py").write_text("import imp\nimport cgi\n")
        take_in(
            made,
            preview(
                made,
                [
                    ApplicationRow(
                        number=1, name=name, source=str(folder), ref="", subfolder="", owner="", team="", destination=""
                    )
                ],
                "python@3.13",
            ),
            "Ines",
        )
    cache = FactsCache(made.home.facts)
    extractor = Extractor(cache, KIT.ecosystems)
    for number in (1, 2):
        scan_application(made, number, extractor, Control())
    extractor.close()
    cache.close()
    yield made
    made.db.close()


def watcher(context: Context, asked: list[str], mail: MailServer | None = None) -> Watcher:
    def scan(applications: list, who: str) -> list[int]:
        asked.append(f"scan {len(applications)}")
        return []

    def look_up(applications: list, who: str) -> list[int]:
        asked.append(f"records {len(applications)}")
        return []

    def scan_next(applications: list, who: str) -> list[int]:
        asked.append(f"next {len(applications)}")
        return []

    return Watcher(context, scan, look_up, scan_next, mail)


def test_nothing_is_done_by_itself_until_somebody_says_so_but_keeping_the_forecast(context: Context) -> None:
    asked: list[str] = []
    assert watcher(context, asked).do_what_is_due() == ["this week’s forecast was kept"]
    assert asked == []
    assert watcher(context, asked).do_what_is_due() == []


def test_each_week_it_is_kept_what_is_left_and_the_forecast_begins_with_it(
    context: Context, clock: list[datetime]
) -> None:
    for days in (0, 2, 7):
        clock[0] = NOW + timedelta(days=days)
        keep_forecast(context)
    mondays = [Axis(NOW.date()).monday + timedelta(days=days) for days in (0, 7)]
    assert [week.made for week in kept_work(context.db)] == mondays
    clock[0] = NOW + timedelta(days=9)
    view = forecast_view(context)
    assert [week.made for week in view.so_far] == [*mondays, clock[0].date()]
    now = view.so_far[-1]
    assert now.days_left == view.portfolio.days > 0
    assert (now.arrived, now.applications) == (0, 2)


def test_what_is_due_is_done_once_in_its_time(context: Context, clock: list[datetime]) -> None:
    set_watch(context, Watch(rescan_days=7, records_days=14), "Ines", 1)
    asked: list[str] = []
    held = watcher(context, asked)
    for days, expected in ((0, 2), (1, 2), (7, 3), (13, 3), (14, 5)):
        clock[0] = NOW + timedelta(days=days)
        held.do_what_is_due()
        assert len(asked) == expected, days
    assert asked == ["scan 2", "records 2", "scan 2", "scan 2", "records 2"]


def test_with_nothing_taken_in_nothing_is_asked_for(tmp_path: Path) -> None:
    empty = open_context(Home(tmp_path / "empty"), KIT, lambda: NOW)
    try:
        set_watch(empty, Watch(rescan_days=1, records_days=1, next_days=1), "Ines", 1)
        asked: list[str] = []
        assert watcher(empty, asked).do_what_is_due() == []
        assert asked == []
    finally:
        empty.db.close()


def test_a_schedule_that_cannot_be_is_refused_and_two_people_do_not_overwrite_each_other(context: Context) -> None:
    with pytest.raises(BadInput, match="no mail address"):
        set_watch(context, Watch(mail_to="ines at harrowmere"), "Ines")
    with pytest.raises(BadInput, match="0 for never"):
        set_watch(context, Watch(rescan_days=-1), "Ines")
    set_watch(context, Watch(rescan_days=1), "Ines", 1)
    with pytest.raises(Outdated):
        set_watch(context, Watch(rescan_days=2), "Asa", 1)


def test_the_lines_after_the_destination_are_scanned_and_nothing_of_the_application_changes(context: Context) -> None:
    queue = Queue(context=context, kinds=JOBS, workers=1)
    queue.start()
    try:
        before = [(s.title, s.stage) for s in work(context, StepQuery()).rows]
        queue.ask_next(list_applications(context.db)[:1], "")
        until(lambda: count_jobs(context.db).get("done", 0) == 1, 120)
    finally:
        queue.close()
    assert [(s.title, s.stage) for s in work(context, StepQuery()).rows] == before
    assert application_by_id(context.db, 1).destination.targets[0].line == "3.13"
    line = next(part for part in digest(context, 7).parts if part.title == "Beyond the destination").lines[0].text
    assert line.startswith("desk at Python 3.1")
    assert line.endswith("3 would fail, 0 would warn")


def test_the_digest_names_who_is_newly_late_what_ends_soon_and_whom_to_chase(context: Context) -> None:
    outside = Outside(
        vendor="Tidewater", contact="", asked=date(2026, 11, 1), answer="", promised=None, chase=None, arrived=None
    )
    set_outside(context, "tide", outside, "Ines")
    before = KeptForecast(
        application=1, stage="stage:pkg:generic/python@3.13", made=date(2026, 11, 16), p50=None, p80=None, late=0.05
    )
    with context.db.write() as connection:
        keep_forecasts(connection, [before])
        connection.execute("UPDATE applications SET days_per_week = 0.01")
    made = digest(context, 7)
    parts = {part.title: [line.text for line in part.lines] for part in made.parts}
    late = next(line for line in parts["Newly late"] if line.startswith("desk"))
    assert late.startswith("desk 1 (Python 3.13) misses a support end with")
    assert late.endswith("5 % before")
    assert parts["To chase"] == ["Tidewater has not answered about tide for 29 days"]
    assert "newly late" in made.heading
    assert any(line.startswith("scanned: 2") for line in parts["What happened"])


def test_what_was_late_before_is_not_newly_late(context: Context) -> None:
    before = KeptForecast(
        application=1, stage="stage:pkg:generic/python@3.13", made=date(2026, 11, 16), p50=None, p80=None, late=0.9
    )
    with context.db.write() as connection:
        keep_forecasts(connection, [before])
        connection.execute("UPDATE applications SET days_per_week = 0.01 WHERE id = 1")
    assert "Newly late" not in {part.title for part in digest(context, 7).parts}


def test_a_digest_lies_in_a_file_and_goes_through_a_server_that_is_configured(context: Context) -> None:
    set_watch(context, Watch(digest_days=7, mail_to="ines@harrowmere.example"), "Ines", 1)
    with _Server() as server:
        said = watcher(
            context, [], MailServer(host="127.0.0.1", port=server.port, sender="yoake@harrowmere.example", secure=False)
        ).do_what_is_due()
    assert "the digest went to ines@harrowmere.example" in said
    message = email.message_from_string(server.data)
    assert message["To"] == "ines@harrowmere.example"
    assert [part.get_content_type() for part in message.walk()] == ["multipart/alternative", "text/plain", "text/html"]
    assert len(list((context.home.folder / "digests").glob("*.eml"))) == 1


def test_a_mail_server_that_is_not_there_is_said_and_the_file_stays(context: Context) -> None:
    set_watch(context, Watch(digest_days=7, mail_to="ines@harrowmere.example"), "Ines", 1)
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    said = watcher(context, [], MailServer(host="127.0.0.1", port=port, sender="a@b", secure=False)).do_what_is_due()
    assert any("did not take the digest" in line and "It lies in" in line for line in said)
    assert read_watch(context.db).digest_at is not None


@pytest.mark.parametrize(
    ("address", "sender"), [("nowhere", "a@b"), ("host:x", "a@b"), ("host:25", "nobody"), ("host:99999", "a@b")]
)
def test_a_mail_server_that_cannot_be_is_refused(address: str, sender: str) -> None:
    with pytest.raises(BadInput):
        read_mail_server(address, sender)


def test_how_often_a_forecast_held_is_counted_from_the_first_that_was_kept(
    context: Context, clock: list[datetime]
) -> None:
    assert keep_forecast(context)
    kept = forecasts_before(context.db, NOW.date())[1, "stage:pkg:generic/python@3.13"]
    assert kept.p50 is not None
    done = (kept.p50 + timedelta(days=1)).isoformat() + "T10:00:00+00:00"
    with context.db.write() as connection:
        connection.execute(
            "INSERT INTO steps (application_id, destination_id, finding_key, stage, title, state, why, opened_at, closed_at) "
            "SELECT 1, destination_id, 'stage:pkg:generic/python@3.13', 1, 'x', 'closed', 'a scan reads these lines', '2026-11-30', ? "
            "FROM application_destinations WHERE application_id = 1",
            (done,),
        )
    clock[0] = NOW + timedelta(days=60)
    found = calibrated(context)
    assert (found.count, found.within50) == (1, 0)


class _Server:
    """A mail server that takes one mail, as another implementation of the same port."""

    def __init__(self) -> None:
        self._socket = socket.create_server(("127.0.0.1", 0))
        self.port: int = self._socket.getsockname()[1]
        self.data = ""
        self._thread = threading.Thread(target=self._serve, daemon=True)

    def __enter__(self) -> _Server:
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._thread.join(timeout=10)
        self._socket.close()

    def _serve(self) -> None:
        connection, _ = self._socket.accept()
        with connection, connection.makefile("rwb") as stream:

            def say(text: str) -> None:
                stream.write(text.encode() + b"\r\n")
                stream.flush()

            say("220 ready")
            while line := stream.readline().decode().strip():
                if line.upper() == "DATA":
                    say("354 go on")
                    lines = []
                    while (part := stream.readline().decode()) != ".\r\n":
                        lines.append(part)
                    self.data = "".join(lines)
                    say("250 taken")
                elif line.upper() == "QUIT":
                    say("221 bye")
                    return
                else:
                    say("250 fine")
