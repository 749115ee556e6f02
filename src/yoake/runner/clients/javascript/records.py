"""Release records of npm packages: which release runs on which Node line, what it needs, and when it came, as npm answers."""

from __future__ import annotations

import re
import shutil
from collections.abc import Iterator, Mapping, Sequence
from datetime import date
from importlib.resources import as_file, files
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from yoake.core.ecosystems.javascript.versions import NODE_LINES
from yoake.core.knowledge.models import Catalogue, ReleaseFacts
from yoake.core.values.coordinates import Coordinate, line_key
from yoake.core.values.errors import BadSource
from yoake.runner.clients.javascript.npm_client import npm_view, run_npm
from yoake.runner.clients.questions import answers

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.runner.clients.contract import Say

_FINAL: Final = re.compile(r"\d+\.\d+\.\d+$")
_NAME: Final = re.compile(r"(@[a-z0-9~-][a-z0-9._~-]*/)?[a-z0-9~-][a-z0-9._~-]*", re.IGNORECASE)
"""Names that a registry has. Addresses, folders and archives, which npm would also take, are none."""


def npm_record(coordinate: Coordinate, today: date, _knowledge: Knowledge, _say: Say) -> Catalogue:
    """An npm package: engines and peers of every release; requirements of the newest release of each line."""
    rows = npm_view(
        f"{coordinate.name}@>=0.0.0",
        "version",
        "engines",
        "peerDependencies",
        "peerDependenciesMeta",
        "dependencies",
        "deprecated",
    )
    times = npm_view(coordinate.name, "time")
    entries: dict[str, Mapping[str, Any]] = {}
    for row in rows if isinstance(rows, list) else [rows]:
        version = row.get("version") if isinstance(row, Mapping) else row
        if isinstance(version, str) and _FINAL.match(version):
            entries[version] = _reduced(row if isinstance(row, Mapping) else {}, times.get(version, ""))
    return _record(coordinate, entries, today, "npm view")


def npm_records(coordinates: Sequence[Coordinate], today: date) -> Iterator[tuple[Coordinate, Catalogue | None]]:
    """The same for many packages, asked in one session of npm, as they come; None for those that it does not know.

    Raises BadSource when npm is missing or cannot be asked so.
    """
    npm, node = shutil.which("npm"), shutil.which("node")
    named = {c.name: c for c in coordinates if _NAME.fullmatch(c.name)}
    yield from ((c, None) for c in coordinates if c.name not in named)
    if npm is None or node is None:
        raise BadSource("npm was not found on PATH; install Node to look npm packages up.")
    folder = Path(run_npm("root", "--global").stdout.strip()) / "npm"
    with as_file(files("yoake.runner") / "probes" / "ask_npm.cjs") as probe:
        for answer in answers([node, str(probe), str(folder)], named):
            releases = answer.get("releases")
            coordinate = named.get(str(answer.get("name")))
            if coordinate is not None:
                held = releases if isinstance(releases, Mapping) else {}
                yield coordinate, _record(coordinate, held, today, "npm, all at once") if held else None


def _reduced(row: Mapping[str, Any], at: str) -> dict[str, Any]:
    engines, meta = row.get("engines"), row.get("peerDependenciesMeta")
    optional = (
        [n for n, said in meta.items() if isinstance(said, Mapping) and said.get("optional")]
        if isinstance(meta, Mapping)
        else []
    )
    return {
        "engines": engines.get("node") if isinstance(engines, Mapping) else "",
        "peers": row.get("peerDependencies"),
        "optional": optional,
        "needs": row.get("dependencies"),
        "withdrawn": row.get("deprecated"),
        "at": at,
    }


def _record(coordinate: Coordinate, entries: Mapping[str, Any], today: date, how: str) -> Catalogue:
    releases = tuple(sorted(entries, key=line_key))
    newest = {NODE_LINES.line_of(coordinate, release): release for release in releases}
    full = set(newest.values())
    details = tuple(_npm_facts(release, entries[release], full=release in full) for release in releases)
    return Catalogue(format=1, coordinate=coordinate, as_of=today, how=how, releases=releases, details=details)


def _npm_facts(release: str, row: Mapping[str, Any], *, full: bool) -> ReleaseFacts:
    runs, at = row.get("engines"), str(row.get("at") or "")
    return ReleaseFacts(
        release=release,
        released=date.fromisoformat(at[:10]) if full and re.match(r"\d{4}-\d\d-\d\d", at) else None,
        runs=runs if isinstance(runs, str) else "",
        needs=_ranges(row.get("needs")) if full else {},
        peers=_ranges(row.get("peers")),
        optional=tuple(str(name) for name in row.get("optional") or ()),
        withdrawn=str(row.get("withdrawn") or "")[:120],
    )


def _ranges(value: object) -> dict[str, str]:
    if not isinstance(value, Mapping):
        return {}
    return {name: wanted for name, wanted in value.items() if isinstance(name, str) and isinstance(wanted, str)}
