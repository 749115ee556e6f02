"""Release records: which release fits which runtime line, what it needs, and when it came, as the package clients answer."""

from __future__ import annotations

import gzip
import re
from collections.abc import Callable, Iterable, Mapping
from datetime import date
from pathlib import Path
from typing import Any, Final

from packaging.requirements import InvalidRequirement, Requirement
from packaging.utils import canonicalize_name

from yoake.core.coordinates import PYTHON, Coordinate, line_key, line_of
from yoake.core.errors import BadSource
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.models import Catalogue, ReleaseFacts
from yoake.core.scan.observing import import_break
from yoake.core.syntax.languages import read_source
from yoake.core.versions import admits
from yoake.runner.artefacts import WheelFacts, fitting_releases, wheel_facts
from yoake.runner.npm_client import npm_view
from yoake.runner.reading import normalise

LINES: Final = ("2.7", "3.6", "3.7", "3.8", "3.9", "3.10", "3.11", "3.12", "3.13", "3.14")
_CLASSIFIER: Final = re.compile(
    r"(?:Programming Language :: (?P<python>Python)|Framework :: (?P<name>[^:]+)) :: (?P<line>\d+(?:\.\d+)?)$"
)
_FINAL: Final = re.compile(r"\d+\.\d+\.\d+$")
_MOST_DETAILS: Final = 40  # newest lines whose metadata is read; older ones are silent
_LARGEST: Final = 400_000  # bytes of a file of a package that is looked at; larger ones are generated tables

Say = Callable[[str], None]


def build_catalogue(coordinate: Coordinate, folder: Path, today: date, say: Say, knowledge: Knowledge) -> Path:
    """Ask the package client and write the record. Raises BadSource when it knows no such package."""
    record = (
        npm_record(coordinate, today)
        if coordinate.ecosystem == "npm"
        else pypi_record(coordinate, today, knowledge, say)
    )
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / (coordinate.short.replace("/", "-").replace("@", "") + ".json.gz")
    partial = path.with_suffix(".part")
    partial.write_bytes(gzip.compress(record.model_dump_json(exclude_defaults=True).encode(), mtime=0))
    partial.replace(path)
    say(f"{coordinate.short}: {len(record.releases)} releases, {len(record.details)} in detail")
    return path


def pypi_record(coordinate: Coordinate, today: date, knowledge: Knowledge, say: Say) -> Catalogue:
    """A PyPI project: pip’s answer for each Python line, and the metadata of the newest release of each of its lines."""
    fits, built = {}, {}
    for line in LINES:
        fits[line] = tuple(fitting_releases(coordinate.name, line, wheels_only=False))
        built[line] = tuple(fitting_releases(coordinate.name, line, wheels_only=True))
    releases = tuple(sorted({r for line in LINES for r in fits[line]}, key=line_key))
    newest = {line_of(coordinate, release): release for release in releases}
    read = []
    for release in list(newest.values())[-_MOST_DETAILS:]:
        say(f"{coordinate.short} {release}: metadata")
        read.append(_wheel(coordinate, release, knowledge))
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


def _wheel(coordinate: Coordinate, release: str, knowledge: Knowledge) -> ReleaseFacts | None:
    try:
        facts, texts = wheel_facts(coordinate.name, release)
    except BadSource:
        return None
    made = as_facts(release, facts)
    return made.model_copy(update={"observed": observed(texts, _fine_line(made, knowledge), knowledge)})


def _fine_line(facts: ReleaseFacts, knowledge: Knowledge) -> str:
    """A line the release surely runs on: the newest it claims, else the oldest Python 3 its metadata admits."""
    lines = [x for x in knowledge.lines(PYTHON) if line_key(x) >= (3,)]
    claimed = [x for x in lines if f"python@{x}" in facts.states]
    return claimed[-1] if claimed else next((x for x in lines if admits(PYTHON, facts.runs, x)), lines[-1])


def observed(texts: Mapping[str, bytes], fine: str, knowledge: Knowledge) -> tuple[str, ...]:
    """On which Python line after ``fine`` the code of a release cannot be imported any more, and why; empty when unseen."""
    own = {p: t for p, t in texts.items() if p.endswith(".py") and len(t) < _LARGEST}
    read = {}
    for path, data in own.items():
        try:
            read[path] = read_source(path, normalise(data)[0])
        except (ValueError, RecursionError):
            continue
    tops = frozenset(path.split("/")[0].removesuffix(".py") for path in read)
    return import_break(read, tops, fine, knowledge) or ()


def as_facts(release: str, facts: WheelFacts) -> ReleaseFacts:
    """Metadata of a wheel as a record: requirements without extras, and the lines that its classifiers claim."""
    needs = list(_needs(facts.requires))
    return ReleaseFacts(
        release=release,
        released=facts.built,
        runs=facts.requires_python,
        needs={name: wanted for name, wanted, marker in needs if not marker},
        needs_when=tuple(need for need in needs if need[2]),
        states=tuple(dict.fromkeys(_states(facts.classifiers))),
    )


def _needs(requires: Iterable[str]) -> Iterable[tuple[str, str, str]]:
    """(package, range, marker) of each requirement."""
    for raw in requires:
        try:
            parsed = Requirement(raw)
        except InvalidRequirement:
            continue
        marker = str(parsed.marker or "")
        if "extra" not in marker:
            yield canonicalize_name(parsed.name), str(parsed.specifier), marker


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
