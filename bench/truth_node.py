"""How right a scan of JavaScript is, asked of real Node programs.

The truth: a use (file, line, symbol) in unguarded code whose symbol resolves by property look-up under the old program and
not under the new one. Candidates come from ``bench/walk.mjs`` (acorn); ``bench/ask.cjs`` looks them up in both programs.

    python -m bench.truth_node [tuned|apart] [PROJECT@VERSION …]
"""

from __future__ import annotations

import json
import subprocess
import sys
import tarfile
import tempfile
from pathlib import Path

from bench.node_projects import CORPUS
from bench.truth import Score, report, tally
from yoake.shipped import KIT
from yoake.core.ecosystems.javascript.specifiers import package_of
from yoake.core.values.coordinates import parse_target, Coordinate, Line
from yoake.runner.clients.javascript.node_programs import fetch_node, node_releases
from yoake.runner.clients.javascript.npm_client import npm_pack, run_npm
from yoake.runner.extraction import Extractor
from yoake.runner.snapshots import FolderSnapshot
from yoake.store.facts_cache import FactsCache
from yoake.usecases.progress import Control
from yoake.usecases.scan import scan_snapshot

HERE = Path(__file__).parent
LINES = ("14", "24")


def fetch(spec: str, folder: Path) -> Path | None:
    """Download and unpack one project; nothing of it is run."""
    target = folder / spec.replace("/", "_")
    if target.is_dir():
        return target
    with tempfile.TemporaryDirectory() as place:
        try:
            archive = npm_pack(spec, Path(place))
        except Exception as error:  # noqa: BLE001  a bench says what it could not fetch and goes on
            print(error)
            return None
        with tarfile.open(archive) as packed:
            packed.extractall(target, filter="data")
    return target


def acorn(folder: Path) -> Path:
    """A folder where the independent parser is installed."""
    place = folder / "acorn"
    if not (place / "node_modules").is_dir():
        place.mkdir(parents=True, exist_ok=True)
        (place / "package.json").write_text("{}")
        run_npm("install", "acorn@8", cwd=place)
    return place


def ask(program: Path, paths: set[str]) -> dict[str, bool | None]:
    """What a real program says of each path."""
    command = [str(program), "--no-warnings", str(HERE / "ask.cjs")]
    done = subprocess.run(command, input=json.dumps(sorted(paths)), capture_output=True, text=True, check=True)
    return json.loads(done.stdout)


def measure(folder: Path, programs: tuple[Path, Path], parser: Path, extractor: Extractor) -> Score:
    """Score one unpacked project."""
    knowledge = KIT.knowledge()
    to, said = [parse_target(f"node@{LINES[1]}")], [parse_target(f"node@{LINES[0]}")]
    result = scan_snapshot(snapshot=FolderSnapshot(folder), knowledge=knowledge, destination=to, said=said, extractor=extractor, control=Control(), name=folder.name).result
    places = [(f, p) for f in result.findings for p in f.places if p.level == "error"]
    errors = {(p.file, p.line, p.symbol) for _, p in places}
    removed = {(p.file, p.line, p.symbol) for f, p in places if f.kind == "removed" and "prototype" not in p.symbol}
    scanned = {f.path for f in result.files if f.state == "scanned"}
    rows = {row for row in used(folder, parser) if row[0] in scanned}
    paths = {s for _, _, s in rows} | {s for _, _, s in removed}
    before, after = ask(programs[0], paths), ask(programs[1], paths)
    return tally(rows, errors, removed, before, after)


def used(folder: Path, parser: Path) -> set[tuple[str, int, str]]:
    """(file, line, path) of what unguarded code uses of Node."""
    knowledge = KIT.knowledge()
    command = ["node", "--stack-size=4000", str(HERE / "walk.mjs"), str(parser), str(folder)]
    done = subprocess.run(command, capture_output=True, text=True, check=True)
    modules = {name.replace("\u2024", ".") for name in knowledge.top_levels(Coordinate("pkg:generic/node"))}
    return {
        (f, n, s)
        for f, n, s, guarded in json.loads(done.stdout)
        if not guarded and (package_of(s.split(".")[0]) in modules or s[:1].isupper() or s.startswith("process."))
    }


def broken_uses(folder: Path, programs: tuple[Path, Path], parser: Path) -> set[tuple[str, int, str]]:
    """(file, line, path) of the uses that the old program offers and the new one does not."""
    rows = used(folder, parser)
    paths = {s for _, _, s in rows}
    before, after = ask(programs[0], paths), ask(programs[1], paths)
    return {(f, n, s) for f, n, s in rows if before[s] is True and after[s] is False}


def main() -> None:
    """Measure and print one line a project, the misses and the totals."""
    wanted = [a for a in sys.argv[1:] if "@" in a]
    sets = [a for a in sys.argv[1:] if a in CORPUS] or list(CORPUS)
    folder = Path(tempfile.gettempdir()) / "yoake-truth" / "node"
    folder.mkdir(parents=True, exist_ok=True)
    newest = node_releases()
    old, new = (fetch_node(newest[Line(line)], folder) for line in LINES)
    parser = acorn(folder)
    extractor = Extractor(FactsCache(None), KIT.ecosystems)
    for name in sets if not wanted else ["asked for"]:
        print(f"\nNode {' → '.join(LINES)}, {name}")
        scores = {}
        for spec in wanted or CORPUS[name]:
            place = fetch(spec, folder)
            if place is not None:
                scores[spec] = measure(place, (old, new), parser, extractor)
        report(scores)
    extractor.close()


if __name__ == "__main__":
    main()
