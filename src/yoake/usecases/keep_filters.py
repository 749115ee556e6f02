"""Filters that people keep under a name, for everyone who uses this Yoake."""

from __future__ import annotations

from dataclasses import dataclass

from yoake.context.context import Context
from yoake.core.values.errors import NotFound
from yoake.store.database import Row
from yoake.store.events import Event, add_event
from yoake.store.kept_views import drop_view, keep_view, kept_views
from yoake.usecases.collisions import expect


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptFilter:
    """A filter kept under a name. ``query``: as it stands in the address; ``version``: for who writes over it."""

    name: str
    query: str
    by: str
    version: int


def kept_filters(context: Context, screen: str) -> list[KeptFilter]:
    """Kept filters of one screen by name."""
    return [_filter(row) for row in kept_views(context.db, screen)]


def _filter(row: Row) -> KeptFilter:
    return KeptFilter(name=row["name"], query=row["query"], by=row["by_whom"], version=row["version"])


def keep_filter(
    context: Context, screen: str, name: str, query: str, who: str, version: int | None = None
) -> KeptFilter:
    """Keep a filter. Raises Outdated when the one of this name is not at ``version`` any more (0: there was none)."""
    values = {"screen": screen, "name": name.strip(), "query": query, "by": who, "at": context.stamp}
    with context.db.write() as connection:
        held = _expected(context, screen, values["name"], version)
        subject = f"filter {values['name']}"
        before = held.query if held else None
        event = Event(at=context.stamp, who=who, subject=subject, what="kept", before=before, after=query)
        number = add_event(connection, event)
        keep_view(connection, {**values, "version": number})
    return KeptFilter(name=values["name"], query=query, by=who, version=number)


def forget_filter(context: Context, screen: str, name: str, who: str, version: int | None = None) -> KeptFilter:
    """Forget a kept filter; returns what it was. Raises NotFound, and Outdated when it is not at ``version`` any more."""
    with context.db.write() as connection:
        held = _expected(context, screen, name, version)
        if held is None:
            raise NotFound(f"There is no filter “{name}” here any more.")
        drop_view(connection, screen, name)
        event = Event(at=context.stamp, who=who, subject=f"filter {name}", what="forgotten", before=held.query)
        add_event(connection, event)
    return held


def _expected(context: Context, screen: str, name: str, version: int | None) -> KeptFilter | None:
    held = next((f for f in kept_filters(context, screen) if f.name == name), None)
    expect(version, held.version if held is not None else 0, f"the filter “{name}”", held)
    return held
