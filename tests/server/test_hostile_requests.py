"""Requests that no client of ours sends: each is answered in words, never with a failure of the server."""

from __future__ import annotations

import json
import logging
from collections.abc import Iterator
from datetime import date
from pathlib import Path

import pytest
import structlog
from starlette.testclient import TestClient

from tests.conftest import write
from tests.server.conftest import findings, steps, take
from tests.server.states import state_of
from yoake.core.planning.dates import after
from yoake.runner.logs import set_up_log

LONG = "x" * 100_000


@pytest.fixture
def slug(client: TestClient, app_folder: Path) -> str:
    return take(client, app_folder)


@pytest.mark.parametrize(
    ("method", "path", "body", "status"),
    [
        ("GET", f"/api/v1/steps/{2**63}", None, 422),
        ("GET", f"/api/v1/steps/{10**40}", None, 422),
        ("PATCH", f"/api/v1/steps/{2**64}", {"note": "x"}, 422),
        ("POST", f"/api/v1/jobs/{2**63}/stop", None, 422),
        ("POST", "/api/v1/jobs/999/stop", None, 404),
        ("GET", "/api/v1/applications/%00/evidence", None, 422),
        ("GET", "/api/v1/applications/desk%00/evidence", None, 422),
        ("GET", f"/api/v1/applications/{'a' * 5000}/evidence", None, 422),
        ("GET", "/api/v1/applications/desk/source?file=%00", None, 404),
        ("GET", "/api/v1/applications/desk/findings?offset=99999999999999999999", None, 422),
        ("GET", "/api/v1/applications/desk/findings?q=%25%27%5C_%00", None, 200),
        ("GET", "/api/v1/work?limit=100000", None, 422),
        ("PUT", "/api/v1/applications/desk/waivers/nothing", {"why": "because"}, 404),
        ("PUT", "/api/v1/applications/desk/today", {"coordinate": "python", "line": "3.8", "more": 1}, 422),
        ("PATCH", "/api/v1/applications", {"applications": ["desk"], "days_per_week": 1e-300}, 422),
        ("PATCH", "/api/v1/applications", {"applications": ["desk"], "days_per_week": 1e300}, 422),
        ("PATCH", "/api/v1/applications", {"applications": ["desk"], "owner": LONG}, 422),
        ("PATCH", "/api/v1/applications", {"applications": ["desk"], "owner": "a\0b"}, 422),
        ("PATCH", "/api/v1/applications", {"applications": ["desk"], "colour": "red"}, 422),
        ("PUT", "/api/v1/views/evidence", {"name": "   ", "query": ""}, 422),
        ("POST", "/api/v1/intake/preview", {"source": "~nouser/x", "destination": "python@3.13"}, 200),
        ("POST", "/api/v1/intake/preview", {"source": "/" + "a/" * 900 + "b" * 150, "destination": "python@3.13"}, 200),
        ("POST", "/api/v1/intake/preview", {"folder": "~nouser", "destination": "python@3.13"}, 422),
        ("POST", "/api/v1/intake/preview", {"folder": "/" + "b" * 900, "destination": "python@3.13"}, 422),
        ("POST", "/api/v1/intake/preview", {"csv": f"source,name\n/x,{'y' * 200_000}\n", "destination": "python@3.13"}, 422),
        ("POST", "/api/v1/intake", {"candidates": [{"source": "~nouser", "destination": "python@3.13", "owner": "z" * 100_000}]}, 422),
        ("POST", "/api/v1/intake", {"candidates": [{"source": "~nouser", "destination": "python@3.13"}]}, 422),
        ("POST", "/api/v1/knowledge", {"coordinate": "pypi/" + "a" * 150 + "/../.."}, 422),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_in_words(
    client: TestClient, slug: str, method: str, path: str, body: object, status: int
) -> None:
    answer = client.request(method, path, json=body)
    assert answer.status_code == status, answer.text
    if status >= 400:
        assert answer.json()["problem"]


@pytest.mark.parametrize(
    "body",
    [
        b'{"applications": ["\\ud800"]}',
        b'{"\\udfff": 1, "applications": ["desk"]}',
        b"\xff\xfe",
        b"[" * 100_000,
        b"NaN",
    ],
)
def test_bodies_that_are_no_text_are_refused(client: TestClient, body: bytes) -> None:
    answer = client.post("/api/v1/scans", content=body, headers={"Content-Type": "application/json"})
    assert answer.status_code == 422
    assert answer.json()["problem"]


@pytest.mark.parametrize("due", ["2027-W12-1", "2027-3-1", "20270301", "tomorrow", "2027-02-30"])
def test_a_date_is_written_one_way(client: TestClient, slug: str, due: str) -> None:
    step = steps(client)[0]
    assert client.patch(f"/api/v1/steps/{step['id']}", json={"due": due}).status_code == 422
    key = findings(client, slug)[0]["key"]
    assert client.put(f"/api/v1/applications/{slug}/waivers/{key}", json={"why": "x", "until": due}).status_code == 422


def test_a_waiver_until_yesterday_is_refused(client: TestClient, slug: str) -> None:
    key = findings(client, slug)[0]["key"]
    answer = client.put(f"/api/v1/applications/{slug}/waivers/{key}", json={"why": "x", "until": "2020-01-01"})
    assert (answer.status_code, "is past" in answer.json()["problem"]) == (422, True)


def test_a_capacity_of_next_to_nothing_has_dates_all_the_same(client: TestClient, slug: str) -> None:
    assert client.patch("/api/v1/applications", json={"applications": [slug], "days_per_week": 0.01}).status_code == 200
    for path in (
        "/api/v1/portfolio",
        f"/api/v1/applications/{slug}/path",
        f"/api/v1/reports/applications/{slug}",
        "/api/v1/reports/portfolio",
    ):
        assert client.get(path).status_code == 200
    assert after(date(2026, 1, 1), 1e9, 0.01) == date(2126, 1, 2)


def test_a_body_larger_than_any_is_refused_before_it_is_read(client: TestClient) -> None:
    assert client.post("/api/v1/scans", content=b"x" * (5 * 1024**2)).status_code == 413

    def endless():
        for _ in range(64):
            yield b"x" * 100_000

    assert client.post("/api/v1/scans", content=endless()).status_code == 413


def test_other_hosts_and_other_origins_are_refused(client: TestClient) -> None:
    assert client.get("/api/v1/portfolio", headers={"Host": "evil.example"}).status_code == 421
    for headers in ({"Origin": "http://evil.example"}, {"Sec-Fetch-Site": "cross-site"}, {"Origin": "null"}):
        assert client.post("/api/v1/scans", json={}, headers=headers).status_code == 403
    same = {"Origin": "http://testserver", "Sec-Fetch-Site": "same-origin"}
    assert client.post("/api/v1/scans", json={}, headers=same).status_code == 200


def test_every_answer_has_the_headers_that_keep_it_safe(client: TestClient) -> None:
    for path in ("/", "/api/v1/health", "/api/v1/nothing", "/assets/nothing.js"):
        headers = client.get(path).headers
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["x-frame-options"] == "SAMEORIGIN"
        assert "script-src 'self';" in headers["content-security-policy"]
        assert headers["referrer-policy"] == "same-origin"
        assert headers["x-request-id"]


@pytest.fixture
def log_file(tmp_path: Path) -> Iterator[Path]:
    """The log as a server writes it."""
    root = logging.getLogger()
    before, level = root.handlers[:], root.level
    set_up_log(tmp_path / "logs")
    yield tmp_path / "logs" / "server.log"
    for handler in root.handlers[:]:
        root.removeHandler(handler)
        handler.close()
    for handler in before:
        root.addHandler(handler)
    root.setLevel(level)
    structlog.reset_defaults()


def test_a_failure_is_told_once_with_its_request_and_without_values(
    client: TestClient, slug: str, log_file: Path
) -> None:
    with state_of(client).context.db.write() as connection:
        connection.execute("UPDATE destinations SET targets = '{'")
    answer = client.get("/api/v1/portfolio", headers={"X-Request-ID": "abc-1"})
    assert (answer.status_code, "abc-1" in answer.json()["problem"]) == (500, True)
    entries = [json.loads(line) for line in log_file.read_text().splitlines()]
    failed = [entry for entry in entries if entry["level"] == "error"]
    assert [(entry["event"], entry["request"], entry["path"]) for entry in failed] == [
        ("request failed", "abc-1", "/api/v1/portfolio")
    ]
    assert "JSONDecodeError" in failed[0]["exception"]
    assert "context = " not in failed[0]["exception"]


def test_folders_outside_those_allowed_are_not_taken_in(client: TestClient, tmp_path: Path) -> None:
    state_of(client).context.allowed = (tmp_path / "open",)
    inside = write(tmp_path / "open" / "a", {"a.py": ""})
    outside = write(tmp_path / "closed" / "b", {"a.py": "", "requirements.txt": ""})
    for source in (outside, f"file://{outside}", tmp_path / "open" / ".." / "closed" / "b"):
        made = client.post("/api/v1/intake/preview", json={"source": str(source), "destination": "python@3.13"}).json()
        assert any("lies outside" in fault for fault in made["candidates"][0]["faults"]), source
    assert (
        client.post(
            "/api/v1/intake/preview", json={"folder": str(outside.parent), "destination": "python@3.13"}
        ).status_code
        == 422
    )
    made = client.post("/api/v1/intake/preview", json={"source": str(inside), "destination": "python@3.13"}).json()
    assert made["faults"] == 0


def test_health_tells_of_the_queue_and_the_records(client: TestClient) -> None:
    health = client.get("/api/v1/health").json()
    assert (health["status"], health["records"], health["queue"]["threads"]) == ("ok", "ok", 2)
    queue = state_of(client).queue
    queue.beside += 1  # as if one thread had ended
    answer = client.get("/api/v1/health")
    assert (answer.status_code, answer.json()["queue"]["state"]) == (503, "stuck")


def test_metrics_are_in_the_open_form(client: TestClient, slug: str) -> None:
    text = client.get("/api/v1/metrics").text
    assert text.endswith("# EOF\n")
    assert 'yoake_jobs{state="done"} 1.0' in text
    assert 'yoake_findings{level="error"} 3.0' in text
    assert 'route="/intake"' in text or 'route="/api/v1/intake"' in text


def test_the_whole_portfolio_is_exported_as_an_inventory(client: TestClient, slug: str) -> None:
    body = client.get("/api/v1/reports/portfolio?form=cyclonedx").json()
    assert [c["purl"] for c in body["components"]] == ["pkg:pypi/six"]


def test_intake_needs_no_field_that_only_a_preview_knows(client: TestClient, app_folder: Path) -> None:
    given = {"source": str(app_folder), "destination": "python@3.13", "name": "desk"}
    assert client.post("/api/v1/intake", json={"candidates": [given]}).json()["slugs"] == ["desk"]
