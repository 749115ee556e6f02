"""A route crosses from a real old side to a real new one: through every state, over a planted difference, and back on a planted fault."""

from __future__ import annotations

import asyncio
import json
import shutil
import socket
import threading
from importlib.resources import files
from pathlib import Path

import httpx2
import pytest

from tests.browser.conftest import Page
from tests.browser.test_first_day import take_in
from tests.waiting import until
from yoake.demo.sides import NEW, OLD, run


def three_ports() -> int:
    """The first of three free ports in a row."""
    for _ in range(50):
        with socket.socket() as first:
            first.bind(("127.0.0.1", 0))
            port = int(first.getsockname()[1])
        try:
            for more in (0, 1, 2):
                with socket.socket() as each:
                    each.bind(("127.0.0.1", port + more))
        except OSError:
            continue
        return port
    raise AssertionError("there are no three free ports in a row")


@pytest.fixture
def both(page: Page) -> tuple[Page, int]:
    """Both applications taken in, and what serves them once rules stand."""
    home = page.running.context.home.folder
    portfolio = Path(str(files("yoake.demo"))) / "portfolio"
    for name in (OLD, NEW):
        for commit in ("01", "02"):
            shutil.copytree(
                portfolio / name / commit,
                home / "harrowmere" / name,
                dirs_exist_ok=True,
                ignore=shutil.ignore_patterns("__pycache__"),
            )
        take_in(page, home / "harrowmere" / name)
    page.running.settled()
    return page, three_ports()


def served(home: Path, port: int) -> threading.Thread:
    """Both sides and the gateway, in a thread that ends with the tests."""
    thread = threading.Thread(target=lambda: asyncio.run(run(home, port, calls=False)), daemon=True)
    thread.start()

    def answers() -> bool:
        try:
            return all(httpx2.get(f"http://127.0.0.1:{port + more}/sailings").status_code == 200 for more in (0, 1, 2))
        except httpx2.HTTPError:
            return False

    until(answers)
    return thread


def call(port: int, path: str, times: int = 1) -> set[int]:
    return {httpx2.get(f"http://127.0.0.1:{port + 2}{path}").status_code for _ in range(times)}


def move(page: Page, to: str, share: str = "") -> None:
    page.choose("Move to", to)
    if share:
        page.type("Share", share)
    page.press("button", "Move", within="form[aria-label='Move this route']")


def test_a_route_crosses_and_comes_back_on_a_fault(both: tuple[Page, int]) -> None:
    page, port = both
    home = page.running.context.home.folder
    page.go(f"/applications/{OLD}/crossing")
    page.sees("does not move piece by piece yet")
    assert page.violations() == []
    page.choose("The new side", NEW)
    page.type("Where the old side answers", f"http://127.0.0.1:{port}")
    page.type("Where the new side answers", f"http://127.0.0.1:{port + 1}")
    page.press("button", "Begin")
    page.sees("0 of 13 routes stand on the new side", "/tickets/{code}", "no route on the new side", "ready to mirror")
    assert page.violations() == []
    page.press("button", "Gateway …")
    page.sees("yoake gateway")
    page.type("answers compared, all alike", "6")
    page.type("days where it stands", "0")
    page.press("button", "Keep", within="[role=dialog]")
    served(home, port)

    page.press("button", "GET /fares")
    page.sees("Drags along 10 lines in 2 files")
    move(page, "mirrored")
    page.sees("GET /fares stands mirrored now.")
    until(lambda: "mirrored" in (home / "crossings" / OLD / "rules.yaml").read_text())
    until(lambda: call(port, "/fares?to=skerry&children=1") == {200} and "differ: number" in page.text, 60)
    page.sees("number", "$.fare", "11.77 → 11.78")
    assert page.violations() == []

    httpx2.post(f"http://127.0.0.1:{port + 1}/demo/switch?mended=1")
    page.press("button", "Mended: count from now")
    page.sees("0 of 6 answers")
    call(port, "/fares?to=skerry&children=1", 6)
    page.sees("ready to share 5 %")
    page.press("button", "Move", within="form[aria-label='Move this route']")
    page.sees("GET /fares stands shared 5 % now.")
    move(page, "new")
    page.sees("1 of 13 routes stands on the new side")

    httpx2.post(f"http://127.0.0.1:{port + 1}/demo/switch?mended=0")  # so that one sees who answers
    asks = f"http://127.0.0.1:{port + 2}/fares?to=skerry&children=1"
    until(lambda: httpx2.get(asks).json()["fare"] == 11.78)
    call(port, "/fares?adults=2", 60)
    httpx2.post(f"http://127.0.0.1:{port + 1}/demo/switch?failing=1")
    call(port, "/fares?adults=2", 12)
    page.sees("It fell back by itself", "the gateway")
    assert call(port, "/fares?adults=2", 5) == {200}  # the old side answers again
    assert page.violations() == []
    assert page.console() == []


