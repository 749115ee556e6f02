"""An application moves piece by piece: its routes are read, moved, compared and counted, and every move is an event."""

from __future__ import annotations

import json
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.conftest import write
from tests.runner.gateway.sides import SideServer, served
from tests.server.conftest import take
from tests.server.states import state_of
from tests.waiting import until
from yoake.formats.crossing_rules import read_rules
from yoake.usecases.watch import Watcher

OLD = {
    "requirements.txt": "flask==1.1.4\n",
    ".python-version": "3.8.18\n",
    "desk.py": """
from flask import Flask
from fares import fare
app = Flask(__name__, static_folder=None)

@app.get("/sailings")
def sailings():
    return {}

@app.get("/fares/<port>")
def fares(port):
    return {"fare": fare(port)}

@app.post("/tickets")
def sell():
    return {"fare": fare("x")}
""",
    "fares.py": "def fare(port):\n    return 12\n",
}
NEW = {
    "requirements.txt": "flask==3.0.0\n",
    "new.py": """
from flask import Flask
app = Flask(__name__, static_folder=None)

@app.get("/sailings")
def sailings():
    return {}

@app.get("/fares/<name>")
def fares(name):
    return {}

@app.get("/added")
def added():
    return {}
""",
}
AT = "/api/v1/applications/desk/crossing"
ADDRESSES = {"old_address": "http://127.0.0.1:8001", "new_address": "http://127.0.0.1:8002"}


@pytest.fixture
def begun(client: TestClient, tmp_path: Path) -> TestClient:
    take(client, write(tmp_path / "desk", OLD))
    take(client, write(tmp_path / "next", NEW))
    assert client.get(AT).json()["told"] == "The last scan found 3 routes in 3 slices; 8 lines answer them."
    assert client.post(AT, json={"new": "next", **ADDRESSES}).status_code == 201
    until(lambda: client.get(AT).json()["whole"] == 3)
    return client


def rows(client: TestClient) -> dict[str, dict[str, Any]]:
    return {row["name"]: row for band in client.get(AT).json()["bands"] for row in band["routes"]}


def count(client: TestClient, log: str) -> None:
    """Hand over a log, and wait until it is counted."""
    number = client.post(f"{AT}/logs", files={"file": ("access.log", log.encode())}).json()["job"]
    until(lambda: next(job["state"] for job in client.get("/api/v1/jobs").json() if job["id"] == number) == "done")


def record(client: TestClient, *lines: dict[str, object], **state: object) -> None:
    """What a gateway would have written."""
    folder = Path(client.get(AT).json()["rules_file"]).parent / "crossing-record"
    folder.mkdir(exist_ok=True)
    with (folder / "answers.jsonl").open("a") as file:
        file.writelines(json.dumps(line) + "\n" for line in lines)
    (folder / "state.json").write_text(json.dumps({"pid": 1, "at": datetime.now(UTC).isoformat(), **state}))


def compared(route: str, *, alike: bool, at: str = "2099-01-01T00:00:00Z") -> dict[str, object]:
    differences = [] if alike else [{"kind": "number", "where": "$.fare", "old": "12.5", "new": "12"}]
    return {
        "at": at,
        "route": route,
        "path": "/x",
        "alike": alike,
        "old_ms": 1,
        "new_ms": 2,
        "differences": differences,
    }


def test_routes_of_both_sides_are_matched_and_what_each_drags_along_is_known(begun: TestClient) -> None:
    found = rows(begun)
    assert {name: row["on_new"] for name, row in found.items()} == {
        "GET /sailings": True,
        "GET /fares/{port}": True,
        "POST /tickets": False,
    }
    assert found["POST /tickets"]["told"] == "no route on the new side"
    assert begun.get(AT).json()["only_new"] == ["GET /added"]
    detail = begun.get(f"{AT}/route", params={"name": "GET /fares/{port}"}).json()
    assert [(need["name"], need["others"]) for need in detail["needs"]] == [("fare", 1), ("fares", 0)]
    assert detail["packages"] == []
    (part,) = begun.get(AT).json()["many"]
    assert (part["name"], part["routes"]) == ("fare", 2)


