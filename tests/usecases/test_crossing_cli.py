"""The commands of a crossing, run as a person runs them against two real servers."""

from __future__ import annotations

import gzip
import json
from collections.abc import Iterator
from pathlib import Path

import pytest
from typer.testing import CliRunner

from tests.conftest import write
from tests.runner.gateway.sides import SideServer, rules_text, served
from yoake.cli import command_line
from yoake.core.values.errors import BadInput

ROUTES = """
  - {route: "GET /whole/{x}", stands: mirrored, compare: {ignore: [$.side, $.headers]}}
  - {route: "GET /fares", stands: mirrored}
  - {route: "POST /fares", stands: mirrored}
  - {route: "PUT /fares", stands: mirrored, safe: true}
"""
FLASK = "from flask import Flask\napp = Flask(__name__, static_folder=None)\n@app.get('/fares')\ndef fares(): ...\n@app.get('/old')\ndef old(): ...\n"
RUN = CliRunner()


@pytest.fixture
def rules(tmp_path: Path) -> Iterator[tuple[Path, SideServer, SideServer]]:
    old, new = SideServer(name="old"), SideServer(name="new")
    with served(old) as old.port, served(new) as new.port:
        file = tmp_path / "rules.yaml"
        file.write_text(rules_text(old.port, new.port, ROUTES))
        yield file, old, new


def har(*requests: tuple[str, str]) -> str:
    entries = [
        {"request": {"method": method, "url": f"https://ferry.example{path}", "headers": []}}
        for method, path in requests
    ]
    return json.dumps({"log": {"entries": [*entries, {"nonsense": 1}, 5]}})


def test_routes_are_listed_with_their_calls(tmp_path: Path) -> None:
    write(tmp_path / "app", {"app.py": FLASK, "requirements.txt": "flask\n"})
    document = tmp_path / "api.json"
    document.write_text(json.dumps({"openapi": "3.0.0", "paths": {"/told": {"get": {}}, "/fares": {"get": {}}}}))
    log = tmp_path / "access.log.gz"
    line = '1.1.1.1 - - [02/Nov/2026:10:00:00 +0000] "GET {} HTTP/1.1" 200 5\n'
    log.write_bytes(gzip.compress((line.format("/fares") * 3 + line.format("/else/77") + "no line\n").encode()))
    given = ["routes", str(tmp_path / "app"), "--openapi", str(document), "--logs", str(log), "--format", "json"]
    done = RUN.invoke(command_line("routes"), given)
    assert done.exit_code == 0
    body = json.loads(done.output)
    assert [(r["method"], r["path"], r["handler"], r["framework"], r["requests"]) for r in body["routes"]] == [
        ("GET", "/fares", "fares", "flask", 3),
        ("GET", "/old", "old", "flask", 0),
        ("GET", "/told", "", "openapi", 0),
    ]
    assert body["unmatched"] == [{"method": "GET", "path": "/else/{id}", "requests": 1, "answered": 1}]
    text = RUN.invoke(command_line("routes"), given[:-2]).output
    assert "2 of them nobody called" in text
    assert "1 lines are no requests" in text
    without = RUN.invoke(command_line("routes"), ["routes", str(tmp_path / "app"), "--format", "json"])
    assert json.loads(without.output)["routes"][0]["requests"] is None


def test_recorded_requests_are_compared_and_grouped_by_cause(
    rules: tuple[Path, SideServer, SideServer], tmp_path: Path
) -> None:
    file, old, new = rules
    new.fares = 12.0
    recording = tmp_path / "a.har"
    asked = [
        ("GET", "/fares?a=1"),
        ("GET", "/fares"),
        ("POST", "/fares"),
        ("PUT", "/fares"),
        ("GET", "/whole/1"),
        ("GET", "/none"),
    ]
    recording.write_text(har(*asked))
    done = RUN.invoke(command_line("parity"), ["parity", str(file), "--har", str(recording), "--format", "json"])
    assert done.exit_code == 1
    body = json.loads(done.output)
    assert (body["pairs"], body["alike"]) == (4, 0)
    assert body["not_asked"] == {"unsafe": 1, "no_route": 1, "no_request": 2}
    (cause,) = body["causes"]
    assert (cause["where"], cause["pairs"], cause["old"], cause["new"]) == ("$.fare", 4, "12.5", "12.0")
    assert {each["method"] for each in new.seen} == {"GET", "PUT"}
    new.fares = 12.5
    again = RUN.invoke(command_line("parity"), ["parity", str(file), "--har", str(recording)])
    assert again.exit_code == 0
    assert "4 of 4 answers are alike" in again.output
    assert len(old.seen) == len(new.seen) == 8


@pytest.mark.parametrize("text", ["", "[]", '{"log": {}}', "{" * 10_000])
def test_what_is_no_recording_is_refused(rules: tuple[Path, SideServer, SideServer], tmp_path: Path, text: str) -> None:
    recording = tmp_path / "a.har"
    recording.write_text(text)
    done = RUN.invoke(command_line("parity"), ["parity", str(rules[0]), "--har", str(recording)])
    assert isinstance(done.exception, BadInput)


def test_a_log_in_is_checked_both_ways(tmp_path: Path) -> None:
    async def keeper(scope: dict, receive: object, send: object) -> None:
        known = b"word=ahoy" in dict(scope["headers"]).get(b"cookie", b"")
        status = 204 if scope["path"] == "/login" else 200 if known else 401
        headers = [(b"set-cookie", b"word=ahoy")] if scope["path"] == "/login" else []
        await send({"type": "http.response.start", "status": status, "headers": headers})  # type: ignore[operator]
        await send({"type": "http.response.body", "body": b""})  # type: ignore[operator]

    async def stranger(scope: dict, receive: object, send: object) -> None:
        await send({"type": "http.response.start", "status": 401, "headers": []})  # type: ignore[operator]
        await send({"type": "http.response.body", "body": b""})  # type: ignore[operator]

    file = tmp_path / "rules.yaml"
    session = "session: {login: POST /login, form: {name: a}, then: GET /account}"
    with served(keeper) as one, served(keeper) as two, served(stranger) as three:
        file.write_text(rules_text(one, two, ROUTES, session))
        done = RUN.invoke(command_line("parity"), ["parity", str(file), "--session"])
        assert done.exit_code == 0
        assert done.output.count("holds on the other") == 2
        file.write_text(rules_text(one, three, ROUTES, session))
        done = RUN.invoke(command_line("parity"), ["parity", str(file), "--session"])
        assert done.exit_code == 1
        assert "share the store or the key behind word" in done.output
        assert "the new side does not log in: it answers 401" in done.output


def test_rules_for_nginx_are_written_and_a_gateway_that_is_a_side_is_refused(tmp_path: Path) -> None:
    file = tmp_path / "rules.yaml"
    file.write_text(rules_text(8001, 8002, ROUTES))
    done = RUN.invoke(command_line("gateway"), ["gateway", str(file), "--nginx", str(tmp_path / "a.conf")])
    assert done.exit_code == 0
    assert "crossing_old" in (tmp_path / "a.conf").read_text()
    refused = RUN.invoke(command_line("gateway"), ["gateway", str(file), "--port", "8002"])
    assert isinstance(refused.exception, BadInput)
