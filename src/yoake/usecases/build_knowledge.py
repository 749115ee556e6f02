"""Make knowledge: timelines and release records through the clients of each ecosystem, one file a coordinate."""

from __future__ import annotations

import gzip
from collections.abc import Iterable
from datetime import date
from pathlib import Path

from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.merge import merge
from yoake.core.knowledge.models import Catalogue
from yoake.core.knowledge.timeline import Timeline, dump_timeline, load_timeline
from yoake.core.values.coordinates import Coordinate
from yoake.runner.clients.contract import Clients, Say


def build(
    clients: Clients, coordinate: Coordinate, lines: Iterable[str], folder: Path, say: Say, *, ask: bool = False
) -> Path:
    """Build the timeline of ``coordinate`` in ``folder``; returns the file. ``ask``: also import the real modules."""
    client = clients.of(coordinate)
    timeline = client.runtime(lines, say) if coordinate.is_runtime else client.package(coordinate, lines, say, ask)
    return _write(timeline, folder, say)


def build_from_files(clients: Clients, coordinate: Coordinate, paths: Iterable[Path], folder: Path, say: Say) -> Path:
    """The timeline of a library from artefacts at hand, for what no registry here has. Raises BadSource."""
    client = clients.of(coordinate)
    surfaces = {}
    for path in paths:
        surface = client.file(coordinate, path)
        surfaces[surface.line] = surface
        say(f"{coordinate.short} {surface.line}: {len(surface.symbols)} symbols from {path.name}")
    return _write(merge(coordinate, surfaces.values()), folder, say)


def build_catalogue(
    clients: Clients, coordinate: Coordinate, folder: Path, today: date, say: Say, knowledge: Knowledge
) -> Path:
    """Ask the package client and write the record. Raises BadSource when it knows no such package."""
    record = clients.of(coordinate).record(coordinate, today, knowledge, say)
    path = write_catalogue(record, folder)
    say(f"{coordinate.short}: {len(record.releases)} releases, {len(record.details)} in detail")
    return path


def write_catalogue(record: Catalogue, folder: Path) -> Path:
    """Write a release record, never half of it; returns the file."""
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / (_file_name(record.coordinate) + ".json.gz")
    partial = path.with_suffix(".part")
    partial.write_bytes(gzip.compress(record.model_dump_json(exclude_defaults=True).encode(), mtime=0))
    partial.replace(path)
    return path


def timeline_file(coordinate: Coordinate) -> str:
    """The file name of a coordinate's timeline."""
    return _file_name(coordinate) + ".timeline.gz"


def _file_name(coordinate: Coordinate) -> str:
    return coordinate.short.replace("/", "-").replace("@", "")


def _write(timeline: Timeline, folder: Path, say: Say) -> Path:
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / timeline_file(timeline.coordinate)
    data = dump_timeline(timeline)
    load_timeline(data)
    partial = path.with_suffix(".part")
    partial.write_bytes(data)
    partial.replace(path)
    say(f"{path.name}: {len(timeline.lines)} lines, {len(timeline.symbols)} symbols, {len(data) // 1024} KiB")
    return path