def test_a_move_changes_the_file_of_rules_and_is_an_event(begun: TestClient) -> None:
    body = {"routes": ["GET /sailings"], "standing": "shared", "share": 25, "why": "all alike"}
    assert begun.post(f"{AT}/moves", json=body).status_code == 204
    row = rows(begun)["GET /sailings"]
    assert (row["standing"], row["share"], row["told"]) == ("shared", 25, "0 of 3 days")
    (rule,) = read_rules(begun.get(f"{AT}/rules").text).routes
    assert (rule.route.name, rule.share) == ("GET /sailings", 25)
    events = begun.get("/api/v1/events", params={"application": "desk"}).json()["rows"]
    (event,) = [each for each in events if each["subject"] == "route GET /sailings"]
    assert (event["before"], event["after"], event["why"]) == ("old", "shared 25 %", "all alike")
    assert [row["left"] for row in begun.get(AT).json()["left"]] == [3, 3, 3]
    begun.post(f"{AT}/moves", json={"routes": ["POST /tickets"], "standing": "new"})
    assert begun.get(AT).json()["left"][-1]["left"] == 2
    (move,) = begun.get(f"{AT}/route", params={"name": "GET /sailings"}).json()["moves"]
    assert move["told"] == "shared 25 %"
    assert "crossing_shared_25" in begun.get(f"{AT}/nginx").text


def test_what_a_gateway_wrote_is_taken_in_and_says_what_stops_a_route(begun: TestClient) -> None:
    begun.post(f"{AT}/moves", json={"routes": ["GET /fares/{port}"], "standing": "mirrored"})
    name = "GET /fares/{port}"
    record(begun, *(compared(name, alike=n % 4 != 0) for n in range(8)), routes={name: {"answers": {"old": 8}}})
    row = rows(begun)[name]
    assert (row["compared"], row["alike"], row["told"]) == (8, 6, "2 differ: number $.fare")
    assert row["strip"] == [False, True, True, True] * 2
    assert row["weekly"] > 0
    (cause,) = begun.get(f"{AT}/route", params={"name": name}).json()["causes"]
    assert (cause["pairs"], cause["old"], cause["new"]) == (2, "12.5", "12")
    assert begun.post(f"{AT}/mended", json={"route": name}).status_code == 204
    assert rows(begun)[name]["compared"] == 8  # the gateway's clock is ahead: these came after
    record(begun, compared(name, alike=True, at="2020-01-01T00:00:00Z"))
    assert rows(begun)[name]["compared"] == 8  # and this one before


def test_a_route_that_fell_back_says_why_and_keeps_its_event(begun: TestClient) -> None:
    begun.post(f"{AT}/moves", json={"routes": ["GET /sailings"], "standing": "new"})
    why = "8.0% of the last 50 answers of the new side failed, of the old side 0.0%"
    record(
        begun,
        {"at": "2026-11-30T10:00:00Z", "route": "GET /sailings", "event": "fell back", "why": why},
        fallen={"GET /sailings": {"why": why, "mark": "new 0"}},
    )
    row = rows(begun)["GET /sailings"]
    assert row["fell_back"] == why
    detail = begun.get(f"{AT}/route", params={"name": "GET /sailings"}).json()
    assert (detail["moves"][0]["who"], detail["moves"][0]["told"]) == ("the gateway", "fell back to old")


def test_half_a_line_and_nonsense_in_the_record_wait_or_are_left_out(begun: TestClient) -> None:
    folder = Path(begun.get(AT).json()["rules_file"]).parent / "crossing-record"
    folder.mkdir()
    line = json.dumps(compared("GET /sailings", alike=True))
    (folder / "answers.jsonl").write_text(f'nonsense\n[]\n{{"route": 5}}\n{line}\n{line[:20]}')
    (folder / "state.json").write_text("{")
    assert rows(begun)["GET /sailings"]["strip"] == [True]
    with (folder / "answers.jsonl").open("a") as file:
        file.write(f"{line[20:]}\n")
    assert rows(begun)["GET /sailings"]["strip"] == [True, True]


