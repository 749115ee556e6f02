"""Jobs that misbehave, for tests of what runs them."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

from yoake.core.values.errors import BadInput

Tell = Callable[[str, object], None]


class Sleeper:
    """Says its process and that of a child of its own, then never ends."""

    def __init__(self, _kit: object) -> None:
        pass

    def __call__(self, _task: object, tell: Tell) -> None:
        grandchild = subprocess.Popen([sys.executable, "-c", "import time; time.sleep(600)"])
        tell("said", (os.getpid(), grandchild.pid))
        time.sleep(600)


class Dier:
    """Is killed as often as the number in a file says, then answers."""

    def __init__(self, _kit: object) -> None:
        pass

    def __call__(self, task: Path, _tell: Tell) -> str:
        left = int(task.read_text())
        if left:
            task.write_text(str(left - 1))
            os.kill(os.getpid(), signal.SIGKILL)
        return "lived"


class Eater:
    """Wants more memory than there is."""

    def __init__(self, _kit: object) -> None:
        pass

    def __call__(self, task: int, _tell: Tell) -> int:
        return len(bytearray(task))


class Counter:
    """Counts how often it was asked, and with that whether it is the same process."""

    def __init__(self, _kit: object) -> None:
        self.asked = 0

    def __call__(self, _task: object, _tell: Tell) -> tuple[int, int]:
        self.asked += 1
        return os.getpid(), self.asked


class Breaker:
    """Fails in a way nobody foresaw, or in a foreseen one."""

    def __init__(self, _kit: object) -> None:
        pass

    def __call__(self, task: str, _tell: Tell) -> None:
        secret = "a value that no log may hold"
        if task == "foreseen":
            raise BadInput("two faults", ("one", "two"))
        raise ZeroDivisionError(f"unforeseen {len(secret)}")


class Witness:
    """Says the process that runs its job, and waits to be lost with it; answers when it is tried again."""

    def __init__(self, _kit: object) -> None:
        pass

    def __call__(self, marker: Path, tell: Tell) -> str:
        if marker.exists():
            return "seen again"
        tell("said", os.getppid())
        time.sleep(600)
        return "never lost"
