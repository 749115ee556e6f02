"""The name of Django."""

from __future__ import annotations

from typing import Final

from yoake.core.values.coordinates import Coordinate

DJANGO: Final = Coordinate("pkg:pypi/django")
