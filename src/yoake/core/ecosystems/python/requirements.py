"""Requirements in the forms that Python manifests write them."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Mapping
from itertools import islice
from typing import Final

from packaging.requirements import InvalidRequirement
from packaging.requirements import Requirement as Parsed

from yoake.core.ecosystems.python.names import pypi
from yoake.core.values.modules import Module, Requirement

REQUIREMENTS: Final = re.compile(
    r"(^|/)(requirements[^/]*|[^/]*requirements|constraints)\.(txt|in)$|(^|/)requirements/[^/]+\.(txt|in)$"
)
"""Paths of requirements files."""

_MAX_REQUIREMENTS: Final = 20_000  # of one file and what it includes; a mirror's list of everything has more
_DEV_WORDS: Final = ("dev", "test", "doc", "lint", "ci", "constraints", "local")
_COMMENT: Final = re.compile(r"(^|\s)#.*$")
_INCLUDE: Final = re.compile(r"(?:-r|--requirement|-c|--constraint)[\s=]*(\S+)")
_EGG: Final = re.compile(r"[#&]egg=([A-Za-z0-9._-]+)")
_OPTIONS: Final = re.compile(r"\s--?(hash|global-option|install-option|config-settings)\b.*$")
_MAX_ENTRY: Final = (
    4_000  # characters of one requirement; with hashes they stand on lines of their own and are cut off first
)
_MAX_INCLUDED: Final = 200  # files that one requirements file leads to; real ones lead to a handful
_POETRY: Final = re.compile(r"^(?:~(?!=)|\^)")


def parse_requirement(raw: str, file: str, line: int, group: str = "") -> Requirement | None:
    """One requirement as PEP 508 writes it; None when it is none."""
    if len(raw) > _MAX_ENTRY:
        return None
    try:
        parsed = Parsed(raw.strip())
    except InvalidRequirement:
        egg = _EGG.search(raw)
        return (
            Requirement(
                coordinate=pypi(egg.group(1)), name=egg.group(1), specifier="", file=file, line=line, group=group
            )
            if egg
            else None
        )
    except (RecursionError, ValueError):
        return None  # nested or numbered beyond anything that is meant
    return Requirement(
        coordinate=pypi(parsed.name),
        name=parsed.name,
        specifier=str(parsed.specifier),
        file=file,
        line=line,
        group=group,
        marker=str(parsed.marker or ""),
    )


def read_requirements(path: str, texts: Mapping[str, str], module: Module) -> None:
    """A requirements file into its module; what another file included already is not listed twice."""
    stem = path.rsplit("/", 1)[-1].rsplit(".", 1)[0].lower()
    group = stem if any(word in stem for word in _DEV_WORDS) else ""
    known = {(r.name, r.file, r.line) for r in module.requirements}
    for found in islice(read_requirements_file(path, texts, group), _MAX_REQUIREMENTS):
        if (found.name, found.file, found.line) not in known:
            module.requirements.append(found)


def read_requirements_file(path: str, files: Mapping[str, str], group: str = "") -> Iterator[Requirement]:
    """A requirements file and what it includes with ``-r`` and ``-c`` (once each, inside the scanned folder)."""
    seen = {path}
    waiting = [_entries(path, files)] if path in files else []
    while waiting:
        entry = next(waiting[-1], None)
        if entry is None:
            waiting.pop()
            continue
        file, line, text = entry
        include = _INCLUDE.match(text)
        if include:
            inner = posixpath.normpath(posixpath.join(posixpath.dirname(file), include.group(1)))
            if inner in files and inner not in seen and len(seen) < _MAX_INCLUDED:
                seen.add(inner)
                waiting.append(_entries(inner, files))
        elif text and (not text.startswith("-") or text.startswith(("-e", "--editable"))):
            found = parse_requirement(_OPTIONS.sub("", text), file, line, group)
            if found is not None:
                yield found


def _entries(path: str, files: Mapping[str, str]) -> Iterator[tuple[str, int, str]]:
    """(file, first line, text) of each logical line, comments and continuations taken out."""
    pending: list[str] = []
    start = 0
    for number, raw in enumerate(files[path].splitlines(), 1):
        start = start if pending else number
        piece = _COMMENT.sub("", raw)
        if piece.endswith("\\"):
            pending.append(piece[:-1])
            continue
        pending.append(piece)
        yield path, start, "".join(pending).strip()
        pending.clear()


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
