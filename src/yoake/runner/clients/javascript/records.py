"""Release records of npm packages: which release runs on which Node line, what it needs, and when it came, as npm answers."""

from __future__ import annotations

import re
from collections.abc import Mapping
from datetime import date
from typing import Any, Final

from yoake.core.ecosystems.javascript import JAVASCRIPT
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.models import Catalogue, ReleaseFacts
from yoake.core.values.coordinates import Coordinate, line_key
from yoake.runner.clients.contract import Say
from yoake.runner.clients.javascript.npm_client import npm_view

_FINAL: Final = re.compile(r"\d+\.\d+\.\d+$")


def npm_record(coordinate: Coordinate, today: date, _knowledge: Knowledge, _say: Say) -> Catalogue:
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
    newest = {JAVASCRIPT.line_of(coordinate, release): release for release in releases}
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
