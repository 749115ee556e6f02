"""One scan as a task: everything it needs in one picklable record, and the worker that does it in another process."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from yoake.context.kit import Kit
from yoake.core.knowledge.base import Knowledge
from yoake.runner.extraction import Extractor
from yoake.runner.home import Home
from yoake.store.facts_cache import FactsCache
from yoake.usecases.progress import Control, Progress
from yoake.usecases.record_scan import identity_of, record_of
from yoake.usecases.scan import scan_snapshot
from yoake.usecases.scan_record import ScanRecord, ScanTask
from yoake.usecases.sources import open_snapshot

Tell = Callable[[str, object], None]


@dataclass
class ScanWorker:
    """Does scans, one after the other; what was read for one (knowledge, facts) serves the next."""

    kit: Kit
    _extractors: dict[tuple[Path, int | None], Extractor] = field(default_factory=dict)

    def __call__(self, task: ScanTask, tell: Tell) -> ScanRecord | None:
        """The record of a scan; None when the newest scan already says the same. Raises YoakeError."""
        knowledge = self.kit.knowledge(Home(task.home).knowledge)
        extractor = self._extractor(task)
        return scan_as_told(task, knowledge, extractor, Control(lambda progress: tell("said", progress)))

    def _extractor(self, task: ScanTask) -> Extractor:
        key = (task.home, task.workers)
        if key not in self._extractors:
            self._extractors[key] = Extractor(FactsCache(Home(task.home).facts), self.kit.ecosystems, task.workers)
        return self._extractors[key]


def scan_as_told(task: ScanTask, knowledge: Knowledge, extractor: Extractor, control: Control) -> ScanRecord | None:
    """Fetch, scan and plan. Raises BadSource, Stopped and whatever reading the source raises."""
    for target in (*task.targets, *task.said):
        knowledge.check_target(target)
    control.say(Progress("fetching"))
    snapshot = open_snapshot(task.source, Home(task.home), task.allowed)
    identity = identity_of(knowledge, task.targets, task.said)
    try:
        if task.last == (snapshot.identity, identity):
            return None
        scanned = scan_snapshot(
            snapshot=snapshot,
            knowledge=knowledge,
            destination=task.targets,
            said=task.said,
            extractor=extractor,
            control=control,
            name=task.name,
        )
    finally:
        snapshot.close()
    if task.last == (scanned.identity, identity):
        return None
    control.say(Progress("planning"))
    return record_of(
        scanned,
        knowledge,
        targets=task.targets,
        said=task.said,
        waived=task.waived,
        adopted=task.adopted,
        days_per_week=task.days_per_week,
        today=task.today,
        slices=task.slices,
    )
