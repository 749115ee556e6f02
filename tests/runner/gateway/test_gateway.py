"""The gateway answers each route from the side on which it stands, loses nothing, and keeps answering whatever it is sent."""

from __future__ import annotations

import hashlib
import json
import socket
import threading
from pathlib import Path

import httpx2
import pytest
from websockets.sync.client import connect

from tests.runner.gateway.sides import Crossing, crossing, free_port, rules_text, served
from tests.waiting import until
from yoake.core.values.errors import BadInput
from yoake.runner.gateway.gateway import Gateway
from yoake.runner.gateway.rules_file import RulesFile

ROUTES = """
  - {route: "GET /whole/old", stands: old}
  - {route: "ANY /whole/new", stands: new}
  - {route: "GET /whole/shared/{x}", stands: shared, share: 40}
  - {route: "GET /mirrored", stands: mirrored}
  - {route: "POST /mirrored", stands: mirrored}
  - {route: "PUT /mirrored", stands: mirrored, safe: true}
  - {route: "POST /upload", stands: new}
  - {route: "GET /events", stands: new}
  - {route: "GET /socket", stands: new}
"""


def side(answer: httpx2.Response) -> str:
    return str(answer.json()["side"])


def test_each_route_is_answered_from_where_it_stands(tmp_path: Path) -> None:
    with crossing(tmp_path, ROUTES) as at, httpx2.Client(base_url=at.url) as client:
        assert side(client.get("/whole/old?a=b%20c")) == "old"
        assert side(client.get("/whole/new")) == side(client.delete("/whole/new")) == "new"
        assert side(client.get("/whole/nobody-wrote-a-rule")) == "old"
        assert side(client.get("/whole/old", headers={"X-Crossing-Side": "new"})) == "new"
        assert side(client.get("/whole/new", headers={"Cookie": "x=1; crossing_side=old"})) == "old"
        assert client.get("/whole/old?a=b%20c&d").json()["query"] == "a=b%20c&d"


def test_callers_of_a_shared_route_stay_where_they_are(tmp_path: Path) -> None:
    with crossing(tmp_path, ROUTES) as at:
        sides = []
        for _ in range(40):
            with httpx2.Client(base_url=at.url) as client:
                first = side(client.get("/whole/shared/1"))
                assert {side(client.get(f"/whole/shared/{i}")) for i in range(3)} == {first}
                sides.append(first)
        assert 4 <= sides.count("new") <= 30


def test_who_called_is_told_and_what_belongs_to_one_connection_is_not(tmp_path: Path) -> None:
    with crossing(tmp_path, ROUTES) as at:
        answer = httpx2.get(
            f"{at.url}/whole/new",
            headers={
                "X-Forwarded-For": "10.1.1.1",
                "Connection": "close, X-Only-Here",
                "X-Only-Here": "1",
                "Host": "ferry.example",
            },
        )
        seen = answer.json()["headers"]
        assert seen["x-forwarded-for"] == "10.1.1.1, 127.0.0.1"
        assert (seen["x-forwarded-host"], seen["x-forwarded-proto"], seen["host"]) == (
            "ferry.example",
            "http",
            "ferry.example",
        )
        assert "x-only-here" not in seen
        assert answer.headers.get_list("set-cookie") == ["a=1", "b=2"]
        assert "keep-alive" not in answer.headers


def test_what_is_mirrored_is_compared_and_only_what_may_be_asked_twice_is(tmp_path: Path) -> None:
    with crossing(tmp_path, ROUTES) as at, httpx2.Client(base_url=at.url) as client:
        at.new.fares = 12.0
        assert client.get("/mirrored").headers["x-side"] == "old"
        client.post("/mirrored", content=b"x")
        client.put("/mirrored", content=b"the same body")
        until(lambda: len(at.lines()) == 2, 10)
        assert {line["route"] for line in at.lines()} == {"GET /mirrored", "PUT /mirrored"}
        (found,) = at.lines()[0]["differences"]
        assert (found["kind"], found["where"], found["old"], found["new"]) == ("number", "$.fare", "12.5", "12.0")
        assert [(each["method"], each["length"]) for each in at.new.seen] == [("GET", 0), ("PUT", 13)]


