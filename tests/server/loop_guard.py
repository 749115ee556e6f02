"""What must not happen where the event loop runs: reading files, starting programs, asking for names, sleeping, asking the records.

A call that blocks the loop keeps everybody else waiting. It is seen by what it does (the interpreter's audit events, and the
tap of the records), not by a clock, so a busy machine does not matter. An audit hook cannot be taken out again: one is put in
for the whole run, and hears only while somebody listens.
"""

from __future__ import annotations

import asyncio
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, Final

BLOCKING: Final = frozenset(
    {"open", "sqlite3.connect", "subprocess.Popen", "os.system", "socket.getaddrinfo", "socket.connect", "time.sleep",
     "os.listdir", "os.scandir", "shutil.rmtree", "shutil.copyfile"}
)  # fmt: skip
_ITS_OWN: Final = ("/asyncio/", "/anyio/", "<frozen importlib", "/linecache.py", "/traceback.py", "/mimetypes.py")
"""Where the loop itself starts programs and opens connections without waiting, and what happens once."""

_heard: list[list[str]] = []


def _on_the_loop() -> bool:
    return asyncio._get_running_loop() is not None


def _place() -> str | None:
    """The innermost place in our own code, or None where the loop's own code asked."""
    frame = sys._getframe(2)
    own = None
    while frame is not None:
        file = frame.f_code.co_filename
        if any(part in file for part in _ITS_OWN) and own is None:
            return None
        if own is None and "/yoake/" in file:
            own = f"{file.rpartition('/yoake/')[2]}:{frame.f_lineno} {frame.f_code.co_name}"
        frame = frame.f_back
    return own


def tell(what: str) -> None:
    """Note ``what`` where it happens on the event loop."""
    if _heard and _on_the_loop() and (place := _place()):
        _heard[-1].append(f"{what} at {place}")


def _hook(event: str, arguments: tuple[Any, ...]) -> None:
    if _heard and event in BLOCKING:
        tell(f"{event} {arguments[0] if arguments else ''}")


sys.addaudithook(_hook)


@contextmanager
def listening() -> Iterator[list[str]]:
    """What blocked an event loop in the meantime, with the place in our own code."""
    heard: list[str] = []
    _heard.append(heard)
    try:
        yield heard
    finally:
        _heard[:] = [other for other in _heard if other is not heard]


def statement(sql: str, _seconds: float) -> None:
    """A tap of the records."""
    tell(f"statement {sql.strip().splitlines()[0]}")
