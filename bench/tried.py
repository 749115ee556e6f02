"""Whether packages that are said to run on a line do: each release installed with what it needs, and imported, on a real interpreter.

    python -m bench.tried [LINE] [HOW_MANY] [SEED] [holds]

``holds``: only of releases that are said to run.

Releases are drawn from the release records that ship (seeded), among those whose metadata lets them be installed on the line.
"""

from __future__ import annotations

import random
import subprocess
import sys
import tempfile
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from yoake.shipped import KIT
from yoake.core.knowledge.base import Knowledge
from yoake.core.scan.packages import grade_of, observed_break
from yoake.core.values.coordinates import Coordinate, Line, Releases
from yoake.runner.clients.python.interpreters import find_interpreters

_SECONDS = 240
_IMPORT = """
import importlib, importlib.metadata as m, sys
tops = (m.distribution(sys.argv[1]).read_text("top_level.txt") or "").split()
if not tops:
    tops = sorted({str(f).split("/")[0].removesuffix(".py") for f in m.files(sys.argv[1]) or [] if str(f).endswith(".py") and ".." not in str(f)})
tops = [t for t in tops if t.isidentifier() and not t.startswith("_") and t not in ("tests", "test", "docs", "examples")]
for top in tops:
    importlib.import_module(top)
"""


def tried(program: Path, name: str, release: str) -> str:
    """``runs``, ``does not install`` or ``is not imported``."""
    with tempfile.TemporaryDirectory() as place:
        steps = (
            [str(program), "-m", "venv", place],
            [f"{place}/bin/pip", "install", "-q", "--disable-pip-version-check", f"{name}=={release}"],
            [f"{place}/bin/python", "-W", "ignore", "-c", _IMPORT, name],
        )
        for step, fails in zip(steps, ("does not install", "does not install", "is not imported"), strict=True):
            try:
                done = subprocess.run(step, capture_output=True, text=True, timeout=_SECONDS, check=False, cwd=place)
            except subprocess.TimeoutExpired:
                return fails
            if done.returncode != 0:
                return fails
    return "runs"


def said(knowledge: Knowledge, coordinate: Coordinate, release: str, line: Line) -> str:
    """What a scan says of an exact pin, with its grade."""
    record = knowledge.catalogues[coordinate]
    fits = knowledge.fitting(record, line)
    compiled = any(record.built.values()) and release not in record.built.get(line, ())
    if release not in fits or compiled:
        return "fails, hard"
    if observed_break(record, release, line, knowledge) is not None:
        return "fails, observed"
    grade = grade_of(record, release, line, knowledge)
    return f"holds, {grade}" if grade != "none" else "nothing speaks against it"


def main() -> None:
    line = sys.argv[1] if len(sys.argv) > 1 else "3.13"
    count = int(sys.argv[2]) if len(sys.argv) > 2 else 100
    knowledge, program = KIT.knowledge(), find_interpreters()[Line(line)]
    rows = [
        (coordinate, release)
        for coordinate, record in sorted(knowledge.catalogues.items())
        if coordinate.startswith("pkg:pypi/")
        for release in record.fits.get(line, ())
    ]
    seed = int(sys.argv[3]) if len(sys.argv) > 3 else 7
    if "holds" in sys.argv:
        rows = [row for row in rows if said(knowledge, *row, Line(line)).startswith("holds")]
    chosen = random.Random(seed).sample(rows, min(count, len(rows)))
    words = [said(knowledge, coordinate, release, Line(line)) for coordinate, release in chosen]
    with ThreadPoolExecutor(2) as pool:
        truth = list(pool.map(lambda row: tried(program, Coordinate(row[0]).name, row[1]), chosen))
    counted: dict[str, Counter[str]] = {}
    for (coordinate, release), word, real in zip(chosen, words, truth, strict=True):
        counted.setdefault(word, Counter())[real] += 1
        if word.startswith("holds") and real != "runs":
            print(f"  said to hold: {coordinate} {release} {real}")
    for word, found in sorted(counted.items()):
        total = sum(found.values())
        print(f"{word}: {total}, of which {found['runs']} run ({found['runs'] / total:.0%}); {dict(found)}")


if __name__ == "__main__":
    main()
