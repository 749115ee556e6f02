"""``tox.ini``: the interpreters that tests run on."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Final

from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.values.modules import Pin

_TOX_ENV: Final = re.compile(r"\bpy(\d)(\d+)\b|\bpython(\d\.\d+)\b")
_TOX_SET: Final = re.compile(r"\bpy\{([\d,\s]+)\}")


def read_tox(path: str, content: str) -> Iterator[Pin]:
    """Interpreters that ``tox.ini`` names."""
    listing = False
    for number, raw in enumerate(content.splitlines(), 1):
        if re.match(r"\s*(envlist|env_list)\s*=", raw):
            listing = True
        elif raw[:1] not in (" ", "\t"):
            listing = False
        if listing:
            for short in _tox_versions(raw):
                yield Pin(PYTHON.purl, short, path, number, "ci", raw.strip())


def _tox_versions(raw: str) -> Iterator[str]:
    for group in _TOX_SET.findall(raw):
        for digits in re.findall(r"\d+", group):
            yield f"{digits[0]}.{digits[1:] or '0'}"
    for major, minor, full in _TOX_ENV.findall(raw):
        yield full or f"{major}.{minor}"
