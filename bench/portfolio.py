"""A large made-up portfolio: generated code that really uses names that went, taken in and scanned through the real use cases.

    python -m bench.portfolio HOME [--applications 500] [--findings 1000000]

One application in a hundred is ten times as large, and the first has 50,000 findings. What is there already is kept, so an
interrupted run goes on.
"""

from __future__ import annotations

import argparse
import random
import time
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from yoake.shipped import KIT
from yoake.context.context import Context, open_context
from yoake.core.knowledge.delta import delta
from yoake.core.values.coordinates import parse_target, Coordinate, Line
from yoake.formats.tables import ApplicationRow
from yoake.runner.home import Home
from yoake.store.applications import ensure_destination, list_applications
from yoake.usecases.jobs import JOBS
from yoake.usecases.queue import Queue
from yoake.usecases.take_in import preview, take_in

SPANS: Final = (
    ("pkg:generic/python", "3.8", "3.13"),
    ("pkg:pypi/django", "3.2", "5.2"),
)
DESTINATION: Final = "Load"
PINS: Final = "django==3.2.25\nrequests==2.25.1\ncelery==4.4.7\nsix==1.16.0\n"
USES: Final = 25  # in one file
TEAMS: Final = ("Berths", "Sales", "Pilotage", "Freight", "Passengers", "Finance", "Crew", "Works")
SHAPES: Final = ("plain", "modules", "deep", "flat")


@dataclass(frozen=True, slots=True)
class Size:
    """What one application is to hold: findings, modules they are spread over, and places of each."""

    findings: int
    modules: int
    places: int


def sizes(applications: int, findings: int) -> Iterator[Size]:
    """The first is the largest; one in a hundred has ten times the findings of the others."""
    large = min(50_000, findings // 4) if applications > 1 else findings
    wide = applications // 100
    each = max((findings - large) // max(applications - 1 + 9 * wide, 1), 1)
    yield Size(large, max(large // 1_200 + 1, 1), 1)
    for number in range(1, applications):
        count = each * (10 if number % 100 == 0 else 1)
        shape = SHAPES[number % len(SHAPES)]
        modules = {"plain": 1, "modules": 4, "deep": 1, "flat": 2}[shape]
        yield Size(count, max(modules, count // 1_200 + 1), 3 if shape == "deep" else 1)


def removed_names() -> list[str]:
    """Names that went between the lines of ``SPANS`` and that a statement can import."""
    knowledge = KIT.knowledge()
    found: list[str] = []
    for coordinate, start, goal in SPANS:
        found += [
            c.symbol
            for c in delta(knowledge.timelines[Coordinate(coordinate)], Line(start), Line(goal), ())
            if c.kind == "removed" and "." in c.symbol
        ]
    return found


def write_application(folder: Path, size: Size, names: Sequence[str], seed: int) -> None:
    """Modules with manifests, each with files that use its share of the names."""
    rng = random.Random(seed)  # noqa: S311  made-up code
    share = size.findings // size.modules
    for number in range(size.modules):
        root = folder / f"part{number:03}" if size.modules > 1 else folder
        root.mkdir(parents=True, exist_ok=True)
        (root / "requirements.txt").write_text(PINS + f"# {folder.name}\n")
        (root / ".python-version").write_text("3.8\n")
        chosen = rng.sample(names, min(share, len(names)))
        for place in range(size.places):
            for at in range(0, len(chosen), USES):
                where = (
                    root
                    / ("src" if place == 0 else f"src{place}")
                    / f"area{at // (USES * 20):02}"
                    / f"unit{at // USES:04}.py"
                )
                where.parent.mkdir(parents=True, exist_ok=True)
                where.write_text("".join(_use(name, n) for n, name in enumerate(chosen[at : at + USES])))


def _use(name: str, number: int) -> str:
    module, _, last = name.rpartition(".")
    return f"from {module} import {last} as n{number}\n\n\ndef use_{number}(value):\n    return n{number}(value)\n\n\n"


def fill(context: Context, sources: Path, applications: int, findings: int) -> None:
    """Write what is missing, take it in, and scan it with the real queue."""
    known = {a.name for a in list_applications(context.db)}
    names = removed_names()
    with context.db.write() as connection:
        ensure_destination(connection, DESTINATION, tuple(parse_target(f"{p}@{goal}") for p, _, goal in SPANS))
    rows = []
    for number, size in enumerate(sizes(applications, findings)):
        name = f"app-{number:03}"
        if name in known:
            continue
        folder = sources / name
        write_application(folder, size, names, number)
        rows.append(ApplicationRow(number=number, name=name, source=str(folder), ref="", subfolder="", owner="", team=TEAMS[number % len(TEAMS)], destination=DESTINATION))
    if rows:
        take_in(context, preview(context, rows, DESTINATION), "bench")


def scan_all(context: Context) -> None:
    """Scan what was never scanned, and wait."""
    queue = Queue(context=context, kinds=JOBS, workers=1)
    done = {row["application_id"] for row in context.db.all("SELECT DISTINCT application_id FROM scans")}
    queue.ask([a for a in list_applications(context.db) if a.id not in done], "bench")
    queue.start()
    began = time.monotonic()
    while True:
        state = queue.state()
        if not state.waiting and not state.running:
            break
        print(f"{time.monotonic() - began:6.0f} s: {state.waiting} wait, {state.failed} failed", flush=True)
        time.sleep(20)
    queue.close()


def main() -> None:
    """Build or go on building."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("home", type=Path)
    parser.add_argument("--applications", type=int, default=500)
    parser.add_argument("--findings", type=int, default=1_000_000)
    given = parser.parse_args()
    context = open_context(Home(given.home), KIT)
    fill(context, given.home / "sources", given.applications, given.findings)
    scan_all(context)
    counted = context.db.one("SELECT count(*) AS n FROM findings")
    print(f"{len(list_applications(context.db))} applications, {counted['n'] if counted else 0:,} findings")
    for row in context.db.all("SELECT problem, count(*) AS n FROM jobs WHERE state = 'failed' GROUP BY problem LIMIT 5"):
        print(row["n"], row["problem"])
    context.db.close()


if __name__ == "__main__":
    main()
