"""Whether npm agrees on who has to move with a destination: each package that a scan says does not go with it, and each that does.

    python -m bench.along SET [APPLICATION …]

SET as in ``bench.stages`` (npm). A pair is a package at the newest release of the line it stands on, and what it is held against at the
release of the destination: npm is asked for a lock file of the two, peers enforced. What only its authors claim, or its numbers suggest,
is counted apart: npm cannot refuse it.
"""

from __future__ import annotations

import sys
import tempfile
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from bench.stages import SETS, npm_accepts
from bench.truth_node import fetch
from yoake.shipped import KIT
from yoake.core.inventory.assemble import assemble, stated_lines
from yoake.core.knowledge.base import Knowledge
from yoake.core.registered import ECOSYSTEMS
from yoake.core.scan.companions import Company
from yoake.core.values.journeys import spans_of
from yoake.core.values.coordinates import Coordinate, parse_target, Line
from yoake.runner.home import default_home


@dataclass(frozen=True, kw_only=True)
class Pair:
    """A package and what it stands beside, with what the scan says of them: *moves*, *stays* or *claimed*."""

    application: str
    said: str
    one: tuple[str, str]
    other: tuple[str, str]
    why: str
    beside: tuple[tuple[str, str], ...] = ()


def pairs_of(name: str, to: list[str], place: Path, knowledge: Knowledge) -> list[Pair]:
    """Every pair that the manifest of an application gives."""
    folder = fetch(name, place / "node")
    if folder is None:
        return []
    manifest = next(iter(sorted(folder.glob("*/package.json"))))
    module = assemble({"package.json": manifest.read_bytes()}, name, ECOSYSTEMS, {})[0]
    targets = [parse_target(text) for text in to]
    goals = {t.coordinate: knowledge.lines(t.coordinate) for t in targets}
    today = stated_lines(module, goals, ECOSYSTEMS)
    company = Company(spans_of(today, targets), knowledge)
    company.gather(today, module.requirements)
    held = company.compatibility
    found = []
    for c in company.moving.values():
        one = (Coordinate(c.coordinate).name, held.newest(c.coordinate, c.today))
        other = (Coordinate(c.against).name, held.newest(c.against, company.goals[c.against]))
        found.append(Pair(application=name, said="claimed" if c.is_claimed else "moves", one=one, other=other, why=c.constraint.text))
    ranges = {r.coordinate: r.specifier for r in reversed(module.requirements)}
    for coordinate in sorted(set(ranges) - set(company.moving) - set(company.goals)):
        lines = company._standing(coordinate, today.get(coordinate), ranges[coordinate])  # noqa: SLF001
        line = next((x for x in reversed(lines) if not any(company._broken(coordinate, x))), "")  # noqa: SLF001
        release = company.release_for(coordinate, Line(line)) if line else ""
        said = company.spoken_of(coordinate, release) if release else None
        if said is not None:
            against = said[0]
            other = (Coordinate(against).name, held.newest(against, company.goals[against]))
            beside = tuple(
                (Coordinate(p).name, company.release_for(p, line))
                for p, line in company.goals.items()
                if p in held.asks(coordinate, release, None) and p != against
            )
            found.append(Pair(application=name, said="stays", one=(coordinate.name, release), other=other, why="", beside=beside))
    return found


def main() -> None:
    """Ask npm of every pair and print where it says otherwise."""
    knowledge = KIT.knowledge(default_home().knowledge)
    place = Path(tempfile.gettempdir()) / "yoake-truth"
    wanted = sys.argv[2:]
    pairs = [
        pair
        for name, to in SETS[sys.argv[1]].items()
        if not wanted or name in wanted
        for pair in pairs_of(name, to, place, knowledge)
    ]
    distinct = list({(p.said, p.one, p.other): p for p in pairs}.values())

    def ask(pair: Pair) -> str:
        return npm_accepts(
            {"name": "pair", "version": "1.0.0", "dependencies": dict([pair.one, pair.other, *pair.beside])}
        )

    counted: Counter[tuple[str, str]] = Counter()
    with ThreadPoolExecutor(2) as pool:
        for pair, answer in zip(distinct, pool.map(ask, distinct), strict=True):
            refused = "ERESOLVE" in answer
            counted[pair.said, "refused" if refused else "accepted" if not answer else "not known"] += 1
            if refused == (pair.said == "stays") or (answer and not refused):
                print(
                    f"{pair.application}: {pair.said} {'@'.join(pair.one)} beside {'@'.join(pair.other)} ({pair.why}): {answer[:200] or 'accepted'}",
                    flush=True,
                )
    for (said, came), count in sorted(counted.items()):
        print(f"{said:8} {came:10} {count}")


if __name__ == "__main__":
    main()
