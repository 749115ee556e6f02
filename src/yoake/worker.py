"""Where the process of a job starts: one that does what it is given with all that ships."""

from __future__ import annotations

from multiprocessing.connection import Connection

from yoake.runner import executor
from yoake.shipped import KIT


def serve(connection: Connection) -> None:
    """Do jobs, one after the other, until the connection ends."""
    executor.serve(connection, KIT)
