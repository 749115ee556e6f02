"""Artefacts of PyPI projects through pip, the ordinary client, as it is set up here."""

from __future__ import annotations

import hashlib
import subprocess
import sys
import tempfile
import zipfile
from dataclasses import dataclass
from datetime import date
from email.parser import HeaderParser
from pathlib import Path
from typing import Final

from packaging.version import InvalidVersion, Version

from yoake.core.values.coordinates import Line
from yoake.core.values.errors import BadSource
from yoake.runner.clients.python.interpreters import find_interpreters

_SECONDS: Final = 300
_LISTED: Final = "Available versions:"
_ZIP_EPOCH: Final = 1980  # the year of archives that were made without time stamps
_TOO_NEW: Final = "use pip<24.1"  # what a newer pip says of old metadata that it no longer reads
_OLD_PIP: Final = Line("3.8")  # the interpreter whose own pip still reads it
_PYTHONS: Final = ("3.13", "3.11", "3.9", "3.7", "2.7")


def _pip(*arguments: str, program: str = sys.executable) -> subprocess.CompletedProcess[str]:
    command = [program, "-m", "pip", "--disable-pip-version-check", "--no-input", *arguments]
    return subprocess.run(command, capture_output=True, text=True, timeout=_SECONDS, check=False)


def final_releases(name: str) -> list[str]:
    """All final releases pip knows of, oldest first. Raises BadSource."""
    done = _pip("index", "versions", name, "--ignore-requires-python")
    if done.returncode != 0:
        raise BadSource(f"pip knows no releases of “{name}”: {done.stderr.strip().splitlines()[-1:]}")
    return _final(_listed(done.stdout))


def _listed(shown: str) -> list[str]:
    """Releases in the words of ``pip index versions``: every pip has them, JSON only the newer ones."""
    line = next((row for row in shown.splitlines() if row.startswith(_LISTED)), _LISTED)
    return [part.strip() for part in line.removeprefix(_LISTED).split(",") if part.strip()]


def fitting_releases(name: str, python: str, *, wheels_only: bool) -> list[str]:
    """Final releases whose metadata admits a Python line, oldest first; with ``wheels_only`` only those built for it."""
    only = ("--only-binary", ":all:") if wheels_only else ()
    mode = only or ("--no-binary", ":none:")
    done = _pip("index", "versions", name, "--python-version", python, *mode)
    return _final(_listed(done.stdout)) if done.returncode == 0 else []


def _final(raw: list[str]) -> list[str]:
    versions = []
    for text in raw:
        try:
            version = Version(text)
        except InvalidVersion:
            continue
        if not version.is_prerelease:
            versions.append(version)
    return [str(version) for version in sorted(versions)]


def fetch_wheel(name: str, release: str, folder: Path) -> Path:
    """Download one release's wheel, for the newest Python that has one. Raises BadSource."""
    wanted = f"{name}=={release}"
    for python in _PYTHONS:
        only = ("--quiet", "--no-deps", "--only-binary", ":all:", "--python-version", python)
        done = _pip("download", *only, "--dest", str(folder), "--ignore-requires-python", wanted)
        wheels = sorted(folder.glob("*.whl"))
        if _TOO_NEW in done.stderr and (older := find_interpreters().get(_OLD_PIP)):
            _pip("download", *only, "--dest", str(folder), "--ignore-requires-python", wanted, program=str(older))
            wheels = sorted(folder.glob("*.whl"))
        if wheels:
            return wheels[0]
    raise BadSource(f"{name} {release} has no wheel that pip can fetch here.")


def wheel_texts(name: str, release: str) -> tuple[dict[str, bytes], str]:
    """Python text of one release's wheel: path → bytes, and the wheel's digest. Raises BadSource."""
    with tempfile.TemporaryDirectory(prefix="yoake-wheel-") as folder:
        return read_wheel(fetch_wheel(name, release, Path(folder)))


def read_wheel(path: Path) -> tuple[dict[str, bytes], str]:
    """Python text inside a wheel, and the wheel's digest. Raises BadSource for what is no archive."""
    try:
        with zipfile.ZipFile(path) as archive:
            names = [
                n for n in archive.namelist() if n.endswith((".py", ".pyi", "/VERSIONS")) and ".dist-info/" not in n
            ]
            texts = {name: archive.read(name) for name in names}
    except (zipfile.BadZipFile, OSError) as error:
        raise BadSource(f"{path.name} is no wheel: {error}") from error
    return texts, hashlib.sha256(path.read_bytes()).hexdigest()[:16]


@dataclass(frozen=True, slots=True)
class WheelFacts:
    """What the metadata of a wheel says; ``built`` is the newest time stamp inside it, None where it has none."""

    requires_python: str
    requires: tuple[str, ...]
    classifiers: tuple[str, ...]
    built: date | None


def wheel_facts(name: str, release: str) -> tuple[WheelFacts, dict[str, bytes]]:
    """Metadata of one release and its Python text, read from its wheel. Raises BadSource."""
    with tempfile.TemporaryDirectory(prefix="yoake-wheel-") as folder:
        wheel = fetch_wheel(name, release, Path(folder))
        return read_metadata(wheel), read_wheel(wheel)[0]


def read_metadata(path: Path) -> WheelFacts:
    """The metadata inside a wheel. Raises BadSource for what is no wheel."""
    try:
        with zipfile.ZipFile(path) as archive:
            inner = next((n for n in archive.namelist() if n.endswith(".dist-info/METADATA")), None)
            if inner is None:
                raise BadSource(f"{path.name} holds no metadata.")
            message = HeaderParser().parsestr(archive.read(inner).decode("utf-8", "replace"))
            stamps = [info.date_time for info in archive.infolist() if info.date_time[0] > _ZIP_EPOCH]
    except (zipfile.BadZipFile, OSError) as error:
        raise BadSource(f"{path.name} is no wheel: {error}") from error
    newest = max(stamps, default=None)
    return WheelFacts(
        message.get("Requires-Python", ""),
        tuple(message.get_all("Requires-Dist") or ()),
        tuple(message.get_all("Classifier") or ()),
        date(*newest[:3]) if newest is not None else None,
    )
