"""Paths over HTTP: bent by the query, taken, left, and downloaded."""

from __future__ import annotations

from pathlib import Path

import pytest
from starlette.testclient import TestClient

from tests.server.conftest import steps, take


def test_the_query_bends_the_search(client: TestClient, app_folder: Path) -> None:
    slug = take(client, app_folder)
    address = f"/api/v1/applications/{slug}/path"
    plain = client.get(address).json()
    assert plain["heading"] == "Three options for reaching Python 3.13."
    bent = client.get(address, params={"pin": "python@3.11", "drop": "pypi/six"}).json()
    way = next(w for w in bent["ways"] if "work" in w["objectives"])
    assert [c["line"] for s in way["stages"] for c in s["cells"] if c["moved"]] == ["3.11", "3.13"]
    assert "six" not in [t["name"] for t in bent["tracks"]]


def test_a_path_is_taken_and_left(client: TestClient, app_folder: Path) -> None:
    slug = take(client, app_folder)
    address = f"/api/v1/applications/{slug}/path"
    assert client.put(address, json={"choice": "work", "pin": ["python@3.11"], "why": "calm"}).status_code == 200
    adopted = client.get(address).json()["adopted"]
    assert (adopted["who"], adopted["title"]) == ("Inés", "Least work")
    assert any(s["finding_key"].startswith("stage:") for s in steps(client))
    assert client.delete(address).status_code == 200
    assert client.get(address).json()["adopted"] is None


@pytest.mark.parametrize(
    ("query", "said"),
    [
        ({"pin": "python"}, "names no line"),
        ({"order": "python,django"}, "is no order"),
        ({"avoid": "python@3.13"}, "destination itself"),
        ({"pin": "python@3.99"}, "has no line 3.99"),
        ({"avoid": "pypi/unheard-of@1.0"}, "Nothing is known of"),
        ({"set": "attic"}, "no set of modules"),
    ],
)
def test_what_cannot_be_asked_for_is_refused_with_a_reason(
    query: dict[str, str], said: str, client: TestClient, app_folder: Path
) -> None:
    answer = client.get(f"/api/v1/applications/{take(client, app_folder)}/path", params=query)
    assert answer.status_code in (400, 404, 422)
    assert said in answer.json()["problem"]


def test_downloads_name_themselves(client: TestClient, app_folder: Path) -> None:
    slug = take(client, app_folder)
    for form, suffix in (("markdown", "md"), ("mermaid", "mmd"), ("csv", "csv"), ("json", "json")):
        answer = client.get(f"/api/v1/applications/{slug}/path/written", params={"form": form})
        assert answer.status_code == 200
        assert f"{slug}-path.{suffix}" in answer.headers["content-disposition"]
