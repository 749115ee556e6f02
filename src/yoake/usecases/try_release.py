"""Try a release on a line of its runtime, and keep what came of it where every scan finds it."""

from __future__ import annotations

import gzip
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import Final

from yoake.context.kit import Kit
from yoake.core.knowledge.models import TriedFact, TriedFile
from yoake.core.values.coordinates import Coordinate, Target
from yoake.core.values.errors import BadCoordinate
from yoake.runner.home import Home
from yoake.runner.knowledge_files import OWN_TRIALS, read_tried
from yoake.usecases.progress import Progress

_RELEASE: Final = re.compile(r"[0-9][0-9A-Za-z.!+_-]{0,60}")
_HOW: Final = "installed with what it asks for in a throw-away environment, and imported"


def write_tried(path: Path, facts: Sequence[TriedFact]) -> None:
    """Write a whole file, never half of it."""
    ordered = sorted(facts, key=lambda f: (f.coordinate, f.on, f.release))
    body = TriedFile(format=1, how=_HOW, facts=tuple(ordered)).model_dump_json(exclude_defaults=False)
    path.parent.mkdir(parents=True, exist_ok=True)
    partial = path.with_name(path.name + ".part")
    partial.write_bytes(gzip.compress(body.encode(), mtime=0))
    partial.replace(path)


@dataclass(frozen=True, slots=True)
class TryTask:
    """A release to try on a line of its runtime, below which home, on which day."""

    home: Path
    coordinate: Coordinate
    release: str
    on: Target
    today: date


def try_now(task: TryTask, kit: Kit, say: Callable[[Progress], None]) -> TriedFact:
    """Install and use it, and keep the outcome in the person's own knowledge.

    Raises BadCoordinate for what no package client can try, and BadSource where this machine lacks the runtime.
    """
    coordinate = check_trial(kit, task.coordinate, task.release, task.on)
    say(Progress(f"trying {coordinate.name} {task.release} on {task.on}"))
    try_release = kit.clients.of(coordinate).try_release
    if try_release is None:
        raise BadCoordinate(f"Releases of {coordinate.short} cannot be tried.")
    trial = try_release(coordinate, task.release, task.on.line)
    fact = TriedFact(
        coordinate=coordinate,
        release=task.release,
        on=task.on.line,
        runs=trial.runs,
        beside=trial.beside,
        note=trial.note,
        as_of=task.today,
    )
    path = Home(task.home).knowledge / "tried" / OWN_TRIALS
    held = {(f.coordinate, f.release, f.on): f for f in read_tried(path)}
    held[fact.coordinate, fact.release, fact.on] = fact
    write_tried(path, list(held.values()))
    return fact


class TryWorker:
    """Tries releases in a process of its own."""

    def __init__(self, kit: Kit) -> None:
        self.kit = kit

    def __call__(self, task: TryTask, tell: Callable[[str, object], None]) -> TriedFact:
        """What came of one release. Raises BadCoordinate and BadSource."""
        return try_now(task, self.kit, lambda progress: tell("said", progress))


def check_trial(kit: Kit, coordinate: Coordinate, release: str, on: Target) -> Coordinate:
    """The coordinate as its ecosystem writes it, when such a release can be tried on that line. Raises BadCoordinate."""
    made = kit.ecosystems.canonical(coordinate)
    runtime = kit.ecosystems.runtime_of(made)
    if runtime is None or runtime != on.coordinate or kit.clients.of(made).try_release is None:
        raise BadCoordinate(f"{made.short} cannot be tried on {on}: only packages of Python can, on a line of Python.")
    if not _RELEASE.fullmatch(release):
        raise BadCoordinate(f"“{release}” is no release: write its number, as in 4.6.11.")
    return made
