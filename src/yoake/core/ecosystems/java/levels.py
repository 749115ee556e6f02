"""Versions of Java as people write them: ``1.8``, ``8``, ``VERSION_1_8``, ``17.0.2-tem`` … → ``8``, ``17``."""

from __future__ import annotations

import re
from typing import Final

_LEVEL: Final = re.compile(r"^(?:[A-Za-z_-]*?)?(?:1[._](?P<old>\d{1,2})|(?P<new>\d{1,2}))(?:[._+u-].*)?$")
_OLDEST, _NEWEST = 1, 60  # what else is a number is no version of Java


def level_of(text: str) -> str | None:
    """The line of Java that a text names; None when it names none."""
    found = _LEVEL.match(text.strip())
    if found is None:
        return None
    number = int(found.group("old") or found.group("new"))
    return str(number) if _OLDEST < number <= _NEWEST else None
