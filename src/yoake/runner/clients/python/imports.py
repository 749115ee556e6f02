"""Ask the real thing: a library put into a throw-away folder and imported by a child process, for what no text shows."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tarfile
import tempfile
import zipfile
from collections.abc import Iterable, Mapping
from importlib.resources import files
from pathlib import Path, PurePosixPath
from typing import Final

from yoake.core.values.coordinates import Line, line_key
from yoake.core.values.errors import BadSource
from yoake.runner.clients.python.interpreters import find_interpreters

_SECONDS: Final = 240
_MAX_TEXT: Final = 4 * 1024 * 1024
_ROOTS: Final = ("src/", "lib/", "")


def ask_names(name: str, release: str, modules: Mapping[str, Iterable[str]]) -> dict[str, list[str] | None]:
    """Names of each module of one release, asked of the newest interpreter here that can have it; empty when none can.

    ``modules``: module → names that other releases have, tried where a module answers for names it does not list.
    """
    programs = find_interpreters()
    for line in sorted(programs, key=line_key, reverse=True):
        with tempfile.TemporaryDirectory(prefix="yoake-ask-") as place:
            if not _put(name, release, line, place):
                continue
            answer = _import(programs[line], place, {module: sorted(tried) for module, tried in modules.items()})
            if any(names for names in answer.values()):
                return answer
    return {}


def _put(name: str, release: str, line: str, place: str) -> bool:
    """Install wheels only, for one Python line, into a folder."""
    only = ["--only-binary", ":all:", "--python-version", line, "--target", place]
    command = [sys.executable, "-m", "pip", "install", "--quiet", "--no-input", "--disable-pip-version-check", *only]
    try:
        done = subprocess.run([*command, f"{name}=={release}"], capture_output=True, timeout=_SECONDS, check=False)
    except subprocess.TimeoutExpired:
        return False
    return done.returncode == 0


def _import(program: Path, place: str, modules: dict[str, list[str]]) -> dict[str, list[str] | None]:
    probe = (files("yoake.runner") / "probes" / "package.py").read_text("utf-8")
    environment = {"PATH": os.environ.get("PATH", ""), "PYTHONPATH": place, "HOME": place, "LANG": "C.UTF-8"}
    try:
        done = subprocess.run(
            [str(program), "-c", probe],
            input=json.dumps(modules),
            capture_output=True,
            text=True,
            timeout=_SECONDS,
            cwd=place,
            env=environment,
            check=False,
        )
        answer: dict[str, list[str] | None] = json.loads(done.stdout)
    except (subprocess.TimeoutExpired, ValueError):
        return {}
    return answer


def sdist_texts(name: str, release: str) -> dict[str, bytes]:
    """Python text of a source distribution, for releases without a wheel. Its build may be run by pip. Raises BadSource."""
    programs = find_interpreters()
    tried = [Path(sys.executable), *(programs[line] for line in map(Line, ("3.8", "3.6", "2.7")) if line in programs)]
    for program in tried:
        with tempfile.TemporaryDirectory(prefix="yoake-sdist-") as place:
            only = ["--no-deps", "--no-binary", ":all:", "--no-build-isolation", "--dest", place]
            command = [str(program), "-m", "pip", "download", "--quiet", "--disable-pip-version-check", *only]
            try:
                subprocess.run([*command, f"{name}=={release}"], capture_output=True, timeout=_SECONDS, check=False)
            except subprocess.TimeoutExpired:
                continue
            archives = sorted(Path(place).iterdir())
            if archives:
                return _packages(_texts(archives[0]))
    raise BadSource(f"{name} {release} has neither a wheel nor a source distribution that pip can fetch here.")


def _texts(path: Path) -> dict[str, bytes]:
    found: dict[str, bytes] = {}
    try:
        if path.suffix == ".zip":
            with zipfile.ZipFile(path) as packed:
                for info in packed.infolist():
                    if info.filename.endswith(".py") and info.file_size <= _MAX_TEXT:
                        found[info.filename.split("/", 1)[-1]] = packed.read(info)
            return found
        with tarfile.open(path) as archive:
            for member in archive:
                if member.isfile() and member.name.endswith(".py") and member.size <= _MAX_TEXT:
                    handle = archive.extractfile(member)
                    found[member.name.split("/", 1)[-1]] = handle.read() if handle is not None else b""
    except (tarfile.TarError, zipfile.BadZipFile, OSError) as error:
        raise BadSource(f"{path.name} is no archive: {error}") from error
    return found


def _packages(texts: Mapping[str, bytes]) -> dict[str, bytes]:
    """Only what would be installed: packages at the root or below ``src``, and modules beside ``setup.py``."""
    for root in _ROOTS:
        inside = {path.removeprefix(root): data for path, data in texts.items() if path.startswith(root)}
        tops = {PurePosixPath(path).parts[0] for path in inside if path.endswith("/__init__.py")}
        found = {path: data for path, data in inside.items() if path.split("/", 1)[0] in tops}
        if found:
            return found
    return {path: data for path, data in texts.items() if "/" not in path and path not in ("setup.py", "conftest.py")}
