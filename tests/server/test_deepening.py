"""The deeper turns of Evidence through the API: packages, folders, the delta, kept filters, inventories, making known."""

from __future__ import annotations

import json
import zipfile
from pathlib import Path
from typing import Any

import pytest
from starlette.testclient import TestClient

from tests.conftest import write
from tests.runner.test_trying import wheel
from tests.server.conftest import settled, take
from tests.server.states import state_of
from yoake.runner.clients.python.interpreters import find_interpreters

FILES = {
    ".python-version": "3.8\n",
    "requirements.txt": "flask==1.1.4\nunheard-of==1.0\n",
    "app/__init__.py": "",
    "app/web/__init__.py": "",
    "app/web/pages.py": "import imp\nfrom flask import Flask, escape\nfrom app.data import rows\n",
    "app/data/__init__.py": "",
    "app/data/rows.py": "from collections import Mapping\n",
    "app/data/dead.py": "import os\n",
}


@pytest.fixture
def slug(client: TestClient, tmp_path: Path) -> str:
    return take(client, write(tmp_path / "desk", FILES))


def test_packages_stand_against_every_stage(client: TestClient, slug: str) -> None:
    grid = client.get(f"/api/v1/applications/{slug}/packages").json()
    assert [s["title"] for s in grid["stages"]] == ["Python 3.13"]
    rows = {row["name"]: row for row in grid["rows"]}
    flask = rows["flask"]
    assert flask["known"]
    assert any(entry.endswith("flask.escape") for entry in flask["breaks"])
    cell = flask["cells"][0]
    assert cell["take"]
    assert cell["clean"]
    assert cell["take"] != cell["clean"]
    assert (rows["unheard-of"]["known"], rows["unheard-of"]["makeable"]) == (False, True)
    assert rows["unheard-of"]["cells"][0]["state"] == "unknown"


def test_packages_of_a_language_that_does_not_move_are_told_apart(client: TestClient, tmp_path: Path) -> None:
    manifest = json.dumps({"name": "desk", "dependencies": {"lodash": "^4.17.0"}})
    both = take(client, write(tmp_path / "both", {**FILES, "package.json": manifest}))
    window = client.get(f"/api/v1/applications/{both}/packages").json()
    assert (window["apart"], window["apart_named"]) == (1, ["lodash"])
    assert {row["name"] for row in window["rows"]} == {"flask", "unheard-of"}


def test_packages_come_in_windows_and_those_of_lock_files_when_they_are_looked_for(
    client: TestClient, tmp_path: Path
) -> None:
    locked = "".join(f'[[package]]\nname = "part-{n:03}"\nversion = "1.0"\n\n' for n in range(250))
    slug = take(client, write(tmp_path / "desk", {**FILES, "poetry.lock": locked}))
    address = f"/api/v1/applications/{slug}/packages"
    plain = client.get(address).json()
    assert (plain["held"], plain["direct"], plain["total"], plain["quiet"]) == (252, 2, 2, 250)
    pages = [client.get(address, params={"q": "part-", "offset": at, "limit": 100}).json() for at in (0, 100, 200)]
    assert [len(page["rows"]) for page in pages] == [100, 100, 50]
    assert {page["total"] for page in pages} == {250}
    assert len({row["name"] for page in pages for row in page["rows"]}) == 250


def test_files_have_direction_and_dead_ones_are_named(client: TestClient, slug: str) -> None:
    graph = client.get(f"/api/v1/applications/{slug}/graph").json()
    assert ("app/web/pages.py", "app/data/rows.py") in [(e["source"], e["target"]) for e in graph["edges"]]
    parts = {p["path"]: p for p in graph["parts"]}
    assert parts["app/web/pages.py"]["level"] > parts["app/data/rows.py"]["level"]
    assert parts["app/web/pages.py"]["fails"] > 0
    assert graph["lonely"] == ["app/data/dead.py", "app/web/pages.py"]


