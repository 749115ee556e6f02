"""Lock files of Python projects: exact releases."""

from __future__ import annotations

import json

from yoake.core.contract.texts import line_numbers, parse_toml, table
from yoake.core.ecosystems.python.names import PYTHON, pypi
from yoake.core.values.modules import Fault, Locked, Module, Pin


def read_pipfile_lock(path: str, content: str, module: Module) -> None:
    """``Pipfile.lock``: default and develop sections, and the Python it was made for."""
    try:
        body = json.loads(content)
    except (ValueError, RecursionError) as error:
        module.faults.append(Fault(path, f"not valid JSON: {error}"))
        return
    if not isinstance(body, dict):
        module.faults.append(Fault(path, "not a Pipfile.lock: it is no JSON object"))
        return
    numbers = line_numbers(content)
    requires = table(table(body.get("_meta")).get("requires"))
    version = requires.get("python_full_version") or requires.get("python_version")
    if isinstance(version, str):
        module.pins.append(
            Pin(
                coordinate=PYTHON,
                version=version,
                file=path,
                line=numbers.get("python_version", 1),
                how="lock",
                text=version,
            )
        )
    for section in ("default", "develop"):
        for name, entry in table(body.get(section)).items():
            release = str(table(entry).get("version") or "").removeprefix("==")
            if release:
                module.locked.append(Locked(pypi(name), release, path, numbers.get(name, 1)))


def read_toml_lock(path: str, content: str, module: Module) -> None:
    """``poetry.lock``, ``uv.lock`` and ``pdm.lock``: one ``[[package]]`` table a release."""
    try:
        body = parse_toml(content)
    except ValueError as error:
        module.faults.append(Fault(path, f"not valid TOML: {error}"))
        return
    lines = {line.strip(): number for number, line in reversed(list(enumerate(content.splitlines(), 1)))}
    packages = body.get("package", [])
    for entry in packages if isinstance(packages, list) else ():
        name, release = table(entry).get("name"), table(entry).get("version")
        if isinstance(name, str) and isinstance(release, str):
            module.locked.append(Locked(pypi(name), release, path, lines.get(f'name = "{name}"', 1)))
