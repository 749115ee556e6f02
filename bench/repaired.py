"""How many broken places are gone after all edits to the destination, counted by ``bench.truth`` in the real runtimes.

Each project is copied, everything that ``yoake edit --when all`` would edit is edited in the copy, and broken uses are counted again. Files
that the old or the new interpreter compiled before must compile afterwards, no other use may break, and a second run changes nothing.

    python -m bench.repaired stdlib|django [PROJECT==VERSION …]      # the projects set apart
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from collections import Counter
from pathlib import Path

from bench.projects import APART
from bench.truth import DJANGO, LINES, broken_uses, fetch, with_django
from yoake.core.values.coordinates import Target, parse_target
from yoake.core.values.edits import Proposal
from yoake.runner.clients.python.interpreters import find_interpreters
from yoake.runner.copies import copy_folder
from yoake.runner.extraction import Extractor
from yoake.runner.home import Home
from yoake.runner.knowledge_files import load_knowledge
from yoake.store.applications import Source
from yoake.store.facts_cache import FactsCache
from yoake.usecases.edit import EditTask, propose
from yoake.usecases.scan import Control, scan_snapshot
from yoake.usecases.sources import open_snapshot

COMPILES = """
import json, sys
said = {}
for path in json.load(sys.stdin):
    try:
        compile(open(path, "rb").read(), path, "exec"); said[path] = True
    except Exception:
        said[path] = False
print(json.dumps(said))
"""


def all_edits(folder: Path, to: list[Target], said: list[Target], extractor: Extractor) -> Proposal:
    """Everything that can be edited for a destination."""
    knowledge, home = load_knowledge(), Home(Path(tempfile.gettempdir()) / "yoake-bench-repaired")
    source = Source("folder", str(folder))
    snapshot = open_snapshot(source, home)
    try:
        result = scan_snapshot(snapshot, knowledge, to, said, extractor, Control(), folder.name).result
        task = EditTask(home.folder, folder.name, source, tuple(to), tuple(said), frozenset(f.key for f in result.findings))
        return propose(task, snapshot, knowledge, extractor, Control())
    finally:
        snapshot.close()


def compiling(program: Path, folder: Path, paths: list[str]) -> set[str]:
    """Which files an interpreter compiles."""
    asked = json.dumps([str(folder / path) for path in paths])
    done = subprocess.run([program, "-W", "ignore", "-c", COMPILES], input=asked, capture_output=True, text=True, check=True)
    return {str(Path(path).relative_to(folder)) for path, fine in json.loads(done.stdout).items() if fine}


def main() -> None:
    """One line a project, then the totals."""
    mode = sys.argv[1]
    wanted = sys.argv[2:] or APART[mode]
    root = Path(tempfile.gettempdir()) / "yoake-truth"
    root.mkdir(exist_ok=True)
    old, new = (find_interpreters()[line] for line in LINES[mode])
    plain = (old, new)
    to, said = [parse_target(f"python@{LINES[mode][1]}")], [parse_target(f"python@{LINES[mode][0]}")]
    if mode == "django":
        old, new = with_django(old, DJANGO[0], root), with_django(new, DJANGO[1], root)
        to.append(parse_target("pypi/django@5.2"))
        said.append(parse_target("pypi/django@3.2"))
    extractor = Extractor(FactsCache(None))
    total: Counter[str] = Counter()
    for requirement in wanted:
        place = fetch(requirement, root)
        if place is None:
            print(f"  {requirement}: could not be fetched", flush=True)
            continue
        before = broken_uses(mode, place, (old, new))
        made = all_edits(place, to, said, extractor)
        changed = [f for f in made.files if f.outcome == "changed"]
        with tempfile.TemporaryDirectory() as held:
            copy = Path(held) / "copy"
            copy_folder(place, copy)
            for file in changed:
                (copy / file.path).write_bytes(file.after)
            after = broken_uses(mode, copy, (old, new))
            sources = [f.path for f in changed if f.path.endswith(".py")]
            spoiled = [
                path
                for program in plain
                for path in compiling(program, place, sources) - compiling(program, copy, sources)
            ]
            again = sum(f.outcome == "changed" for f in all_edits(copy, to, said, extractor).files)
        kept = Counter((f, s) for f, _, s in after) - Counter((f, s) for f, _, s in before)
        total.update(before=len(before), after=len(after), files=len(changed), spoiled=len(spoiled), new=sum(kept.values()), again=again)
        left = Counter(s for _, _, s in after).most_common(6)
        print(
            f"  {requirement:32} broken {len(before):4} → {len(after):4}   files {len(changed):4}  spoiled {len(spoiled)}  new {sum(kept.values())}"
            f"  again {again}   left: {', '.join(f'{s} {n}' for s, n in left)}",
            flush=True,
        )
        for name in list(kept)[:5]:
            print(f"      new {name}")
    extractor.close()
    share = 1 - total["after"] / total["before"] if total["before"] else 1
    print(f"  in all: {dict(total)}; {share:.3f} of the broken places are gone")


if __name__ == "__main__":
    main()
