"""Answers of the slowest views, made where a scan ran and kept, so that looking costs a look.

Each is kept under a mark of all it depends on: the scan and its plan, everything that people decided (the newest event),
the day, and the knowledge. What was kept under another mark is not given; it is made again.
"""

from __future__ import annotations

import gzip
import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from yoake import __version__
from yoake.context.context import Context
from yoake.store.applications import Application, get_application, list_applications
from yoake.store.events import newest_event
from yoake.store.kept_answers import keep_answer, kept_answer, kept_marks
from yoake.store.scans import latest_mark

KEPT: Final = ("path", "report")
"""Views that are kept, by name."""

_AT_HAND: Final = 400  # answers in memory; one has some 20 kB
PACKED: Final = 6


@dataclass(frozen=True, slots=True)
class AnswersTask:
    """An application whose answers are to be made."""

    home: Path
    application_id: int


def mark_of(context: Context, application: Application) -> str:
    """A digest of everything that an application's answers depend on."""
    parts = (
        __version__,
        context.knowledge.digest,
        context.today.isoformat(),
        application,
        latest_mark(context.db, application.id, application.destination.id),
        newest_event(context.db, application.id),
    )
    return hashlib.sha256(repr(parts).encode()).hexdigest()[:24]


def answer(context: Context, slug: str, name: str, make: Callable[[Context, str], bytes]) -> bytes:
    """One view of an application, packed with gzip; made by ``make`` and kept when it is not there. Raises NotFound."""
    application = get_application(context.db, slug)
    mark = mark_of(context, application)
    key = (application.id, name)
    held = context.answers.get(key)
    if held is not None and held[0] == mark:
        return held[1]
    body = kept_answer(context.db, application.id, name, mark)
    if body is None:
        body = gzip.compress(make(context, slug), PACKED)
        keep_answers(context, application.id, [(name, mark, body)])
    while len(context.answers) >= _AT_HAND:
        context.answers.pop(next(iter(context.answers)), None)
    context.answers[key] = (mark, body)
    return body


def stale_applications(context: Context) -> list[int]:
    """Applications that were scanned and whose answers are not kept under today's mark."""
    held = kept_marks(context.db)
    found = []
    for application in list_applications(context.db):
        if latest_mark(context.db, application.id, application.destination.id)[0]:
            mark = mark_of(context, application)
            if any(held.get((application.id, name)) != mark for name in KEPT):
                found.append(application.id)
    return found


def keep_answers(context: Context, application_id: int, answers: list[tuple[str, str, bytes]]) -> None:
    """Keep what a worker made."""
    with context.db.write(counts=False) as connection:
        for name, mark, body in answers:
            keep_answer(connection, application_id, name, mark, body)
