"""Where the interface for programs lives, and the version of it."""

from __future__ import annotations

from typing import Final

_ROOT: Final = "/api"
API: Final = f"{_ROOT}/v1"
"""What every route begins with. A later version stands beside it, under a number of its own."""


def versioned(path: str) -> str:
    """A path as it is served: without a version, as the first programs wrote it, the first version is meant."""
    plain = path == _ROOT or path.startswith(f"{_ROOT}/")
    return API + path[len(_ROOT) :] if plain and not path.startswith(f"{API}/") and path != API else path
