"""Names of what Python code runs on."""

from __future__ import annotations

from functools import lru_cache
from typing import Final

from packaging.utils import canonicalize_name

from yoake.core.values.coordinates import Coordinate, package

PYTHON: Final = Coordinate("pkg:generic/python")


@lru_cache(maxsize=8192)
def pypi(name: str) -> Coordinate:
    """The coordinate of a PyPI project, its name made canonical."""
    return package("pypi", canonicalize_name(name))
