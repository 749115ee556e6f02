"""Where tests run jobs: in processes of this machine as the product does, lent from test to test where nothing around them differs."""

from __future__ import annotations

import os
import sys

from yoake.runner.child import Child
from yoake.runner.executor import ProcessExecutor

_SPARE: dict[int, Child] = {}


class LentExecutor(ProcessExecutor):
    """Starting an interpreter and reading the knowledge takes two seconds: an idle process serves the next test, too."""

    def __init__(self) -> None:
        super().__init__()
        self._begun: dict[Child, int] = {}

    def _take(self) -> Child:
        """Only who runs a job takes the spare one: an application that is never started is never closed either."""
        here = _surroundings()
        if not self._idle and not self._closed and here in _SPARE:
            self._idle.append(_SPARE.pop(here))
        child = super()._take()
        self._begun.setdefault(child, here)
        return child

    def close(self) -> None:
        """Keep one idle process for the next test in the same surroundings; end everything else at once."""
        here = _surroundings()
        with self._lock:
            self._closed = True
            kept = next((child for child in self._idle if self._begun[child] == here), None)
            if kept is not None and here not in _SPARE:
                self._idle.remove(kept)
                _SPARE[here] = kept
        super().close()


def _surroundings() -> int:
    """What a process is started with: tests that change it need one of their own."""
    said = {name: value for name, value in os.environ.items() if name != "PYTEST_CURRENT_TEST"}
    return hash((tuple(sorted(said.items())), tuple(sys.path), os.getcwd()))  # noqa: PTH109  only to tell places apart