def test_logs_say_what_is_called_and_what_nobody_calls(begun: TestClient) -> None:
    lines = "".join(
        f'1.1.1.1 - - [{day:02}/Nov/2026:10:00:00 +0000] "GET {path} HTTP/1.1" 200 5\n'
        for day in range(1, 15)
        for path in ("/sailings", "/sailings", "/fares/isle", "/nothing/17")
    )
    count(begun, f"{lines}no line\n")
    job = begun.get("/api/v1/jobs").json()[0]
    assert (job["state"], begun.get(AT).json()["calls_from"]) == ("done", "2026-11-01")
    assert {name: row["weekly"] for name, row in rows(begun).items()} == {
        "GET /sailings": 14,
        "GET /fares/{port}": 7,
        "POST /tickets": 0,
    }
    view = begun.get(AT).json()
    assert [band["name"] for band in view["bands"]][-1] == "nobody called"
    assert view["unmatched"][0]["path"] == "/nothing/{id}"
    assert rows(begun)["POST /tickets"]["told"] == "retire?"


def test_slices_are_proposed_and_chosen(begun: TestClient) -> None:
    for by in ("prefix", "code", "tables"):
        found = begun.get(f"{AT}/proposals", params={"by": by}).json()
        assert sorted(name for each in found for name in each["routes"]) == [
            "GET /fares/{port}",
            "GET /sailings",
            "POST /tickets",
        ]
    slices = [{"name": "money", "routes": ["GET /fares/{port}", "POST /tickets"]}]
    assert begun.put(f"{AT}/slices", json={"slices": slices}).status_code == 204
    assert [band["name"] for band in begun.get(AT).json()["bands"]] == ["money", "in no slice"]
    twice = [*slices, {"name": "again", "routes": ["POST /tickets"]}]
    assert begun.put(f"{AT}/slices", json={"slices": twice}).status_code == 422


def test_what_only_a_description_knows_is_shown_as_such(begun: TestClient) -> None:
    def bring(body: object) -> object:
        text = body if isinstance(body, bytes) else json.dumps(body).encode()
        return begun.post(f"{AT}/description", files={"file": ("desk.json", text)}).json()

    paths: dict[str, Any] = {"/fares/{to}": {"get": {}}, "/refunds/{code}": {"post": {}}, "/tides": {"get": {}}}
    assert bring({"openapi": "3.0.0", "paths": paths}) == {"described": 3, "only": 2}
    assert {name for name, row in rows(begun).items() if row["described"]} == {"POST /refunds/{code}", "GET /tides"}
    assert not any(row["added"] for row in rows(begun).values())
    begun.post(f"{AT}/read")
    until(lambda: begun.get("/api/v1/jobs").json()[0]["state"] == "done")
    assert "GET /tides" in rows(begun)  # the code is read again, and has it as little as before
    assert bring({"openapi": "3.0.0", "paths": {"/tides": {"get": {}}}}) == {"described": 1, "only": 1}
    assert "POST /refunds/{code}" not in rows(begun)
    assert "no “openapi" in str(bring(b"{}"))
    assert begun.post(f"{AT}/moves", json={"routes": ["GET /tides"], "standing": "mirrored"}).status_code == 204


