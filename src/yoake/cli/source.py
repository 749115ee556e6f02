"""What commands over one source share: its kind, and a scan of it in this process."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterable
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from yoake.core.values.coordinates import Target, parse_target
from yoake.core.values.errors import BadSource
from yoake.formats.waivers import Waiver, read_waivers
from yoake.runner.extraction import Extractor
from yoake.store.facts_cache import FactsCache
from yoake.usecases.look_up import LookUpTask, look_up, without_record
from yoake.usecases.progress import Control, Progress
from yoake.usecases.scan import scan_snapshot
from yoake.usecases.sources import kind_of, open_snapshot

if TYPE_CHECKING:
    from yoake.context.kit import Kit
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.values.words import SourceKind
    from yoake.runner.home import Home
    from yoake.store.applications import Source
    from yoake.usecases.scanned import Scanned

CLEAN, FOUND, FAILED = 0, 1, 2
"""Exit codes: nothing stands in the way, something does, it could not run."""


def kind_here(path: str, ref: str) -> SourceKind:
    """Without a ref a local repository is scanned as its files are now."""
    kind = kind_of(path, ref)
    return "folder" if kind == "git" and not ref and Path(path).expanduser().is_dir() else kind


def read_targets(texts: Iterable[str], kit: Kit, home: Home, *, ask: bool = False) -> list[Target]:
    """The lines that somebody named, as we name them. ``ask``: look up first what nothing is known of. Raises BadCoordinate."""
    given = [parse_target(text) for text in texts]
    knowledge = kit.knowledge(home.knowledge)
    strange = [
        t.coordinate for t in map(knowledge.ecosystems.canonical_target, given) if not knowledge.lines(t.coordinate)
    ]
    if ask and strange:
        look_up(LookUpTask(home.folder, tuple(strange), datetime.now(UTC).date()), kit, terminal_progress())
        knowledge = kit.knowledge(home.knowledge)
    return [knowledge.check_target(target) for target in given]


def said_line(checked: Target, given: Target) -> Target:
    """What a person said, with the line as we name it."""
    return Target(given.coordinate, checked.line)


def read_waived(path: Path) -> dict[str, Waiver]:
    """Finding → the waiver of a file that holds today. Raises BadSource and BadInput."""
    try:
        text = path.read_text("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise BadSource(f"The file of waivers {path} cannot be read: {error}.") from error
    today = datetime.now(UTC).date()
    return {waiver.finding: waiver for waiver in read_waivers(text) if waiver.holds(today)}


def scan_source(
    source: Source, targets: list[Target], said: list[Target], kit: Kit, home: Home, *, ask: bool = False
) -> Scanned:
    """Scan a source here and now. ``ask``: look up first what no record is known of. Raises BadSource."""
    snapshot = open_snapshot(source, home)
    cache = FactsCache(home.facts)
    extractor = Extractor(cache, kit.ecosystems)
    name = Path(source.location.rstrip("/")).name.removesuffix(".git") or "application"
    say = terminal_progress()

    def scan(knowledge: Knowledge) -> Scanned:
        return scan_snapshot(
            snapshot=snapshot,
            knowledge=knowledge,
            destination=targets,
            said=said,
            extractor=extractor,
            control=Control(say),
            name=name,
        )

    try:
        knowledge = kit.knowledge(home.knowledge)
        scanned = scan(knowledge)
        if ask and (missing := without_record(scanned.result.packages, knowledge.catalogues, kit.ecosystems)):
            done = look_up(LookUpTask(home.folder, missing, datetime.now(UTC).date()), kit, say)
            if done.unknown:
                sys.stderr.write(f"yoake: no package client knows {', '.join(done.unknown)}\n")
            scanned = scan(kit.knowledge(home.knowledge))
        return scanned
    finally:
        extractor.close()
        cache.close()
        snapshot.close()


def terminal_progress() -> Callable[[Progress], None]:
    """Progress on one line of the terminal; nothing where nobody looks."""
    if not sys.stderr.isatty():
        return lambda _progress: None

    def say(progress: Progress) -> None:
        left = f", {progress.left:.0f} s left" if progress.left is not None else ""
        counted = f" {progress.done}/{progress.total}, {progress.rate:.0f} files/s{left}" if progress.total else ""
        sys.stderr.write(f"\r\x1b[K{progress.phase}{counted}" + ("\r\x1b[K" if progress.phase == "joining" else ""))
        sys.stderr.flush()

    return say
