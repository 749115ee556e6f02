"""Whether edits keep real suites running: tests of projects whose suites run on an old interpreter, as they are and edited, on both lines.

Each project (an unpacked source release) is run four times: as it is on the old line; with what is *safe now* edited, on the old line, where
nothing may change; as it is on the new line with the releases that the path settles; and with everything edited, on the new line.

    python -m bench.proof FOLDER [OLD LINE … -- NEW LINE …] [NAME …]

FOLDER holds the projects. Lines are COORD@LINE; python@3.8 and python@3.13 when left out. What was done is kept in FOLDER/proof.json.
"""

from __future__ import annotations

import json
import sys
import tempfile
from collections import Counter
from datetime import UTC, datetime
from pathlib import Path

from yoake.shipped import KIT
from yoake.core.proof.comparing import compare
from yoake.core.values.coordinates import Target, parse_target
from yoake.core.values.errors import YoakeError
from yoake.core.values.runs import Run, Side
from yoake.runner.copies import copy_folder
from yoake.runner.extraction import Extractor
from yoake.runner.home import Home
from yoake.runner.kept_commands import RunLimits
from yoake.store.applications import Source
from yoake.store.facts_cache import FactsCache
from yoake.usecases.edit_tasks import EditTask
from yoake.usecases.edit import propose
from yoake.usecases.edit_scope import scope_of
from yoake.usecases.run_tasks import RunTask
from yoake.usecases.run import run_sides, suggested
from yoake.usecases.goal_side import goal_side
from yoake.usecases.run_sides import old_side
from yoake.usecases.progress import Control
from yoake.usecases.scan import scan_snapshot
from yoake.usecases.sources import open_snapshot

HOME = Home(Path(tempfile.gettempdir()) / "yoake-bench-proof")


def run(folder: Path, side: Side) -> tuple[Run, ...]:
    """The likeliest command of a folder on one side."""
    task = RunTask(home=HOME.folder, source=Source("folder", str(folder), ""), module="", command=suggested(folder, KIT.ecosystems)[0], old=side, repeats=0, limits=RunLimits(seconds=600))
    return run_sides(task, KIT, Control()).old


def edited(folder: Path, when: str, targets: list[Target], place: Path) -> tuple[Path, int]:
    """A copy with its edits, and how many files were changed."""
    knowledge = KIT.knowledge()
    source = Source("folder", str(folder), "")
    cache = FactsCache(None)
    extractor = Extractor(cache, KIT.ecosystems)
    snapshot = open_snapshot(source, HOME)
    try:
        result = scan_snapshot(snapshot=snapshot, knowledge=knowledge, destination=targets, said=[], extractor=extractor, control=Control(), name=folder.name).result
        keys, taken = scope_of(when, result, targets, knowledge, datetime.now(UTC).date())
        made = propose(EditTask(home=HOME.folder, name=folder.name, source=source, targets=tuple(targets), said=(), keys=keys, taken=taken), snapshot, knowledge, extractor, Control())
    finally:
        snapshot.close()
        extractor.close()
    copy = place / when
    copy_folder(folder, copy)
    changed = [f for f in made.files if f.outcome == "changed"]
    for file in changed:
        (copy / file.path).write_bytes(file.after)
    return copy, len(changed)


def measure(folder: Path, old: list[Target], new: list[Target]) -> dict[str, object]:
    """All four runs of one project."""
    knowledge = KIT.knowledge()
    extractor = Extractor(FactsCache(None), KIT.ecosystems)
    snapshot = open_snapshot(Source("folder", str(folder), ""), HOME)
    try:
        result = scan_snapshot(snapshot=snapshot, knowledge=knowledge, destination=new, said=[], extractor=extractor, control=Control(), name=folder.name).result
    finally:
        snapshot.close()
        extractor.close()
    today = next(iter(result.today.values()), {})
    before = old_side("old", today, old, knowledge)
    after = goal_side("new", result, today, new, knowledge, datetime.now(UTC).date())
    with tempfile.TemporaryDirectory(prefix="yoake-proof-") as held:
        now, now_files = edited(folder, "now", new, Path(held))
        every, all_files = edited(folder, "all", new, Path(held))
        runs = {"old": run(folder, before)}
        rows: dict[str, object] = {"old": told(runs["old"]), "now files": now_files, "all files": all_files}
        if not any(t.outcome == "passed" for r in runs["old"] for t in r.tests):
            return rows
        runs["old, edited now"] = run(now, before)
        runs["new, as it is"] = run(folder, after)
        runs["new, edited"] = run(every, after)
    for name in list(runs)[1:]:
        tests = compare(runs["old"], runs[name])
        worse = [(t.name, t.note) for t in tests if t.verdict == "breaks"][:12]
        rows[name] = {**told(runs[name]), "against old": dict(Counter(t.verdict for t in tests)), "breaks": worse}
    return rows


def told(runs: tuple[Run, ...]) -> dict[str, object]:
    """How a run went, in figures."""
    last = runs[-1]
    counts = Counter(t.outcome for t in last.tests)
    return {"ended": last.ended, "said": last.said[:300], "tests": dict(counts), "command": " ".join(last.command.words)}


def main(arguments: list[str]) -> None:
    """Measure the projects of a folder that were not measured yet."""
    root, rest = Path(arguments[0]), arguments[1:]
    lines = [a for a in rest if "@" in a or a == "--"]
    names = [a for a in rest if a not in lines]
    at = lines.index("--") if "--" in lines else len(lines)
    old = [parse_target(t) for t in lines[:at]] or [parse_target("python@3.8")]
    new = [parse_target(t) for t in lines[at + 1 :]] or [parse_target("python@3.13")]
    kept = root / "proof.json"
    done: dict[str, object] = json.loads(kept.read_text()) if kept.exists() else {}
    for folder in sorted(p for p in root.iterdir() if p.is_dir() and (not names or p.name in names) and p.name not in done):
        try:
            done[folder.name] = measure(folder, old, new)
        except YoakeError as error:
            done[folder.name] = {"error": str(error)[:300]}
        kept.write_text(json.dumps(done, indent=1))
        print(folder.name, json.dumps(done[folder.name])[:1500], flush=True)


if __name__ == "__main__":
    main(sys.argv[1:])
