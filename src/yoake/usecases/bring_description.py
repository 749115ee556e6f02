"""A description of the old side's interface, beside what its code declares."""

from __future__ import annotations

from yoake.context.context import Context
from yoake.core.crossing.rules import Side
from yoake.core.values.errors import BadInput
from yoake.formats.openapi import NotAnApiDocument, read_openapi
from yoake.store.crossings import keep_routes, stored_routes
from yoake.usecases.cross import find_crossing, note
from yoake.usecases.find_routes import with_documented


def bring_description(context: Context, slug: str, text: bytes, name: str, who: str) -> tuple[int, int]:
    """Take in a description of the old side's interface; answers how many routes it has, and how many of them are in no code. Those are
    shown as described only. A later description replaces this one. Raises BadInput and NotFound."""
    crossing = find_crossing(context, slug)
    try:
        described = read_openapi(text, name)
    except NotAnApiDocument as error:
        raise BadInput(f"{name} is not taken: {error}.") from error
    with context.db.write() as connection:
        stored = stored_routes(context.db, crossing.application_id)
        code = [r.route for r in stored if r.side is Side.OLD and not r.gone_at and r.route.source == "code"]
        held = {route.name for route in code}
        only = [route for route in with_documented(code, described) if route.name not in held]
        at = context.clock().isoformat(timespec="microseconds")
        keep_routes(connection, crossing.application_id, Side.OLD, only, at, source="document")
        told = f"{name}: {len(described)} routes, {len(only)} of them in no code"
        note(connection, context, crossing.application_id, who, "crossing", "description taken in", after=told)
    return len(described), len(only)
