"""Names of what JavaScript code runs on."""

from __future__ import annotations

from typing import Final

from yoake.core.values.coordinates import Coordinate, package

NODE: Final = Coordinate("pkg:generic/node")


_TYPES: Final = "@types/"


def described_package(name: str) -> str:
    """The package whose types another publishes, by the convention of `@types`; empty for every other name."""
    if not name.startswith(_TYPES):
        return ""
    scope, joined, plain = name.removeprefix(_TYPES).partition("__")
    return f"@{scope}/{plain}" if joined else scope


def npm(name: str) -> Coordinate:
    """The coordinate of an npm package."""
    return package("npm", name)
