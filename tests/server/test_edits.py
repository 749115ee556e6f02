"""Edits through the interface for programs: proposed, looked at, downloaded, committed."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from tests.conftest import git
from tests.server.conftest import settled, take

FILES = {
    ".python-version": "3.8\n",
    "pkg/a.py": "import collections\nfrom collections import Mapping\n\nclass A(Mapping): ...\n",
    "pkg/b.py": "from base64 import encodestring\n\nencodestring(b'')\n",
}


@pytest.fixture
def folder(repository: Callable[[str, dict[str, str]], Path]) -> Path:
    made = repository("desk", FILES)
    git(made, "config", "user.name", "Test")
    git(made, "config", "user.email", "test@harrowmere.example")
    return made


def test_edits_are_proposed_looked_at_and_committed_without_some_files(client: TestClient, folder: Path) -> None:
    slug = take(client, folder)
    base = f"/api/v1/applications/{slug}/edits"
    assert client.get(base).json()["state"] == "none"
    assert client.post(base, json={"scope": "now"}).status_code == 202
    settled(client)
    shown = client.get(base).json()
    assert (shown["state"], shown["who"], shown["stale"], shown["branches"]) == ("ready", "Inés", False, True)
    assert [f["path"] for f in shown["files"] if f["outcome"] == "changed"] == ["pkg/a.py", "pkg/b.py"]
    sides = client.get(f"{base}/file", params={"path": "pkg/b.py"}).json()
    rows = [(r["kind"], r["text"]) for r in sides["hunks"][0]["rows"] if r["kind"] != "same"]
    assert rows[0] == ("gone", "from base64 import encodestring")
    assert rows[1] == ("new", "from base64 import encodebytes")
    patch = client.get(f"{base}/patch", params={"left_out": ["pkg/b.py"]})
    assert patch.headers["content-disposition"] == f'attachment; filename="{slug}.patch"'
    assert b"pkg/a.py" in patch.content
    assert b"pkg/b.py" not in patch.content
    keys = [s["key"] for s in shown["steps"]]
    wanted = {"branch": "yoake/now", "keys": keys, "left_out": ["pkg/b.py"]}
    assert client.post(f"{base}/branch", json=wanted).status_code == 202
    settled(client)
    assert git(folder, "diff", "--name-only", "main", "yoake/now").splitlines() == ["pkg/a.py"]
    assert git(folder, "branch", "--show-current") == "main"
    events = client.get("/api/v1/events").json()["rows"]
    assert [(e["who"], e["subject"], e["what"]) for e in events if e["what"] == "committed"] == [
        ("Inés", "edits", "committed")
    ]


def test_a_step_is_undone_by_a_commit_on_top_of_its_branch(client: TestClient, folder: Path) -> None:
    slug = take(client, folder)
    base = f"/api/v1/applications/{slug}/edits"
    client.post(base, json={"scope": "now"})
    settled(client)
    shown = client.get(base).json()
    assert shown["made"] == []
    client.post(f"{base}/branch", json={"branch": "yoake/now", "keys": [s["key"] for s in shown["steps"]]})
    settled(client)
    made = client.get(base).json()["made"]
    assert [b["name"] for b in made] == ["yoake/now"]
    before = git(folder, "rev-parse", "yoake/now")
    wanted = next(c for c in made[0]["commits"] if "encodebytes" in c["title"])
    undone = client.post(f"{base}/undo", json={"branch": "yoake/now", "commit": wanted["commit"]})
    assert undone.status_code == 200, undone.text
    assert git(folder, "rev-parse", "yoake/now^") == before
    assert git(folder, "rev-parse", "yoake/now") == undone.json()["commit"]
    assert git(folder, "diff", "--name-only", "main", "yoake/now").splitlines() == ["pkg/a.py"]
    assert (git(folder, "branch", "--show-current"), git(folder, "status", "--porcelain")) == ("main", "")
    again = client.post(f"{base}/undo", json={"branch": "yoake/now", "commit": wanted["commit"]})
    assert (again.status_code, "undo those first" in again.json()["problem"]) == (409, True)
    other = client.post(f"{base}/undo", json={"branch": "yoake/now", "commit": git(folder, "rev-parse", "main")})
    assert (other.status_code, "could be undone" in other.json()["problem"]) == (409, True)
    git(folder, "checkout", "-q", "yoake/now")
    there = client.post(f"{base}/undo", json={"branch": "yoake/now", "commit": wanted["commit"]})
    assert there.status_code == 409


def test_what_cannot_be_is_refused_in_words(client: TestClient, folder: Path) -> None:
    slug = take(client, folder)
    base = f"/api/v1/applications/{slug}/edits"
    assert client.get(f"{base}/patch").status_code == 404
    assert client.get(f"{base}/file", params={"path": "pkg/a.py"}).status_code == 404
    assert "no stage 7" in client.post(base, json={"scope": "7"}).json()["problem"]
    assert client.post(base, json={"scope": "soon"}).status_code == 422
    assert client.post(base, json={"scope": "now"}).status_code == 202
    settled(client)
    keys = [s["key"] for s in client.get(base).json()["steps"]]
    client.post(f"{base}/branch", json={"branch": "main", "keys": keys})
    settled(client)
    shown = client.get(base).json()
    assert shown["state"] == "failed"
    assert "There is a branch main already" in shown["said"]


def test_edits_of_a_state_that_is_gone_say_so(
    client: TestClient, folder: Path, repository: Callable[[str, dict[str, str]], Path]
) -> None:
    slug = take(client, folder)
    base = f"/api/v1/applications/{slug}/edits"
    client.post(base, json={"scope": "now"})
    settled(client)
    repository("desk", {"pkg/c.py": "import base64\n"})
    client.post("/api/v1/scans", json={"applications": [slug]})
    settled(client)
    assert client.get(base).json()["stale"] is True
