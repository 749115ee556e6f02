"""Waivers: accept a finding on purpose, and take that back."""

from __future__ import annotations

from yoake.context.context import Context
from yoake.core.values.days import read_day
from yoake.core.values.errors import BadInput, NotFound
from yoake.store.applications import get_application
from yoake.store.events import Event, add_event
from yoake.store.finding_windows import one_finding
from yoake.store.scans import latest_scan
from yoake.store.waivers import drop_waiver, put_waiver, waivers_of
from yoake.usecases.collisions import expect
from yoake.usecases.replan import replan
from yoake.views.waivers import WaiverView, waiver_view


def waive(
    context: Context, slug: str, key: str, who: str, why: str, until: str | None, version: int | None = None
) -> WaiverView:
    """Accept a finding on purpose, or change how it was accepted; the plan is made again without it.

    Raises BadInput, NotFound, and Outdated when the waiver is not at ``version`` any more (0: there was none).
    """
    if not who.strip() or not why.strip():
        raise BadInput("A waiver names who accepts it and why. Choose your name in the top bar, and give a reason.")
    last = read_day(until)
    if last is not None and last < context.today:
        raise BadInput(f"{until} is past: a waiver lasts at least until today.")
    application = get_application(context.db, slug)
    scan = latest_scan(context.db, application.id, application.destination.id)
    if scan is None or one_finding(context.db, scan.id, key) is None:
        raise NotFound("The newest scan has no such finding. It may have changed: look at the list again.")
    with context.db.write() as connection:
        held = waivers_of(context.db, application.id).get(key)
        expect(version, held["version"] if held else 0, "this waiver", waiver_view(held, context.today))
        event = Event(
            at=context.stamp,
            who=who,
            application=application.id,
            subject=f"finding {key}",
            what="waived",
            why=why,
            before=held["until"] if held else None,
            after=until,
        )
        number = add_event(connection, event)
        values = {"application": application.id, "key": key, "by": who, "why": why, "until": until or None}
        put_waiver(connection, {**values, "version": number})
    replan(context, application)
    return WaiverView(who, why, until or None, expired=False, version=number)


def unwaive(context: Context, slug: str, key: str, who: str, version: int | None = None) -> None:
    """Take a waiver back. Raises NotFound, and Outdated when it is not at ``version`` any more."""
    application = get_application(context.db, slug)
    event = Event(
        at=context.stamp, who=who, application=application.id, subject=f"finding {key}", what="waiver taken back"
    )
    with context.db.write() as connection:
        held = waivers_of(context.db, application.id).get(key)
        expect(version, held["version"] if held else 0, "this waiver", waiver_view(held, context.today))
        if held is None:
            raise NotFound("This finding is not waived.")
        drop_waiver(connection, application.id, key)
        add_event(connection, event)
    replan(context, application)
