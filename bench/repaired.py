"""How many broken places are gone after all edits to the destination, counted by ``bench.truth`` in the real runtimes.

Each project is copied, everything that ``yoake edit --when all`` would edit is edited in the copy, and broken uses are counted again. Files
that the old or the new interpreter compiled before must compile afterwards, no other use may break, and a second run changes nothing.

    python -m bench.repaired stdlib|django [PROJECT==VERSION …]      # the projects set apart
    python -m bench.repaired node [PROJECT@VERSION …]
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from bench import truth, truth_node
from bench.node_projects import CORPUS
from bench.projects import APART
from bench.truth import DJANGO, LINES, with_django
from yoake.shipped import KIT
from yoake.core.values.coordinates import Target, parse_target, Line
from yoake.core.values.edits import Proposal
from yoake.runner.clients.javascript.node_programs import fetch_node, node_releases
from yoake.runner.clients.python.interpreters import find_interpreters
from yoake.runner.copies import copy_folder
from yoake.runner.extraction import Extractor
from yoake.runner.home import Home
from yoake.store.applications import Source
from yoake.store.facts_cache import FactsCache
from yoake.usecases.edit_tasks import EditTask
from yoake.usecases.edit import propose
from yoake.usecases.progress import Control
from yoake.usecases.scan import scan_snapshot
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
    knowledge, home = KIT.knowledge(), Home(Path(tempfile.gettempdir()) / "yoake-bench-repaired")
    source = Source("folder", str(folder))
    snapshot = open_snapshot(source, home)
    try:
        result = scan_snapshot(snapshot=snapshot, knowledge=knowledge, destination=to, said=said, extractor=extractor, control=Control(), name=folder.name).result
        task = EditTask(home=home.folder, name=folder.name, source=source, targets=tuple(to), said=tuple(said), keys=frozenset(f.key for f in result.findings))
        return propose(task, snapshot, knowledge, extractor, Control())
    finally:
        snapshot.close()


def compiling(program: Path, folder: Path, paths: list[str]) -> set[str]:
    """Which files an interpreter compiles."""
    asked = json.dumps([str(folder / path) for path in paths])
    done = subprocess.run([program, "-W", "ignore", "-c", COMPILES], input=asked, capture_output=True, text=True, check=True)
    return {str(Path(path).relative_to(folder)) for path, fine in json.loads(done.stdout).items() if fine}


@dataclass(frozen=True, kw_only=True)
class Ground:
    """What a set of projects is measured with: where they come from, how broken uses are counted, and which of some files a runtime reads."""

    to: list[Target]
    said: list[Target]
    suffixes: tuple[str, ...]
    fetched: Callable[[str], Path | None]
    broken: Callable[[Path], set[tuple[str, int, str]]]
    readable: Callable[[Path, list[str]], list[set[str]]]


def python_ground(mode: str, root: Path) -> Ground:
    """Projects in Python, in the real interpreters."""
    old, new = (find_interpreters()[Line(line)] for line in LINES[mode])
    plain = (old, new)
    to, said = [parse_target(f"python@{LINES[mode][1]}")], [parse_target(f"python@{LINES[mode][0]}")]
    if mode == "django":
        old, new = with_django(old, DJANGO[0], root), with_django(new, DJANGO[1], root)
        to.append(parse_target("pypi/django@5.2"))
        said.append(parse_target("pypi/django@3.2"))
    return Ground(
        to=to,
        said=said,
        suffixes=(".py",),
        fetched=lambda requirement: truth.fetch(requirement, root),
        broken=lambda place: truth.broken_uses(mode, place, (old, new)),
        readable=lambda place, sources: [compiling(program, place, sources) for program in plain],
    )


def node_ground(root: Path) -> Ground:
    """Projects in JavaScript, in the real programs."""
    folder = root / "node"
    folder.mkdir(parents=True, exist_ok=True)
    newest = node_releases()
    old, new = (fetch_node(newest[Line(line)], folder) for line in truth_node.LINES)
    parser = truth_node.acorn(folder)
    return Ground(
        to=[parse_target(f"node@{truth_node.LINES[1]}")],
        said=[parse_target(f"node@{truth_node.LINES[0]}")],
        suffixes=(".js", ".cjs", ".mjs"),
        fetched=lambda spec: truth_node.fetch(spec, folder),
        broken=lambda place: truth_node.broken_uses(place, (old, new), parser),
        readable=lambda place, sources: [{s for s in sources if checked(program, place / s)} for program in (old, new)],
    )


def checked(program: Path, path: Path) -> bool:
    """Whether a Node program reads a file."""
    return subprocess.run([program, "--check", path], capture_output=True, check=False).returncode == 0


def main() -> None:
    """One line a project, then the totals."""
    mode = sys.argv[1]
    wanted = sys.argv[2:] or (CORPUS["apart"] if mode == "node" else APART[mode])
    root = Path(tempfile.gettempdir()) / "yoake-truth"
    root.mkdir(exist_ok=True)
    ground = node_ground(root) if mode == "node" else python_ground(mode, root)
    extractor = Extractor(FactsCache(None), KIT.ecosystems)
    total: Counter[str] = Counter()
    for requirement in wanted:
        place = ground.fetched(requirement)
        if place is None:
            print(f"  {requirement}: could not be fetched", flush=True)
            continue
        total.update(project(requirement, place, ground, extractor))
    extractor.close()
    share = 1 - total["after"] / total["before"] if total["before"] else 1
    print(f"  in all: {dict(total)}; {share:.3f} of the broken places are gone")


def project(name: str, place: Path, ground: Ground, extractor: Extractor) -> dict[str, int]:
    """The counts of one project."""
    before = ground.broken(place)
    made = all_edits(place, ground.to, ground.said, extractor)
    changed = [f for f in made.files if f.outcome == "changed"]
    with tempfile.TemporaryDirectory() as held:
        copy = Path(held) / "copy"
        copy_folder(place, copy)
        for file in changed:
            (copy / file.path).write_bytes(file.after)
        after = ground.broken(copy)
        sources = [f.path for f in changed if f.path.endswith(ground.suffixes)]
        was, now = ground.readable(place, sources), ground.readable(copy, sources)
        spoiled = [path for old, new in zip(was, now, strict=True) for path in old - new]
        again = sum(f.outcome == "changed" for f in all_edits(copy, ground.to, ground.said, extractor).files)
    kept = Counter((f, s) for f, _, s in after) - Counter((f, s) for f, _, s in before)
    left = Counter(s for _, _, s in after).most_common(6)
    print(
        f"  {name:32} broken {len(before):4} → {len(after):4}   files {len(changed):4}  spoiled {len(spoiled)}  new {sum(kept.values())}"
        f"  again {again}   left: {', '.join(f'{s} {n}' for s, n in left)}",
        flush=True,
    )
    for broken in [*list(kept)[:5], *spoiled[:5]]:
        print(f"      new or spoiled: {broken}")
    return {
        "before": len(before), "after": len(after), "files": len(changed), "spoiled": len(spoiled), "new": sum(kept.values()), "again": again,
    }


if __name__ == "__main__":
    main()
