"""Where a reader starts: a process that reads source files with all ecosystems that ship."""

from __future__ import annotations

from multiprocessing.connection import Connection

from yoake.core.registered import ECOSYSTEMS
from yoake.runner import reading


def serve(connection: Connection) -> None:
    """Answer batches until the connection ends."""
    reading.serve(connection, ECOSYSTEMS)
