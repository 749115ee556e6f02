"""Files that say which Python runs: pin files, container files, tox and CI."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Final

from yoake.core.coordinates import PYTHON
from yoake.core.inventory.model import Pin

_FROM: Final = re.compile(r"^\s*FROM\s+(?:--\S+\s+)?(?:\S+/)?python:(\d+\.\d+(?:\.\d+)?)", re.IGNORECASE)
_VERSION: Final = re.compile(r"(?:python-?)?(\d+\.\d+(?:\.\d+)?)\s*$")
_TOX_ENV: Final = re.compile(r"\bpy(\d)(\d+)\b|\bpython(\d\.\d+)\b")
_TOX_SET: Final = re.compile(r"\bpy\{([\d,\s]+)\}")
_CI_LINE: Final = re.compile(r"python[-_]?versions?\s*[:=]", re.IGNORECASE)
_CI_IMAGE: Final = re.compile(r"\bpython:(\d+\.\d+)")
_NUMBER: Final = re.compile(r"(?<![\w.])([23]\.\d{1,2})(?![\w])")


def is_toolchain_file(path: str) -> bool:
    """Whether this path (relative, with slashes) may name a Python version."""
    name = path.rsplit("/", 1)[-1]
    lowered = name.lower()
    return (
        lowered
        in (
            ".python-version",
            "runtime.txt",
            "tox.ini",
            ".travis.yml",
            ".gitlab-ci.yml",
            "appveyor.yml",
            "azure-pipelines.yml",
            "environment.yml",
        )
        or lowered.startswith(("dockerfile", "containerfile"))
        or lowered.endswith((".dockerfile", ".containerfile"))
        or (path.startswith(".github/workflows/") and lowered.endswith((".yml", ".yaml")))
        or path == ".circleci/config.yml"
    )


def read_toolchain(path: str, content: str) -> list[Pin]:
    """The pins of one toolchain file."""
    name = path.rsplit("/", 1)[-1].lower()
    if name in (".python-version", "runtime.txt"):
        return list(_pin_file(path, content))
    if "dockerfile" in name or "containerfile" in name:
        return list(_container(path, content))
    if name == "tox.ini":
        return list(_tox(path, content))
    return list(_ci(path, content))


def _pin_file(path: str, content: str) -> Iterator[Pin]:
    for number, raw in enumerate(content.splitlines(), 1):
        found = _VERSION.match(raw.strip())
        if found:
            yield Pin(PYTHON.purl, found.group(1), path, number, "pin", raw.strip())


def _container(path: str, content: str) -> Iterator[Pin]:
    for number, raw in enumerate(content.splitlines(), 1):
        found = _FROM.match(raw)
        if found:
            yield Pin(PYTHON.purl, found.group(1), path, number, "container", raw.strip())


def _tox(path: str, content: str) -> Iterator[Pin]:
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


def _ci(path: str, content: str) -> Iterator[Pin]:
    """``python-version: [3.8, 3.9]`` on one line or as the list below it, and images."""
    listing = -1
    for number, raw in enumerate(content.splitlines(), 1):
        indent = len(raw) - len(raw.lstrip())
        stripped = raw.split("#")[0].strip()
        if _CI_LINE.search(raw) or re.match(r"\s*python\s*:", raw):
            listing = indent
            shown = raw.split(":", 1)[-1] if ":" in raw else raw
        elif listing >= 0 and stripped.startswith("-") and indent >= listing:
            shown = stripped
        else:
            listing = listing if not stripped else -1
            shown = ""
        versions = [*_NUMBER.findall(shown), *_CI_IMAGE.findall(raw)]
        for version in versions:
            yield Pin(PYTHON.purl, version, path, number, "ci", raw.strip())