def test_a_route_waits_for_a_test_of_the_new_side_and_then_its_share_grows_by_itself(
    begun: TestClient, tmp_path: Path
) -> None:
    context = state_of(begun).context
    today = datetime.now(UTC)

    def on_day(number: int, *, is_heard_of: bool = True, answers: int = 5) -> None:
        context.clock = lambda: today + timedelta(days=number)
        heard = {"at": (today + timedelta(days=number)).isoformat()} if is_heard_of else {}
        routes = {"GET /sailings": {"answers": {"old": 90, "new": answers}}}
        record(begun, compared("GET /sailings", alike=True), **heard, routes=routes)
        Watcher(context, lambda *_: [], lambda *_: [], lambda *_: []).do_what_is_due()

    def told() -> object:
        return rows(begun)["GET /sailings"]["told"]

    policy = {"answers": 1, "days": 2, "quiet": 14, "tests": True, "grows": True}
    assert begun.put(AT, json=policy | {"version": begun.get(AT).json()["version"]}).status_code == 204
    begun.post(f"{AT}/moves", json={"routes": ["GET /sailings"], "standing": "mirrored"})
    on_day(3)
    assert told() == "no test of the new side calls it"
    write(tmp_path / "next", {"tests/test_new.py": 'def test_it(client):\n    client.get("/sailings")\n'})
    begun.post(f"{AT}/read")
    until(lambda: told() == "ready to share 5 %")
    on_day(4)
    assert told() == "ready to share 5 %"  # the first share is a person's to give
    begun.post(f"{AT}/moves", json={"routes": ["GET /sailings"], "standing": "shared", "share": 5})
    on_day(8, is_heard_of=False)
    on_day(8, answers=0)
    assert rows(begun)["GET /sailings"]["share"] == 5  # nobody watched, or nobody was answered
    seen = []
    for number in range(4, 14):
        on_day(number)
        row = rows(begun)["GET /sailings"]
        seen.append((row["standing"], row["share"]))
    assert list(dict.fromkeys(seen)) == [("shared", 5), ("shared", 25), ("shared", 60), ("new", 0)]
    moves = begun.get(f"{AT}/route", params={"name": "GET /sailings"}).json()["moves"]
    assert (moves[0]["who"], moves[0]["why"]) == ("by itself", "2 days at shared 60 % without falling back")


def test_a_share_that_fell_back_does_not_grow(begun: TestClient) -> None:
    context = state_of(begun).context
    policy = {"answers": 1, "days": 0, "quiet": 14, "tests": False, "grows": True}
    assert begun.put(AT, json=policy | {"version": begun.get(AT).json()["version"]}).status_code == 204
    begun.post(f"{AT}/moves", json={"routes": ["GET /sailings"], "standing": "shared", "share": 5})
    routes = {"GET /sailings": {"answers": {"new": 5}}}
    record(begun, fallen={"GET /sailings": {"why": "slow", "mark": "shared 5"}}, routes=routes)
    Watcher(context, lambda *_: [], lambda *_: [], lambda *_: []).do_what_is_due()
    assert (rows(begun)["GET /sailings"]["standing"], rows(begun)["GET /sailings"]["share"]) == ("shared", 5)


def test_a_part_is_cut_off_for_every_route_and_the_path_counts_without_it(begun: TestClient) -> None:
    parts = begun.get(f"{AT}/parts", params={"name": "GET /fares/{port}"}).json()
    assert [(box["name"], box["depth"], box["others"]) for box in parts["boxes"]] == [("fares", 0, 0), ("fare", 1, 1)]
    assert (parts["arrows"], parts["brought"], parts["whole"]) == ([{"source": 0, "target": 1}], 4, 4)
    cut = {"file": "fares.py", "name": "fare", "choice": "bridge", "why": "it stays where it is"}
    assert begun.put(f"{AT}/parts", json=cut).status_code == 204
    parts = begun.get(f"{AT}/parts", params={"name": "POST /tickets"}).json()
    assert (parts["brought"], parts["whole"], parts["boxes"][1]["choice"]) == (2, 4, "bridge")
    detail = begun.get(f"{AT}/route", params={"name": "POST /tickets"}).json()
    assert (detail["route"]["lines"], detail["bridged"], detail["left_out"]) == (2, ["fare"], [])
    assert begun.put(f"{AT}/parts", json=cut | {"name": "nobody"}).status_code == 404
    assert begun.get(f"{AT}/parts", params={"name": "GET /nowhere"}).status_code == 404
    events = begun.get("/api/v1/events").json()
    assert any(each["before"] == "bring" and each["after"] == "bridge" for each in events["rows"])


