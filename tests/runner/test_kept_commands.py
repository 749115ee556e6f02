"""A command of other people: whatever it does, it ends, says what ended it, and leaves no process behind."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
from pathlib import Path

import psutil
import pytest

from tests.waiting import until
from yoake.core.values.errors import Stopped
from yoake.runner.kept_commands import Ended, RunLimits, run_kept

_MB = 1024**2
_SMALL = RunLimits(seconds=60, processes=20, memory=400 * _MB, disk=50 * _MB, output=5 * _MB, kept=2000)


def run(
    place: Path, code: str, limits: RunLimits = _SMALL, stopped: threading.Event | None = None
) -> tuple[Ended, str]:
    place.mkdir(exist_ok=True)
    log = place.parent / "log"
    marked = {"PATH": os.environ["PATH"], "YOAKE_MARK": str(place)}
    ask = stopped.is_set if stopped is not None else lambda: False
    ended = run_kept(
        command=[sys.executable, "-c", code],
        folder=place,
        environment=marked,
        place=place,
        log=log,
        limits=limits,
        stopped=ask,
    )
    return ended, log.read_text("utf-8", "replace")


def left_behind(place: Path) -> list[int]:
    """Processes that carry the mark of a run."""
    found = []
    for process in psutil.process_iter():
        try:
            if process.environ().get("YOAKE_MARK") == str(place) and process.status() != psutil.STATUS_ZOMBIE:
                found.append(process.pid)
        except psutil.Error:
            continue
    return found


def test_what_it_says_and_how_it_ends_is_kept(tmp_path: Path) -> None:
    ended, log = run(tmp_path / "p", "import sys; print('out'); print('err', file=sys.stderr); sys.exit(3)")
    assert (ended.code, ended.why) == (3, "")
    assert sorted(log.split()) == ["err", "out"]


def test_a_question_is_answered_with_the_end_of_the_input(tmp_path: Path) -> None:
    ended, log = run(tmp_path / "p", "try:\n    input()\nexcept EOFError:\n    print('nobody')")
    assert (ended.code, log.strip()) == (0, "nobody")


def test_a_program_that_is_not_there_is_told(tmp_path: Path) -> None:
    ended = run_kept(["no-such-program"], tmp_path, {"PATH": "/bin"}, tmp_path, tmp_path / "log", _SMALL)
    assert ended.code == 127
    assert ended.why == "no-such-program cannot be started: No such file or directory"


@pytest.mark.parametrize(
    ("code", "limits", "words"),
    [
        ("import time; time.sleep(600)", RunLimits(seconds=1), "longer than 1 s"),
        ("while True: print('x' * 10000)", _SMALL, "more than 5 MB of output"),
        ("x = bytearray(800 * 1024**2)\nimport time; time.sleep(600)", _SMALL, "more than 400 MB of memory"),
        (
            "import os, time\nfor _ in range(200):\n    if os.fork() == 0: time.sleep(600)\ntime.sleep(600)",
            _SMALL,
            "more than 20 processes",
        ),
        (
            "f = open('big', 'wb')\nfor _ in range(300): f.write(os.urandom(1024**2)) if 'os' in dir() else exec('import os')\nf.flush(); import time; time.sleep(600)",
            _SMALL,
            "wrote more than 50 MB",
        ),
    ],
    ids=["endless", "talkative", "greedy", "many", "filling"],
)
def test_each_limit_ends_it_and_says_so(tmp_path: Path, code: str, limits: RunLimits, words: str) -> None:
    ended, _ = run(tmp_path / "p", code, limits)
    assert words in ended.why
    assert left_behind(tmp_path / "p") == []


def test_a_long_output_keeps_its_beginning_and_its_end(tmp_path: Path) -> None:
    _, log = run(tmp_path / "p", "print('first'); [print('x' * 99) for _ in range(1000)]; print('last')")
    assert log.startswith("first\n")
    assert log.endswith("last\n")
    assert "left out" in log
    assert len(log) < 3000


def test_a_program_that_goes_into_the_background_is_ended_with_the_command(tmp_path: Path) -> None:
    code = "import os, time\nif os.fork() == 0:\n    os.setsid()\n    if os.fork() == 0: time.sleep(600)\n    os._exit(0)\nos.wait()"
    ended, _ = run(tmp_path / "p", code)
    assert (ended.code, ended.why) == (0, "")
    assert left_behind(tmp_path / "p") == []


def test_a_stop_ends_everything_and_takes_the_folder_away(tmp_path: Path) -> None:
    stop = threading.Event()
    place = tmp_path / "p"
    code = "import os, time\nif os.fork() == 0: os.setsid()\nopen('here%d' % os.getpid(), 'w').close(); time.sleep(600)"
    done: list[type[BaseException]] = []

    def work() -> None:
        try:
            run(place, code, stopped=stop)
        except Stopped:
            done.append(Stopped)

    thread = threading.Thread(target=work)
    thread.start()
    until(lambda: len(list(place.glob("here*"))) == 2)
    stop.set()
    thread.join()
    assert done == [Stopped]
    assert left_behind(place) == []
    assert not place.exists()


def test_who_started_it_may_be_killed_and_nothing_goes_on(tmp_path: Path) -> None:
    place = tmp_path / "p"
    place.mkdir()
    inner = "open('here', 'w').close(); import time; time.sleep(600)"
    code = (
        "from pathlib import Path; from yoake.runner.kept_commands import *; import sys\n"
        f"p = Path({str(place)!r})\n"
        f"run_kept([sys.executable, '-c', {inner!r}], p, {{'YOAKE_MARK': str(p)}}, p, p.parent / 'log', RunLimits())"
    )
    starter = subprocess.Popen([sys.executable, "-c", code], start_new_session=True)
    until((place / "here").exists)
    os.killpg(starter.pid, signal.SIGKILL)
    starter.wait()
    until(lambda: left_behind(place) == [] and not place.exists())
