"""The API as the interface and other programs use it."""

from __future__ import annotations

import csv
import io
import json
import zipfile
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from tests.conftest import write
from tests.server.conftest import findings, settled, steps, take


def test_health_answers_once_it_can_be_used(client: TestClient) -> None:
    assert client.get("/api/v1/health").json()["status"] == "ok"


def test_an_empty_portfolio_says_so(client: TestClient) -> None:
    body = client.get("/api/v1/portfolio").json()
    assert body["rows"] == []
    assert body["heading"] == "No application is looked after here yet."


def test_from_intake_to_evidence_path_and_work(client: TestClient, app_folder: Path) -> None:
    slug = take(client, app_folder)
    row = client.get("/api/v1/portfolio").json()["rows"][0]
    assert (row["state"], row["today"][0]["line"], row["errors"]) == ("ready", "3.8", 3)
    assert client.get(f"/api/v1/applications/{slug}/evidence").json()["count"] == len(findings(client, slug))
    mapping = next(f for f in findings(client, slug) if f["symbol"] == "collections.Mapping")
    assert (mapping["bites_at"], mapping["window"]["state"], mapping["replacement"]) == (
        "python@3.10",
        "now",
        "collections.abc.Mapping",
    )
    assert mapping["places"][0]["file"] == "pkg/a.py"
    source = client.get(f"/api/v1/applications/{slug}/source", params={"file": "pkg/a.py"}).json()
    assert source["text"].splitlines()[mapping["places"][0]["line"] - 1] == "from collections import Mapping"
    path = client.get(f"/api/v1/applications/{slug}/path").json()
    assert [s["number"] for s in path["ways"][0]["stages"]] == [0, 1]
    assert {s["title"] for s in steps(client)} >= {"imp → importlib"}


def test_a_step_is_given_to_someone_by_the_name_in_the_header(client: TestClient, app_folder: Path) -> None:
    slug = take(client, app_folder)
    step = steps(client)[0]
    changed = client.patch(f"/api/v1/steps/{step['id']}", json={"owner": "Jon", "due": "2027-01-31"}).json()
    assert (changed["owner"], changed["due"]) == ("Jon", "2027-01-31")
    cleared = client.patch(f"/api/v1/steps/{step['id']}", json={"due": ""}).json()
    assert (cleared["owner"], cleared["due"]) == ("Jon", None)
    events = client.get(f"/api/v1/applications/{slug}/path").json()["events"]
    assert events[0]["who"] == "Inés"


def test_a_selection_is_changed_at_once(client: TestClient, app_folder: Path, tmp_path: Path) -> None:
    first, second = take(client, app_folder), take(client, write(tmp_path / "till", {"a.py": "import imp\n"}))
    answer = client.patch(
        "/api/v1/applications", json={"applications": [first, second], "team": "Sales", "destination": "python@3.12"}
    )
    assert len(answer.json()["jobs"]) == 2
    settled(client)
    rows = client.get("/api/v1/portfolio").json()["rows"]
    assert {(r["team"], r["destination"]) for r in rows} == {("Sales", "Python 3.12")}
    refused = client.patch("/api/v1/applications", json={"applications": [first, "nobody"], "team": "X"})
    assert refused.status_code == 404
    assert {r["team"] for r in client.get("/api/v1/portfolio").json()["rows"]} == {"Sales"}


def test_a_waiver_needs_a_reason_and_can_be_taken_back(client: TestClient, app_folder: Path) -> None:
    slug = take(client, app_folder)
    key = findings(client, slug)[0]["key"]
    address = f"/api/v1/applications/{slug}/waivers/{key}"
    assert client.put(address, json={"why": " "}).status_code == 422
    assert client.put(address, json={"why": "next year", "until": "2027-01-01"}).status_code == 200
    assert findings(client, slug)[0]["waiver"]["by"] == "Inés"
    assert client.delete(address).status_code == 204
    assert findings(client, slug)[0]["waiver"] is None