def test_the_path_prices_what_is_left_to_move(begun: TestClient) -> None:
    def stages() -> list[str]:
        ways = begun.get("/api/v1/applications/desk/path").json()["ways"]
        (piecewise,) = [way for way in ways if way["key"] == "piecewise"]
        return [stage["title"] for stage in piecewise["stages"]][1:]  # the first is what can be done today

    first = stages()
    assert (first[:2], first[-1]) == (["gateway in front", "new side stands"], "old side off")
    assert set(first[2:-1]) == {"fares", "sailings", "tickets"}
    body = {"routes": ["GET /sailings"], "standing": "new", "share": 0, "why": "tried"}
    assert begun.post(f"{AT}/moves", json=body).status_code == 204
    slices = [{"name": "the rest", "routes": ["GET /fares/{port}", "POST /tickets"]}]
    assert begun.put(f"{AT}/slices", json={"slices": slices}).status_code == 204
    assert stages() == ["gateway in front", "new side stands", "the rest", "old side off"]


def test_a_route_that_is_added_meanwhile_is_flagged(begun: TestClient, tmp_path: Path) -> None:
    (tmp_path / "desk" / "desk.py").write_text(OLD["desk.py"] + "\n@app.get('/late')\ndef late(): return {}\n")
    assert begun.post(f"{AT}/read").status_code == 202
    until(lambda: "GET /late" in rows(begun))
    assert rows(begun)["GET /late"]["added"]
    assert not rows(begun)["GET /sailings"]["added"]


@pytest.mark.parametrize(
    ("path", "body", "status"),
    [
        ("/moves", {"routes": ["GET /gone"], "standing": "new"}, 404),
        ("/moves", {"routes": ["GET /sailings"], "standing": "shared", "share": 0}, 422),
        ("/moves", {"routes": ["GET /sailings"], "standing": "shared", "share": 1e300}, 422),
        ("/moves", {"routes": ["GET /sailings"], "standing": "away"}, 422),
        ("/moves", {"routes": []}, 422),
        ("/safe", {"route": "POST /gone", "safe": True}, 404),
        ("/mended", {"route": "GET /gone\x00"}, 422),
        ("", {"old_address": "http://a:1", "new_address": "http://a:2"}, 409),
    ],
)
def test_what_cannot_be_is_refused_in_words(begun: TestClient, path: str, body: dict[str, object], status: int) -> None:
    answer = begun.post(f"{AT}{path}", json=body)
    assert answer.status_code == status
    assert answer.json()["problem"]


@pytest.mark.parametrize("address", ["ftp://a", "http://127.0.0.1:8001/x", "http://127.0.0.1:99999999", "nonsense1"])
def test_addresses_that_are_none_begin_nothing(client: TestClient, tmp_path: Path, address: str) -> None:
    take(client, write(tmp_path / "desk", OLD))
    answer = client.post(AT, json={"old_address": address, "new_address": "http://127.0.0.1:8002"})
    assert answer.status_code == 422
    assert not client.get(AT).json()["begun"]


def test_rules_that_somebody_broke_are_told_and_nothing_is_lost(begun: TestClient) -> None:
    path = Path(begun.get(AT).json()["rules_file"])
    before = path.read_text()
    path.write_text("yoake: crossing/1\nroutes: 5\n")
    answer = begun.get(AT)
    assert answer.status_code == 422
    assert any("sides" in fault for fault in answer.json()["faults"])
    path.write_text(before)
    assert begun.get(AT).status_code == 200
    assert begun.delete(AT).status_code == 204
    assert not begun.get(AT).json()["begun"]
    assert path.exists()


