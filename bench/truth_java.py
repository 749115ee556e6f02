"""How right a scan of Java is, asked of the real compiler.

The truth: a line that compiles for the old release and not for the new one, by javac of the newest JDK here (``--release``), with
the same sources and class path. Errors that both releases give (libraries that are not here) say nothing, nor does what
stands on the same line. Nor do names that a declared
package brings back, which may be missing from the class path here. Errors that only follow from a missing name (an override without its interface) are counted apart.
The compiler looks no further into a class that there is twice, so neither do we.

    python -m bench.truth_java FOLDER_OF_PROJECTS [OLD NEW] [--show]
"""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
import tempfile
from collections.abc import Iterable
from pathlib import Path

from yoake.shipped import KIT
from yoake.core.values.coordinates import parse_target, Coordinate
from yoake.runner.clients.java.jdks import find_jdks
from yoake.runner.extraction import Extractor
from yoake.runner.snapshots import FolderSnapshot
from yoake.store.facts_cache import FactsCache
from yoake.usecases.progress import Control
from yoake.usecases.scan import scan_snapshot

_ERROR = re.compile(r"^(?P<file>[^:\n]+\.java):(?P<line>\d+): error: (?P<text>.*)$")
_RUNTIME = Coordinate("pkg:generic/java")
_SECONDS = 900
_NAMES = re.compile(
    r"package [\w.]+ does not exist|cannot find symbol|cannot be applied to given types|no suitable (method|constructor)|static import only|restricted identifier|yield outside|'_' (is a keyword|not allowed)|as of release"
)
"""What javac says of a name that is not there; the rest follows from one that is not, and is counted apart."""


def sources(project: Path) -> list[str]:
    """The Java files of a project that belong together; a tree of tests and samples would only add names twice."""
    found = sorted(str(path.relative_to(project)) for path in project.rglob("*.java"))
    return [path for path in found if not path.endswith(("module-info.java", "package-info.java"))]


def errors(project: Path, files: Iterable[str], release: str, javac: Path) -> set[tuple[str, int, str]]:
    """(file, line, message) of every error that javac gives."""
    kept = project.with_name(f"{project.name}.{release}.json")
    if kept.exists():
        return {(file, line, said) for file, line, said in json.loads(kept.read_text())}
    with tempfile.TemporaryDirectory() as out:
        listed = Path(out) / "files"
        listed.write_text("\n".join(f'"{path}"' for path in files))
        jars = os.pathsep.join(str(jar) for jar in sorted(Path("/usr/share/java").glob("*.jar")) if "annotation" not in jar.name)
        command = [
            str(javac), "--release", release, "-proc:none", "-implicit:none", "-Xmaxerrs", "1000000", "-Xlint:none", "-nowarn",
            "-encoding", "UTF-8", "-XDshould-stop.ifError=FLOW", "-d", out, "-cp", jars, f"@{listed}",
        ]  # fmt: skip
        done = subprocess.run(
            command, cwd=project, capture_output=True, text=True, timeout=_SECONDS, errors="replace", check=False
        )
    found = set()
    for raw in done.stderr.splitlines():
        match = _ERROR.match(raw)
        if match:
            found.add((match["file"], int(match["line"]), match["text"]))
    kept.write_text(json.dumps(sorted(found)))
    return found


Told = dict[tuple[str, int], list[tuple[str, str, str]]]


def ours(project: Path, old: str, new: str, cache: Path) -> tuple[Told, set[tuple[str, int]]]:
    """(file, line) → (kind, symbol, level) of every place a scan calls broken; and places that a dependency answers for."""
    extractor = Extractor(FactsCache(cache), KIT.ecosystems)
    target, start = parse_target(f"java@{new}"), parse_target(f"java@{old}")
    scanned = scan_snapshot(FolderSnapshot(project), KIT.knowledge(), [target], [start], extractor, Control())
    extractor.close()
    found: Told = {}
    brought: set[tuple[str, int]] = set()
    for finding in scanned.result.findings:
        if finding.coordinate == _RUNTIME and finding.kind in ("removed", "moved", "reshaped", "behaviour"):
            for place in finding.places:
                if place.guarded.startswith("brought back"):
                    brought.add((place.file, place.line))
                if place.level != "note":
                    found.setdefault((place.file, place.line), []).append((finding.kind, place.symbol, place.level))
    return found, brought


def main() -> None:
    folder, rest = Path(sys.argv[1]), [a for a in sys.argv[2:] if not a.startswith("--")]
    old, new = rest if len(rest) == 2 else ("8", "17")
    jdks = find_jdks()
    javac = jdks[max(jdks)] / "bin" / "javac"
    every = [0, 0, 0, 0]
    for project in sorted(path for path in folder.iterdir() if path.is_dir()):
        files = sources(project)
        if not files:
            continue
        try:
            before, after = (errors(project, files, release, javac) for release in (old, new))
        except subprocess.TimeoutExpired:
            print(f"{project.name}: javac took too long")
            continue
        lost_before = {(file, line) for file, line, _ in before}
        truth = {(file, line) for file, line, said in after if _NAMES.search(said)} - lost_before
        effects = {(file, line) for file, line, _ in after} - lost_before - truth
        told, brought = ours(project, old, new, folder / "facts.sqlite")
        truth -= brought
        judged = {place: held for place, held in told.items() if place in truth or place not in lost_before}
        twice = {file for file, _, said in before | after if said.startswith("duplicate class")}
        judged = {place: held for place, held in judged.items() if place[0] in set(files) - twice}
        removed = {
            p for p, held in judged.items() if any(kind == "removed" and level == "error" for kind, _, level in held)
        }
        found, right = truth & set(told), removed & (truth | effects)
        print(
            f"{project.name}: {len(files)} files, truth {len(truth)}, found {len(found)}, removed said {len(removed)}, right {len(right)}"
        )
        for total, value in enumerate((len(truth), len(found), len(removed), len(right))):
            every[total] += value
        if "--show" in sys.argv:
            texts = {(file, line): text for file, line, text in after}
            for place in sorted(truth - found)[:15]:
                print("   missed", place, texts[place])
            for place in sorted(removed - truth - effects)[:15]:
                print("   wrong ", place, judged[place])
    truth_n, found_n, removed_n, right_n = every
    print(
        f"recall {found_n / max(truth_n, 1):.3f} of {truth_n}; precision of removed {right_n / max(removed_n, 1):.3f} of {removed_n}"
    )


if __name__ == "__main__":
    main()
