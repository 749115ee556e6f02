"""Speed and memory of a scan against bare tree-sitter parsing of the same files, in one run on one machine.

    python -m bench.speed [python|javascript] [FOLDER …]

Without a folder: the libraries of the interpreters found here, and packages of the registry, at least a million lines of each.
The unchanged rescan is the command itself, start included.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

from bench.truth_node import fetch
from yoake.shipped import KIT
from yoake.core.ecosystems.java.syntax import java_parser
from yoake.core.ecosystems.javascript.files import minified
from yoake.core.ecosystems.javascript.tree import grammar_of, parse_script
from yoake.core.ecosystems.python.tree import parse
from yoake.core.registered import ECOSYSTEMS
from yoake.core.values.coordinates import parse_target
from yoake.runner.clients.python.interpreters import find_interpreters
from yoake.runner.extraction import Extractor
from yoake.runner.snapshots import FolderSnapshot
from yoake.store.facts_cache import FactsCache
from yoake.usecases.progress import Control
from yoake.usecases.scan import scan_snapshot

_ENOUGH = 1_000_000
_PACKAGES = (
    "npm@6", "npm@3", "webpack@5", "webpack@4", "aws-sdk@2.100.0", "three@0.150", "rxjs@6", "eslint@8", "eslint@4", "sequelize@6",
    "azure-cli@0.10.20", "node-red@0.9.1", "geddy@13.0.8", "serverless@1.83.3", "pm2@2.10.4", "@angular/core@15", "next@12",
    "react-native@0.30", "typeorm@0.3", "jsdom@20", "firebase-tools@3", "@babel/core@7", "prettier@2", "typescript@3.9",
)  # fmt: skip
_LINES = {
    "python": ("python@3.8", "python@3.13"),
    "javascript": ("node@14", "node@24"),
    "java": ("java@8", "java@17"),  # of a folder that is given: no registry here has sources of Java
}


def corpus(language: str, folder: Path) -> Path:
    """Real files of one language."""
    if language == "javascript":
        for spec in _PACKAGES:
            fetch(spec, folder)
        return folder
    lines = 0
    for line, program in find_interpreters().items():
        library = program.resolve().parent.parent / "lib" / f"python{line}"
        for path in sorted(library.rglob("*.py")):
            if "site-packages" in path.parts or "lib2to3" in path.parts:
                continue
            data = path.read_bytes()
            target = folder / f"py{line.replace('.', '')}" / path.relative_to(library)
            target.parent.mkdir(parents=True, exist_ok=True)
            target.write_bytes(data + f"\n# {line}\n".encode())
            lines += data.count(b"\n")
        if lines >= _ENOUGH:
            break
    return folder


def pss_of_all() -> int:
    """Proportional set size of this process and its children, in KiB."""
    total = 0
    own = os.getpid()
    for entry in Path("/proc").iterdir():
        if not entry.name.isdigit():
            continue
        try:
            status = (entry / "stat").read_text().rsplit(")", 1)[1].split()
            if int(entry.name) == own or int(status[1]) == own:
                rollup = (entry / "smaps_rollup").read_text()
                total += next(int(row.split()[1]) for row in rollup.splitlines() if row.startswith("Pss:"))
        except (OSError, StopIteration, IndexError):
            continue
    return total


class Peak:
    """The largest PSS seen while it watches."""

    def __init__(self) -> None:
        self.kib = 0
        self._done = threading.Event()
        self._thread = threading.Thread(target=self._watch)
        self._thread.start()

    def _watch(self) -> None:
        while not self._done.wait(0.5):
            self.kib = max(self.kib, pss_of_all())

    def stop(self) -> int:
        """The peak in KiB."""
        self._done.set()
        self._thread.join()
        return self.kib


def sources(folder: Path) -> list[Path]:
    """The files that a scan reads."""
    found = [
        folder / e.path
        for e in FolderSnapshot(folder).entries()
        if Path(e.path).suffix in ECOSYSTEMS.suffixes and not e.refused
    ]
    return [path for path in found if path.stat().st_size < 5_000_000 and not minified(path.name, path.read_bytes())]


def bare(paths: list[Path]) -> tuple[float, int]:
    """(seconds of parsing on one core, lines)."""
    data = [(path.name, path.read_bytes()) for path in paths]
    begun = time.perf_counter()
    for name, text in data:
        if name.endswith((".py", ".pyw")):
            parse(text)
        elif name.endswith(".java"):
            java_parser().parse(text)
        else:
            parse_script(text, grammar_of(name))
    return time.perf_counter() - begun, sum(text.count(b"\n") for _, text in data)


def measure(language: str, folder: Path, home: Path) -> None:
    """Bare parse, cold scan, unchanged rescan by the command, rescan with one changed file."""
    paths = sources(folder)
    seconds, lines = bare(paths)
    knowledge = KIT.knowledge()
    said, to = _LINES[language]

    def scan() -> float:
        start = time.perf_counter()
        cache = FactsCache(home / "facts.sqlite")
        extractor = Extractor(cache, KIT.ecosystems)
        scan_snapshot(FolderSnapshot(folder), knowledge, [parse_target(to)], [parse_target(said)], extractor, Control())
        extractor.close()
        cache.close()
        return time.perf_counter() - start

    def command() -> float:
        start = time.perf_counter()
        arguments = ["scan", str(folder), "--to", to, "--from", said, "--format", "json", "-o", str(home / "out.json")]
        environment = {**os.environ, "YOAKE_HOME": str(home)}
        subprocess.run([sys.executable, "-m", "yoake", *arguments], env=environment, check=False, capture_output=True)
        return time.perf_counter() - start

    peak = Peak()
    cold = scan()
    kib = peak.stop()
    seconds = (seconds + bare(paths)[0]) / 2  # before and after: machines that others use too change their pace
    command()
    time.sleep(2.5)  # files changed a moment ago are not trusted to stay as they are
    command()
    warm = command()
    changed = paths[len(paths) // 2]
    kept = changed.read_bytes()
    changed.write_bytes(kept + b"\n")
    one = scan()
    changed.write_bytes(kept)
    print(f"{language}: {lines:,} lines in {len(paths):,} files")
    print(
        f"  bare tree-sitter {seconds:.1f} s; cold {cold:.1f} s = {cold / seconds:.2f} × ({lines / cold:,.0f} lines/s)"
    )
    print(f"  unchanged rescan, start included {warm:.2f} s = {warm / seconds:.1%}; one file changed {one:.2f} s")
    print(f"  peak PSS of all processes {kib / 1024:.0f} MiB", flush=True)


def main() -> None:
    """Print the ratios."""
    languages = [a for a in sys.argv[1:] if a in _LINES] or ["python", "javascript"]
    folders = [Path(a) for a in sys.argv[1:] if a not in _LINES]
    for language in languages:
        with tempfile.TemporaryDirectory() as name:
            for folder in folders or [corpus(language, Path(name) / "corpus")]:
                (Path(name) / "home").mkdir(exist_ok=True)
                measure(language, folder, Path(name) / "home")


if __name__ == "__main__":
    main()
