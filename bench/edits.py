"""Whether edited files run where they are said to: compiled by the real interpreters, and every import that an edit wrote carried out.

For each project the edits that are *safe today* are made (3.8 → 3.13, nothing is written to it). Each changed file is compiled by both
interpreters, as long as it compiled before; each import row that came, and each dotted name in a row that came, is imported or reached
for in both.

    python -m bench.edits SET [PROJECT …]
"""

from __future__ import annotations

import json
import re
import subprocess
import sys
import tempfile
from collections import Counter
from pathlib import Path

from bench.projects import APART, TUNED
from bench.truth import fetch
from yoake.shipped import KIT
from yoake.core.edits.sides import hunks
from yoake.core.values.coordinates import parse_target, Line
from yoake.runner.clients.python.interpreters import find_interpreters
from yoake.runner.extraction import Extractor
from yoake.runner.home import Home
from yoake.store.applications import Source
from yoake.store.facts_cache import FactsCache
from yoake.usecases.edit_tasks import EditTask
from yoake.usecases.edit import propose
from yoake.usecases.progress import Control
from yoake.usecases.sources import open_snapshot

LINES = ("3.8", "3.13")
ASK = """
import json, sys, importlib, warnings
warnings.simplefilter("ignore")
asked = json.load(sys.stdin)
said = {"compiles": [], "runs": []}
for path in asked["files"]:
    try:
        compile(open(path, "rb").read(), path, "exec"); said["compiles"].append(True)
    except Exception as error:
        said["compiles"].append(False)
for row in asked["imports"]:
    try:
        exec(row, {}); said["runs"].append("")
    except Exception as error:
        said["runs"].append(type(error).__name__ + ": " + str(error))
print(json.dumps(said))
"""
STANDARD = re.compile(r"^\s*(from [a-z_.]+ import .+|import [a-z_.]+( as \w+)?)\s*$")


def ask(line: Line, files: list[str], imports: list[str]) -> dict:
    """What an interpreter says."""
    program = find_interpreters()[line]
    done = subprocess.run(
        [str(program), "-c", ASK], input=json.dumps({"files": files, "imports": imports}), capture_output=True, text=True, check=True
    )
    return json.loads(done.stdout)


def measure(name: str, place: Path) -> Counter[str]:
    """Counts of one project."""
    counts: Counter[str] = Counter()
    folder = fetch(name, place)
    if folder is None:
        print(f"{name}: could not be fetched", flush=True)
        return counts
    home, knowledge = Home(place / "home"), KIT.knowledge()
    cache = FactsCache(home.facts)
    extractor = Extractor(cache, KIT.ecosystems)
    source = Source("folder", str(folder), "")
    task = EditTask(home=home.folder, name=name, source=source, targets=(parse_target("python@3.13"),), said=(parse_target("python@3.8"),))
    snapshot = open_snapshot(source, home)
    made = propose(task, snapshot, knowledge, extractor, Control())
    extractor.close()
    cache.close()
    with tempfile.TemporaryDirectory() as there:
        befores, afters, rows = [], [], []
        for number, file in enumerate(f for f in made.files if f.outcome == "changed"):
            for kind, data in (("before", file.before), ("after", file.after)):
                path = Path(there) / f"{kind}{number}.py"
                path.write_bytes(data)
                (befores if kind == "before" else afters).append(str(path))
            old, new = (d.decode("utf-8", "replace") for d in (file.before, file.after))
            came = [row.text for hunk in hunks(old, new) for row in hunk.rows if row.kind == "new"]
            rows += [row.strip() for row in came if STANDARD.match(row)]
            counts["places"] += len(came)
        rows = sorted(set(rows))
        counts["changed"] = len(afters)
        counts["cannot"] = sum(f.outcome == "cannot" for f in made.files)
        counts["by hand"] = sum(f.outcome == "hand" for f in made.files)
        if not afters:
            return counts
        for line in LINES:
            before, after = ask(Line(line), befores, rows), ask(Line(line), afters, rows)
            counts[f"compiled {line}"] = sum(before["compiles"])
            counts[f"compile {line}"] = sum(b and a for b, a in zip(before["compiles"], after["compiles"], strict=True))
            known = [(row, said) for row, said in zip(rows, after["runs"], strict=True) if not said.startswith("ModuleNotFoundError: No module named 'six")]
            counts[f"imports {line}"] = len(known)
            counts[f"run {line}"] = sum(not said for _, said in known)
            for row, said in known:
                if said:
                    print(f"      {name} on {line}: {row}: {said}", flush=True)
    return counts


def main() -> None:
    """Measure and print one line a project, and the totals."""
    place = Path(tempfile.gettempdir()) / "yoake-truth"
    table = {"adjusted": TUNED, "apart": APART}[sys.argv[1]]["stdlib"]
    total: Counter[str] = Counter()
    for name in table:
        if not sys.argv[2:] or name in sys.argv[2:]:
            counts = measure(name, place)
            total += counts
            print(f"{name:28} {dict(counts)}", flush=True)
    print(f"\n{dict(total)}")


if __name__ == "__main__":
    main()
