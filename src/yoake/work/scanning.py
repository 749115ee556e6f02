"""Scan a snapshot: list, read, extract, join; with progress, a stop, and a result for every file."""

from __future__ import annotations

import hashlib
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import PurePosixPath
from typing import Final

from yoake.core.coordinates import Target
from yoake.core.errors import BadSource, Stopped
from yoake.core.inventory.assemble import assemble, is_inventory_file
from yoake.core.knowledge.base import Knowledge
from yoake.core.scan.model import NO_READER, FileResult, ScanResult
from yoake.core.scan.run import ScanInput, run_scan
from yoake.core.syntax.facts import FileFacts
from yoake.runner.extraction import Extractor
from yoake.runner.snapshots import MAX_FILE, Entry, Snapshot

LANGUAGES: Final = {
    ".js": "JavaScript",
    ".mjs": "JavaScript",
    ".cjs": "JavaScript",
    ".jsx": "JavaScript",
    ".ts": "TypeScript",
    ".tsx": "TypeScript",
    ".vue": "Vue",
    ".java": "Java",
    ".kt": "Kotlin",
    ".scala": "Scala",
    ".go": "Go",
    ".rb": "Ruby",
    ".php": "PHP",
    ".cs": "C#",
    ".rs": "Rust",
    ".swift": "Swift",
    ".c": "C",
    ".cc": "C++",
    ".cpp": "C++",
    ".pyx": "Cython",
    ".ex": "Elixir",
    ".pl": "Perl",
    ".clj": "Clojure",
    ".dart": "Dart",
}
_MAX_MANIFEST: Final = 20 * 1024 * 1024
_SAY_EVERY: Final = 0.15  # seconds between two words of progress


@dataclass(frozen=True, slots=True)
class Progress:
    """How far a scan is. ``left`` is seconds, None while it cannot be told."""

    phase: str
    done: int = 0
    total: int = 0
    rate: float = 0.0
    left: float | None = None


@dataclass
class Control:
    """How a running scan is watched and stopped."""

    say: Callable[[Progress], None] = lambda _progress: None
    stopped: Callable[[], bool] = lambda: False


@dataclass
class Scanned:
    """A finished scan with the texts it read. ``identity`` names the exact content."""

    result: ScanResult
    identity: str
    label: str
    texts: dict[str, bytes] = field(default_factory=dict)
    seconds: float = 0.0


def scan_snapshot(
    snapshot: Snapshot,
    knowledge: Knowledge,
    destination: Sequence[Target],
    said: Sequence[Target],
    extractor: Extractor,
    control: Control,
    name: str = "application",
) -> Scanned:
    """Scan everything in ``snapshot``. Raises BadSource for an empty one and Stopped when a person stops it."""
    started = time.monotonic()
    reading = _Reading(snapshot, extractor, control)
    reading.run()
    if not reading.files and not reading.inventory:
        raise BadSource("There is nothing to scan here: no source file and no manifest. Is the folder right?")
    control.say(Progress("joining", len(reading.files), len(reading.files)))
    modules = assemble(reading.inventory, name, reading.facts)
    files = sorted(reading.files.values(), key=lambda f: f.path)
    given = ScanInput(reading.facts, files, modules, tuple(destination), tuple(said))
    result = run_scan(given, knowledge)
    identity = snapshot.identity
    if identity.startswith("folder:"):
        joined = "\n".join(f"{f.path} {f.digest}" for f in files)
        identity = "content:" + hashlib.sha256(joined.encode()).hexdigest()
    texts = {**reading.texts, **reading.inventory}
    return Scanned(result, identity, snapshot.label, texts, time.monotonic() - started)


class _Reading:
    """Lists and reads one snapshot, and collects what comes of each file."""

    def __init__(self, snapshot: Snapshot, extractor: Extractor, control: Control) -> None:
        self.snapshot = snapshot
        self.extractor = extractor
        self.control = control
        self.files: dict[str, FileResult] = {}
        self.facts: dict[str, FileFacts] = {}
        self.inventory: dict[str, bytes] = {}
        self.texts: dict[str, bytes] = {}
        self.total = 0
        self.last_said = 0.0
        self.started = time.monotonic()

    def run(self) -> None:
        self.control.say(Progress("listing"))
        entries = list(self.snapshot.entries())
        sources = [entry for entry in entries if self._classify(entry)]
        self.total = len(sources)
        for path, digest, facts, note in self.extractor.run(self._read(sources), self.control.stopped):
            if facts is None:
                self.files[path] = FileResult(path, "failed", note, "Python", 0, digest)
            else:
                self.facts[path] = facts
                broken = f"{len(facts.broken)} lines could not be parsed" if facts.broken else ""
                reason = "; ".join(filter(None, (note, broken)))
                self.files[path] = FileResult(path, "scanned", reason, "Python", facts.lines, digest)
            self._say()
        if self.control.stopped():
            raise Stopped("The scan was stopped. What the last finished scan found is still here.")
        self.facts = {path: self.facts[path] for path in sorted(self.facts)}

    def _classify(self, entry: Entry) -> bool:
        """Whether an entry is Python to be read; everything else gets its result at once."""
        suffix = PurePosixPath(entry.path).suffix.lower()
        if is_inventory_file(entry.path) and not entry.refused and entry.size <= _MAX_MANIFEST:
            self._read_manifest(entry)
        if suffix in LANGUAGES:
            self.files[entry.path] = FileResult(entry.path, "unread", NO_READER, LANGUAGES[suffix])
        elif suffix in (".py", ".pyw"):
            if entry.refused:
                self.files[entry.path] = FileResult(entry.path, "skipped", entry.refused, "Python")
            elif entry.size > MAX_FILE:
                reason = f"{entry.size / 1e6:.0f} MB, larger than {MAX_FILE // 1024 // 1024} MB"
                self.files[entry.path] = FileResult(entry.path, "unread", reason, "Python")
            else:
                return True
        return False

    def _read_manifest(self, entry: Entry) -> None:
        try:
            self.inventory[entry.path] = self.snapshot.read(entry.path)
        except OSError as error:
            self.files[entry.path] = FileResult(entry.path, "failed", str(error), "manifest")

    def _read(self, sources: list[Entry]) -> Iterator[tuple[str, bytes]]:
        for entry in sources:
            try:
                data = self.snapshot.read(entry.path)
            except OSError as error:
                self.files[entry.path] = FileResult(entry.path, "failed", str(error), "Python")
                continue
            self.texts[entry.path] = data
            yield entry.path, data

    def _say(self) -> None:
        now = time.monotonic()
        if now - self.last_said < _SAY_EVERY:
            return
        self.last_said = now
        done = len([None for f in self.files.values() if f.state in ("scanned", "failed")])
        rate = done / max(now - self.started, 0.001)
        self.control.say(Progress("reading", done, self.total, rate, (self.total - done) / rate if rate else None))
