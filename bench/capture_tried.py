"""Capture what runs: releases that old applications pin, installed and imported on real interpreters. Goes on where it stopped.

    python -m bench.capture_tried FILE MINUTES [LINE …]

First the releases that real applications pin (``pins.txt``, a name and a release a line, read out of manifests and of what wheels ask
for), then the newest release of each line of each PyPI package with a release record, round by round over all packages.
"""

from __future__ import annotations

import re
import sys
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime
from pathlib import Path

from yoake.shipped import KIT
from yoake.core.ecosystems.python.names import pypi
from yoake.core.knowledge.models import TriedFact
from yoake.core.values.coordinates import Coordinate, Line
from yoake.runner.clients.python.trying import try_release
from yoake.runner.knowledge_files import read_tried
from yoake.usecases.try_release import write_tried

_ROUNDS = 14  # lines of one package
_OF_THE_RUNTIME = re.compile(
    r"from '(?:collections|inspect|typing|importlib|asyncio|fractions|time|platform|html|cgi)'"
    r"|No module named '(?:asynchat|asyncore|cgi|crypt|distutils|formatter|imghdr|imp|parser|pipes|pkg_resources|smtpd|telnetlib|uu|xdrlib)'"
    r"|module '(?:collections|configparser|inspect|asyncio|time|ast|types)' has no attribute|SyntaxError|undefined symbol: _?Py"
    r"|KeyError: '(?:__version__|BREAK_LOOP)'"
)
"""What fails because of the runtime itself: what its library or its grammar no longer has, or its interface for C. Other failures tell of programs
and headers that this machine lacks, of settings, or of newer releases beside it, and are not kept."""


def wanted(lines: list[str]) -> Iterator[tuple[str, str, str]]:
    """(coordinate, release, line), one line of each package after the other."""
    pinned = [row.split() for row in Path(__file__).with_name("pins.txt").read_text().splitlines()]
    for line in lines:
        yield from ((pypi(name), release, line) for name, release in pinned)
    knowledge = KIT.knowledge()
    newest: dict[Coordinate, list[str]] = {}
    for coordinate, record in sorted(knowledge.catalogues.items()):
        if coordinate.startswith("pkg:pypi/"):
            by_line = {knowledge.line_of(coordinate, r): r for r in record.releases if r.replace(".", "").isdigit()}
            newest[coordinate] = list(by_line.values())[::-1]
    for round_ in (4, 8, 2, 12, 6, 10, 1, 3, 5, 7, 9, 11, 13, 0):
        for line in lines:
            for coordinate, releases in newest.items():
                if round_ < len(releases):
                    yield coordinate, releases[round_], line


def main() -> None:
    path, minutes = Path(sys.argv[1]), float(sys.argv[2])
    lines = sys.argv[3:] or ["3.13", "3.11"]
    held = {(f.coordinate, f.release, f.on): f for f in read_tried(path)}
    until = time.monotonic() + minutes * 60
    today = datetime.now(UTC).date()
    left = (row for row in wanted(lines) if row not in held)

    def one(row: tuple[str, str, str]) -> TriedFact:
        trial = try_release(Coordinate(row[0]), row[1], Line(row[2]))
        return TriedFact(
            coordinate=row[0], release=row[1], on=row[2], runs=trial.runs, beside=trial.beside, note=trial.note, as_of=today
        )

    with ThreadPoolExecutor(2) as pool:
        while time.monotonic() < until:
            batch = [row for row, _ in zip(left, range(20), strict=False)]
            if not batch:
                break
            tried = list(pool.map(one, batch))
            told = (f for f in tried if f.runs or _OF_THE_RUNTIME.search(f.note))
            held.update({(f.coordinate, f.release, f.on): f for f in told})
            write_tried(path, list(held.values()))
            print(len(held), sum(f.runs for f in held.values()), flush=True)


if __name__ == "__main__":
    main()
