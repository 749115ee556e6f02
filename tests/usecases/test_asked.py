"""A server is started on two lines of its runtime and asked for paths: alike are those of the same status."""

from __future__ import annotations

from pathlib import Path

import psutil
import pytest

from tests.conftest import write
from tests.usecases.test_runs import lines, side
from yoake.core.contract.procfiles import served_by
from yoake.core.ecosystems.javascript.commands import node_commands
from yoake.core.ecosystems.python.commands import python_commands
from yoake.core.proof.asked import read_asked, told_apart
from yoake.core.values.coordinates import Line
from yoake.core.values.errors import BadInput
from yoake.core.values.runs import Command, Run, Side, TestResult
from yoake.runner.home import Home
from yoake.shipped import KIT
from yoake.store.applications import Source
from yoake.usecases.progress import Control
from yoake.usecases.run import likeliest, paths_to_ask, run_sides, suggested
from yoake.usecases.run_tasks import RunTask

__all__ = ["lines"]  # a fixture

SERVER = """
import http.server, sys

class Desk(http.server.BaseHTTPRequestHandler):
    def do_GET(self):
        status = 200
        if self.path == "/old":
            try:
                from collections import Mapping
            except ImportError:
                status = 500
        if self.path == "/moved" and sys.version_info >= (3, 12):
            status = 404
        self.send_response(status)
        self.end_headers()
        self.wfile.write(b"x")

if len(sys.argv) > 2:
    import no_such_module
http.server.HTTPServer(("127.0.0.1", int(sys.argv[1])), Desk).serve_forever()
"""
SERVE = Command(name="desk", words=("python", "desk.py", "{port}"), kind="serve")


def test_paths_are_asked_for_on_both_sides_and_nothing_is_left_running(
    tmp_path: Path, home: Home, lines: tuple[str, str]
) -> None:
    folder = write(tmp_path / "desk", {".python-version": "3.8\n", "desk.py": SERVER})
    asks = ("/", "/old", "/moved")
    task = RunTask(
        home=home.folder,
        source=Source("folder", str(folder)),
        module="",
        command=SERVE,
        old=side(Line(lines[0])),
        new=side(Line(lines[1])),
        asks=asks,
        repeats=0,
    )
    done = run_sides(task, KIT, Control())
    assert [run.ended for run in (*done.old, *done.new)] == ["passed", "passed"]
    assert {t.name: t.verdict for t in done.tests} == {"GET /": "both", "GET /old": "breaks", "GET /moved": "breaks"}
    moved = next(t for t in done.tests if t.name == "GET /moved")
    assert moved.note.startswith("404 ")
    assert "before: 200 " in moved.note
    assert not [p for p in psutil.process_iter(["cmdline"]) if "desk.py" in (p.info["cmdline"] or [])]


def test_a_server_that_never_listens_says_what_it_said_last(tmp_path: Path, home: Home, lines: tuple[str, str]) -> None:
    folder = write(tmp_path / "desk", {".python-version": "3.8\n", "desk.py": SERVER})
    fails = Command(name="desk", words=("python", "desk.py", "{port}", "fail"), kind="serve")
    task = RunTask(
        home=home.folder,
        source=Source("folder", str(folder)),
        module="",
        command=fails,
        old=side(Line(lines[0])),
        asks=("/",),
        repeats=0,
    )
    run = run_sides(task, KIT, Control()).old[0]
    assert run.ended == "failed"
    assert "no_such_module" in run.said


def test_without_a_command_what_serves_is_taken_where_paths_are_asked_for(tmp_path: Path) -> None:
    folder = write(
        tmp_path / "a",
        {"manage.py": "", "tests.py": "", "Procfile": "release: x\nweb: gunicorn desk.wsgi -b 0.0.0.0:$PORT\n"},
    )
    found = suggested(folder, KIT.ecosystems)
    assert likeliest(found, ()).words == ("python", "manage.py", "test", "--noinput")
    assert likeliest(found, ("/",)).words == ("gunicorn", "desk.wsgi", "-b", "0.0.0.0:{port}")
    with pytest.raises(BadInput, match="served"):
        likeliest(suggested(write(tmp_path / "b", {"test_a.py": ""}), KIT.ecosystems), ("/",))


def test_how_it_is_served_is_read_from_files_of_both_languages() -> None:
    files = {"package.json": '{"scripts": {"start": "node server.js", "test": "node --test"}}', "manage.py": ""}
    assert [c.words for c in node_commands(files, files.__getitem__) if c.kind == "serve"] == [("npm", "start")]
    assert [c.words[2] for c in python_commands(files, files.__getitem__) if c.kind == "serve"] == ["runserver"]
    assert served_by("web: uvicorn a:b --port ${PORT:-8000}", ("uvicorn",)) == Command(
        name="uvicorn", words=("uvicorn", "a:b", "--port", "{port}"), kind="serve", why="Procfile"
    )
    for text in (
        "web: cd x && gunicorn a",
        "web: ruby a.rb",
        "worker: gunicorn a",
        'web: gunicorn "a',
        "web: gunicorn $APP",
    ):
        assert served_by(text, ("gunicorn",)) is None


def test_only_paths_can_be_asked_for() -> None:
    assert paths_to_ask(["/", "/a?b=1", "/"]) == ("/", "/a?b=1")
    for wrong in (["http://elsewhere/"], ["a"], ["/a b"], ["/ü"], [f"/{n}" for n in range(101)]):
        with pytest.raises(BadInput):
            paths_to_ask(wrong)


def test_lines_that_are_no_answers_are_left_out_and_other_statuses_tell_sides_apart() -> None:
    output = 'hello\nyoake-asked {"path": "/", "status": 200, "reason": "OK", "kind": "text/html", "bytes": 3, "seconds": 0.1}\nyoake-asked no\nyoake-asked {"path": 1}\n'
    (test,) = read_asked(output)
    assert (test.name, test.outcome, test.note) == ("GET /", "passed", "200 OK, text/html, 3 bytes")

    def run(*tests: TestResult) -> Run:
        return Run(side=Side("x", {}), command=SERVE, ended="passed", code=0, seconds=1.0, tests=tests)

    same, other = (
        TestResult("GET /", "passed", "200 OK, text/html, 9 bytes"),
        TestResult("GET /", "passed", "302 Found, text/html, 0 bytes"),
    )
    assert told_apart([run(test)], [run(same)])[0].tests == (same,)
    assert told_apart([run(test)], [run(other)])[0].tests[0].outcome == "failed"
    assert told_apart([], [run(other)])[0].tests == (other,)
