"""Make a library known: its timeline and its release record, built from what the package client gives."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from yoake.context.context import Context
from yoake.core.registered import ECOSYSTEMS
from yoake.core.values.coordinates import Coordinate
from yoake.core.values.errors import BadCoordinate
from yoake.runner.home import Home
from yoake.runner.knowledge_files import load_knowledge
from yoake.store.applications import Application, list_applications
from yoake.store.scans import namers
from yoake.usecases.build_knowledge import build, build_catalogue
from yoake.usecases.scan import Progress


def check_makeable(coordinate: Coordinate) -> Coordinate:
    """The coordinate as its ecosystem writes it, when a package client exists for it. Raises BadCoordinate."""
    if not ECOSYSTEMS.is_package(coordinate):
        registries = " and ".join(e.registry for e in ECOSYSTEMS.ecosystems)
        raise BadCoordinate(f"{coordinate.short} cannot be made known: only packages of {registries} can.")
    return ECOSYSTEMS.canonical(coordinate)


@dataclass(frozen=True, slots=True)
class KnownTask:
    """A package to make known, below which home, on which day."""

    home: Path
    coordinate: Coordinate
    today: date


class KnownWorker:
    """Makes packages known in a process of its own."""

    def __call__(self, task: KnownTask, tell: Callable[[str, object], None]) -> None:
        """Build everything that can be known of one package. Raises BadSource when the package client does not know it."""
        make_known(task, lambda progress: tell("said", progress))


def make_known(task: KnownTask, say: Callable[[Progress], None]) -> None:
    """Build a release record and a timeline below the home. Raises BadSource when the package client does not know it."""
    coordinate = check_makeable(task.coordinate)
    folder = Home(task.home).knowledge
    done = 0

    def told(_word: str) -> None:
        nonlocal done
        done += 1
        say(Progress(f"reading {coordinate.short}", done))

    say(Progress(f"asking for {coordinate.short}"))
    build_catalogue(coordinate, folder / "catalogue", task.today, told, load_knowledge(folder))
    build(coordinate, [], folder / "timelines", told)


def users_of(context: Context, coordinate: Coordinate) -> list[Application]:
    """Applications whose newest scan names this package."""
    found = namers(context.db, coordinate)
    return [application for application in list_applications(context.db) if application.id in found]
