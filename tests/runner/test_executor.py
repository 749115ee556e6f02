"""Jobs in processes: results, limits, stops, and nothing left behind."""

from __future__ import annotations

import os
import subprocess
import sys
import textwrap
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from tests.waiting import until
from yoake.core.values.errors import BadInput, LimitReached, Stopped
from yoake.runner.child import Child
from yoake.runner.executor import BrokenJob, Limits, ProcessExecutor, Work


@pytest.fixture
def executor() -> Iterator[ProcessExecutor]:
    made = ProcessExecutor(Limits(60, 2 * 1024**3))
    yield made
    made.close()


def run(executor: ProcessExecutor, name: str, task: object = None, stopped: Callable[[], bool] = lambda: False):
    return executor.run(Work(f"tests.jobs:{name}", task), lambda _said: None, stopped)


def gone(process: int) -> bool:
    """Whether a process has ended; one that waits to be collected has."""
    try:
        return Path(f"/proc/{process}/stat").read_text().rsplit(")", 1)[1].split()[0] == "Z"
    except OSError:
        return True


def test_a_process_serves_one_job_after_the_other_and_keeps_what_it_read(executor: ProcessExecutor) -> None:
    first, second = run(executor, "Counter"), run(executor, "Counter")
    assert (first[0], second[1]) == (second[0], 2)


def test_two_jobs_at_once_have_a_process_each(executor: ProcessExecutor) -> None:
    said: list[tuple[int, int]] = []
    stop = threading.Event()

    def sleep() -> None:
        with pytest.raises(Stopped):
            executor.run(Work("tests.jobs:Sleeper", None), said.append, stop.is_set)

    thread = threading.Thread(target=sleep)
    thread.start()
    until(lambda: said)
    assert run(executor, "Counter")[0] != said[0][0]
    stop.set()
    thread.join()


def test_a_stop_ends_the_process_and_all_that_it_started_whatever_it_does(executor: ProcessExecutor) -> None:
    said: list[tuple[int, int]] = []
    began = time.monotonic()
    with pytest.raises(Stopped):
        executor.run(Work("tests.jobs:Sleeper", None), said.append, lambda: bool(said))
    assert time.monotonic() - began < 60
    until(lambda: all(gone(process) for process in said[0]), 5)
    assert run(executor, "Counter")[1] == 1


def test_a_process_that_was_lost_once_is_replaced_and_the_job_done(executor: ProcessExecutor, tmp_path: Path) -> None:
    (tmp_path / "deaths").write_text("1")
    assert run(executor, "Dier", tmp_path / "deaths") == "lived"


def test_what_is_lost_twice_fails_with_words_and_the_next_job_runs(executor: ProcessExecutor, tmp_path: Path) -> None:
    (tmp_path / "deaths").write_text("9")
    with pytest.raises(LimitReached, match="ended twice .signal 9.*memory"):
        run(executor, "Dier", tmp_path / "deaths")
    assert run(executor, "Counter")[1] == 1


def test_a_job_that_takes_too_long_is_ended_and_says_what_to_do() -> None:
    executor = ProcessExecutor(Limits(seconds=0.5))
    with pytest.raises(LimitReached, match="YOAKE_JOB_MINUTES"):
        run(executor, "Sleeper")
    executor.close()


def test_a_job_that_wants_too_much_memory_fails_alone(executor: ProcessExecutor) -> None:
    with pytest.raises(LimitReached, match="YOAKE_JOB_MEMORY"):
        run(executor, "Eater", 5 * 1024**3)
    assert run(executor, "Eater", 10) == 10


def test_a_foreseen_error_arrives_with_all_its_faults(executor: ProcessExecutor) -> None:
    with pytest.raises(BadInput, match="two faults") as caught:
        run(executor, "Breaker", "foreseen")
    assert caught.value.faults == ("one", "two")


def test_an_unforeseen_error_arrives_with_its_trace_and_without_values(executor: ProcessExecutor) -> None:
    with pytest.raises(BrokenJob, match="ZeroDivisionError") as caught:
        run(executor, "Breaker", "unforeseen")
    assert "in __call__" in caught.value.trace
    assert "a value that no log may hold" not in caught.value.trace.replace(
        'secret = "a value that no log may hold"', ""
    )


def test_closing_ends_what_runs(executor: ProcessExecutor) -> None:
    said: list[tuple[int, int]] = []
    ended: list[Exception] = []

    def sleep() -> None:
        try:
            executor.run(Work("tests.jobs:Sleeper", None), said.append, lambda: False)
        except Stopped as error:
            ended.append(error)

    thread = threading.Thread(target=sleep)
    thread.start()
    until(lambda: said)
    executor.close()
    thread.join(20)
    assert ended
    until(lambda: all(gone(process) for process in said[0]), 5)


def test_two_may_end_one_child_at_once(executor: ProcessExecutor) -> None:
    child = Child("tests.jobs", "Counter")
    threads = [threading.Thread(target=child.kill) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert child._held == -1
    assert run(executor, "Counter")[1] == 1


def test_a_stop_does_not_wait_for_a_process_that_takes_long_to_end(monkeypatch: pytest.MonkeyPatch) -> None:
    child = Child("tests.jobs", "Counter")
    ended, collected, wait = threading.Event(), threading.Event(), child.process.wait

    def slow(timeout: float | None = None) -> int:
        if timeout is not None:
            raise subprocess.TimeoutExpired("child", timeout)
        assert ended.wait(60)
        collected.set()
        return wait()

    monkeypatch.setattr(child.process, "wait", slow)
    child.kill()
    assert child._held == -1
    assert not collected.is_set()
    ended.set()
    assert collected.wait(60)


def test_no_process_outlives_a_parent_that_was_killed() -> None:
    script = textwrap.dedent("""
        from yoake.runner.executor import ProcessExecutor, Work
        ProcessExecutor().run(Work("tests.jobs:Sleeper", None), lambda said: print(*said, flush=True), lambda: False)
    """)
    parent = subprocess.Popen(
        [sys.executable, "-c", script], stdout=subprocess.PIPE, text=True, cwd=Path(__file__).parents[2]
    )
    assert parent.stdout is not None
    processes = [int(word) for word in parent.stdout.readline().split()]
    assert len(processes) == 2
    parent.kill()
    parent.wait()
    parent.stdout.close()
    until(lambda: all(gone(process) for process in processes), 5)
    assert os.getpid() not in processes
