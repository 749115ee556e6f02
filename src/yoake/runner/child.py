"""A child process of our own: talks through a pipe, has limits, and never outlives who started it.

The parent starts a fresh interpreter (no fork: the server has threads). The first message names the
function to serve; it gets the connection and runs until the connection ends. A child that leads a group takes the
whole group with it when it is killed.
"""

from __future__ import annotations

import contextlib
import ctypes
import os
import resource
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Sequence
from dataclasses import dataclass
from importlib import import_module
from multiprocessing.connection import Connection
from typing import Any, Final

_PR_SET_PDEATHSIG: Final = 1  # prctl(2)
_MAIN: Final = "import sys; from yoake.runner.child import main; main(sys.argv[1:])"
_ENDS_WITHIN: Final = 5.0  # seconds for the system to take back a killed process
_TOLD_WITHIN: Final = (
    0.5  # seconds that a stop waits for that: what is killed does no more work, however long its end takes
)


class Lost(Exception):
    """The child ended before it answered. ``signal`` is what ended it, 0 when it left by itself."""

    def __init__(self, code: int) -> None:
        super().__init__(f"the process ended with {code}")
        self.signal = -code if code < 0 else 0


@dataclass(frozen=True, slots=True)
class Opening:
    """The first message to a child: what to serve, where to import from, and how much memory it may map (0: no limit)."""

    module: str
    function: str
    path: tuple[str, ...]
    memory: int


class Child:
    """One child process. Not safe for two threads at once, except ``kill``."""

    def __init__(self, module: str, function: str, *, memory: int = 0, leads: bool = True) -> None:
        ours, theirs = _pair()
        watched, held = os.pipe()  # the child reads `watched` to its end, which comes when this process ends
        self._held = held
        self._ending = threading.Lock()
        self.leads = leads
        try:
            self.process = subprocess.Popen(
                [sys.executable, "-c", _MAIN, str(theirs), str(watched)],
                pass_fds=(theirs, watched),
                stdin=subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,  # what it says goes through the pipe; the person's output is not its own
                start_new_session=leads,
            )
        except OSError:
            os.close(held)
            os.close(ours)
            raise
        finally:
            os.close(theirs)
            os.close(watched)
        self.connection = Connection(ours)
        self.send(Opening(module, function, tuple(sys.path), memory))

    def send(self, message: object) -> None:
        """Give it a message. Raises Lost when it has ended."""
        try:
            self.connection.send(message)
        except OSError as error:
            raise Lost(self._ended()) from error

    def receive(self) -> Any:
        """Its next message; waits for one. Raises Lost when it has ended."""
        try:
            return self.connection.recv()
        except (EOFError, OSError) as error:
            raise Lost(self._ended()) from error

    def waiting(self, seconds: float) -> bool:
        """Whether a message (or the end) is there within ``seconds``."""
        return self.connection.poll(seconds)

    def kill(self) -> None:
        """End it at once, with everything it started when it leads a group; a second call does nothing."""
        with contextlib.suppress(ProcessLookupError, PermissionError):
            if self.leads:
                os.killpg(self.process.pid, signal.SIGKILL)
            else:
                self.process.kill()
        try:
            self.process.wait(_TOLD_WITHIN)
        except subprocess.TimeoutExpired:  # it gives back much memory, or waits for a disk
            threading.Thread(target=self.process.wait, name="end of a child", daemon=True).start()
        with self._ending:  # whoever runs a job and whoever closes everything may both come here
            held, self._held = self._held, -1
            if held >= 0:
                os.close(held)
                self.connection.close()

    def _ended(self) -> int:
        try:
            return self.process.wait(_ENDS_WITHIN)
        except subprocess.TimeoutExpired:
            return 0


def _pair() -> tuple[int, int]:
    """Two ends of a two-way pipe, as file descriptors."""
    ours, theirs = socket.socketpair()
    return ours.detach(), theirs.detach()


def _end_with_parent(watched: int) -> None:
    """Die when the parent does, seen by a pipe whose other end only the parent has; a leader takes its group with it.

    The kernel ends a follower even where it is busy in code that lets no other thread run; for a leader that would be
    too early, since what it started would live on.
    """
    leads = os.getpgrp() == os.getpid()
    if not leads:
        with contextlib.suppress(OSError, AttributeError):
            ctypes.CDLL(None, use_errno=True).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL, 0, 0, 0)

    def wait_for_the_end() -> None:
        with contextlib.suppress(OSError):
            os.read(watched, 1)
        (os.killpg if leads else os.kill)(os.getpid(), signal.SIGKILL)

    threading.Thread(target=wait_for_the_end, name="parent", daemon=True).start()


def limit_memory(size: int) -> None:
    """Let this process map at most ``size`` bytes; what goes beyond fails inside it instead of taking the machine's."""
    hard = resource.getrlimit(resource.RLIMIT_AS)[1]
    wanted = size if hard == resource.RLIM_INFINITY else min(size, hard)
    resource.setrlimit(resource.RLIMIT_AS, (wanted, hard))


def main(arguments: Sequence[str]) -> None:
    """What runs in the child."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # a person's Ctrl-C is the parent's to answer
    descriptor, watched = map(int, arguments)
    _end_with_parent(watched)
    connection = Connection(descriptor)
    try:
        opening: Opening = connection.recv()
        sys.path[:] = opening.path
        if opening.memory:
            limit_memory(opening.memory)
        getattr(import_module(opening.module), opening.function)(connection)
    except (EOFError, BrokenPipeError, ConnectionResetError):
        return
