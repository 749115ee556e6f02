"""Requirements in the forms that Python manifests write them."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Mapping
from typing import Final

from packaging.requirements import InvalidRequirement
from packaging.requirements import Requirement as Parsed

from yoake.core.inventory.model import Requirement

_COMMENT: Final = re.compile(r"(^|\s)#.*$")
_INCLUDE: Final = re.compile(r"(?:-r|--requirement|-c|--constraint)[\s=]*(\S+)")
_EGG: Final = re.compile(r"[#&]egg=([A-Za-z0-9._-]+)")
_OPTIONS: Final = re.compile(r"\s--?(hash|global-option|install-option|config-settings)\b.*$")
_POETRY: Final = re.compile(r"^[~^]")


def parse_requirement(raw: str, file: str, line: int, group: str = "") -> Requirement | None:
    """One requirement as PEP 508 writes it; None when it is none."""
    try:
        parsed = Parsed(raw.strip())
    except InvalidRequirement:
        egg = _EGG.search(raw)
        return Requirement(egg.group(1), "", file, line, group) if egg else None
    return Requirement(parsed.name, str(parsed.specifier), file, line, group, str(parsed.marker or ""))


def read_requirements_file(
    path: str, files: Mapping[str, str], group: str = "", seen: frozenset[str] = frozenset()
) -> Iterator[Requirement]:
    """A requirements file and what it includes with ``-r`` and ``-c`` (once each, inside the scanned folder)."""
    if path in seen or path not in files:
        return
    seen = seen | {path}
    pending, start = "", 0
    for number, raw in enumerate(files[path].splitlines(), 1):
        start = start if pending else number
        pending += _COMMENT.sub("", raw)
        if pending.endswith("\\"):
            pending = pending[:-1]
            continue
        entry, pending = pending.strip(), ""
        include = _INCLUDE.match(entry)
        if include:
            inner = posixpath.normpath(posixpath.join(posixpath.dirname(path), include.group(1)))
            yield from read_requirements_file(inner, files, group, seen)
        elif entry and (not entry.startswith("-") or entry.startswith(("-e", "--editable"))):
            found = parse_requirement(_OPTIONS.sub("", entry), path, start, group)
            if found is not None:
                yield found


def poetry_specifier(value: object) -> str:
    """Poetry's ``^1.2`` and ``~1.2`` as a PEP 440 specifier; other text is kept."""
    if isinstance(value, Mapping):
        value = value.get("version", "")
    if not isinstance(value, str) or value in ("*", ""):
        return ""
    return ",".join(filter(None, (_one_poetry(part.strip()) for part in value.split(","))))


def _one_poetry(part: str) -> str:
    if not _POETRY.match(part):
        return part if part[:1] in "<>=!~" else f"=={part}"
    numbers = [int(n) for n in re.findall(r"\d+", part)] or [0]
    low = ".".join(map(str, numbers))
    if part[0] == "~":
        upper = [numbers[0], numbers[1] + 1] if len(numbers) > 1 else [numbers[0] + 1]
    else:
        at = next((i for i, n in enumerate(numbers) if n), len(numbers) - 1)
        upper = [*numbers[:at], numbers[at] + 1]
    return f">={low},<{'.'.join(map(str, upper))}"


def line_of_text(text: str, needle: str) -> int:
    """The first line that holds ``needle`` (any case), 1 when none does."""
    wanted = needle.lower()
    for number, line in enumerate(text.splitlines(), 1):
        if wanted in line.lower():
            return number
    return 1
