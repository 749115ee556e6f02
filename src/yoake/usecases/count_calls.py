"""Count the calls of every route in access logs that were handed over, in a process of its own."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from yoake.context.context import Context
from yoake.context.kit import Kit
from yoake.core.crossing.rules import Side
from yoake.core.crossing.traffic import UnmatchedPath
from yoake.core.values.errors import NotFound
from yoake.core.values.routes import Route
from yoake.store.applications import application_by_id
from yoake.store.crossings import crossing_of, keep_unmatched, set_calls, stored_routes
from yoake.store.events import Event, add_event
from yoake.store.jobs import add_application_job
from yoake.usecases.find_routes import count_traffic
from yoake.usecases.progress import Progress


@dataclass(frozen=True, slots=True)
class CallsTask:
    """Logs, and the routes of the old side."""

    logs: tuple[Path, ...]
    routes: tuple[Route, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class CallsCounted:
    """Calls as (route, day, count); ``others`` are lines that are no calls."""

    logs: tuple[Path, ...]
    rows: tuple[tuple[str, str, int], ...]
    unmatched: tuple[UnmatchedPath, ...]
    lines: int
    others: int
    first_day: str
    last_day: str


class CallsWorker:
    """Counts."""

    def __init__(self, _kit: Kit) -> None:
        pass

    def __call__(self, task: CallsTask, tell: Callable[[str, object], None]) -> CallsCounted:
        """The calls of all logs together. Raises BadInput."""
        size = sum(log.stat().st_size for log in task.logs)
        read = 0

        def told(piece: int) -> None:
            nonlocal read
            read += piece
            tell("said", Progress("counting calls", min(read, size), size))

        traffic = count_traffic(task.routes, task.logs, told)
        return CallsCounted(
            logs=task.logs,
            rows=tuple(
                (task.routes[position].name, day, count)
                for position, days in traffic.by_route.items()
                for day, count in days.items()
                if day
            ),
            unmatched=tuple(traffic.unmatched()),
            lines=traffic.lines,
            others=traffic.other_lines,
            first_day=traffic.first_day,
            last_day=traffic.last_day,
        )


def log_folder(context: Context, slug: str) -> Path:
    """Where logs wait to be counted."""
    folder = context.home.folder / "crossings" / slug / "logs"
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def ask_calls(context: Context, application_id: int, who: str) -> int:
    """Have the logs that wait counted; answers the job."""
    with context.db.write() as connection:
        return add_application_job(connection, "calls", application_id, who, context.stamp)


def calls_task(context: Context, application_id: int) -> CallsTask:
    """All logs that wait, as a task. Raises NotFound."""
    if crossing_of(context.db, application_id) is None:
        raise NotFound("The crossing was ended meanwhile.")
    slug = application_by_id(context.db, application_id).slug
    routes = [
        row.route for row in stored_routes(context.db, application_id) if row.side is Side.OLD and not row.gone_at
    ]
    return CallsTask(tuple(sorted(log_folder(context, slug).glob("*.log*"))), tuple(routes))


def keep_calls(context: Context, application_id: int, counted: CallsCounted, who: str = "") -> str:
    """Keep what was counted and drop the logs; returns a word on it. Logs that came meanwhile are counted next."""
    with context.db.write() as connection:
        if crossing_of(context.db, application_id) is None:
            return "the crossing was ended meanwhile"
        set_calls(connection, application_id, counted.rows)
        keep_unmatched(connection, application_id, counted.unmatched)
        event = Event(
            at=context.stamp,
            who=who,
            application=application_id,
            subject="crossing",
            what="calls counted",
            after=f"{counted.lines} lines, {counted.first_day} to {counted.last_day}",
        )
        add_event(connection, event)
    for log in counted.logs:
        log.unlink(missing_ok=True)
    others = f", {counted.others:,} of them no requests" if counted.others else ""
    return f"{counted.lines:,} lines{others}"
