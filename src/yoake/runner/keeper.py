"""Keeps one command of other people within limits, and leaves no process of it behind. Runs as a process of its own.

It reads one line of JSON from its standard input, starts the command as the head of a group, and writes one line of JSON
about how it ended. When its input ends, or a limit is passed, everything that came of the command is killed: also what left the group,
since orphans come back to this process. So whoever starts it need only let go of the pipe, however they end.
"""

from __future__ import annotations

import contextlib
import ctypes
import json
import os
import resource
import select
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any, Final

import psutil

_PR_SET_PDEATHSIG: Final = 1  # prctl(2)
_PR_SET_CHILD_SUBREAPER: Final = 36  # prctl(2): orphans among descendants become children of this process
_LOOK_EVERY: Final = 0.2  # seconds between two looks at memory, processes and disk
_CHUNK: Final = 65536
_KILLS_WITHIN: Final = 10.0  # seconds to end what keeps starting more of itself
_GRACE: Final = 2.0  # seconds that a command which has ended may still have output under way
_LARGEST_FILE: Final = 4 * 1024**3  # bytes of one file that is written
_CUT: Final = b"\n[... the middle of the output was left out ...]\n"


class _Log:
    """What a command writes: the first and the last part of it are kept."""

    def __init__(self, path: Path, kept: int) -> None:
        self._file = path.open("ab")
        self._room = kept // 2
        self._tail = bytearray()
        self._most_tail = kept // 2
        self._lost = False
        self.seen = 0

    def add(self, data: bytes) -> None:
        self.seen += len(data)
        head, rest = data[: self._room], data[self._room :]
        if head:
            self._file.write(head)
            self._file.flush()
            self._room -= len(head)
        if rest:
            self._tail += rest
            if len(self._tail) > self._most_tail:
                del self._tail[: len(self._tail) - self._most_tail]
                self._lost = True

    def close(self) -> None:
        if self._lost:
            self._file.write(_CUT)
        self._file.write(self._tail)
        self._file.close()


def _prepare() -> None:
    """In the command, before it begins: it dies with its keeper, and leaves no memory image."""
    ctypes.CDLL(None, use_errno=True).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL, 0, 0, 0)
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    most = resource.getrlimit(resource.RLIMIT_AS)[1]
    resource.setrlimit(resource.RLIMIT_AS, (most, most))  # what is mapped is not what is used: that is measured
    hard = resource.getrlimit(resource.RLIMIT_FSIZE)[1]
    most = _LARGEST_FILE if hard == resource.RLIM_INFINITY else min(hard, _LARGEST_FILE)
    resource.setrlimit(resource.RLIMIT_FSIZE, (most, hard))


def _descendants() -> list[Any]:
    try:
        return list(psutil.Process().children(recursive=True))
    except psutil.Error:
        return []


def _end_all() -> None:
    """Kill every descendant. They are stopped first, so that none makes another while the rest is being killed."""
    end = time.monotonic() + _KILLS_WITHIN
    while (held := _descendants()) and time.monotonic() < end:
        for sign in (signal.SIGSTOP, signal.SIGKILL):
            for process in held:
                with contextlib.suppress(psutil.Error, OSError):
                    process.send_signal(sign)
        with contextlib.suppress(OSError):
            while os.waitpid(-1, os.WNOHANG)[0]:
                pass
        time.sleep(0.01)


def _measured(order: dict[str, Any], free_before: int) -> str:
    """Which limit is passed, in words; empty when none is."""
    held = _descendants()
    if len(held) > order["processes"]:
        return f"it had more than {order['processes']} processes"
    memory = 0
    for process in held:
        with contextlib.suppress(psutil.Error):
            memory += process.memory_info().rss
    if memory > order["memory"]:
        return f"it used more than {order['memory'] // 1024**2} MB of memory"
    gone = free_before - _free(order["place"])
    if gone > order["disk"] and _size(order["place"]) > order["disk"]:  # others write too: only what lies here counts
        return f"it wrote more than {order['disk'] // 1024**2} MB"
    return ""


def _free(place: str) -> int:
    held = os.statvfs(place)
    return held.f_bavail * held.f_frsize


def _size(place: str) -> int:
    total = 0
    for folder, _, names in os.walk(place):
        for name in names:
            with contextlib.suppress(OSError):
                total += os.lstat(f"{folder}/{name}").st_blocks * 512
    return total


def _keep(order: dict[str, Any]) -> dict[str, Any]:
    log = _Log(Path(order["log"]), order["kept"])
    started = time.monotonic()
    free = _free(order["place"])
    try:
        process = subprocess.Popen(
            order["command"],
            cwd=order["folder"],
            env=order["environment"],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            start_new_session=True,
            preexec_fn=_prepare,  # noqa: PLW1509  this process has one thread
        )
    except OSError as error:
        log.close()
        return {"code": 127, "why": f"{order['command'][0]} cannot be started: {error.strerror}", "seconds": 0.0}
    why = _watch(process, order, log, started, free)
    code = process.poll()
    _end_all()
    process.wait()
    log.close()
    return {"code": process.returncode if code is None else code, "why": why, "seconds": time.monotonic() - started}


def _watch(process: subprocess.Popen[bytes], order: dict[str, Any], log: _Log, started: float, free: int) -> str:
    """Read what it says until it ends; the limit that it passed, in words, or “stopped” when the input ends."""
    out = process.stdout
    if out is None:
        raise AssertionError("its output is a pipe")
    waiting, looked, ended = [out.fileno(), sys.stdin.fileno()], 0.0, 0.0
    while True:
        ready, _, _ = select.select(waiting, [], [], _LOOK_EVERY)
        if sys.stdin.fileno() in ready:
            return "stopped"
        if out.fileno() in ready:
            log.add(data := os.read(out.fileno(), _CHUNK))
            waiting = waiting if data else [sys.stdin.fileno()]
        now = time.monotonic()
        if process.poll() is not None:
            ended = ended or now
            if out.fileno() not in waiting or out.fileno() not in ready or now - ended > _GRACE:
                return ""
            continue
        if log.seen > order["output"]:
            return f"it wrote more than {order['output'] // 1024**2} MB of output"
        if now - looked > _LOOK_EVERY:
            looked = now
            late = f"it took longer than {order['seconds']:.0f} s" if now - started > order["seconds"] else ""
            if why := late or _measured(order, free):
                return why


def main() -> None:
    """Read the order, keep the command, tell how it ended; a stop takes away the folder too, since nobody else is there to do it."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    ctypes.CDLL(None, use_errno=True).prctl(_PR_SET_CHILD_SUBREAPER, 1, 0, 0, 0)
    order = json.loads(sys.stdin.buffer.readline())
    told = _keep(order)
    if told["why"] == "stopped":
        shutil.rmtree(order["place"], ignore_errors=True)
    with contextlib.suppress(OSError):
        sys.stdout.write(json.dumps(told) + "\n")
        sys.stdout.flush()


if __name__ == "__main__":
    main()