def test_todays_line_is_corrected_and_the_application_scanned_again(client: TestClient, app_folder: Path) -> None:
    slug = take(client, app_folder)
    assert (
        client.put(f"/api/v1/applications/{slug}/today", json={"coordinate": "python", "line": "3.11"}).status_code
        == 200
    )
    settled(client)
    assert client.get(f"/api/v1/applications/{slug}/evidence").json()["application"]["today"][0]["how"] == "said"
    assert (
        client.put(f"/api/v1/applications/{slug}/today", json={"coordinate": "python", "line": "9"}).status_code == 422
    )


def test_an_uploaded_archive_is_scanned(client: TestClient) -> None:
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w") as archive:
        archive.writestr("app/a.py", "import imp\n")
        archive.writestr("app/.python-version", "3.9\n")
    kept = client.post("/api/v1/intake/upload", files={"file": ("app.zip", data.getvalue())}).json()["source"]
    slug = take(client, Path(kept))
    assert findings(client, slug)[0]["symbol"] == "imp"


@pytest.mark.parametrize(("name", "data"), [("x.zip", b"no"), ("x.txt", b"no")])
def test_an_upload_that_is_no_archive_is_refused(client: TestClient, name: str, data: bytes) -> None:
    answer = client.post("/api/v1/intake/upload", files={"file": (name, data)})
    assert answer.status_code == 422
    assert answer.json()["problem"]


def test_faults_of_a_list_come_back_together(client: TestClient) -> None:
    body = client.post(
        "/api/v1/intake/preview", json={"csv": "source\n/no/a\n/no/b\n", "destination": "python@3.13"}
    ).json()
    assert body["faults"] == 2
    answer = client.post("/api/v1/intake", json={"candidates": body["candidates"]})
    assert answer.status_code == 422
    assert len(answer.json()["faults"]) == 2


@pytest.mark.parametrize(
    ("method", "address", "status"),
    [
        ("GET", "/api/v1/applications/nobody/evidence", 404),
        ("GET", "/api/v1/applications/nobody/path", 404),
        ("GET", "/api/v1/reports/applications/nobody", 404),
        ("GET", "/api/v1/reports/portfolio?form=docx", 422),
        ("PATCH", "/api/v1/steps/99", 404),
        ("GET", "/api/v1/nothing", 404),
        ("DELETE", "/api/v1/applications/nobody", 404),
    ],
)
def test_what_does_not_exist_is_said_with_its_status(
    client: TestClient, method: str, address: str, status: int
) -> None:
    answer = client.request(method, address, json={} if method == "PATCH" else None)
    assert answer.status_code == status
    assert answer.json()["problem"]


def test_reports_in_all_forms(client: TestClient, app_folder: Path) -> None:
    slug = take(client, app_folder)
    for address in (f"/api/v1/reports/applications/{slug}", "/api/v1/reports/portfolio"):
        page = client.get(address)
        assert page.headers["content-type"].startswith("text/html")
        assert "collections.Mapping" in page.text
        assert "http://" not in page.text.replace("http://www.w3.org", "")
        assert "<script" not in page.text
        assert client.get(address, params={"form": "sarif"}).json()["version"] == "2.1.0"
        table = client.get(address, params={"form": "csv"})
        assert "attachment" in table.headers["content-disposition"]
        assert len(list(csv.reader(io.StringIO(table.text)))) >= 2


def test_a_report_escapes_what_the_source_says(client: TestClient, tmp_path: Path) -> None:
    folder = write(tmp_path / "x", {".python-version": "3.8\n", "<img src=x onerror=alert(1)>.py": "import imp\n"})
    found = client.post(
        "/api/v1/intake/preview",
        json={"source": str(folder), "name": "<script>alert(1)</script>", "destination": "python@3.13"},
    ).json()
    client.post("/api/v1/intake", json={"candidates": found["candidates"]})
    settled(client)
    page = client.get("/api/v1/reports/portfolio").text
    assert "<script>" not in page
    assert "<img" not in page
    assert "&lt;script&gt;" in page


def test_the_portfolio_sarif_has_a_run_an_application(client: TestClient, app_folder: Path, tmp_path: Path) -> None:
    take(client, app_folder)
    take(client, write(tmp_path / "till", {".python-version": "3.8\n", "a.py": "import imp\n"}))
    runs = client.get("/api/v1/reports/portfolio", params={"form": "sarif"}).json()["runs"]
    assert sorted(r["automationDetails"]["id"] for r in runs) == ["desk/", "till/"]


