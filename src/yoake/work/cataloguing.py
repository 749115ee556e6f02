"""Release records: which release fits which runtime line, what it needs, and when it came, as the package clients answer."""

from __future__ import annotations

import gzip
import re
from collections.abc import Callable, Iterable, Mapping
from datetime import date
from pathlib import Path
from typing import Any, Final

from packaging.requirements import InvalidRequirement, Requirement

from yoake.core.coordinates import Coordinate, line_key, line_of
from yoake.core.errors import BadSource
from yoake.core.knowledge.models import Catalogue, ReleaseFacts
from yoake.runner.artefacts import WheelFacts, fitting_releases, wheel_facts
from yoake.runner.npm_client import npm_view

LINES: Final = ("2.7", "3.6", "3.7", "3.8", "3.9", "3.10", "3.11", "3.12", "3.13", "3.14")
_CLASSIFIER: Final = re.compile(
    r"(?:Programming Language :: (?P<python>Python)|Framework :: (?P<name>[^:]+)) :: (?P<line>\d+(?:\.\d+)?)$"
)
_FINAL: Final = re.compile(r"\d+\.\d+\.\d+$")
_MOST_DETAILS: Final = 12  # newest lines whose metadata is read; a record of every line would take minutes

Say = Callable[[str], None]


def build_catalogue(coordinate: Coordinate, folder: Path, today: date, say: Say) -> Path:
    """Ask the package client and write the record. Raises BadSource when it knows no such package."""
    record = npm_record(coordinate, today) if coordinate.ecosystem == "npm" else pypi_record(coordinate, today)
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / (coordinate.short.replace("/", "-").replace("@", "") + ".json.gz")
    partial = path.with_suffix(".part")
    partial.write_bytes(gzip.compress(record.model_dump_json(exclude_defaults=True).encode(), mtime=0))
    partial.replace(path)
    say(f"{coordinate.short}: {len(record.releases)} releases, {len(record.details)} in detail")
    return path


def pypi_record(coordinate: Coordinate, today: date, *, details: bool = True) -> Catalogue:
    """A PyPI project: pip’s answer for each Python line, and the metadata of the newest release of each of its lines."""
    fits, built = {}, {}
    for line in LINES:
        fits[line] = tuple(fitting_releases(coordinate.name, line, wheels_only=False))
        built[line] = tuple(fitting_releases(coordinate.name, line, wheels_only=True))
    releases = tuple(sorted({r for line in LINES for r in fits[line]}, key=line_key))
    newest = {line_of(coordinate, release): release for release in releases}
    read = [_wheel(coordinate, release) for release in list(newest.values())[-_MOST_DETAILS:]] if details else []
    return Catalogue(
        format=1,
        coordinate=coordinate.purl,
        as_of=today,
        how="pip index versions for each Python line, and the metadata of wheels",
        releases=releases,
        fits=fits,
        built=built,
        details=tuple(facts for facts in read if facts is not None),
    )


def _wheel(coordinate: Coordinate, release: str) -> ReleaseFacts | None:
    try:
        return as_facts(release, wheel_facts(coordinate.name, release))
    except BadSource:
        return None


def as_facts(release: str, facts: WheelFacts) -> ReleaseFacts:
    """Metadata of a wheel as a record: requirements without extras, and the lines that its classifiers claim."""
    return ReleaseFacts(
        release=release,
        released=facts.built,
        runs=facts.requires_python,
        needs=dict(_needs(facts.requires)),
        states=tuple(dict.fromkeys(_states(facts.classifiers))),
    )


def _needs(requires: Iterable[str]) -> Iterable[tuple[str, str]]:
    for raw in requires:
        try:
            parsed = Requirement(raw)
        except InvalidRequirement:
            continue
        if parsed.marker is None or "extra" not in str(parsed.marker):
            yield parsed.name.lower(), str(parsed.specifier)


def _states(classifiers: Iterable[str]) -> Iterable[str]:
    for raw in classifiers:
        found = _CLASSIFIER.match(raw)
        if found:
            name = "python" if found.group("python") else f"pypi/{found.group('name').strip().lower()}"
            yield f"{name}@{found.group('line')}"


def npm_record(coordinate: Coordinate, today: date) -> Catalogue:
    """An npm package: engines of every release; requirements and peers of the newest release of each line."""
    rows = npm_view(
        f"{coordinate.name}@>=0.0.0", "version", "engines", "peerDependencies", "dependencies", "deprecated"
    )
    times = npm_view(coordinate.name, "time")
    entries: dict[str, Mapping[str, Any]] = {}
    for row in rows if isinstance(rows, list) else [rows]:
        version = row.get("version") if isinstance(row, Mapping) else row
        if isinstance(version, str) and _FINAL.match(version):
            entries[version] = row if isinstance(row, Mapping) else {}
    releases = tuple(sorted(entries, key=line_key))
    newest = {line_of(coordinate, release): release for release in releases}
    full = set(newest.values())
    details = [
        _npm_facts(release, entries[release], times.get(release, ""), full=release in full) for release in releases
    ]
    return Catalogue(
        format=1, coordinate=coordinate.purl, as_of=today, how="npm view", releases=releases, details=tuple(details)
    )


def _npm_facts(release: str, row: Mapping[str, Any], at: str, *, full: bool) -> ReleaseFacts:
    engines = row.get("engines")
    runs = engines.get("node", "") if isinstance(engines, Mapping) else ""
    return ReleaseFacts(
        release=release,
        released=date.fromisoformat(at[:10]) if full and re.match(r"\d{4}-\d\d-\d\d", at) else None,
        runs=runs if isinstance(runs, str) else "",
        needs=_ranges(row.get("dependencies")) if full else {},
        peers=_ranges(row.get("peerDependencies")),
        withdrawn=str(row.get("deprecated") or "")[:120],
    )


def _ranges(value: object) -> dict[str, str]:
    if not isinstance(value, Mapping):
        return {}
    return {name: wanted for name, wanted in value.items() if isinstance(name, str) and isinstance(wanted, str)}
