"""Say what is due by itself, and who hears of it."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from yoake.context.context import Context
from yoake.core.values.errors import BadInput
from yoake.store.events import Event, add_event
from yoake.store.watch import Watch, read_watch, write_watch
from yoake.usecases.collisions import expect

_MOST_DAYS: Final = 366


_NOBODY: Final = "yoake@localhost"


def set_watch(context: Context, watch: Watch, who: str, version: int | None = None) -> Watch:
    """Say what is done by itself. Raises BadInput, and Outdated when it is not at ``version`` any more."""
    days = (watch.rescan_days, watch.records_days, watch.digest_days, watch.next_days)
    if any(not 0 <= d <= _MOST_DAYS for d in days):
        raise BadInput(f"Every 1 to {_MOST_DAYS} days, or 0 for never.")
    wrong = [part for part in addresses(watch.mail_to) if "@" not in part or any(c.isspace() for c in part)]
    if wrong:
        raise BadInput(f"“{wrong[0]}” is no mail address.")
    with context.db.write() as connection:
        before = read_watch(context.db)
        expect(version, before.version, "what is done by itself", before)
        kept = replace(
            before,
            rescan_days=watch.rescan_days,
            records_days=watch.records_days,
            digest_days=watch.digest_days,
            next_days=watch.next_days,
            mail_to=watch.mail_to,
            version=before.version + 1,
        )
        write_watch(connection, kept)
        event = Event(
            at=context.stamp, who=who, subject="watch", what="schedule", before=_text(before), after=_text(kept)
        )
        add_event(connection, event)
    return kept


def addresses(text: str) -> list[str]:
    """Mail addresses with commas between."""
    return [part.strip() for part in text.split(",") if part.strip()]


def _text(watch: Watch) -> str:
    every = f"scan every {watch.rescan_days}, next lines every {watch.next_days}, records every {watch.records_days}"
    return f"{every}, digest every {watch.digest_days} days to {watch.mail_to or 'a file'}"
