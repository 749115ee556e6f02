"""Names of what JavaScript code runs on."""

from __future__ import annotations

from typing import Final

from yoake.core.values.coordinates import Coordinate, package

NODE: Final = Coordinate("pkg:generic/node")


def npm(name: str) -> Coordinate:
    """The coordinate of an npm package."""
    return package("npm", name)