def test_slices_are_put_in_order_and_hundreds_of_routes_are_found(both: tuple[Page, int]) -> None:
    page, port = both
    page.go(f"/applications/{OLD}/crossing")
    page.type("Where the old side answers", f"http://127.0.0.1:{port}")
    page.type("Where the new side answers", f"http://127.0.0.1:{port + 1}")
    page.press("button", "Begin")
    page.sees("0 of 13 routes stand on the new side")
    page.press("button", "Slices …")
    page.choose("Routes belong together by", "the code they share")
    page.press("button", "tickets earlier")
    assert page.violations() == []
    page.press("button", "Keep these slices")
    page.find("region", "Slice tickets")
    page.type("find routes", "refund")
    until(lambda: "/legacy/print" not in page.text)
    page.sees("/tickets/{code}/refund")
    page.type("find routes", "fares")
    page.press("button", "GET /fares")
    page.press("button", "Picture …")
    page.sees("10 lines to bring", "what it calls")
    page.press("button", "more routes need it", within="[role=dialog]")
    assert page.violations() == []
    page.press("radio", "Share through a bridge")
    page.sees("5 lines to bring, 5 fewer than if nothing were cut off")
    page.press("button", "Close", within="[role=dialog]")
    page.sees("shared through a bridge: fare")


def test_recordings_logs_and_descriptions_are_brought_and_a_log_in_is_tried(
    both: tuple[Page, int], tmp_path: Path
) -> None:
    page, port = both
    page.go(f"/applications/{OLD}/crossing")
    page.choose("The new side", NEW)
    page.type("Where the old side answers", f"http://127.0.0.1:{port}")
    page.type("Where the new side answers", f"http://127.0.0.1:{port + 1}")
    page.press("button", "Begin")
    page.sees("0 of 13 routes stand on the new side", "ready to mirror")
    served(page.running.context.home.folder, port)

    asked = [{"request": {"method": m, "url": f"https://quay.example{p}", "headers": []}} for m, p in RECORDED]
    recording = tmp_path / "made.har"
    recording.write_text(json.dumps({"log": {"entries": asked}}))
    page.press("button", "Compare …")
    page.sees("Nothing was asked yet.")
    assert page.violations() == []
    page.find("file", "A recording").send_keys(str(recording))
    page.sees("1 of 2 answers are alike; 1 differs in number: $.fare; 1 not asked, since they change something.")
    page.type("Logs in", "POST /login")
    page.type("Needs it", "GET /account")
    page.type("Its form", "name = tester")
    page.press("button", "Check", within="[role=dialog]")
    page.sees("The new side does not log in: it answers 404.")
    assert page.violations() == []
    page.press("button", "Close", within="[role=dialog]")
    page.press("button", "GET /fares")
    page.sees("11.77 → 11.78")

    log = tmp_path / "access.log"
    day = page.running.context.today.strftime("%d/%b/%Y")
    log.write_text(f'1.1.1.1 - - [{day}:10:00:00 +0000] "GET /fares HTTP/1.1" 200 5\n' * 700)
    page.find("file", "An access log").send_keys(str(log))
    page.sees("The log is being counted.")
    page.running.settled()
    page.sees("4,900")  # a week, at 700 a day

    described = tmp_path / "quay.json"
    described.write_text(json.dumps({"openapi": "3.0.0", "paths": {"/fares": {"get": {}}, "/tides": {"get": {}}}}))
    page.press("button", "Gateway …")
    page.find("file", "An OpenAPI description").send_keys(str(described))
    page.sees("2 routes are described; 1 of them is in no code.")
    page.press("button", "Close", within="[role=dialog]")
    page.sees("/tides")
    assert page.console() == []


RECORDED = (("GET", "/sailings"), ("GET", "/fares?to=skerry&children=1"), ("POST", "/tickets"))
