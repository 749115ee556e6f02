"""Look packages up: release records of all that have none, asked of the package clients at once, when a person allows it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import Final

from yoake.context.context import Context
from yoake.context.kit import Kit
from yoake.core.contract.registry import Registry
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.models import Catalogue
from yoake.core.values.coordinates import Coordinate
from yoake.core.values.errors import BadSource
from yoake.core.values.findings import PackageState
from yoake.runner.clients.contract import Client
from yoake.runner.home import Home
from yoake.store.applications import Application
from yoake.store.scans import every_offered, latest_scan, packages_of_scan
from yoake.usecases.build_knowledge import write_catalogue
from yoake.usecases.progress import Progress

_NEWEST: Final = 30
"""Releases of a package whose peers are looked up as well."""
_DEEP: Final = 4
"""How far down: what is brought in brings others."""


@dataclass(frozen=True, slots=True)
class LookUpTask:
    """Packages to look up, below which home, on which day."""

    home: Path
    coordinates: tuple[Coordinate, ...]
    today: date


@dataclass(frozen=True, slots=True)
class LookedUp:
    """What came of it. ``unknown``: packages of which no client knows."""

    found: int
    unknown: tuple[str, ...]

    @property
    def story(self) -> str:
        """In words: how many were found, and which were not."""
        if not self.unknown:
            return f"{self.found} found"
        return f"{self.found} found; no package client knows {', '.join(self.unknown)}"


class LookUpWorker:
    """Looks packages up in a process of its own."""

    def __init__(self, kit: Kit) -> None:
        self.kit = kit

    def __call__(self, task: LookUpTask, tell: Callable[[str, object], None]) -> LookedUp:
        """Ask, and keep each record as it comes."""
        return look_up(task, self.kit, lambda progress: tell("said", progress))


def without_record(
    packages: Iterable[PackageState], held: Iterable[Coordinate], ecosystems: Registry
) -> tuple[Coordinate, ...]:
    """Packages that a manifest asks for and that have no release record, by name. ``held``: those that have one."""
    known = frozenset(held)
    wanted = {p.coordinate for p in packages if p.direct and p.coordinate not in known}
    return tuple(coordinate for coordinate in sorted(wanted) if ecosystems.is_package(coordinate))


def unknown_packages(context: Context, application: Application) -> tuple[Coordinate, ...]:
    """Packages of the newest scan of an application that have no release record, and are none of our own."""
    scan = latest_scan(context.db, application.id, application.destination.id)
    if scan is None:
        return ()
    held = {*context.knowledge.catalogues, *every_offered(context.db)}
    return without_record(packages_of_scan(context.db, scan.id), held, context.ecosystems)


def look_up(task: LookUpTask, kit: Kit, say: Callable[[Progress], None]) -> LookedUp:
    """Release records of packages, written to the person's own knowledge as they come, then of those that they bring in as peers.

    What is there already is asked again.
    """
    folder = Home(task.home).knowledge
    records: dict[Coordinate, Catalogue] = {}
    unknown: list[str] = []
    for number, (coordinate, record) in enumerate(_all_records(task.coordinates, task.today, folder, kit), 1):
        say(Progress("looking packages up", number, len(task.coordinates)))
        if record is None:
            unknown.append(coordinate.short)
        else:
            write_catalogue(record, folder / "catalogue")
            records[coordinate] = record
    known = {*task.coordinates, *kit.knowledge(folder).catalogues}
    brought = records
    for _ in range(_DEEP):
        peers = _peers(brought, kit.ecosystems) - known
        brought = {c: r for c, r in _all_records(sorted(peers), task.today, folder, kit) if r is not None}
        for record in brought.values():
            write_catalogue(record, folder / "catalogue")
        known |= peers
    return LookedUp(len(records), tuple(sorted(unknown)))


def _peers(records: Mapping[Coordinate, Catalogue], ecosystems: Registry) -> set[Coordinate]:
    """Packages that others bring in beside themselves: their newest releases, and the newest of each line."""
    found = set()
    for coordinate, record in records.items():
        if (owner := ecosystems.of(coordinate)) is not None:
            lines = {owner.line_of(coordinate, facts.release): facts for facts in record.details}
            looked_at = (*record.details[-_NEWEST:], *lines.values())
            found |= {owner.package(n) for facts in looked_at for n in facts.peers if n not in facts.optional}
    return found


def _all_records(
    asked: Sequence[Coordinate], today: date, folder: Path, kit: Kit
) -> Iterator[tuple[Coordinate, Catalogue | None]]:
    for client in kit.clients:
        yield from _records(client, [c for c in asked if c.type == client.ecosystem.package_type], today, folder, kit)


def _records(
    client: Client, asked: Sequence[Coordinate], today: date, folder: Path, kit: Kit
) -> Iterator[tuple[Coordinate, Catalogue | None]]:
    """All at once where the client can, and one after the other what that did not answer."""
    left = dict.fromkeys(asked)
    if client.records is not None and asked:
        try:
            for coordinate, record in client.records(asked, today):
                left.pop(coordinate, None)
                yield coordinate, record
        except BadSource:
            pass  # another release of the client than those this speaks with: it still answers one question at a time
    knowledge = kit.knowledge(folder) if left else None
    for coordinate in left:
        if knowledge is not None:
            yield coordinate, _record(client, coordinate, today, knowledge)


def _record(client: Client, coordinate: Coordinate, today: date, knowledge: Knowledge) -> Catalogue | None:
    try:
        return client.record(coordinate, today, knowledge, lambda _word: None)
    except BadSource:
        return None
