"""Release records of PyPI projects: which release fits which Python line, as pip itself answers."""

from __future__ import annotations

import gzip
from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import Final

from yoake.core.coordinates import Coordinate
from yoake.core.knowledge.models import Catalogue
from yoake.runner.artefacts import fitting_releases

LINES: Final = ("2.7", "3.6", "3.7", "3.8", "3.9", "3.10", "3.11", "3.12", "3.13", "3.14")


def build_catalogue(coordinate: Coordinate, folder: Path, today: date, say: Callable[[str], None]) -> Path:
    """Ask pip for every line and write the record. Raises BadSource when pip knows no such project."""
    fits, built = {}, {}
    for line in LINES:
        fits[line] = tuple(fitting_releases(coordinate.name, line, wheels_only=False))
        built[line] = tuple(fitting_releases(coordinate.name, line, wheels_only=True))
    releases = tuple(dict.fromkeys(r for line in LINES for r in fits[line]))
    how = "pip index versions, for each Python line"
    record = Catalogue(
        format=1, coordinate=coordinate.purl, as_of=today, how=how, releases=releases, fits=fits, built=built
    )
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / (coordinate.short.replace("/", "-") + ".json.gz")
    partial = path.with_suffix(".part")
    partial.write_bytes(gzip.compress(record.model_dump_json().encode(), mtime=0))
    partial.replace(path)
    say(f"{coordinate.short}: {len(releases)} releases; newest for {LINES[-1]}: {(fits[LINES[-1]] or ('none',))[-1]}")
    return path