def test_long_answers_are_compared_to_their_end(tmp_path: Path) -> None:
    with crossing(tmp_path, ROUTES) as at, httpx2.Client(base_url=at.url) as client:
        at.old.filling = at.new.filling = 700_000
        at.new.fares = 12.0
        assert len(client.get("/mirrored").content) > 700_000
        until(lambda: len(at.lines()) == 1, 10)
        assert [each["where"] for each in at.lines()[0]["differences"]] == ["$.fare"]


def test_what_a_full_disk_keeps_from_being_written_waits(tmp_path: Path) -> None:
    with crossing(tmp_path, ROUTES) as at, httpx2.Client(base_url=at.url) as client:
        record = at.gateway.record
        folder, record.folder = record.folder, tmp_path / "there is none"
        client.get("/mirrored")
        until(lambda: bool(record._waiting), 10)
        with pytest.raises(OSError, match="there is none"):
            record.write({})
        record.folder = folder
        until(lambda: len(at.lines()) == 1, 10)


def test_uploads_pass_as_they_come(tmp_path: Path) -> None:
    body = bytes(range(256)) * 80_000
    with crossing(tmp_path, ROUTES) as at:
        for content in (body, (body[i : i + 65_536] for i in range(0, len(body), 65_536))):
            answer = httpx2.post(f"{at.url}/upload", content=content, timeout=60)
            assert answer.json()["digest"] == hashlib.sha256(body).hexdigest()


def test_a_body_that_is_too_large_to_keep_is_asked_of_one_side_only(tmp_path: Path) -> None:
    body = b"x" * 5_000_000
    with crossing(tmp_path, ROUTES) as at, httpx2.Client(base_url=at.url, timeout=60) as client:
        assert client.put("/mirrored", content=body).json()["length"] == len(body)
        assert client.put("/mirrored", content=b"small").json()["length"] == 5
        until(lambda: len(at.lines()) == 1, 10)
        assert [each["length"] for each in at.new.seen] == [5]
        assert at.gateway.record.dropped == 1


def test_events_come_one_by_one(tmp_path: Path) -> None:
    with crossing(tmp_path, ROUTES) as at, httpx2.stream("GET", f"{at.url}/events") as answer:
        pieces = list(answer.iter_raw())
    assert len(pieces) >= 3
    assert b"".join(pieces) == b"data: 0\n\ndata: 1\n\ndata: 2\n\n"


def test_websockets_pass(tmp_path: Path) -> None:
    with crossing(tmp_path, ROUTES) as at, connect(f"ws://127.0.0.1:{at.port}/socket") as socket_:
        socket_.send("ahoy")
        assert socket_.recv(10) == "new: ahoy"


def test_a_websocket_goes_to_the_other_side_where_one_is_dead(tmp_path: Path) -> None:
    with crossing(tmp_path, ROUTES, dead="new") as at, connect(f"ws://127.0.0.1:{at.port}/socket") as socket_:
        socket_.send("ahoy")
        assert socket_.recv(10) == "old: ahoy"


def test_a_caller_of_a_shared_websocket_stays_where_it_is(tmp_path: Path) -> None:
    routes = ROUTES.replace('"GET /socket", stands: new', '"GET /socket", stands: shared, share: 50')
    with crossing(tmp_path, routes) as at:
        for _ in range(6):
            with connect(f"ws://127.0.0.1:{at.port}/socket") as first:
                held = first.response.headers["set-cookie"].split(";")[0]
                first.send("ahoy")
                said = first.recv(10)
            for _ in range(2):
                with connect(f"ws://127.0.0.1:{at.port}/socket", additional_headers={"Cookie": held}) as again:
                    again.send("ahoy")
                    assert again.recv(10) == said


def test_the_other_side_answers_where_one_is_dead_and_that_is_safe(tmp_path: Path) -> None:
    with crossing(tmp_path, ROUTES, dead="new") as at, httpx2.Client(base_url=at.url) as client:
        assert side(client.get("/whole/new")) == "old"
        answer = client.post("/upload", content=b"nothing is lost")
        assert (answer.headers["x-side"], answer.json()["length"]) == ("old", 15)
        assert client.get("/whole/old", headers={"X-Crossing-Side": "new"}).status_code == 502
        assert client.get("/mirrored").headers["x-side"] == "old"


