"""What people change: owners, teams, capacity, destinations, today's lines, steps. Every change is an appended event."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final

from yoake.context.context import Context
from yoake.core.values.coordinates import Coordinate, parse_coordinate, parse_target
from yoake.core.values.days import read_day
from yoake.core.values.errors import BadInput, Outdated
from yoake.store.applications import (
    Application,
    change_application,
    ensure_destination,
    get_application,
    get_applications,
    said_lines,
    say_line,
    set_destination,
    touch_application,
)
from yoake.store.database import Connection, Row
from yoake.store.events import Event, add_event
from yoake.store.steps import change_step, get_step, renew_live, set_spent
from yoake.usecases.collisions import expect
from yoake.usecases.destinations import read_destination
from yoake.views.work import one_step

_MAX_TEXT: Final = 4000


@dataclass(frozen=True, slots=True, kw_only=True)
class Edited:
    """What people set on an application; ``version`` grows with every change. ``days_per_week`` None: as the table of efforts has it."""

    slug: str
    name: str
    owner: str
    team: str
    destination: str
    days_per_week: float | None
    version: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ApplicationChange:
    """An application before and after a change."""

    before: Edited
    after: Edited


@dataclass(frozen=True, slots=True, kw_only=True)
class SaidLine:
    """Today's line of a coordinate as a person says it, empty as the files say. ``version``: the application's."""

    coordinate: Coordinate
    line: str
    version: int


def edited(application: Application) -> Edited:
    """What people set on an application."""
    a = application
    return Edited(
        slug=a.slug,
        name=a.name,
        owner=a.owner,
        team=a.team,
        destination=a.destination.name,
        days_per_week=a.days_per_week,
        version=a.version,
    )


def change_applications(
    context: Context,
    slugs: Sequence[str],
    changes: Mapping[str, str | float | None],
    who: str,
    versions: Mapping[str, int] | None = None,
) -> list[ApplicationChange]:
    """Set owner, team, days_per_week (None: take it back) or destination on a selection; all of it or nothing.

    ``versions``: those on which the change was begun, by slug. Raises BadInput, NotFound, and Outdated with the applications
    that somebody else changed meanwhile.
    """
    destination = read_destination(context, str(changes["destination"])) if changes.get("destination") else None
    days = changes.get("days_per_week")
    if days is not None and not (isinstance(days, int | float) and 0.01 <= days <= 35):
        raise BadInput("Capacity is days a week, from 0.01 to 35 (five people full time are 25).")
    with context.db.write() as connection:
        applications = get_applications(context.db, slugs)
        stale = [a for a in applications if (versions or {}).get(a.slug, a.version) != a.version]
        if stale:
            names = ", ".join(a.name for a in stale[:3]) + (f" and {len(stale) - 3} more" if len(stale) > 3 else "")
            raise Outdated(f"Somebody else changed {names} meanwhile. Nothing was written.", [edited(a) for a in stale])
        for application in applications:
            _set_fields(context, connection, application, changes, who)
            if destination is not None:
                set_destination(connection, application.id, ensure_destination(connection, *destination))
                renew_live(connection, application.id)
                before = application.destination.name
                _event(
                    context=context,
                    connection=connection,
                    application=application,
                    who=who,
                    what="destination",
                    before=before,
                    after=destination[0],
                )
            touch_application(connection, application.id)
    after = get_applications(context.db, slugs)
    return [ApplicationChange(before=edited(a), after=edited(b)) for a, b in zip(applications, after, strict=True)]


def _set_fields(
    context: Context,
    connection: Connection,
    application: Application,
    changes: Mapping[str, str | float | None],
    who: str,
) -> None:
    for field in ("owner", "team", "days_per_week"):
        value = changes.get(field)
        if field not in changes or (value is None and field != "days_per_week"):
            continue
        change_application(connection, application.id, field, value)
        before, after = (_told(v) for v in (getattr(application, field), value))
        _event(
            context=context,
            connection=connection,
            application=application,
            who=who,
            what=field,
            before=before,
            after=after,
        )


def _told(value: object) -> str:
    return "" if value is None else str(value)


def _event(
    context: Context,
    connection: Connection,
    application: Application,
    who: str,
    what: str,
    before: str,
    after: str,
) -> None:
    event = Event(
        at=context.stamp,
        who=who,
        application=application.id,
        subject="application",
        what=what,
        before=before,
        after=after,
    )
    add_event(connection, event)


def remove_application(context: Context, slug: str, who: str, *, restore: bool = False) -> None:
    """Take an application off the Horizon, or bring it back; its history is kept. Raises NotFound."""
    application = get_application(context.db, slug)
    with context.db.write() as connection:
        change_application(connection, application.id, "removed_at", None if restore else context.stamp)
        renew_live(connection, application.id)
        _event(
            context=context,
            connection=connection,
            application=application,
            who=who,
            what="restored" if restore else "removed",
            before="",
            after="",
        )


def correct_line(context: Context, slug: str, named: str, line: str, who: str, version: int | None = None) -> SaidLine:
    """Say what today's line is; an empty line takes it back. Returns what was said before, with the version there is now.

    Raises BadInput, NotFound, and Outdated when the application is not at ``version`` any more.
    """
    target = context.knowledge.check_target(parse_target(f"{named}@{line}")) if line else None
    asked = target.coordinate if target is not None else context.knowledge.ecosystems.canonical(parse_coordinate(named))
    short = asked.short
    with context.db.write() as connection:
        application = get_application(context.db, slug)
        before = next((t.line for t in said_lines(context.db, application.id) if t.coordinate == asked), "")
        now = SaidLine(coordinate=asked, line=before, version=application.version)
        expect(version, application.version, application.name, now)
        say_line(connection, application.id, target, short)
        touch_application(connection, application.id)
        _event(
            context=context,
            connection=connection,
            application=application,
            who=who,
            what=f"today's line of {short}",
            before=before,
            after=line or "as the files say",
        )
    return replace(now, version=get_application(context.db, slug).version)


def change_step_fields(
    context: Context,
    number: int,
    changes: Mapping[str, str | None],
    who: str,
    version: int | None = None,
    spent: float | None = None,
) -> None:
    """Set owner, due date or note of a step, or the minutes it took in all (``spent``).

    Raises BadInput, NotFound, and Outdated when it is not at ``version`` any more.
    """
    row = get_step(context.db, number, context.today)
    read_day(changes.get("due"))
    if any(len(value or "") > _MAX_TEXT for value in changes.values()):
        raise BadInput(f"A note has at most {_MAX_TEXT} characters.")
    with context.db.write() as connection:
        row = get_step(context.db, number, context.today)  # again, now that nobody else writes
        expect(version, row["version"], "this step", one_step(context, number))
        for field in ("owner", "due", "note"):
            if field not in changes:
                continue
            if (row[field] or "") == (changes[field] or ""):
                continue
            change_step(connection, number, field, (changes[field] or None) if field == "due" else changes[field] or "")
            event = Event(
                at=context.stamp,
                who=who,
                application=row["application_id"],
                subject=f"step {row['title']}",
                what=field,
                before=row[field],
                after=changes[field],
            )
            add_event(connection, event)
        if spent is not None and spent != row["spent"]:
            _say_spent(context, connection, row, spent, who)


def _say_spent(context: Context, connection: Connection, row: Row, spent: float, who: str) -> None:
    set_spent(connection, row["id"], spent)
    event = Event(
        at=context.stamp,
        who=who,
        application=row["application_id"],
        subject=f"step {row['title']}",
        what="minutes",
        before=f"{row['spent']:g}",
        after=f"{spent:g}",
        minutes=spent - row["spent"],
    )
    add_event(connection, event)
