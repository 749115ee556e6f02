"""Read the routes of both sides of an application that moves piece by piece, in a process of its own, and keep them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from yoake.context.context import Context
from yoake.context.kit import Kit
from yoake.core.contract.registry import Registry
from yoake.core.crossing.rules import Side
from yoake.core.values.errors import NotFound
from yoake.runner.home import Home
from yoake.store.applications import Source, application_by_id
from yoake.store.crossing_parts import put_parts
from yoake.store.crossings import crossing_of, crossings_with, keep_routes, put_crossing, stored_routes
from yoake.store.events import Event, add_event
from yoake.store.jobs import add_application_job
from yoake.usecases.cross import crossing_rules
from yoake.usecases.find_routes import FoundRoutes, find_routes
from yoake.usecases.progress import Progress
from yoake.usecases.route_steps import renew_route_steps
from yoake.usecases.sources import open_snapshot


@dataclass(frozen=True, slots=True)
class RoutesTask:
    """The sources of both sides; the new one may not be there yet."""

    home: Path
    old: Source
    new: Source | None
    allowed: tuple[Path, ...] | None = None


@dataclass(frozen=True, slots=True)
class SidesRead:
    """What was found on each side."""

    old: FoundRoutes
    new: FoundRoutes | None


class RoutesWorker:
    """Reads routes, and never runs what it reads."""

    def __init__(self, kit: Kit) -> None:
        self.kit = kit

    def __call__(self, task: RoutesTask, tell: Callable[[str, object], None]) -> SidesRead:
        """The routes of both sides. Raises BadSource."""
        tell("said", Progress("reading the routes of the old side"))
        old = _read(task, task.old, self.kit.ecosystems)
        if task.new is None:
            return SidesRead(old, None)
        tell("said", Progress("reading the routes of the new side"))
        return SidesRead(old, _read(task, task.new, self.kit.ecosystems))


def _read(task: RoutesTask, source: Source, ecosystems: Registry) -> FoundRoutes:
    snapshot = open_snapshot(source, Home(task.home), task.allowed)
    try:
        return find_routes(snapshot, ecosystems, with_parts=True)
    finally:
        snapshot.close()


def routes_task(context: Context, application_id: int) -> RoutesTask:
    """The sides of a crossing as a task. Raises NotFound."""
    crossing = crossing_of(context.db, application_id)
    if crossing is None:
        raise NotFound("The crossing was ended meanwhile.")
    old = application_by_id(context.db, application_id).source
    new = application_by_id(context.db, crossing.new_id).source if crossing.new_id is not None else None
    return RoutesTask(context.home.folder, old, new, context.allowed)


def ask_routes_after(context: Context, application_id: int) -> None:
    """After a scan of a side its routes are read again: what was added meanwhile is seen."""
    found = crossings_with(context.db, application_id)
    if not found:
        return
    with context.db.write() as connection:
        for crossing in found:
            add_application_job(connection, "routes", crossing.application_id, "", context.stamp)


def keep_sides(context: Context, application_id: int, found: SidesRead) -> str:
    """Keep what was read; returns a word on it. Routes that came to the old side after the beginning are events."""
    crossing = crossing_of(context.db, application_id)
    if crossing is None:
        return "the crossing was ended meanwhile"
    before = {row.route.name for row in stored_routes(context.db, application_id) if row.side is Side.OLD}
    added = [route for route in found.old.routes if route.name not in before] if before else []
    at = context.clock().isoformat(timespec="microseconds")  # two reads may follow within a second
    with context.db.write() as connection:
        keep_routes(connection, application_id, Side.OLD, found.old.routes, at)
        put_parts(connection, application_id, found.old.parts)
        if found.new is not None:
            keep_routes(connection, application_id, Side.NEW, found.new.routes, at, found.new.tested)
        put_crossing(connection, replace(crossing, routes_at=context.stamp))
        for route in added:
            add_event(
                connection,
                Event(
                    at=context.stamp,
                    who="a scan",
                    application=application_id,
                    subject=f"route {route.name}",
                    what="was added to the old side meanwhile",
                ),
            )
    renew_route_steps(context, crossing, crossing_rules(context, crossing))
    new = f", {len(found.new.routes)} on the new side" if found.new is not None else ""
    cut = f"; not complete: {', '.join(found.old.cut)}" if found.old.cut else ""
    return f"{len(found.old.routes)} routes on the old side{new}{cut}"
