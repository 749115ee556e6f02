"""The clients that Yoake ships with."""

from __future__ import annotations

from typing import Final

from yoake.core.values.coordinates import Coordinate
from yoake.core.values.errors import BadCoordinate
from yoake.runner.clients.contract import Client
from yoake.runner.clients.java.client import JAVA_CLIENT
from yoake.runner.clients.javascript.client import JAVASCRIPT_CLIENT
from yoake.runner.clients.python.client import PYTHON_CLIENT

CLIENTS: Final = (PYTHON_CLIENT, JAVASCRIPT_CLIENT, JAVA_CLIENT)

LOCKS: Final = {name: writer for client in CLIENTS for name, writer in client.locks.items()}
"""Name of a lock file → what renews it."""


def client_of(coordinate: Coordinate) -> Client:
    """The client that answers for a coordinate. Raises BadCoordinate with those that there are."""
    for client in CLIENTS:
        if coordinate == client.ecosystem.runtime or coordinate.type == client.ecosystem.package_type:
            return client
    kinds = [f"{c.ecosystem.runtime.short}, {c.ecosystem.package_type}/NAME" for c in CLIENTS]
    raise BadCoordinate(f"{coordinate.short} cannot be made known: only {', '.join(kinds)} can.")
