"""Jobs on a cluster: a real scheduler and two workers, the same results, stops, and a worker that is lost."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from typing import Any

import pytest

from tests.conftest import write
from tests.runner.test_executor import gone
from tests.waiting import until
from yoake.context.context import Context
from yoake.core.values.errors import BadInput, Stopped
from yoake.formats.tables import ApplicationRow
from yoake.runner.cluster import ClusterExecutor
from yoake.runner.executor import BrokenJob, Work
from yoake.store.applications import list_applications
from yoake.store.jobs import get_job
from yoake.usecases.jobs import JOBS
from yoake.usecases.queue import Queue
from yoake.usecases.take_in import take_in
from yoake.views.findings import Query, find_findings

ROOT = Path(__file__).parents[2]


def free_port() -> int:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return int(found.getsockname()[1])


@pytest.fixture(scope="module")
def cluster(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[str, list[subprocess.Popen[bytes]]]]:
    """A scheduler and two workers, each a process started as a person would."""
    address = f"tcp://127.0.0.1:{free_port()}"
    environment = {**os.environ, "PYTHONPATH": str(ROOT), "DASK_DISTRIBUTED__SCHEDULER__ALLOWED_FAILURES": "3"}

    def start(module: str, *arguments: str) -> subprocess.Popen[bytes]:
        return subprocess.Popen(
            [sys.executable, "-W", "ignore", "-m", f"distributed.cli.{module}", *arguments, "--no-dashboard"],
            env=environment, cwd=tmp_path_factory.mktemp(module), stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip

    scheduler = start("dask_scheduler", "--host", "127.0.0.1", "--port", address.rsplit(":", 1)[1])
    workers = [
        start("dask_worker", address, "--host", "127.0.0.1", "--nthreads", "1", "--no-nanny", "--name", name)
        for name in "ab"
    ]
    yield address, workers
    for process in (*workers, scheduler):
        process.kill()
        process.wait()


@pytest.fixture
def executor(cluster: tuple[str, list[subprocess.Popen[bytes]]]) -> Iterator[ClusterExecutor]:
    made = ClusterExecutor(cluster[0])
    until(lambda: len(made._client.scheduler_info()["workers"]) >= 1)
    yield made
    made.close()


def run(executor: ClusterExecutor, name: str, task: object = None, stopped: Callable[[], bool] = lambda: False):
    return executor.run(Work(f"tests.jobs:{name}", task), lambda _said: None, stopped)


def test_results_and_errors_are_those_of_this_machine(executor: ClusterExecutor) -> None:
    assert run(executor, "Counter")[1] == 1
    with pytest.raises(BadInput, match="two faults") as caught:
        run(executor, "Breaker", "foreseen")
    assert caught.value.faults == ("one", "two")
    with pytest.raises(BrokenJob, match="ZeroDivisionError"):
        run(executor, "Breaker", "unforeseen")


def test_a_stop_reaches_the_job_and_ends_all_it_started(executor: ClusterExecutor) -> None:
    said: list[tuple[int, int]] = []
    with pytest.raises(Stopped):
        executor.run(Work("tests.jobs:Sleeper", None), said.append, lambda: bool(said))
    until(lambda: all(gone(process) for process in said[0]), 20)


def _ended(context: Context, job: int) -> bool:
    return get_job(context.db, job)["state"] in ("done", "failed")


def test_a_scan_there_is_the_scan_here(executor: ClusterExecutor, context: Context, tmp_path: Path) -> None:
    source = write(
        tmp_path / "a",
        {".python-version": "3.8\n", "a.py": "import imp\nimport asyncore\n", "requirements.txt": "six==1.16.0\n"},
    )
    rows = [
        ApplicationRow(
            number=n, name=name, source=str(source), ref="", subfolder=sub, owner="", team="", destination="python@3.13"
        )
        for n, (name, sub) in enumerate((("here", ""), ("there", ".")))
    ]
    take_in(context, rows, "Ines")
    for application, where in zip(list_applications(context.db), (None, executor), strict=True):
        more: dict[str, Any] = {"executor": where} if where is not None else {}
        queue = Queue(context=context, kinds=JOBS, workers=1, beside=1, **more)
        queue.start()
        job = queue.ask([application], "x")[0]
        until(partial(_ended, context, job))
        assert get_job(context.db, job)["state"] == "done", get_job(context.db, job)["problem"]
        queue.close()
    here, there = (find_findings(context, slug, Query(), 0, 100) for slug in ("here", "there"))
    assert here == there
    assert here.total >= 2


def test_a_worker_that_is_lost_costs_no_job(
    cluster: tuple[str, list[subprocess.Popen[bytes]]], executor: ClusterExecutor, tmp_path: Path
) -> None:
    """The last test of this cluster: one of its two machines goes while it works."""
    until(lambda: len(executor._client.scheduler_info()["workers"]) == 2)
    marker = tmp_path / "first"

    def lose(said: object) -> None:
        if isinstance(said, int) and not marker.exists():
            marker.write_text("")
            os.kill(said, signal.SIGKILL)  # the worker itself, not only its job

    assert executor.run(Work("tests.jobs:Witness", marker), lose, lambda: False) == "seen again"


def test_a_cluster_that_does_not_answer_is_told() -> None:
    with pytest.raises(BadInput, match="does not answer"):
        ClusterExecutor(f"tcp://127.0.0.1:{free_port()}")
