"""Proof through the interface for programs: nothing runs before somebody says so, runs are kept with their tests, looks close steps."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from starlette.testclient import TestClient

from tests.conftest import git
from tests.server.conftest import settled, take
from yoake.core.values.coordinates import line_key
from yoake.runner.clients.python.interpreters import find_interpreters

FILES = {
    ".python-version": "3.8\n",
    "desk/__init__.py": "",
    "desk/queue.py": "from collections import Mapping\n",
    "desk/when.py": "import datetime\n\n\ndef now():\n    return datetime.datetime.utcnow()\n",
    "tests/__init__.py": "",
    "tests/test_queue.py": "import unittest\n\nfrom desk import queue\n\n\nclass Queue(unittest.TestCase):\n    def test_it(self):\n        self.assertTrue(queue)\n",
}


@pytest.fixture
def folder(repository: Callable[[str, dict[str, str]], Path]) -> Path:
    found = {line for line in find_interpreters() if line_key(line) >= (3, 6)}
    if not {"3.8", "3.13"} <= found:
        pytest.skip("this machine has no Python 3.8 beside 3.13")
    made = repository("desk", FILES)
    git(made, "config", "user.name", "Test")
    git(made, "config", "user.email", "test@harrowmere.example")
    return made


def gate(shown: dict[str, Any], stage: int) -> dict[str, tuple[str, str]]:
    found = next(s for s in shown["stages"] if s["number"] == stage)
    return {item["key"]: (item["state"], item["said"]) for item in found["items"]}


def test_a_stage_is_proven_by_a_scan_and_by_tests_on_both_sides(client: TestClient, folder: Path) -> None:
    slug = take(client, folder)
    base = f"/api/v1/applications/{slug}"
    shown = client.get(f"{base}/proof").json()
    assert (shown["here"], gate(shown, 1)["tests"]) == (1, ("not yet", "not run yet"))
    refused = client.post(f"{base}/runs", json={"stage": 1})
    assert (refused.status_code, "Turn runs on" in refused.json()["problem"]) == (409, True)
    assert client.get(f"{base}/commands").json()[0]["words"] == "python -m pytest"
    settings = {"allowed": True, "command": "python -m unittest discover", "minutes": 2}
    assert client.put(f"{base}/runs/settings", json=settings).status_code == 204
    job = client.post(f"{base}/runs", json={"stage": 1}).json()["job"]
    assert client.post(f"{base}/runs", json={"stage": 1}).json()["job"] == job  # one at a time
    settled(client)
    shown = client.get(f"{base}/proof").json()
    assert gate(shown, 1)["tests"] == ("breaks", "1 test breaks")
    assert gate(shown, 0)["tests"] == ("there", "green")
    assert (shown["heading"], shown["emphasis"]) == ("Stage 1 of 1 lacks two things.", "1 test breaks.")
    run = client.get(f"{base}/runs/{shown['runs'][0]['id']}").json()
    assert run["counts"] == {"breaks": 1}
    assert run["groups"] == [{"name": "queue", "codes": "x"}]
    assert [(c["verdict"], c["count"], c["names"]) for c in run["causes"]] == [
        ("breaks", 1, ["tests.test_queue.Queue.test_it"])
    ]
    assert run["causes"][0]["note"] == "ImportError: cannot import name 'Mapping' from 'collections'"
    log = client.get(f"{base}/logs/{run['sides'][1]['log']}").json()
    assert "ImportError" in log["text"]
    assert not log["running"]
    assert client.get(f"{base}/logs/{job}-new.log", params={"start": log["end"]}).json()["text"] == ""


def test_todays_tests_alone_tell_how_it_stands(client: TestClient, folder: Path) -> None:
    slug = take(client, folder)
    base = f"/api/v1/applications/{slug}"
    settings = {"allowed": True, "command": "python -m unittest discover", "minutes": 2}
    client.put(f"{base}/runs/settings", json=settings)
    client.post(f"{base}/runs", json={"stage": 0})
    settled(client)
    shown = client.get(f"{base}/proof").json()
    assert gate(shown, 0)["tests"] == ("there", "green")
    assert gate(shown, 1)["tests"] == ("not yet", "not run yet")
    assert [(r["stage"], r["here"], r["counts"]) for r in shown["runs"]] == [(0, 0, {"both": 1})]
    before = {c["title"]: c["state"] for c in client.get(f"{base}/preflight", params={"stage": 1}).json()}
    assert before["tests that pass today"] == before["pip"] == before["Python 3.13"] == "there"


def test_evidence_goes_stale_with_the_code_and_comes_from_a_branch(client: TestClient, folder: Path) -> None:
    slug = take(client, folder)
    base = f"/api/v1/applications/{slug}"
    settings = {"allowed": True, "command": "python -m unittest discover", "minutes": 2}
    client.put(f"{base}/runs/settings", json=settings)
    git(folder, "checkout", "-q", "-b", "yoake/now")
    (folder / "desk/queue.py").write_text("from collections.abc import Mapping\n")
    git(folder, "commit", "-q", "-a", "-m", "as it works on both")
    git(folder, "checkout", "-q", "main")
    assert client.get(f"{base}/proof").json()["branches"] == ["yoake/now"]
    wrong = client.post(f"{base}/runs", json={"stage": 1, "branch": "yoake/no"})
    assert (wrong.status_code, "no branch yoake/no" in wrong.json()["problem"]) == (422, True)
    client.post(f"{base}/runs", json={"stage": 1, "branch": "yoake/now"})
    settled(client)
    assert gate(client.get(f"{base}/proof").json(), 1)["tests"] == ("there", "1 alike")
    git(folder, "checkout", "-q", "yoake/now")
    (folder / "desk/queue.py").write_text("import collections.abc\n")
    git(folder, "commit", "-q", "-a", "-m", "one more")
    assert gate(client.get(f"{base}/proof").json(), 1)["tests"] == ("stale", "the code moved on since")


@pytest.mark.parametrize(
    ("method", "path", "body", "status"),
    [
        ("put", "runs/settings", {"allowed": True, "command": "python 'open"}, 422),
        ("put", "runs/settings", {"allowed": True, "beside": "--index-url x"}, 422),
        ("put", "runs/settings", {"allowed": True, "minutes": 1e9}, 422),
        ("post", "runs", {"stage": -1}, 422),
        ("put", "looks/nothing", {"note": ""}, 404),
        ("get", "runs/99", None, 404),
        ("get", "logs/1-old.log", None, 404),
        ("get", "logs/..%2Frecords.sqlite", None, 404),
    ],
)
def test_what_cannot_be_is_refused(
    client: TestClient, folder: Path, method: str, path: str, body: dict[str, object] | None, status: int
) -> None:
    slug = take(client, folder)
    answer = client.request(method, f"/api/v1/applications/{slug}/{path}", json=body)
    assert answer.status_code == status, answer.text


def test_only_a_changed_behaviour_is_closed_by_looking_at_it(client: TestClient, folder: Path) -> None:
    slug = take(client, folder)
    base = f"/api/v1/applications/{slug}"
    step = next(r for r in client.get("/api/v1/work").json()["rows"] if "Mapping" in r["title"])
    refused = client.put(f"{base}/looks/{step['finding_key']}", json={"note": "fine"})
    assert (refused.status_code, "no longer finds it" in refused.json()["problem"]) == (422, True)


def test_a_look_closes_a_changed_behaviour_until_it_stands_elsewhere(
    client: TestClient, repository: Callable[[str, dict[str, str]], Path]
) -> None:
    settings = "INSTALLED_APPS = []\nROOT_URLCONF = 'desk.urls'\nDATABASES = {}\nSECRET_KEY = 'x'\n"
    made = repository(
        "desk", {"requirements.txt": "Django==4.2.16\n", "desk/__init__.py": "", "desk/settings.py": settings}
    )
    slug = take(client, made, "pypi/django@5.2")
    base = f"/api/v1/applications/{slug}"
    shown = client.get(f"{base}/proof").json()
    look = next(t for t in shown["todo"] if t["kind"] == "look")
    assert (look["title"], look["detail"]) == ("USE_TZ is not set", "desk/settings.py")
    assert gate(shown, 1)["looks"] == ("not yet", "1 to look at")
    assert client.put(f"{base}/looks/{look['key']}", json={"note": "the times were aware all along"}).status_code == 204
    shown = client.get(f"{base}/proof").json()
    assert gate(shown, 1)["looks"] == ("there", "Inés")
    step = client.get(f"/api/v1/steps/{look['step']}").json()
    assert (step["state"], step["why"]) == ("closed", "Inés looked at it")
    (made / "README").write_text("more")
    git(made, "add", ".")
    git(made, "commit", "-q", "-m", "something else")
    client.post("/api/v1/scans", json={"applications": [slug]})
    settled(client)
    assert client.get(f"/api/v1/steps/{look['step']}").json()["state"] == "closed"
    assert client.delete(f"{base}/looks/{look['key']}").status_code == 204
    assert gate(client.get(f"{base}/proof").json(), 1)["looks"] == ("not yet", "1 to look at")
    assert client.get(f"/api/v1/steps/{look['step']}").json()["state"] == "open"
    assert client.delete(f"{base}/looks/{look['key']}").status_code == 404
