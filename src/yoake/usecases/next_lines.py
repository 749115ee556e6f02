"""The lines after the destination: previews and what is newer, looked at before anybody has to."""

from __future__ import annotations

from dataclasses import replace

from yoake.context.context import Context
from yoake.core.knowledge.base import Knowledge
from yoake.core.values.coordinates import Target, line_key
from yoake.store.applications import Application, application_by_id, destination_after


def next_targets(knowledge: Knowledge, targets: tuple[Target, ...]) -> tuple[Target, ...]:
    """For every line of a destination the newest that is known after it, previews included; those without one are left out."""
    found = []
    for target in targets:
        lines = [line for line in knowledge.lines(target.coordinate) if line > target.line]
        if lines:
            found.append(Target(target.coordinate, max(lines, key=line_key)))
    return tuple(found)


def heading_beyond(context: Context, application_id: int) -> Application | None:
    """An application as if it headed for the lines after its destination; None where none is known."""
    application = application_by_id(context.db, application_id)
    targets = next_targets(context.knowledge, application.destination.targets)
    if not targets:
        return None
    with context.db.write() as connection:
        number = destination_after(connection, application.destination, targets)
    return replace(application, destination=replace(application.destination, id=number, targets=targets))
