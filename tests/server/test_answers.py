"""How views go back: packed for whoever takes it, a few at a time, and none held up by those that take long."""

from __future__ import annotations

import threading
from dataclasses import dataclass

import anyio
import pytest
from fastapi import FastAPI, Query
from fastapi.testclient import TestClient

from yoake.server import answers
from yoake.server.answers import take_turn, view_router
from yoake.server.guard import Guard, Reach
from yoake.server.metrics import Metrics


@dataclass(frozen=True, slots=True)
class Tide:
    """A view of this test."""

    harbour: str
    heights: list[float]


def application() -> FastAPI:
    router = view_router()

    @router.get("/tide")
    def get_tide(count: int = Query(2, ge=0)) -> Tide:
        """Heights of a day."""
        return Tide("Harrowmere", [1.5] * count)

    app = FastAPI()
    app.include_router(router)
    app.add_middleware(Guard, reach=Reach(frozenset(("*",))), metrics=Metrics())
    return app


def test_a_view_is_described_checked_and_packed_where_it_is_large() -> None:
    app = application()
    client = TestClient(app)
    small, large = client.get("/tide"), client.get("/tide?count=900")
    assert small.json() == {"harbour": "Harrowmere", "heights": [1.5, 1.5]}
    assert "content-encoding" not in small.headers
    assert (large.headers["content-encoding"], len(large.json()["heights"])) == ("gzip", 900)
    plain = client.get("/tide?count=900", headers={"Accept-Encoding": "identity"})
    assert "content-encoding" not in plain.headers
    assert plain.json() == large.json()
    assert client.get("/tide?count=-1").status_code == 422
    described = app.openapi()["paths"]["/tide"]["get"]
    assert (described["summary"], described["description"]) == ("Get Tide", "Heights of a day.")
    shape = described["responses"]["200"]["content"]["application/json"]["schema"]
    assert shape == {"$ref": "#/components/schemas/Tide"}


def test_what_takes_long_holds_up_nobody() -> None:
    go = threading.Event()
    done: list[str] = []

    def slow() -> None:
        assert go.wait(60)
        done.append("slow")

    def quick() -> None:
        done.append("quick")

    async def look() -> None:
        async with anyio.create_task_group() as asked:
            for _ in range(2):
                asked.start_soon(take_turn, slow)
            await take_turn(quick)
            go.set()

    anyio.run(look)
    assert done[0] == "quick"
    assert sorted(done) == ["quick", "slow", "slow"]


def test_only_a_few_are_made_at_a_time(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(answers, "_PATIENCE", 60)
    most, running, lock = [0], [0], threading.Lock()

    def short() -> None:
        with lock:
            running[0] += 1
            most[0] = max(most[0], running[0])
        with lock:
            running[0] -= 1

    async def look() -> None:
        async with anyio.create_task_group() as asked:
            for _ in range(40):
                asked.start_soon(take_turn, short)

    anyio.run(look)
    assert most[0] <= 2