def test_the_rest_of_the_delta_says_what_is_used_here(client: TestClient, slug: str) -> None:
    found = client.get(f"/api/v1/applications/{slug}/delta", params={"coordinate": "python"}).json()
    ask: dict[str, Any] = {"coordinate": "python", "limit": 200}
    address = f"/api/v1/applications/{slug}/delta"
    changes = {
        c["symbol"]: c for q in ("imp", "asyncore") for c in client.get(address, params={**ask, "q": q}).json()["rows"]
    }
    assert (changes["imp"]["kind"], changes["imp"]["at"], changes["imp"]["used"]) == ("removed", "3.12", True)
    assert changes["asyncore"]["used"] is False
    assert found["removed"] > 500
    assert found["total"] == found["removed"] + found["deprecated"] + found["new"]
    last = client.get(address, params={**ask, "offset": found["total"] - 3}).json()["rows"]
    assert [c["kind"] for c in last] == ["new", "new", "new"]
    assert client.get(f"/api/v1/applications/{slug}/delta", params={"coordinate": "npm/express"}).status_code == 404


def test_what_is_known_comes_in_windows_and_one_coordinate_in_full(client: TestClient) -> None:
    first = client.get("/api/v1/knowledge", params={"limit": 5}).json()
    assert (len(first["rows"]), first["total"]) == (5, first["known"])
    assert first["captured"] > first["known"]
    found = client.get("/api/v1/knowledge", params={"q": "pypi/django"}).json()
    assert found["rows"][0] == {
        "coordinate": "pkg:pypi/django",
        "short": "pypi/django",
        "first": "1.8",
        "last": found["rows"][0]["last"],
    }
    assert found["total"] < found["known"]
    assert client.get("/api/v1/knowledge/coordinate", params={"of": "pypi/nobody-knows-it"}).status_code == 404


def test_a_filter_is_kept_written_over_and_forgotten(client: TestClient) -> None:
    for query in ("show=now", "show=hop"):
        assert client.put("/api/v1/views/evidence", json={"name": "mine", "query": query}).status_code == 200
    [kept] = client.get("/api/v1/views/evidence").json()
    assert (kept["name"], kept["query"], kept["by"]) == ("mine", "show=hop", "Inés")
    client.delete("/api/v1/views/evidence/mine")
    assert client.get("/api/v1/views/evidence").json() == []


def test_an_inventory_goes_out_and_comes_in_again(client: TestClient, slug: str, tmp_path: Path) -> None:
    answer = client.get(f"/api/v1/reports/applications/{slug}", params={"form": "cyclonedx"})
    body = answer.json()
    assert {c["name"] for c in body["components"]} == {"flask", "unheard-of"}
    file = tmp_path / "desk.cdx.json"
    file.write_text(json.dumps(body), "utf-8")
    again = take(client, file)
    names = {p["name"] for p in client.get(f"/api/v1/applications/{again}/packages").json()["rows"]}
    assert names == {"flask", "unheard-of"}


def test_what_has_no_package_client_cannot_be_made_known(client: TestClient) -> None:
    answer = client.post("/api/v1/knowledge", json={"coordinate": "gem/rails"})
    assert answer.status_code == 422
    assert "only packages of PyPI and npm" in answer.json()["problem"]


