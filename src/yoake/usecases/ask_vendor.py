"""Applications that somebody else moves: whom we asked and when, what they answered, the day they promised, and their release."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date

from yoake.context.context import Context
from yoake.core.values.errors import BadInput, NotFound
from yoake.store.applications import get_application
from yoake.store.events import Event, add_event
from yoake.store.waves import Outside, outside_applications, put_outside
from yoake.usecases.collisions import expect


@dataclass(frozen=True, slots=True, kw_only=True)
class OutsideView:
    """How it stands with an application that somebody else moves. ``waiting``: days since they were asked without an answer;
    ``chase_now``: the day to ask again has come, or the promised day is past."""

    slug: str
    name: str
    vendor: str
    contact: str
    asked: date | None
    answer: str
    promised: date | None
    chase: date | None
    arrived: date | None
    waiting: int | None
    chase_now: bool
    version: int


def set_outside(context: Context, slug: str, outside: Outside, who: str, version: int | None = None) -> OutsideView:
    """Say that somebody else moves an application, and how that stands. Raises BadInput, NotFound and Outdated."""
    if not outside.vendor.strip():
        raise BadInput("Say who moves this application.")
    if outside.promised is not None and outside.asked is not None and outside.promised < outside.asked:
        raise BadInput("The promised day lies before the day on which they were asked.")
    if outside.arrived is not None and outside.asked is not None and outside.arrived < outside.asked:
        raise BadInput("Their release arrived before the day on which they were asked.")
    if outside.arrived is not None and outside.arrived > context.today:
        raise BadInput("Their release cannot have arrived on a day to come.")
    application = get_application(context.db, slug)
    with context.db.write() as connection:
        before = outside_applications(context.db).get(application.id)
        expect(version, before.version if before is not None else 0, application.name, before)
        kept = replace(outside, version=(before.version if before is not None else 0) + 1)
        put_outside(connection, application.id, kept)
        event = Event(
            at=context.stamp,
            who=who,
            application=application.id,
            subject="outside",
            what=f"moved by {outside.vendor}",
            before=_text(before) if before is not None else None,
            after=_text(kept),
        )
        add_event(connection, event)
    return outside_view(context, application.slug, application.name, kept)


def take_back(context: Context, slug: str, who: str) -> None:
    """Say that an application is ours to move. Raises NotFound."""
    application = get_application(context.db, slug)
    with context.db.write() as connection:
        before = outside_applications(context.db).get(application.id)
        if before is None:
            raise NotFound(f"{application.name} is ours to move already.")
        put_outside(connection, application.id, None)
        event = Event(
            at=context.stamp,
            who=who,
            application=application.id,
            subject="outside",
            what="moved by us",
            before=_text(before),
        )
        add_event(connection, event)


def _text(outside: Outside) -> str:
    days = [f"{name} {day}" for name in ("asked", "promised", "chase", "arrived") if (day := getattr(outside, name))]
    return ", ".join([outside.vendor, *days, *([outside.answer] if outside.answer else [])])


def outside_view(context: Context, slug: str, name: str, outside: Outside) -> OutsideView:
    """How it stands with one of them."""
    silent = outside.asked is not None and not outside.answer and outside.arrived is None
    due = [d for d in (outside.chase, outside.promised) if d is not None and d <= context.today]
    return OutsideView(
        slug=slug,
        name=name,
        vendor=outside.vendor,
        contact=outside.contact,
        asked=outside.asked,
        answer=outside.answer,
        promised=outside.promised,
        chase=outside.chase,
        arrived=outside.arrived,
        waiting=(context.today - outside.asked).days if silent and outside.asked is not None else None,
        chase_now=bool(due) and outside.arrived is None,
        version=outside.version,
    )
