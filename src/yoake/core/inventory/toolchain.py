"""Files that say which runtime runs: pin files, container files, tox and CI."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Final

from yoake.core.coordinates import NODE, PYTHON, Coordinate
from yoake.core.inventory.model import Pin

_FROM: Final = re.compile(
    r"^\s*FROM\s+(?:--\S+\s+)?(?:\S+/)?(?P<name>python|node):v?(?P<version>\d+(?:\.\d+){0,2})", re.IGNORECASE
)
_VERSION: Final = re.compile(r"(?:python-?)?(\d+\.\d+(?:\.\d+)?)\s*$")
_NODE_VERSION: Final = re.compile(r"v?(\d+(?:\.\d+){0,2})\s*$")
_TOOL_VERSIONS: Final = re.compile(r"\s*(python|nodejs|node)\s+v?(\d+(?:\.\d+){0,2})")
_TOX_ENV: Final = re.compile(r"\bpy(\d)(\d+)\b|\bpython(\d\.\d+)\b")
_TOX_SET: Final = re.compile(r"\bpy\{([\d,\s]+)\}")
_NUMBER: Final = re.compile(r"(?<![\w.])([23]\.\d{1,2})(?![\w])")
_NODE_NUMBER: Final = re.compile(r"(?<![\w.])v?(\d{1,2})(?:\.(?:\d{1,3}|x)){0,2}(?![\w.])")
_CI_KEYS: Final = (
    (
        PYTHON,
        re.compile(r"python[-_]?versions?\s*[:=]|^\s*python\s*:", re.IGNORECASE),
        _NUMBER,
        re.compile(r"\bpython:(\d+\.\d+)"),
    ),
    (
        NODE,
        re.compile(r"node[-_]?versions?\s*[:=]|^\s*node_js\s*:", re.IGNORECASE),
        _NODE_NUMBER,
        re.compile(r"\bnode:(\d+)"),
    ),
)
_PIN_FILES: Final = (".python-version", "runtime.txt", ".nvmrc", ".node-version", ".tool-versions")


def is_toolchain_file(path: str) -> bool:
    """Whether this path (relative, with slashes) may name the version of a runtime."""
    name = path.rsplit("/", 1)[-1]
    lowered = name.lower()
    return (
        lowered
        in (
            *_PIN_FILES,
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
    if name in _PIN_FILES:
        return list(_pin_file(path, name, content))
    if "dockerfile" in name or "containerfile" in name:
        return list(_container(path, content))
    if name == "tox.ini":
        return list(_tox(path, content))
    return list(_ci(path, content))


def _pin_file(path: str, name: str, content: str) -> Iterator[Pin]:
    for number, raw in enumerate(content.splitlines(), 1):
        shown = raw.strip()
        if name == ".tool-versions":
            tool = _TOOL_VERSIONS.match(shown)
            if tool:
                runtime = PYTHON if tool.group(1) == "python" else NODE
                yield Pin(runtime.purl, tool.group(2), path, number, "pin", shown)
            continue
        runtime, pattern = (NODE, _NODE_VERSION) if name in (".nvmrc", ".node-version") else (PYTHON, _VERSION)
        found = pattern.match(shown)
        if found:
            yield Pin(runtime.purl, found.group(1), path, number, "pin", shown)


def _container(path: str, content: str) -> Iterator[Pin]:
    for number, raw in enumerate(content.splitlines(), 1):
        found = _FROM.match(raw)
        if found:
            runtime = PYTHON if found.group("name").lower() == "python" else NODE
            yield Pin(runtime.purl, found.group("version"), path, number, "container", raw.strip())


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
    """``python-version: [3.8, 3.9]`` on one line or as the list below it, and images; the same for Node."""
    for runtime, key, number, image in _CI_KEYS:
        yield from _ci_of(path, content, (runtime, key, number, image))


def _ci_of(
    path: str, content: str, kind: tuple[Coordinate, re.Pattern[str], re.Pattern[str], re.Pattern[str]]
) -> Iterator[Pin]:
    runtime, key, number, image = kind
    listing = -1
    for at, raw in enumerate(content.splitlines(), 1):
        indent = len(raw) - len(raw.lstrip())
        stripped = raw.split("#")[0].strip()
        if key.search(raw):
            listing = indent
            shown = raw.split(":", 1)[-1] if ":" in raw else raw
        elif listing >= 0 and stripped.startswith("-") and indent >= listing:
            shown = stripped
        else:
            listing = listing if not stripped else -1
            shown = ""
        for version in [*number.findall(shown), *image.findall(raw)]:
            yield Pin(runtime.purl, version, path, at, "ci", raw.strip())