def test_a_library_is_made_known_and_its_users_are_scanned_again(
    client: TestClient, slug: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """pip is the real one; it is only pointed at a folder instead of the registry."""
    for release, text in (("1.0", "def kept(): ...\ndef lost(): ...\n"), ("2.0", "def kept(): ...\n")):
        with zipfile.ZipFile(tmp_path / f"unheard_of-{release}-py3-none-any.whl", "w") as wheel:
            wheel.writestr("unheard_of/__init__.py", text)
            head = f"Metadata-Version: 2.1\nName: unheard-of\nVersion: {release}\nRequires-Python: >=3.8\n"
            wheel.writestr(f"unheard_of-{release}.dist-info/METADATA", head)
            wheel.writestr(f"unheard_of-{release}.dist-info/WHEEL", "Wheel-Version: 1.0\nTag: py3-none-any\n")
            wheel.writestr(f"unheard_of-{release}.dist-info/RECORD", "")
    monkeypatch.setenv("PIP_NO_INDEX", "1")
    monkeypatch.setenv("PIP_FIND_LINKS", str(tmp_path))
    state_of(client).queue.executor.rest()  # processes that are running have the old environment
    assert client.post("/api/v1/knowledge", json={"coordinate": "pypi/unheard-of"}).status_code == 202
    settled(client)
    known = client.get("/api/v1/knowledge/coordinate", params={"of": "pypi/unheard-of"}).json()
    assert [line["line"] for line in known["lines"]] == ["1.0", "2.0"]
    settled(client)
    rows = {r["name"]: r for r in client.get(f"/api/v1/applications/{slug}/packages").json()["rows"]}
    assert rows["unheard-of"]["cells"][0]["why"] == "1.0 fits already; newest 2.0"


def test_a_registry_that_does_not_answer_fails_the_job_and_keeps_the_rest(
    client: TestClient, slug: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("PIP_NO_INDEX", "1")
    monkeypatch.setenv("PIP_FIND_LINKS", str(tmp_path / "nothing"))
    client.post("/api/v1/knowledge", json={"coordinate": "pypi/unheard-of"})
    settled(client)
    job = client.get("/api/v1/jobs").json()[0]
    assert (job["application"], job["state"]) == ("pypi/unheard-of", "failed")
    assert "pip knows no releases" in job["problem"]
    assert client.get(f"/api/v1/applications/{slug}/packages").status_code == 200


@pytest.mark.skipif("3.13" not in find_interpreters(), reason="there is no Python 3.13 on this machine")
def test_a_release_is_tried_for_real_and_its_users_are_scanned_again(
    client: TestClient, slug: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    wheel(tmp_path / "shelf", "unheard_of", "1.0", {"unheard_of.py": "import imp\n"})
    monkeypatch.setenv("PIP_NO_INDEX", "1")
    monkeypatch.setenv("PIP_FIND_LINKS", str(tmp_path / "shelf"))
    state_of(client).queue.executor.rest()

    def row() -> dict[str, object]:
        rows = client.get(f"/api/v1/applications/{slug}/packages").json()["rows"]
        return next(r for r in rows if r["name"] == "unheard-of")

    asked = {"coordinate": "pypi/unheard-of", "release": row()["release"], "on": row()["try_on"]}
    assert asked == {"coordinate": "pypi/unheard-of", "release": "1.0", "on": "python@3.13"}
    assert client.post("/api/v1/knowledge/trials", json=asked).status_code == 202
    settled(client)
    settled(client)
    assert (row()["state"], row()["grade"], row()["try_on"]) == ("fails", "tried", "")
    assert "No module named 'imp'" in str(row()["note"])
    refused = client.post("/api/v1/knowledge/trials", json={**asked, "on": "node@24"})
    assert (refused.status_code, "cannot be tried" in refused.json()["problem"]) == (422, True)


def test_packages_are_looked_up_when_somebody_allows_it(
    client: TestClient, slug: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The package client is the real one; the index it is pointed at is none, so what nobody knows stays so, and is said."""
    for name, value in {"CONFIG_FILE": "/dev/null", "INDEX_URL": "http://127.0.0.1:9/", "RETRIES": "0"}.items():
        monkeypatch.setenv(f"PIP_{name}", value)
    monkeypatch.delenv("PIP_EXTRA_INDEX_URL", raising=False)
    state_of(client).queue.executor.rest()  # processes that are running have the old environment
    window = client.get(f"/api/v1/applications/{slug}/packages").json()
    assert window["unknown"] == 1
    asked = client.post("/api/v1/knowledge/records", json={"applications": [slug]})
    assert asked.status_code == 202
    settled(client)
    job = next(j for j in client.get("/api/v1/jobs").json() if j["id"] == asked.json()["jobs"][0])
    assert (job["state"], job["problem"]) == ("done", "0 found; no package client knows pypi/unheard-of")
    assert client.post("/api/v1/knowledge/records", json={"applications": ["nobody"]}).status_code == 404