def test_a_route_that_nobody_calls_is_retired_as_a_step(begun: TestClient, tmp_path: Path) -> None:
    def step() -> dict[str, object]:
        rows_ = begun.get("/api/v1/work", params={"slug": "desk", "state": "all"}).json()["rows"]
        found = [row for row in rows_ if row["title"] == "Retire POST /tickets"]
        return found[0] if found else {}

    assert begun.post(f"{AT}/retire", json={"routes": ["POST /tickets"], "why": "nobody calls it"}).status_code == 204
    assert (step()["state"], step()["missing"]) == ("open", "a look at the code that finds the route no more")
    begun.post("/api/v1/scans", json={"applications": ["desk"]})
    until(lambda: begun.get("/api/v1/jobs").json()[0]["state"] == "done")
    assert step()["state"] == "open"  # a scan of names does not close it
    (tmp_path / "desk" / "desk.py").write_text(OLD["desk.py"].split('@app.post("/tickets")')[0])
    begun.post(f"{AT}/read")
    until(lambda: step().get("state") == "closed")
    assert "POST /tickets" not in rows(begun)


def test_the_old_side_goes_off_when_a_gateway_saw_no_call_of_it_for_long_enough(begun: TestClient) -> None:
    context = state_of(begun).context
    today = datetime.now(UTC)

    def state() -> str:
        found = begun.get("/api/v1/work", params={"slug": "desk", "state": "all"}).json()["rows"]
        return next((row["state"] for row in found if row["title"] == "Switch the old side off"), "none")

    def on_day(number: int, old: int, new: int) -> None:
        """What the gateway has counted since it started, by the end of that day."""
        context.clock = lambda: today + timedelta(days=number)
        record(begun, routes={"GET /sailings": {"answers": {"old": old, "new": new}}})
        Watcher(context, lambda *_: [], lambda *_: [], lambda *_: []).do_what_is_due()

    everything = list(rows(begun))
    begun.post(f"{AT}/moves", json={"routes": everything[:-1], "standing": "new"})
    assert state() == "none"
    begun.post(f"{AT}/moves", json={"routes": everything, "standing": "new"})
    assert state() == "open"
    context.clock = lambda: today + timedelta(days=40)
    begun.post(f"{AT}/moves", json={"routes": everything, "standing": "new"})
    assert state() == "open"  # forty days on, but nobody counted: nobody knows
    on_day(41, old=3, new=1)
    on_day(50, old=4, new=9)
    on_day(60, old=4, new=20)
    assert state() == "open"  # the old side answered ten days ago
    on_day(65, old=4, new=30)
    assert state() == "closed"
    begun.post(f"{AT}/moves", json={"routes": everything[:1], "standing": "old"})
    assert state() == "reopened"


def test_where_no_gateway_writes_the_screen_says_that_nobody_knows(begun: TestClient) -> None:
    assert "gateway" not in begun.get(AT).json()["told"].lower()
    begun.post(f"{AT}/moves", json={"routes": ["GET /sailings"], "standing": "new"})
    assert "No gateway has written anything yet" in begun.get(AT).json()["told"]
    record(begun, at="2026-01-02T10:00:00Z")
    assert "last heard of 2 Jan" in begun.get(AT).json()["told"]
    record(begun, at=datetime.now(UTC).isoformat())
    assert "gateway" not in begun.get(AT).json()["told"].lower()
    record(begun, at="nonsense")
    assert "No gateway has written anything yet" in begun.get(AT).json()["told"]


def test_two_who_move_at_once_lose_nothing(begun: TestClient) -> None:
    names = ["GET /sailings", "GET /fares/{port}", "POST /tickets"]
    with ThreadPoolExecutor(3) as pool:
        bodies = [{"routes": [name], "standing": "mirrored"} for name in names]
        assert {
            answer.status_code for answer in pool.map(lambda body: begun.post(f"{AT}/moves", json=body), bodies)
        } == {204}
    assert {name: row["standing"] for name, row in rows(begun).items()} == dict.fromkeys(names, "mirrored")


