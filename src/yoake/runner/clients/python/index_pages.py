"""What pip’s index lists of projects, and the metadata of their wheels, for many projects at once."""

from __future__ import annotations

import json
import re
import sys
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from datetime import date
from email.parser import HeaderParser
from importlib.resources import as_file, files
from typing import Any, Final

from packaging.specifiers import InvalidSpecifier, SpecifierSet
from packaging.utils import (
    InvalidSdistFilename,
    InvalidWheelFilename,
    parse_sdist_filename,
    parse_wheel_filename,
)
from packaging.version import Version

from yoake.runner.clients.python.artefacts import WheelFacts
from yoake.runner.clients.questions import answers

_NAME: Final = re.compile(r"[a-z0-9]([a-z0-9._-]*[a-z0-9])?")
_SOURCES: Final = (".tar.gz", ".zip")


@dataclass(frozen=True, slots=True, kw_only=True)
class ListedFile:
    """One file of a release. ``lines``: Python lines it is built for; None for a source archive. ``address``: where it can be had."""

    release: Version
    requires_python: str
    yanked: bool
    uploaded: date | None
    address: str
    lines: frozenset[str] | None

    def admits(self, line: str) -> bool:
        """Whether its metadata admits a Python line: the newest patches of it, as pip would run there."""
        try:
            allowed = SpecifierSet(self.requires_python)
        except InvalidSpecifier:
            return True
        return line in allowed or f"{line}.99" in allowed


def list_projects(names: Iterable[str], lines: Iterable[str]) -> Iterator[tuple[str, list[ListedFile]]]:
    """(name, files of final releases) as they come; no files where no index has the project. Raises BadSource."""
    asked = list(names)
    yield from ((name, []) for name in asked if not _NAME.fullmatch(name))
    questions = (json.dumps({"list": name}) for name in asked if _NAME.fullmatch(name))
    with as_file(files("yoake.runner") / "probes" / "ask_index.py") as probe:
        for answer in answers([sys.executable, str(probe), *lines], questions):
            rows = answer.get("files") or ()
            yield str(answer.get("list")), [held for row in rows if (held := _listed(row)) is not None]


def _listed(row: Mapping[str, Any]) -> ListedFile | None:
    name = str(row.get("filename"))
    try:
        release = parse_wheel_filename(name)[1] if name.endswith(".whl") else _source_release(name)
    except (InvalidWheelFilename, InvalidSdistFilename):
        return None
    if release is None or release.is_prerelease:
        return None
    uploaded, lines = str(row.get("upload-time") or ""), row.get("lines")
    return ListedFile(
        release=release,
        requires_python=str(row.get("requires-python") or ""),
        yanked=bool(row.get("yanked")),
        uploaded=date.fromisoformat(uploaded[:10]) if re.match(r"\d{4}-\d\d-\d\d", uploaded) else None,
        address=str(row.get("url")),
        lines=frozenset(map(str, lines)) if lines is not None else None,
    )


def _source_release(name: str) -> Version | None:
    return parse_sdist_filename(name)[1] if name.endswith(_SOURCES) else None


def read_metadata_of(addresses: Iterable[str]) -> Iterator[tuple[str, WheelFacts]]:
    """(address, metadata) of wheels, as they come; those that cannot be read are left out. Raises BadSource."""
    questions = (json.dumps({"metadata": address}) for address in addresses)
    with as_file(files("yoake.runner") / "probes" / "ask_index.py") as probe:
        for answer in answers([sys.executable, str(probe)], questions):
            text = answer.get("text")
            if isinstance(text, str):
                message = HeaderParser().parsestr(text)
                yield (
                    str(answer.get("metadata")),
                    WheelFacts(
                        message.get("Requires-Python", ""),
                        tuple(message.get_all("Requires-Dist") or ()),
                        tuple(message.get_all("Classifier") or ()),
                        None,
                    ),
                )
