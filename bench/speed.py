"""Speed and memory of a scan against bare tree-sitter parsing of the same files, in one run on one machine.

python -m bench.speed [FOLDER …]      # default: the libraries of the interpreters found here, at least a million lines
"""

from __future__ import annotations

import os
import sys
import tempfile
import threading
import time
from pathlib import Path

from yoake.core.coordinates import parse_target
from yoake.core.syntax.tree import parse
from yoake.runner.extraction import Extractor, FactsCache
from yoake.runner.interpreters import find_interpreters
from yoake.runner.knowledge_files import load_knowledge
from yoake.runner.snapshots import FolderSnapshot
from yoake.work.scanning import Control, scan_snapshot

_ENOUGH = 1_000_000


def corpus(folder: Path) -> Path:
    """Links of real Python files are not followed, so copies: interpreters' libraries until there are a million lines."""
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


def main() -> None:
    """Print the ratios."""
    with tempfile.TemporaryDirectory() as name:
        folders = [Path(a) for a in sys.argv[1:]] or [corpus(Path(name) / "corpus")]
        for folder in folders:
            measure(folder, Path(name))


def measure(folder: Path, home: Path) -> None:
    """Bare parse, cold scan, unchanged rescan, rescan with one changed file."""
    paths = [folder / e.path for e in FolderSnapshot(folder).entries() if e.path.endswith(".py") and not e.refused]
    data = [path.read_bytes() for path in paths]
    lines = sum(d.count(b"\n") for d in data)
    begun = time.perf_counter()
    for text in data:
        parse(text)
    bare = time.perf_counter() - begun
    del data
    knowledge = load_knowledge()
    to, said = [parse_target("python@3.13")], [parse_target("python@3.8")]

    def scan() -> float:
        cache = FactsCache(home / "facts.sqlite")
        extractor = Extractor(cache)
        start = time.perf_counter()
        scan_snapshot(FolderSnapshot(folder), knowledge, to, said, extractor, Control())
        taken = time.perf_counter() - start
        extractor.close()
        cache.close()
        return taken

    peak = Peak()
    cold = scan()
    kib = peak.stop()
    warm = scan()
    paths[len(paths) // 2].write_bytes(paths[len(paths) // 2].read_bytes() + b"\n# changed\n")
    one = scan()
    print(f"{folder.name}: {lines:,} lines in {len(paths):,} files")
    print(
        f"  bare tree-sitter {bare:.1f} s; cold scan {cold:.1f} s = {cold / bare:.2f} × ({lines / cold:,.0f} lines/s)"
    )
    print(
        f"  unchanged rescan {warm:.2f} s = {warm / bare:.1%}; one file changed {one:.2f} s; peak PSS {kib / 1024:.0f} MiB"
    )


if __name__ == "__main__":
    main()
