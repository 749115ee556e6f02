"""Run a command of other people through a keeper: limits on time, memory, processes, disk and output, and nothing left behind."""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from yoake.core.values.errors import Stopped

_MB: Final = 1024**2
_ENDS_WITHIN: Final = 15.0  # seconds for a keeper to kill everything and take away its folder
_LOOK_EVERY: Final = 0.1


@dataclass(frozen=True, slots=True, kw_only=True)
class RunLimits:
    """What one command may take: seconds, processes at once, and bytes of memory, disk, output, and output that is kept."""

    seconds: float = 1800.0
    processes: int = 256
    memory: int = 4096 * _MB
    disk: int = 8192 * _MB
    output: int = 256 * _MB
    kept: int = 4 * _MB


@dataclass(frozen=True, slots=True)
class Ended:
    """How a command ended: its code, what ended it when it did not end by itself, and after how long."""

    code: int
    why: str
    seconds: float


def run_kept(
    command: Sequence[str],
    folder: Path,
    environment: Mapping[str, str],
    place: Path,
    log: Path,
    limits: RunLimits,
    stopped: Callable[[], bool] = lambda: False,
) -> Ended:
    """Run a command in ``folder``; all that it makes lies in ``place``, what it says is added to ``log``. Raises Stopped."""
    order = {
        "command": list(command),
        "folder": str(folder),
        "environment": dict(environment),
        "place": str(place),
        "log": str(log),
        "seconds": limits.seconds,
        "processes": limits.processes,
        "memory": limits.memory,
        "disk": limits.disk,
        "output": limits.output,
        "kept": limits.kept,
    }
    keeper = subprocess.Popen(
        [sys.executable, "-I", str(Path(__file__).with_name("keeper.py"))],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        start_new_session=True,  # who ends this process and its group leaves the keeper time to do its work
    )
    try:
        if keeper.stdin is None or keeper.stdout is None:
            raise AssertionError("both are pipes")
        keeper.stdin.write(json.dumps(order).encode() + b"\n")
        keeper.stdin.flush()
        while keeper.poll() is None and not stopped():
            try:
                keeper.wait(_LOOK_EVERY)
            except subprocess.TimeoutExpired:
                continue
        if keeper.poll() is None:
            raise Stopped("The run was stopped; nothing of it is left running.")
        told = json.loads(keeper.stdout.read() or "{}")
        return Ended(
            told.get("code", -9), told.get("why", "its keeper was ended from outside"), told.get("seconds", 0.0)
        )
    finally:
        if keeper.stdin is not None:
            keeper.stdin.close()
        try:
            keeper.wait(_ENDS_WITHIN)
        except subprocess.TimeoutExpired:
            keeper.kill()
            keeper.wait()
        if keeper.stdout is not None:
            keeper.stdout.close()
