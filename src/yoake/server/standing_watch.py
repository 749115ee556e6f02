"""The thread that does what is due by itself, as long as the server runs."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Final

import structlog

from yoake.core.values.errors import YoakeError
from yoake.runner.mail import MailServer
from yoake.usecases.queue import Queue
from yoake.usecases.watch import Watcher

log = structlog.get_logger()

_FIRST_AFTER: Final = 20.0  # seconds: a start is not the time for it
_EVERY: Final = 300.0
_ENDS_WITHIN: Final = 5.0


@contextmanager
def standing_watch(queue: Queue, mail: MailServer | None) -> Iterator[None]:
    """Looks every few minutes whether something is due, until left."""
    ended = threading.Event()
    watcher = Watcher(queue.context, queue.ask, queue.ask_look_up, queue.ask_next, mail)

    def look() -> None:
        wait = _FIRST_AFTER
        while not ended.wait(wait):
            wait = _EVERY
            try:
                for said in watcher.do_what_is_due():
                    log.info("standing watch", did=said)
            except YoakeError as error:
                log.warning("standing watch", problem=str(error))
            except Exception:  # a full disk today must not end the watch for good
                log.exception("standing watch")

    thread = threading.Thread(target=look, name="standing-watch", daemon=True)
    thread.start()
    try:
        yield
    finally:
        ended.set()
        thread.join(timeout=_ENDS_WITHIN)