def test_both_sides_down_is_said(tmp_path: Path) -> None:
    with crossing(tmp_path, ROUTES, dead="both") as at, httpx2.Client(base_url=at.url) as client:
        for path in ("/whole/new", "/whole/old", "/mirrored", "/else"):
            answer = client.get(path)
            assert answer.status_code == 502
            assert "side" in answer.text


def test_a_side_that_takes_too_long_is_left(tmp_path: Path) -> None:
    with crossing(tmp_path, ROUTES, "limits: {answer: 0.3}") as at, httpx2.Client(base_url=at.url) as client:
        at.old.slow = 3
        assert client.get("/whole/old").status_code == 504
        at.new.slow, at.old.slow = 3, 0
        assert side(client.get("/whole/new")) == "old"
        assert client.post("/upload", content=b"x").status_code == 504  # it may have been done


def test_a_route_falls_back_by_itself_and_begins_anew_when_it_moves_again(tmp_path: Path) -> None:
    more = "fall_back: {least: 10, window: 20}"
    with crossing(tmp_path, ROUTES, more) as at, httpx2.Client(base_url=at.url) as client:
        for _ in range(12):
            client.get("/whole/new")
        at.new.fails = True
        for _ in range(20):
            client.get("/whole/new")
        assert side(client.get("/whole/new")) == "old"
        until(lambda: any(line.get("event") == "fell back" for line in at.lines()), 10)
        (event,) = [line for line in at.lines() if line.get("event")]
        assert event["route"] == "ANY /whole/new"
        assert "failed" in event["why"]
        again = Gateway(RulesFile(at.file), tmp_path)
        assert "ANY /whole/new" in again.record.fallen  # a gateway that starts anew knows it
        at.new.fails = False
        at.file.write_text(
            at.file.read_text().replace('"ANY /whole/new", stands: new', '"ANY /whole/new", stands: shared, share: 100')
        )
        until(lambda: not at.gateway.record.fallen, 10)
        assert side(client.get("/whole/new")) == "new"


def test_failures_from_before_a_move_do_not_bring_a_route_back(tmp_path: Path) -> None:
    routes = ROUTES.replace('"ANY /whole/new", stands: new', '"GET /whole/new", stands: mirrored')
    with (
        crossing(tmp_path, routes, "fall_back: {least: 5, window: 20, slower: 100}") as at,
        httpx2.Client(base_url=at.url) as client,
    ):
        at.new.fails = True
        for _ in range(20):
            client.get("/whole/new")
        until(lambda: len(at.lines()) == 20, 10)
        at.new.fails = False
        at.file.write_text(at.file.read_text().replace('/whole/new", stands: mirrored', '/whole/new", stands: new'))
        until(lambda: side(client.get("/whole/new")) == "new", 10)
        assert {side(client.get("/whole/new")) for _ in range(20)} == {"new"}
        assert not at.gateway.record.fallen


def test_rules_that_are_wrong_change_nothing(tmp_path: Path) -> None:
    with crossing(tmp_path, ROUTES) as at, httpx2.Client(base_url=at.url) as client:
        before = at.file.read_text()
        at.file.write_text("nonsense: [")
        until(lambda: bool(at.gateway._file.fault), 10)
        assert side(client.get("/whole/new")) == "new"
        at.file.write_text(before.replace('"ANY /whole/new", stands: new', '"ANY /whole/new", stands: old'))
        until(lambda: side(client.get("/whole/new")) == "old", 10)


def test_no_answer_is_lost_or_doubled_while_rules_change(tmp_path: Path) -> None:
    with crossing(tmp_path, ROUTES) as at:
        text = at.file.read_text()
        ends = threading.Event()

        def turn() -> None:
            stands = ["new", "old"]
            while not ends.wait(0.6):
                stands.reverse()
                at.file.write_text(
                    text.replace('"ANY /whole/new", stands: new', f'"ANY /whole/new", stands: {stands[0]}')
                )

        turning = threading.Thread(target=turn)
        turning.start()
        with httpx2.Client(base_url=at.url) as client:
            for number in range(1_500):
                assert client.get(f"/whole/new?n={number}").json()["query"] == f"n={number}"
        ends.set()
        turning.join()
        assert len(at.old.seen) + len(at.new.seen) == 1_500


