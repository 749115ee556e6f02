"""The live stream of scans, over a real socket; and that the event loop is never blocked by it."""

from __future__ import annotations

import json
import socket
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
import uvicorn

from tests.conftest import write
from tests.executors import LentExecutor
from tests.waiting import until
from yoake.context.context import open_context
from yoake.runner.home import Home
from yoake.server.app import create_app
from yoake.shipped import KIT
from yoake.usecases.jobs import JOBS
from yoake.usecases.queue import Queue


@pytest.fixture
def address(home: Home) -> Iterator[str]:
    context = open_context(home, KIT)
    queue = Queue(context=context, kinds=JOBS, workers=1, executor=LentExecutor())
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    server = uvicorn.Server(
        uvicorn.Config(create_app(context, queue), port=port, log_level="warning", timeout_graceful_shutdown=1)
    )
    thread = threading.Thread(target=server.run)
    thread.start()
    until(lambda: server.started)
    yield f"http://127.0.0.1:{port}"
    queue.close()
    server.should_exit = True
    thread.join()


def test_progress_is_sent_as_it_happens_and_reading_is_never_blocked(address: str, tmp_path: Path) -> None:
    folder = write(
        tmp_path / "big", {f"m{i}.py": "import os\n" + f"x = os.path.join('a', '{i}')\n" * 400 for i in range(250)}
    )
    states: list[str] = []
    slowest = 0.0
    with httpx.Client(base_url=address, timeout=30) as client, client.stream("GET", "/api/v1/jobs/stream") as stream:
        found = client.post("/api/v1/intake/preview", json={"source": str(folder), "destination": "python@3.13"}).json()
        client.post("/api/v1/intake", json={"candidates": found["candidates"]})
        for line in stream.iter_lines():
            if not line.startswith("data: "):
                continue
            jobs = json.loads(line[6:])
            if jobs:
                states.append(jobs[0]["state"] if not jobs[0]["total"] else f"{jobs[0]['phase']} {jobs[0]['total']}")
                begun = time.monotonic()
                assert client.get("/api/v1/health").status_code == 200
                slowest = max(slowest, time.monotonic() - begun)
            if jobs and jobs[0]["state"] == "done":
                break
    assert states[-1] == "done"
    assert any(state.startswith("reading 250") for state in states), states
    assert slowest < 10
