"""What stands behind the application that a test of the server asks."""

from __future__ import annotations

from typing import Any

from fastapi.testclient import TestClient


def state_of(client: TestClient) -> Any:
    """Its state: the context, the queue, who may sign in."""
    return client.app.state  # type: ignore[attr-defined]