def test_what_is_declared_safe_stands_in_the_rules(begun: TestClient) -> None:
    begun.post(f"{AT}/moves", json={"routes": ["POST /tickets"], "standing": "shared", "share": 12.5})
    begun.post(f"{AT}/safe", json={"route": "POST /tickets", "safe": True})
    (rule,) = read_rules(begun.get(f"{AT}/rules").text).routes
    assert (rule.safe, rule.share) == (True, 12.5)
    assert rows(begun)["POST /tickets"]["safe"]
    begun.post(f"{AT}/moves", json={"routes": ["POST /tickets"], "standing": "mirrored"})
    assert read_rules(begun.get(f"{AT}/rules").text).routes[0].safe  # a move leaves it
    begun.post(f"{AT}/safe", json={"route": "POST /tickets", "safe": False})
    assert not read_rules(begun.get(f"{AT}/rules").text).routes[0].safe


def test_the_lines_of_a_new_file_are_taken_from_its_beginning(begun: TestClient) -> None:
    record(begun, *(compared("GET /sailings", alike=True) for _ in range(5)))
    assert len(rows(begun)["GET /sailings"]["strip"]) == 5
    folder = Path(begun.get(AT).json()["rules_file"]).parent / "crossing-record"
    (folder / "answers.jsonl").unlink()  # the gateway began a new one
    record(begun, compared("GET /sailings", alike=False))
    assert rows(begun)["GET /sailings"]["strip"] == [True] * 5 + [False]


def recorded(*requests: tuple[str, str]) -> bytes:
    entries = [
        {"request": {"method": method, "url": f"https://ferry.example{path}", "headers": []}}
        for method, path in requests
    ]
    return json.dumps({"log": {"entries": [*entries, {"nonsense": 1}]}}).encode()


def ask(client: TestClient, har: bytes) -> dict[str, object]:
    """Hand over a recording, wait until both sides were asked, and answer the job."""
    number = client.post(f"{AT}/recording", files={"file": ("a.har", har)}).json()["job"]

    def job() -> dict[str, object]:
        return next(job for job in client.get("/api/v1/jobs").json() if job["id"] == number)

    until(lambda: job()["state"] in ("done", "failed"))
    return job()


def test_both_sides_are_asked_what_was_recorded_and_it_counts_like_mirrored_traffic(begun: TestClient) -> None:
    old, new = SideServer(name="old"), SideServer(name="new", fares=12.0)
    with served(old) as one, served(new) as two:
        version = begun.get(AT).json()["version"]
        sides = {"old_address": f"http://127.0.0.1:{one}", "new_address": f"http://127.0.0.1:{two}"}
        body = {"answers": 3, "days": 0, "quiet": 30, "version": version, **sides}
        assert begun.put(AT, json=body).status_code == 204
        har = recorded(
            ("GET", "/sailings"), ("GET", "/fares/ystad?who=a@b.example"), ("POST", "/tickets"), ("GET", "/no")
        )
        done = ask(begun, har)
    word = (
        "0 of 2 answers are alike; 2 differ in number: $.fare; 1 not asked, since they change something; "
        "1 not asked, since no rule names their route; 1 entry is no request that can be asked again"
    )
    assert (done["state"], done["problem"]) == ("done", word)
    assert begun.get(AT).json()["recording"] == word
    detail = begun.get(f"{AT}/route", params={"name": "GET /fares/{port}"}).json()
    assert (rows(begun)["GET /fares/{port}"]["compared"], rows(begun)["GET /sailings"]["compared"]) == (1, 1)
    assert "$.fare" in json.dumps(detail)
    assert "a@b.example" not in json.dumps(detail)  # what a person is called is masked
    assert {seen["path"] for seen in old.seen} == {"/sailings", "/fares/ystad"}
    left = Path(begun.get(AT).json()["rules_file"]).parent.rglob("*.har")
    assert not list(left)


def test_a_file_that_is_no_recording_says_so_and_goes(begun: TestClient) -> None:
    done = ask(begun, b"[1]")
    assert done["state"] == "failed"
    assert "no HAR file" in str(done["problem"])
    assert "no JSON" in str(ask(begun, b"{")["problem"])
    assert begun.get(AT).json()["recording"] == ""


