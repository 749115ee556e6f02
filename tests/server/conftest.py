"""A running application over a home of its own, asked through HTTP."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from starlette.testclient import TestClient

from tests.conftest import NOW, write
from tests.executors import LentExecutor
from tests.server import loop_guard
from tests.waiting import until
from yoake.context.context import open_context
from yoake.runner.home import Home
from yoake.server.app import create_app
from yoake.server.guard import Reach
from yoake.shipped import KIT
from yoake.usecases.jobs import JOBS
from yoake.usecases.queue import Queue

HERE = Reach(frozenset(("testserver",)))


@pytest.fixture(autouse=True)
def loop_is_free() -> Iterator[None]:
    """Nothing that a test of the server does may keep the event loop waiting."""
    with loop_guard.listening() as heard:
        yield
    assert not heard, "the event loop was kept waiting:\n  " + "\n  ".join(dict.fromkeys(heard))


@pytest.fixture
def client(home: Home) -> Iterator[TestClient]:
    context = open_context(home, KIT)
    context.db.tap = loop_guard.statement
    with TestClient(
        create_app(context, Queue(context=context, kinds=JOBS, workers=1, executor=LentExecutor()), HERE),
        headers={"X-Yoake-Who": "In%C3%A9s"},
    ) as made:
        yield made


@pytest.fixture
def pinned(home: Home) -> Iterator[TestClient]:
    """An application whose clock stands still."""
    context = open_context(home, KIT, lambda: NOW)
    queue = Queue(context=context, kinds=JOBS, workers=1, executor=LentExecutor())
    with TestClient(create_app(context, queue, HERE), headers={"X-Yoake-Who": "In%C3%A9s"}) as made:
        yield made


@pytest.fixture
def app_folder(tmp_path: Path) -> Path:
    files = {
        ".python-version": "3.8\n",
        "pkg/a.py": "import imp\nfrom collections import Mapping\n",
        "requirements.txt": "six==1.16.0\n",
    }
    return write(tmp_path / "desk", files)


def take(client: TestClient, source: Path, to: str = "python@3.13") -> str:
    found = client.post("/api/v1/intake/preview", json={"source": str(source), "destination": to}).json()
    taken = client.post("/api/v1/intake", json={"candidates": found["candidates"]}).json()
    settled(client)
    return str(taken["slugs"][0])


def settled(client: TestClient) -> None:
    until(lambda: all(j["state"] not in ("waiting", "running") for j in client.get("/api/v1/jobs").json()))


def findings(client: TestClient, slug: str) -> list[dict[str, Any]]:
    """Every finding of a small application, in full."""
    rows = client.get(f"/api/v1/applications/{slug}/findings").json()["rows"]
    return [client.get(f"/api/v1/applications/{slug}/findings/{row['key']}").json() for row in rows]


def steps(client: TestClient) -> list[dict[str, Any]]:
    """Every step of a small portfolio."""
    return list(client.get("/api/v1/work?state=all").json()["rows"])
