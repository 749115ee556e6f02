"""Django's paths with converters as templates."""

from __future__ import annotations

import re
from typing import Final

_CONVERTER: Final = re.compile(r"<(?:([^>:]+):)?(\w+)>")


def path_template(route: str) -> tuple[str, frozenset[str]]:
    """``items/<int:pk>/`` as (template, parameters that may hold slashes)."""
    rest = frozenset(m.group(2) for m in _CONVERTER.finditer(route) if m.group(1) == "path")
    return _CONVERTER.sub(lambda m: f"{{{m.group(2)}}}", route), rest
