"""Results of tests from another machine, with the commit that ran, are a run like any other and prove a stage."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from starlette.testclient import TestClient

from tests.conftest import git
from tests.server.conftest import settled, take

API = "/api/v1"


def junit(**tests: bool) -> bytes:
    rows = "".join(
        f'<testcase classname="desk" name="{name}" time="0.1">{"" if passed else "<failure message=&quot;no&quot;/>".replace("&quot;", chr(34))}</testcase>'
        for name, passed in tests.items()
    )
    return f"<testsuites><testsuite>{rows}</testsuite></testsuites>".encode()


@pytest.fixture
def desk(client: TestClient, repository: Callable[[str, dict[str, str]], Path]) -> tuple[str, str]:
    folder = repository("desk", {".python-version": "3.9\n", "desk/a.py": "import imp\n", "tests/test_a.py": "x = 1\n"})
    git(folder, "commit", "--quiet", "--amend", "--no-edit", at="2026-11-20T09:00:00Z")  # before anything is taken in
    return take(client, folder), git(folder, "rev-parse", "HEAD").strip()


def send(client: TestClient, slug: str, commit: str, new: bytes, old: bytes | None = None, stage: int = 1) -> Any:
    files = {"new": ("new.xml", new)} | ({"old": ("old.xml", old)} if old is not None else {})
    return client.post(
        f"{API}/applications/{slug}/results",
        files=files,
        data={"commit": commit, "stage": str(stage), "machine": "build 214"},
    )


def test_both_sides_are_compared_test_by_test_and_the_stage_shows_them(
    client: TestClient, desk: tuple[str, str]
) -> None:
    slug, commit = desk
    answer = send(client, slug, commit, junit(a=True, b=False), junit(a=True, b=True))
    assert answer.status_code == 201
    assert answer.json() == {"both": 1, "breaks": 1}
    proof = client.get(f"{API}/applications/{slug}/proof").json()
    run = client.get(f"{API}/applications/{slug}/runs/{proof['runs'][0]['id']}").json()
    assert "build 214" in str(run)
    answer = send(client, slug, commit, junit(a=True, b=True), junit(a=True, b=True))
    assert answer.json() == {"both": 2}
    items = [
        item for stage in client.get(f"{API}/applications/{slug}/proof").json()["stages"] for item in stage["items"]
    ]
    assert "there" in str([item for item in items if "test" in str(item).lower()])


def test_one_side_alone_proves_no_stage_but_says_how_today_is(client: TestClient, desk: tuple[str, str]) -> None:
    slug, commit = desk
    answer = send(client, slug, commit, junit(a=True))
    assert answer.status_code == 422
    assert "both sides" in answer.json()["problem"]
    assert send(client, slug, commit, junit(a=True), stage=0).json() == {"both": 1}
    assert sides(client, slug) == ["today, build 214"]
    send(client, slug, commit, junit(a=True), junit(a=True))
    assert sides(client, slug) == ["before it, build 214", "stage 1, build 214"]


def sides(client: TestClient, slug: str) -> list[str]:
    """The labels of the sides of the newest run."""
    newest = client.get(f"{API}/applications/{slug}/proof").json()["runs"][0]["id"]
    return [side["label"] for side in client.get(f"{API}/applications/{slug}/runs/{newest}").json()["sides"]]


@pytest.mark.parametrize(
    ("commit", "new", "stage", "status"),
    [
        ("not a hash", junit(a=True), 1, 422),
        ("abcdef1", junit(a=True), 1, 422),
        ("0" * 40, b"<html/>", 1, 422),
        ("0" * 40, b"<!DOCTYPE x [<!ENTITY a 'b'>]><testsuites/>", 1, 422),
        ("0" * 40, junit(), 1, 422),
        ("0" * 40, junit(a=True), 9, 422),
    ],
)
def test_what_cannot_be_results_is_refused_with_words(
    client: TestClient, desk: tuple[str, str], commit: str, new: bytes, stage: int, status: int
) -> None:
    answer = send(client, desk[0], commit, new, junit(a=True), stage=stage)
    assert answer.status_code == status
    assert answer.json()["problem"]
    assert client.get(f"{API}/applications/{desk[0]}/proof").json()["runs"] == []


def test_commits_suggest_how_long_a_closed_step_took_and_nothing_is_written(
    client: TestClient, desk: tuple[str, str], tmp_path: Path
) -> None:
    slug, _ = desk
    step = next(s for s in client.get(f"{API}/work?slug={slug}&state=all").json()["rows"] if "imp" in s["title"])
    at = f"{API}/steps/{step['id']}"
    assert client.get(f"{at}/suggested-minutes").json()["why"] == "it is not closed yet"
    folder = next(tmp_path.glob("**/desk/.git")).parent
    for number in range(3):
        (folder / "desk" / "a.py").write_text(f"x = {number}\n")
        git(folder, "commit", "-qam", f"step {number}")
    client.post(f"{API}/scans", json={"applications": [slug]})
    settled(client)
    found = client.get(f"{at}/suggested-minutes").json()
    assert (found["commits"], found["why"]) == (3, "")
    assert 30 <= found["minutes"] <= 31
    assert client.get(at).json()["spent"] == 0


def sarif(tool: str, *levels: str) -> bytes:
    place = {"physicalLocation": {"artifactLocation": {"uri": "desk/a%20b.py"}, "region": {"startLine": 3}}}
    results = [
        {"ruleId": "R1", "level": level, "message": {"text": f"a {level}"}, "locations": [place]} for level in levels
    ]
    return json.dumps({"version": "2.1.0", "runs": [{"tool": {"driver": {"name": tool}}, "results": results}]}).encode()


def report(client: TestClient, slug: str, commit: str, data: bytes, stage: int = 1) -> Any:
    form = {"commit": commit, "stage": str(stage), "machine": "build 214"}
    return client.post(f"{API}/applications/{slug}/reports", files={"report": ("a.sarif", data)}, data=form)


def gate(client: TestClient, slug: str, key: str = "checks", stage: int = 1) -> tuple[str, str]:
    stages = client.get(f"{API}/applications/{slug}/proof").json()["stages"]
    return next((i["state"], i["said"]) for i in stages[stage]["items"] if i["key"] == key)


def test_a_report_of_another_check_breaks_the_gate_until_a_newer_one_has_no_error(
    client: TestClient, desk: tuple[str, str]
) -> None:
    slug, commit = desk
    assert gate(client, slug)[0] == "not needed"
    answer = report(client, slug, commit, sarif("tide-lint", "error", "warning", "note"))
    assert answer.status_code == 201
    assert answer.json() == [{"tool": "tide-lint", "errors": 1, "warnings": 1, "notes": 1}]
    assert gate(client, slug) == ("breaks", "1 error of tide-lint")
    todo = client.get(f"{API}/applications/{slug}/proof").json()["todo"]
    assert ("checks", "1 error of tide-lint") in [(one["kind"], one["detail"]) for one in todo]
    (held,) = client.get(f"{API}/applications/{slug}/reports").json()
    assert (held["stage"], held["fresh"], held["machine"]) == (1, True, "build 214")
    assert [(f["level"], f["path"], f["line"]) for f in held["findings"]] == [
        (x, "desk/a b.py", 3) for x in ("error", "warning", "note")
    ]
    report(client, slug, commit, sarif("tide-lint", "warning"))
    assert gate(client, slug) == ("there", "no error of tide-lint")
    report(client, slug, "0" * 40, sarif("tide-types"))
    assert gate(client, slug) == ("stale", "tide-types: the code moved on since")
    assert gate(client, slug, stage=0)[0] == "not needed"


@pytest.mark.parametrize(
    "data",
    [b"", b"{}", b"[1]", b'{"version": "1.0.0", "runs": [{}]}', b'{"version": "2.1.0", "runs": []}', b"[" * 100_000],
)
def test_what_is_no_report_is_refused_with_words(client: TestClient, desk: tuple[str, str], data: bytes) -> None:
    answer = report(client, desk[0], desk[1], data)
    assert answer.status_code == 422
    assert answer.json()["problem"]
    assert client.get(f"{API}/applications/{desk[0]}/reports").json() == []
