"""``tox.ini``: the interpreters that tests run on, what they need there, and how they are run."""

from __future__ import annotations

import re
from collections.abc import Iterator
from configparser import ConfigParser, ParsingError
from typing import Final

from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.values.modules import Pin

_TOX_ENV: Final = re.compile(r"\bpy(\d)(\d+)\b|\bpython(\d\.\d+)\b")
_FACTORS: Final = re.compile(r"([!\w.{},-]+):(?!//)\s+(.*)$")
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
                yield Pin(coordinate=PYTHON, version=short, file=path, line=number, how="ci", text=raw.strip())


def tox_test_settings(content: str, line: str = "") -> tuple[list[str], list[str]]:
    """(dependencies, commands) of the environment for tests, as a line of Python has them; what a factor other than that line asks for is
    left out."""
    parser = ConfigParser(interpolation=None, strict=False)
    try:
        parser.read_string(content)
    except ParsingError:
        return [], []
    factor = f"py{line.replace('.', '')}"
    deps, commands = (
        [
            text
            for row in parser.get("testenv", key, fallback="").splitlines()
            if (text := _of_factor(row.strip(), factor)) and not text.startswith("#")
        ]
        for key in ("deps", "commands")
    )
    return deps, commands


def _of_factor(row: str, factor: str) -> str:
    """A row without the factors before it, empty where they do not hold."""
    found = _FACTORS.match(row)
    if found is None:
        return row
    options = re.sub(r"\{([\d,]+)\}", lambda m: f"({m.group(1).replace(',', '|')})", found.group(1)).split(",")
    return found.group(2).strip() if any(re.fullmatch(option.strip(), factor) for option in options) else ""


def _tox_versions(raw: str) -> Iterator[str]:
    for group in _TOX_SET.findall(raw):
        for digits in re.findall(r"\d+", group):
            yield f"{digits[0]}.{digits[1:] or '0'}"
    for major, minor, full in _TOX_ENV.findall(raw):
        yield full or f"{major}.{minor}"
