"""How right a scan is about npm libraries, asked of the real releases installed in throw-away folders.

The truth: a use (file, line, symbol) in unguarded code whose symbol resolves by property look-up in the old release and not in
the new one. Candidates come from ``bench/walk.mjs``; ``bench/ask.cjs`` looks them up.

    python -m bench.truth_npm [LIBRARY …]
"""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from bench.truth import HERE, Score, report, tally
from bench.truth_node import acorn, fetch
from yoake.shipped import KIT
from yoake.core.ecosystems.javascript.specifiers import package_of
from yoake.core.registered import ECOSYSTEMS
from yoake.core.values.coordinates import package, parse_target
from yoake.runner.clients.javascript.npm_client import run_npm
from yoake.runner.extraction import Extractor
from yoake.runner.snapshots import FolderSnapshot
from yoake.store.facts_cache import FactsCache
from yoake.usecases.progress import Control
from yoake.usecases.scan import scan_snapshot

LIBRARIES: dict[str, tuple[str, str, list[str]]] = {
    "lodash": ("3.10.1", "4.17.21", ["sequelize@3.35.1", "grunt@0.4.5", "bower@1.8.14", "sails@0.12.14", "karma@1.7.1"]),
    "glob": ("7.2.3", "10.4.5", ["npm@6.14.18", "karma@1.7.1", "serverless@1.83.3", "mocha@5.2.0"]),
    "commander": ("2.20.3", "12.1.0", ["pm2@2.10.4", "azure-cli@0.10.20", "mocha@5.2.0", "firebase-tools@3.19.3"]),
    "async": ("1.5.2", "3.2.6", ["azure-cli@0.10.20", "pm2@2.10.4", "kue@0.11.6", "sails@0.12.14"]),
    "uuid": ("3.4.0", "9.0.1", ["npm@6.14.18", "serverless@1.83.3", "request@2.88.2", "firebase-tools@3.19.3"]),
    "underscore": ("1.8.3", "1.13.7", ["azure-cli@0.10.20", "nedb@1.8.0", "geddy@13.0.8"]),
    "semver": ("5.7.2", "7.6.3", ["npm@6.14.18", "npm@3.10.10", "bower@1.8.14", "serverless@1.83.3"]),
    "fs-extra": ("0.30.0", "11.2.0", ["node-red@0.15.3", "serverless@1.83.3", "sails@0.12.14", "electron-packager@7.7.0"]),
    "moment": ("2.10.6", "2.30.1", ["azure-cli@0.10.20", "serverless@1.83.3", "hexo@3.9.0", "sequelize@3.35.1"]),
    "joi": ("10.6.0", "17.13.3", ["hapi@16.8.4", "hapi@15.2.0"]),
    "bluebird": ("2.11.0", "3.7.2", ["sequelize@3.35.1", "hexo@3.9.0", "serverless@1.83.3", "npm@6.14.18"]),
}  # fmt: skip


def install(name: str, release: str, folder: Path) -> Path:
    """A throw-away folder with one release."""
    place = folder / f"lib-{name.replace('/', '_')}-{release}"
    if not (place / "node_modules").is_dir():
        place.mkdir(parents=True, exist_ok=True)
        (place / "package.json").write_text('{"private": true}')
        run_npm("install", f"{name}@{release}", cwd=place)
    return place


def _ask(place: Path, paths: list[str]) -> dict[str, bool | None]:
    command = [shutil.which("node") or "node", "--no-warnings", str(HERE / "ask.cjs"), str(place)]
    done = subprocess.run(command, input=json.dumps(paths), capture_output=True, text=True, check=True)
    return json.loads(done.stdout)


def measure(name: str, folder: Path, places: tuple[Path, Path], parser: Path, extractor: Extractor) -> Score:
    """Score one unpacked project against one library."""
    old, new, _ = LIBRARIES[name]
    coordinate = package("npm", name)
    to = [parse_target(f"npm/{name}@{ECOSYSTEMS.line_of(coordinate, new)}")]
    said = [parse_target(f"npm/{name}@{ECOSYSTEMS.line_of(coordinate, old)}")]
    result = scan_snapshot(snapshot=FolderSnapshot(folder), knowledge=KIT.knowledge(), destination=to, said=said, extractor=extractor, control=Control(), name=folder.name).result
    found = [(f, p) for f in result.findings for p in f.places if p.level == "error"]
    errors = {(p.file, p.line, p.symbol) for _, p in found}
    removed = {
        (p.file, p.line, p.symbol)
        for f, p in found
        if f.kind == "removed" and "prototype" not in p.symbol and p.form != "type"
    }
    scanned = {f.path for f in result.files if f.state == "scanned"}
    done = subprocess.run(
        ["node", "--stack-size=4000", str(HERE / "walk.mjs"), str(parser), str(folder)],
        capture_output=True,
        text=True,
        check=True,
    )
    rows = {
        (f, n, s)
        for f, n, s, guarded in json.loads(done.stdout)
        if not guarded and f in scanned and package_of(s.split(".")[0]) == name
    }
    paths = sorted({s for _, _, s in rows} | {s for _, _, s in removed})
    before, after = (_ask(place, paths) for place in places)
    return tally(rows, errors, removed, before, after)


def main() -> None:
    """Measure and print one line a project, the misses and the totals of each library."""
    folder = Path(tempfile.gettempdir()) / "yoake-truth" / "node"
    folder.mkdir(parents=True, exist_ok=True)
    parser = acorn(folder)
    extractor = Extractor(FactsCache(folder / "facts.sqlite"), KIT.ecosystems)
    for name in sys.argv[1:] or LIBRARIES:
        old, new, projects = LIBRARIES[name]
        print(f"\n{name} {old} → {new}", flush=True)
        places = (install(name, old, folder), install(name, new, folder))
        scores = {}
        for spec in projects:
            place = fetch(spec, folder)
            if place is not None:
                scores[spec] = measure(name, place, places, parser, extractor)
        report(scores)
    extractor.close()


if __name__ == "__main__":
    main()