def test_removed_and_restored(client: TestClient, app_folder: Path) -> None:
    slug = take(client, app_folder)
    assert client.delete(f"/api/v1/applications/{slug}").status_code == 204
    assert client.get("/api/v1/portfolio").json()["rows"] == []
    assert client.post(f"/api/v1/applications/{slug}/restore").status_code == 204
    assert len(client.get("/api/v1/portfolio").json()["rows"]) == 1


def test_knowledge_says_where_it_comes_from_and_what_is_not_verified(client: TestClient) -> None:
    python = client.get("/api/v1/knowledge/coordinate", params={"of": "python"}).json()
    assert python["recalled"] is True
    assert {line["how"].split(" ")[0] for line in python["lines"]} == {"interpreter", "stubs"}
    assert client.get("/api/v1/knowledge/effort").json()["weights"]["package"] == 120


def test_scans_are_asked_for_all_or_for_some(client: TestClient, app_folder: Path) -> None:
    slug = take(client, app_folder)
    for wanted in ([], [slug]):
        assert len(client.post("/api/v1/scans", json={"applications": wanted}).json()["jobs"]) == 1
        settled(client)
    assert client.get("/api/v1/jobs").json()[0]["problem"] == "unchanged since the last scan"
    assert client.post("/api/v1/scans", json={"applications": ["nobody"]}).status_code == 404
    refused = client.post("/api/v1/scans", json={"slugs": wanted})
    assert refused.status_code == 422
    assert "slugs" in refused.text


def test_the_description_stands_at_the_root(client: TestClient) -> None:
    assert json.loads(client.get("/openapi.json").text)["info"]["title"] == "Yoake"


def test_no_path_leaves_the_interface_folder(client: TestClient) -> None:
    for address in ("/../records.sqlite", "/assets/../../cli.py", "/%2e%2e/%2e%2e/etc/passwd"):
        answer = client.get(address)
        assert answer.status_code in (200, 404)
        assert "import" not in answer.text[:200] or "<!doctype html>" in answer.text[:100]


def test_a_change_begun_on_an_older_version_is_told_with_what_stands_there_now(
    client: TestClient, app_folder: Path
) -> None:
    take(client, app_folder)
    step = steps(client)[0]
    first = client.patch(f"/api/v1/steps/{step['id']}", json={"note": "first", "version": step["version"]})
    assert first.status_code == 200
    second = client.patch(f"/api/v1/steps/{step['id']}", json={"note": "second", "version": step["version"]})
    assert (second.status_code, second.json()["current"]["note"]) == (409, "first")
    assert client.get(f"/api/v1/steps/{step['id']}").json()["note"] == "first"
    again = client.patch(
        f"/api/v1/steps/{step['id']}", json={"note": "second", "version": second.json()["current"]["version"]}
    )
    assert again.json()["note"] == "second"


def test_an_address_without_a_version_means_the_first(client: TestClient) -> None:
    assert client.get("/api/health").json()["status"] == client.get("/api/v1/health").json()["status"]
    assert all(path.startswith("/api/v1/") for path in client.get("/openapi.json").json()["paths"])


def test_what_only_breaks_in_copies_is_no_thing_to_do(client: TestClient, tmp_path: Path) -> None:
    """The heading counts what becomes a step: here the pin, one's own import and the copy as a whole."""
    files = {
        ".python-version": "3.8\n",
        "desk/a.py": "import imp\n",
        "desk/_vendor/knots.py": "import asyncore\nimport asynchat\n",
    }
    slug = take(client, write(tmp_path / "desk", files))
    said = client.get(f"/api/v1/applications/{slug}/evidence").json()
    assert said["heading"].startswith("3 things stand between here and")
    assert len([row for row in steps(client) if row["state"] == "open"]) == 3
    told = {f["symbol"]: f["copies_only"] for f in findings(client, slug)}
    assert (told["asyncore"], told["asynchat"], told["imp"]) == (True, True, False)
    shown = f"/api/v1/applications/{slug}/findings?show="
    on_the_way = [row for each in ("now", "hop", "switch") for row in client.get(shown + each).json()["rows"]]
    assert on_the_way
    assert not any(row["copies_only"] for row in on_the_way)
