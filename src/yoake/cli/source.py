"""What commands over one source share: its kind, and a scan of it in this process."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

from yoake.core.values.coordinates import Target
from yoake.runner.extraction import Extractor
from yoake.runner.home import Home
from yoake.runner.knowledge_files import load_knowledge
from yoake.store.applications import Source
from yoake.store.facts_cache import FactsCache
from yoake.usecases.scan import Control, Progress, Scanned, scan_snapshot
from yoake.usecases.sources import kind_of, open_snapshot

CLEAN, FOUND, FAILED = 0, 1, 2
"""Exit codes: nothing stands in the way, something does, it could not run."""


def kind_here(path: str, ref: str) -> str:
    """Without a ref a local repository is scanned as its files are now."""
    kind = kind_of(path, ref)
    return "folder" if kind == "git" and not ref and Path(path).expanduser().is_dir() else kind


def said_line(checked: Target, given: Target) -> Target:
    """What a person said, with the line as we name it."""
    return Target(given.coordinate, checked.line)


def scan_source(source: Source, targets: list[Target], said: list[Target], home: Home) -> Scanned:
    """Scan a source here and now. Raises BadSource."""
    knowledge = load_knowledge(home.knowledge)
    snapshot = open_snapshot(source, home)
    cache = FactsCache(home.facts)
    extractor = Extractor(cache)
    name = Path(source.location.rstrip("/")).name.removesuffix(".git") or "application"
    try:
        return scan_snapshot(snapshot, knowledge, targets, said, extractor, Control(_terminal_progress()), name)
    finally:
        extractor.close()
        cache.close()
        snapshot.close()


def _terminal_progress() -> Callable[[Progress], None]:
    if not sys.stderr.isatty():
        return lambda _progress: None

    def say(progress: Progress) -> None:
        left = f", {progress.left:.0f} s left" if progress.left is not None else ""
        counted = f" {progress.done}/{progress.total}, {progress.rate:.0f} files/s{left}" if progress.total else ""
        sys.stderr.write(f"\r\x1b[K{progress.phase}{counted}" + ("\r\x1b[K" if progress.phase == "joining" else ""))
        sys.stderr.flush()

    return say
