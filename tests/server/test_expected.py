"""Every screen of the demo and of some awkward applications says what it said when somebody last read it (``make expected``)."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any
from urllib.parse import quote

import pytest
from ruamel.yaml import YAML
from starlette.testclient import TestClient

from tests.conftest import NOW, git, write
from tests.expected import AWKWARD, differing, timeless
from tests.server.conftest import settled, take
from yoake.runner.home import Home
from yoake.shipped import KIT
from yoake.usecases.make_demo import make_demo

_OF_ALL = (
    "portfolio", "portfolio/links", "waves", "forecast", "work?state=all&limit=200", "step-groups", "teams", "days-off", "outside",
    "digest", "events", "knowledge/effort",
)  # fmt: skip
_OF_ONE = ("evidence", "path", "packages", "graph", "edits", "in-time", "map", "files", "places")
_IN_FULL = ("berth-planner", "passenger-portal")  # one of each ecosystem
_EDITED = ("berth-planner", "freight-scales", "passenger-portal", "ticket-desk")
_AWKWARD: list[dict[str, Any]] = YAML(typ="safe").load(AWKWARD.read_text("utf-8"))


def ask(client: TestClient, home: Home, what: str) -> Any:
    answer = client.get(f"/api/v1/{what}")
    assert answer.status_code == 200, (what, answer.text)
    return json.loads(answer.text.replace(str(home.folder.parent), "HERE"), object_hook=timeless)


def of_one(client: TestClient, home: Home, slug: str, full: bool = True) -> dict[str, Any]:
    """What the screens of one application say; ``full``: every finding with its evidence too."""
    here = f"applications/{slug}"
    said = {what: ask(client, home, f"{here}/{what}") for what in _OF_ONE}
    for what in ("path", "edits"):
        del said[what]["application"]  # as in evidence
    listed = ask(client, home, f"{here}/findings?limit=200")
    if full:
        listed["rows"] = [ask(client, home, f"{here}/findings/{row['key']}") for row in listed["rows"]]
    return {**said, "findings": listed}


def proposed(client: TestClient, home: Home, slug: str, scope: str) -> dict[str, Any]:
    """Edits of one scope, their patch, and what is committed of all but the last step and without the first file."""
    base = f"/api/v1/applications/{slug}/edits"
    client.post(base, json={"scope": scope})
    settled(client)
    shown = ask(client, home, f"applications/{slug}/edits")
    del shown["application"], shown["made"]  # commits bear the time at which they were made
    patch = client.get(f"{base}/patch").text.splitlines()
    keys = [step["key"] for step in shown["steps"]]
    changed = [file["path"] for file in shown["files"] if file["outcome"] == "changed"]
    branch = f"yoake/{slug}-{scope}"
    client.post(
        f"{base}/branch", json={"scope": scope, "branch": branch, "keys": keys[:-1] or keys, "left_out": changed[:1]}
    )
    settled(client)
    folder = home.folder / "harrowmere" / slug
    made = (
        git(folder, "log", "--format=%s%n%b", "--stat=200", f"main..{branch}")
        if branch in git(folder, "branch")
        else ""
    )
    return {
        **shown,
        "patch": patch,
        "committed": made.splitlines(),
        "after": ask(client, home, f"applications/{slug}/edits")["said"],
    }


def brief(told: dict[str, Any]) -> dict[str, Any]:
    """A path without what each of its stages lists for the people at work."""
    for stage in (stage for way in told["ways"] for stage in way["stages"]):
        for listed in ("edits", "needs", "after", "gate", "not_needed"):
            del stage[listed]
    return told


def test_the_demo_says_what_it_said(home: Home, request: pytest.FixtureRequest) -> None:
    make_demo(home, KIT, lambda _: None, NOW)
    client: TestClient = request.getfixturevalue("pinned")
    said = {"portfolio": {what.partition("?")[0]: ask(client, home, what) for what in _OF_ALL}}
    for row in said["portfolio"]["portfolio"]["rows"]:
        said[row["slug"]] = of_one(client, home, row["slug"], full=row["slug"] in _IN_FULL)
    for what in ("crossing", "crossing/proposals"):
        said["quay-desk"][what] = ask(client, home, f"applications/quay-desk/{what}")
    for slug in _EDITED:
        said[slug]["proposed"] = {scope: proposed(client, home, slug, scope) for scope in ("now", "1")}
    wrong = [text for name, held in said.items() if (text := differing(f"demo/{name}", held))]
    assert not wrong, "\n".join(wrong)


@pytest.mark.parametrize("case", _AWKWARD, ids=lambda case: case["name"])
def test_an_awkward_application_says_what_it_said(
    case: dict[str, Any], pinned: TestClient, home: Home, tmp_path: Path
) -> None:
    slug = take(pinned, write(tmp_path / case["name"], case["files"]), case["to"])
    here = f"applications/{slug}/path"
    sets = [made["name"] for made in ask(pinned, home, here)["sets"]]
    said = of_one(pinned, home, slug)
    said["sets"] = {name: ask(pinned, home, f"{here}?set={quote(name)}") for name in sets[1:]}
    said["shapes"] = {shape: brief(ask(pinned, home, f"{here}?{shape}")) for shape in case.get("shapes", ())}
    for told in (*said["sets"].values(), *said["shapes"].values()):
        del told["application"]
    wrong = differing(f"awkward/{case['name']}", said)
    assert not wrong, wrong