def raw(at: Crossing, text: bytes) -> bytes:
    with socket.create_connection(("127.0.0.1", at.port), 5) as plain:
        plain.settimeout(2)
        plain.sendall(text)
        found = b""
        try:
            while piece := plain.recv(65_536):
                found += piece
        except TimeoutError:
            pass
        return found


@pytest.mark.parametrize(
    "text",
    [
        b"POST /upload HTTP/1.1\r\nHost: a\r\nContent-Length: 4\r\nTransfer-Encoding: chunked\r\n\r\n0\r\n\r\nGET /whole/smuggled HTTP/1.1\r\nHost: a\r\n\r\n",
        b"POST /upload HTTP/1.1\r\nHost: a\r\nContent-Length: 4\r\nContent-Length: 40\r\n\r\nabcd",
        b"POST /upload HTTP/1.1\r\nHost: a\r\nTransfer-Encoding: xchunked\r\n\r\n0\r\n\r\n",
        b"GET /whole/new HTTP/1.1\r\nHost: a\r\nX-A: 1\n X-B: 2\r\n\r\n",
        b"GET /whole/new HTTP/1.1\r\nHost: a\r\nX-A\x00: 1\r\n\r\n",
        b"GET /whole/new HTTP/1.1\r\n\r\n",
        b"GET /" + b"a" * 200_000 + b" HTTP/1.1\r\nHost: a\r\n\r\n",
        b"\x16\x03\x01\x02\x00\x01\x00",
        b"GET /whole/\xff\xe4 HTTP/1.1\r\nHost: a\r\n\r\n",
    ],
)
def test_what_no_client_sends_is_refused_and_the_gateway_keeps_answering(tmp_path: Path, text: bytes) -> None:
    with crossing(tmp_path, ROUTES) as at:
        answer = raw(at, text)
        assert not answer or answer.split(b" ", 2)[1] in (b"400", b"414", b"431", b"501", b"502")
        assert not [each for each in at.old.seen + at.new.seen if "smuggled" in each["path"]]
        assert side(httpx2.get(f"{at.url}/whole/new")) == "new"


@pytest.mark.parametrize(
    "path",
    [
        "/a/../whole/old",
        "/whole/%2e%2e/x",
        "/whole%2fold",
        "/whole/%ff%fe",
        "/whole/" + "a" * 8_000,
        "//whole//old",
    ],
)
def test_odd_paths_reach_the_old_side_as_they_were_sent(tmp_path: Path, path: str) -> None:
    with crossing(tmp_path, ROUTES) as at:
        answer = raw(at, f"GET {path} HTTP/1.1\r\nHost: a\r\nConnection: close\r\n\r\n".encode("latin-1"))
        assert answer.startswith(b"HTTP/1.1 200")
        assert b"x-side: old" in answer


def test_a_gateway_that_asks_itself_ends_the_loop(tmp_path: Path) -> None:
    port, other = free_port(), free_port()
    file = tmp_path / "rules.yaml"
    file.write_text(rules_text(port, other, '  - {route: "GET /a", stands: old}\n'))
    with served(Gateway(RulesFile(file), tmp_path), port, lifespan="on"):
        answer = httpx2.get(f"http://127.0.0.1:{port}/a", timeout=10)
    assert answer.status_code == 508


def test_rules_tell_all_their_faults_at_once(tmp_path: Path) -> None:
    file = tmp_path / "rules.yaml"
    file.write_text(
        "yoake: crossing/1\napplication: quay\nsides: {old: 'ftp://x', new: 'http://127.0.0.1:1'}\nspeed: 3\n"
        "routes:\n  - {route: 'get /a', stands: old}\n  - {route: 'GET /b', stands: shared}\n  - {route: 'GET /c', stands: gone}\n"
    )
    with pytest.raises(BadInput) as error:
        RulesFile(file)
    said = "\n".join(error.value.faults)
    for part in (
        "sides.old",
        "routes.1.route",
        "share in percent",
        "routes.3.stands",
        "speed: is no word of these rules",
    ):
        assert part in said
    assert json.dumps(error.value.faults)