def test_a_log_in_is_tried_on_both_sides_and_not_kept(begun: TestClient) -> None:
    old, new = SideServer(name="old"), SideServer(name="new")
    given = {"login": "POST /login", "then": "GET /account", "form": {"name": "tester", "word": "s3cret"}}
    assert [check["told"] for check in begun.post(f"{AT}/session", json=given).json()] == [
        "the old side does not log in: it answers nothing",
        "the new side does not log in: it answers nothing",
    ]
    with served(old) as one, served(new) as two:
        sides = {"old_address": f"http://127.0.0.1:{one}", "new_address": f"http://127.0.0.1:{two}"}
        body = {"answers": 3, "days": 0, "quiet": 30, "version": begun.get(AT).json()["version"], **sides}
        assert begun.put(AT, json=body).status_code == 204
        checks = begun.post(f"{AT}/session", json=given).json()
        assert [(check["side"], check["holds"], check["cookies"]) for check in checks] == [
            ("old", True, ["a", "b"]),
            ("new", True, ["a", "b"]),
        ]
        new.fails = True
        assert [c["holds"] for c in begun.post(f"{AT}/session", json=given).json()] == [False, False]
    assert [seen["path"] for seen in old.seen[:2]] == ["/login", "/account"]
    assert "s3cret" not in Path(begun.get(AT).json()["rules_file"]).read_text()
    assert begun.post(f"{AT}/session", json={**given, "login": "login"}).status_code == 422


def test_who_watches_is_told_that_nothing_changed_until_something_does(begun: TestClient) -> None:
    def asked_again(tag: str) -> int:
        return begun.get(AT, headers={"If-None-Match": tag}).status_code

    until(lambda: asked_again(begun.get(AT).headers["etag"]) == 304)  # a minute may turn between the two
    tag = begun.get(AT).headers["etag"]
    begun.post(f"{AT}/moves", json={"routes": ["GET /sailings"], "standing": "shared", "share": 25, "why": "all alike"})
    assert asked_again(tag) == 200
    tag = begun.get(AT).headers["etag"]
    record(begun, compared("GET /sailings", alike=True))
    assert asked_again(tag) == 200
    assert rows(begun)["GET /sailings"]["alike"] == 1


def test_stages_of_a_piecewise_path_are_proven_by_the_routes_that_moved(begun: TestClient) -> None:
    body = {"choice": "piecewise", "why": "bit by bit"}
    assert begun.put("/api/v1/applications/desk/path", json=body).status_code == 200

    def routes() -> dict[str, str]:
        stages = begun.get("/api/v1/applications/desk/proof").json()["stages"]
        return {
            stage["title"]: f"{item['state']}: {item['said']}"
            for stage in stages
            for item in stage["items"]
            if item["key"] == "routes"
        }

    assert routes() == {
        "gateway in front": "not yet: no gateway has written anything yet",
        "sailings": "not yet: 0 of 1 on the new side",
        "fares": "not yet: 0 of 1 on the new side",
        "tickets": "not yet: 0 of 1 on the new side",
        "old side off": "not yet: 0 of 3 on the new side",
    }
    record(begun, routes={"GET /sailings": {"answers": {"old": 3, "new": 1}}})
    rows(begun)
    begun.post(f"{AT}/moves", json={"routes": ["GET /sailings"], "standing": "new"})
    found = routes()
    assert (found["gateway in front"], found["sailings"]) == (
        "there: a gateway has answered",
        "there: its route is on the new side",
    )
    assert found["old side off"] == "part: 1 of 3 on the new side"
    begun.post(f"{AT}/moves", json={"routes": ["GET /sailings"], "standing": "old"})
    assert routes()["sailings"] == "not yet: 0 of 1 on the new side"
    begun.post(f"{AT}/moves", json={"routes": list(rows(begun)), "standing": "new"})
    assert routes()["old side off"] == "not yet: no route is left; it is not switched off yet"
