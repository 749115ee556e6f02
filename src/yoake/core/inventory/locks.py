"""Lock files of Python projects: exact releases."""

from __future__ import annotations

import json
import tomllib
from typing import Any

from yoake.core.coordinates import PYTHON
from yoake.core.inventory.model import Fault, Locked, Module, Pin
from yoake.core.inventory.requirements import line_of_text


def read_pipfile_lock(path: str, content: str, module: Module) -> None:
    """``Pipfile.lock``: default and develop sections, and the Python it was made for."""
    try:
        body: dict[str, Any] = json.loads(content)
    except ValueError as error:
        module.faults.append(Fault(path, f"not valid JSON: {error}"))
        return
    requires = body.get("_meta", {}).get("requires", {}) if isinstance(body, dict) else {}
    version = requires.get("python_full_version") or requires.get("python_version")
    if version:
        module.pins.append(Pin(PYTHON.purl, version, path, line_of_text(content, "python_version"), "lock", version))
    for section in ("default", "develop"):
        for name, entry in body.get(section, {}).items():
            release = str(entry.get("version", "")).removeprefix("==") if isinstance(entry, dict) else ""
            if release:
                module.locked.append(Locked(name, release, path, line_of_text(content, f'"{name}"')))


def read_toml_lock(path: str, content: str, module: Module) -> None:
    """``poetry.lock``, ``uv.lock`` and ``pdm.lock``: one ``[[package]]`` table a release."""
    try:
        body = tomllib.loads(content)
    except tomllib.TOMLDecodeError as error:
        module.faults.append(Fault(path, f"not valid TOML: {error}"))
        return
    lines = {line.strip(): number for number, line in reversed(list(enumerate(content.splitlines(), 1)))}
    for entry in body.get("package", []):
        name, release = entry.get("name"), entry.get("version")
        if isinstance(name, str) and isinstance(release, str):
            module.locked.append(Locked(name, release, path, lines.get(f'name = "{name}"', 1)))
