"""Make a library known: its timeline and its release record, built from what the package client gives."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from yoake.context.context import Context
from yoake.context.kit import Kit
from yoake.core.contract.registry import Registry
from yoake.core.values.coordinates import Coordinate
from yoake.core.values.errors import BadCoordinate
from yoake.runner.home import Home
from yoake.store.applications import Application, list_applications
from yoake.store.scans import namers
from yoake.usecases.build_knowledge import build, build_catalogue
from yoake.usecases.progress import Progress


def check_makeable(ecosystems: Registry, coordinate: Coordinate) -> Coordinate:
    """The coordinate as its ecosystem writes it, when a package client exists for it. Raises BadCoordinate."""
    if not ecosystems.is_package(coordinate):
        registries = " and ".join(e.registry for e in ecosystems.ecosystems)
        raise BadCoordinate(f"{coordinate.short} cannot be made known: only packages of {registries} can.")
    return ecosystems.canonical(coordinate)


@dataclass(frozen=True, slots=True)
class KnownTask:
    """A package to make known, below which home, on which day."""

    home: Path
    coordinate: Coordinate
    today: date


class KnownWorker:
    """Makes packages known in a process of its own."""

    def __init__(self, kit: Kit) -> None:
        self.kit = kit

    def __call__(self, task: KnownTask, tell: Callable[[str, object], None]) -> None:
        """Build everything that can be known of one package. Raises BadSource when the package client does not know it."""
        make_known(task, self.kit, lambda progress: tell("said", progress))


def make_known(task: KnownTask, kit: Kit, say: Callable[[Progress], None]) -> None:
    """Build a release record and a timeline below the home. Raises BadSource when the package client does not know it."""
    coordinate = check_makeable(kit.ecosystems, task.coordinate)
    folder = Home(task.home).knowledge
    done = 0

    def told(_word: str) -> None:
        nonlocal done
        done += 1
        say(Progress(f"reading {coordinate.short}", done))

    say(Progress(f"asking for {coordinate.short}"))
    build_catalogue(kit.clients, coordinate, folder / "catalogue", task.today, told, kit.knowledge(folder))
    build(kit.clients, coordinate, [], folder / "timelines", told)


def users_of(context: Context, coordinate: Coordinate) -> list[Application]:
    """Applications whose newest scan names this package."""
    found = namers(context.db, coordinate)
    return [application for application in list_applications(context.db) if application.id in found]
