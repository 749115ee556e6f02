"""Python interpreters on this machine, and what their standard library offers."""

from __future__ import annotations

import hashlib
import json
import os
import re
import shutil
import subprocess
from collections.abc import Iterator
from importlib.metadata import PackageNotFoundError, version
from importlib.resources import files
from pathlib import Path
from typing import Final

from yoake.core.values.coordinates import Line
from yoake.core.values.errors import BadSource
from yoake.core.values.symbols import Surface, SurfaceSymbol

_PROBE_SECONDS: Final = 180
_NAME: Final = re.compile(r"python(\d(\.\d+)?)?$")
SUPPORTED: Final = ("2.7", "3.6", "3.7", "3.8", "3.9", "3.10", "3.11", "3.12", "3.13", "3.14", "3.15")


def find_interpreters() -> dict[Line, Path]:
    """Line → program, for every interpreter on PATH and under pyenv; the first found wins."""
    found: dict[Line, Path] = {}
    for program in _candidates():
        line = _line(program)
        if line and line in SUPPORTED:
            found.setdefault(line, program)
    return found


def interpreter_for(line: Line) -> str:
    """Where an interpreter of a line is; empty where there is none, or none that can make environments."""
    program = find_interpreters().get(line) if not line.startswith("2.") else None
    return f"installed: {program.parent.parent.name}" if program is not None else ""


def own_pip() -> tuple[str, str]:
    """The pip that runs beside Yoake and installs into environments."""
    try:
        return "pip", version("pip")
    except PackageNotFoundError:
        return "pip", ""


def _candidates() -> Iterator[Path]:
    root = Path(os.environ.get("PYENV_ROOT", Path.home() / ".pyenv")) / "versions"
    if root.is_dir():
        for folder in sorted(root.iterdir()):
            if (folder / "bin" / "python").exists():
                yield folder / "bin" / "python"
    for line in SUPPORTED:
        program = shutil.which(f"python{line}")
        if program:
            yield Path(program)


def _line(program: Path) -> Line | None:
    code = "import sys; print('%d.%d' % sys.version_info[:2])"
    try:
        done = subprocess.run([program, "-E", "-s", "-c", code], capture_output=True, text=True, timeout=20, check=True)
    except (OSError, subprocess.SubprocessError):
        return None
    return Line(done.stdout.strip())


def capture_stdlib(line: Line, program: Path) -> Surface:
    """Import every module of the interpreter's own library in a child process and list what it offers."""
    probe = files("yoake.runner") / "probes" / "stdlib.py"
    done = subprocess.run(
        [program, "-E", "-s", "-B", str(probe)], capture_output=True, timeout=_PROBE_SECONDS, check=False
    )
    if done.returncode != 0:
        tail = done.stderr.decode("utf-8", "replace").strip().splitlines()[-1:]
        raise BadSource(f"{program} could not list its standard library: {' '.join(tail)}")
    body = json.loads(done.stdout.splitlines()[-1])
    digest = hashlib.sha256(done.stdout).hexdigest()[:16]
    surface = Surface(line, body["release"], "interpreter", digest)
    for path, (kind, alias, signature, deprecated, unread, instance_of) in body["symbols"].items():
        bases = (instance_of,) if instance_of else ()
        surface.symbols[path.replace("__builtin__", "builtins", 1) if path.startswith("__builtin__.") else path] = (
            SurfaceSymbol(
                kind=kind, alias=alias, bases=bases, signature=signature, deprecated=deprecated, unread=unread
            )
        )
    if line.startswith("2."):
        surface.symbols["builtins"] = SurfaceSymbol(kind="m")
    return surface
