"""Files that say which runtime runs and that many runtimes share: pin files, container files and CI."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import TYPE_CHECKING, Final

from yoake.core.values.modules import Pin

if TYPE_CHECKING:
    from yoake.core.contract.ecosystem import Ecosystem
    from yoake.core.contract.registry import Registry

_FROM: Final = re.compile(r"^\s*FROM\s+(?:--\S+\s+)?(?:\S+/)?(?P<name>[\w.-]+):(?P<tag>[\w.-]+)", re.IGNORECASE)
_TOOL: Final = re.compile(r"\s*([\w-]+)\s+(\S+)")
_TOOLS_FILE: Final = ".tool-versions"
_CI_FILES: Final = (".travis.yml", ".gitlab-ci.yml", "appveyor.yml", "azure-pipelines.yml")


def is_toolchain_file(path: str, ecosystems: Registry) -> bool:
    """Whether this path (relative, with slashes) may name the version of a runtime."""
    name = path.rsplit("/", 1)[-1].lower()
    return (
        name == _TOOLS_FILE
        or name in _CI_FILES
        or _is_container_file(name)
        or (path.startswith(".github/workflows/") and name.endswith((".yml", ".yaml")))
        or path == ".circleci/config.yml"
        or any(name in e.words.pin_files or name in e.words.files for e in ecosystems.ecosystems)
    )


def _is_container_file(name: str) -> bool:
    return name.startswith(("dockerfile", "containerfile")) or name.endswith((".dockerfile", ".containerfile"))


def read_toolchain(path: str, content: str, ecosystems: Registry) -> list[Pin]:
    """The pins of one toolchain file."""
    name = path.rsplit("/", 1)[-1].lower()
    found: list[Pin] = []
    if name == _TOOLS_FILE:
        return list(_tools(path, content, ecosystems))
    if _is_container_file(name):
        return list(_container(path, content, ecosystems))
    for each in ecosystems.ecosystems:
        if name in each.words.pin_files:
            found.extend(_pin_file(path, content, each))
        elif name in each.words.files:
            found.extend(each.words.files[name](path, content))
        elif not any(name in e.words.pin_files or name in e.words.files for e in ecosystems.ecosystems):
            found.extend(_ci(path, content, each))
    return found


def _tools(path: str, content: str, ecosystems: Registry) -> Iterator[Pin]:
    for number, raw in enumerate(content.splitlines(), 1):
        shown = raw.strip()
        tool = _TOOL.match(shown)
        for each in ecosystems.ecosystems if tool else ():
            version = each.words.tool_version(tool.group(2)) if tool and tool.group(1) in each.words.tools else None
            if version is not None:
                yield Pin(coordinate=each.runtime, version=version, file=path, line=number, how="pin", text=shown)


def _pin_file(path: str, content: str, ecosystem: Ecosystem) -> Iterator[Pin]:
    pattern = ecosystem.words.pin_files[path.rsplit("/", 1)[-1].lower()]
    for number, raw in enumerate(content.splitlines(), 1):
        found = pattern.match(raw.strip())
        if found:
            yield Pin(
                coordinate=ecosystem.runtime,
                version=found.group(1),
                file=path,
                line=number,
                how="pin",
                text=raw.strip(),
            )


def _container(path: str, content: str, ecosystems: Registry) -> Iterator[Pin]:
    for number, raw in enumerate(content.splitlines(), 1):
        found = _FROM.match(raw)
        for each in ecosystems.ecosystems if found else ():
            version = each.words.image(found.group("name").lower(), found.group("tag")) if found else None
            if version is not None:
                yield Pin(
                    coordinate=each.runtime, version=version, file=path, line=number, how="container", text=raw.strip()
                )


def _ci(path: str, content: str, ecosystem: Ecosystem) -> Iterator[Pin]:
    """``KEY: [3.8, 3.9]`` on one line or as the list below it, and images."""
    words = ecosystem.words
    listing = -1
    for at, raw in enumerate(content.splitlines(), 1):
        indent = len(raw) - len(raw.lstrip())
        stripped = raw.split("#")[0].strip()
        if words.ci_key.search(raw):
            listing = indent
            shown = raw.split(":", 1)[-1] if ":" in raw else raw
        elif listing >= 0 and stripped.startswith("-") and indent >= listing:
            shown = stripped
        else:
            listing = listing if not stripped else -1
            shown = ""
        for version in [*words.ci_number.findall(shown), *words.ci_image.findall(raw)]:
            yield Pin(coordinate=ecosystem.runtime, version=version, file=path, line=at, how="ci", text=raw.strip())
