"""Two people on one record: who is slower is told what stands there now, and nothing of either is lost."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from starlette.testclient import TestClient

from tests.server.conftest import findings, settled, take

Write = Callable[[TestClient, str, "int | None"], Any]


def application(client: TestClient, slug: str) -> dict[str, Any]:
    return next(row for row in client.get("/api/v1/portfolio").json()["rows"] if row["slug"] == slug)


def waiver(client: TestClient, slug: str) -> str:
    return f"/api/v1/applications/{slug}/waivers/{findings(client, slug)[0]['key']}"


def test_a_selection_is_set_as_a_whole_or_not_at_all(client: TestClient, app_folder: Path) -> None:
    slug = take(client, app_folder)
    seen = application(client, slug)["version"]
    body = {"applications": [slug], "versions": {slug: seen}, "owner": "Jon"}
    first = client.patch("/api/v1/applications", json=body)
    assert first.json()["changes"][0]["before"]["owner"] == ""
    assert first.json()["changes"][0]["after"] == {
        **first.json()["changes"][0]["before"],
        "owner": "Jon",
        "version": seen + 1,
    }
    second = client.patch("/api/v1/applications", json={**body, "owner": "Mara"})
    assert second.status_code == 409
    assert [(now["slug"], now["owner"], now["version"]) for now in second.json()["current"]] == [
        (slug, "Jon", seen + 1)
    ]
    assert application(client, slug)["owner"] == "Jon"
    assert (
        client.patch("/api/v1/applications", json={**body, "owner": "Mara", "versions": {slug: seen + 1}}).status_code
        == 200
    )


def test_days_a_week_can_be_taken_back_to_those_of_the_table(client: TestClient, app_folder: Path) -> None:
    slug = take(client, app_folder)
    usual = application(client, slug)["days_per_week"]
    client.patch("/api/v1/applications", json={"applications": [slug], "days_per_week": 4})
    assert application(client, slug)["days_per_week"] == 4
    made = client.patch("/api/v1/applications", json={"applications": [slug], "days_per_week": None}).json()
    assert made["changes"][0]["before"]["days_per_week"] == 4
    assert application(client, slug)["days_per_week"] == usual


def test_todays_line_is_said_on_the_version_that_was_seen(client: TestClient, app_folder: Path) -> None:
    slug = take(client, app_folder)
    seen = application(client, slug)["version"]
    address, body = f"/api/v1/applications/{slug}/today", {"coordinate": "python", "version": seen}
    assert client.put(address, json={**body, "line": "3.9"}).json() == {
        "coordinate": "pkg:generic/python",
        "line": "",
        "version": seen + 1,
    }
    settled(client)
    late = client.put(address, json={**body, "line": "3.10"})
    assert (late.status_code, late.json()["current"]["line"]) == (409, "3.9")
    settled(client)


def seen(version: int | None) -> dict[str, int]:
    return {} if version is None else {"version": version}


def set_waiver(client: TestClient, slug: str, version: int | None) -> Any:
    return client.put(waiver(client, slug), json={"why": "goes with the module", "version": version})


def set_path(client: TestClient, slug: str, version: int | None) -> Any:
    return client.put(f"/api/v1/applications/{slug}/path", json={"choice": "work", "version": version})


def set_filter(client: TestClient, _slug: str, version: int | None) -> Any:
    return client.put("/api/v1/views/evidence", json={"name": "mine", "query": "show=now", "version": version})


def drop_waiver(client: TestClient, slug: str, version: int | None) -> Any:
    return client.delete(waiver(client, slug), params=seen(version))


def drop_path(client: TestClient, slug: str, version: int | None) -> Any:
    return client.delete(f"/api/v1/applications/{slug}/path", params=seen(version))


def drop_filter(client: TestClient, _slug: str, version: int | None) -> Any:
    return client.delete("/api/v1/views/evidence/mine", params=seen(version))


@pytest.mark.parametrize(
    ("write", "drop"),
    [(set_waiver, drop_waiver), (set_path, drop_path), (set_filter, drop_filter)],
    ids=["waiver", "path", "filter"],
)
def test_what_can_be_made_and_taken_back_is_never_written_over_unseen(
    client: TestClient, app_folder: Path, write: Write, drop: Write
) -> None:
    slug = take(client, app_folder)
    assert write(client, slug, 7).status_code == 409  # there was none to be seen
    first = write(client, slug, 0).json()["version"]
    late = write(client, slug, 0)
    assert (late.status_code, late.json()["current"]["version"]) == (409, first)
    second = write(client, slug, first).json()["version"]
    assert second > first
    assert drop(client, slug, first).status_code == 409
    assert drop(client, slug, second).status_code in (200, 204)
    gone = write(client, slug, second)
    assert (gone.status_code, gone.json()["current"]) == (409, None)
    assert write(client, slug, 0).json()["version"] > second  # a version never comes twice
    assert write(client, slug, None).status_code == 200  # who does not say what was seen writes over what is there


def test_what_was_adopted_before_can_be_adopted_again(client: TestClient, app_folder: Path) -> None:
    slug = take(client, app_folder)
    address = f"/api/v1/applications/{slug}/path"
    bent = {"choice": "work", "pin": ["python@3.11"], "why": "calm", "version": 0}
    bent_version = client.put(address, json=bent).json()["version"]
    made = client.put(address, json={"choice": "retire", "version": bent_version}).json()
    before = made["before"]
    assert (before["choice"], before["pin"], before["why"]) == ("work", ["python@3.11"], "calm")
    again = {name: before[name] for name in ("set", "choice", "pin", "avoid", "order", "out", "drop", "why")}
    assert client.put(address, json={**again, "version": made["version"]}).json()["before"]["choice"] == "retire"
    assert client.get(address).json()["adopted"]["choice"] == "work"


def test_keeping_and_forgetting_a_filter_is_told(client: TestClient, app_folder: Path) -> None:
    take(client, app_folder)
    set_filter(client, "", 0)
    assert drop_filter(client, "", None).json()["query"] == "show=now"
    told = [(row["subject"], row["what"]) for row in client.get("/api/v1/events").json()["rows"][:2]]
    assert told == [("filter mine", "forgotten"), ("filter mine", "kept")]
