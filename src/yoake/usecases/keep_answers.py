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

from pydantic import TypeAdapter

from yoake import __version__
from yoake.context.context import Context
from yoake.context.kit import Kit
from yoake.runner.home import Home
from yoake.store.applications import Application, application_by_id, get_application, list_applications
from yoake.store.database import Database
from yoake.store.events import newest_event
from yoake.store.kept_answers import keep_answer, kept_answer, kept_marks
from yoake.store.scans import latest_mark
from yoake.views.path import PathView, path
from yoake.views.reports import application_report

_AT_HAND: Final = 400  # answers in memory; one has some 20 kB
_LEVEL: Final = 6

_PATH: Final = TypeAdapter(PathView)


def _path(context: Context, slug: str) -> bytes:
    return _PATH.dump_json(path(context, slug))


def _report(context: Context, slug: str) -> bytes:
    return "".join(application_report(context, slug, "html").body).encode()


MAKERS: Final[dict[str, Callable[[Context, str], bytes]]] = {"path": _path, "report": _report}
"""Name of a view → what makes it."""


@dataclass(frozen=True, slots=True)
class AnswersTask:
    """An application whose answers are to be made."""

    home: Path
    application_id: int


class AnswersWorker:
    """Makes the kept answers of an application in a process of its own, which reads the records and writes nothing."""

    def __init__(self, kit: Kit) -> None:
        self.kit = kit

    def __call__(self, task: AnswersTask, _tell: Callable[[str, object], None]) -> list[tuple[str, str, bytes]]:
        """(name, mark, packed answer) of each view."""
        home = Home(task.home)
        context = Context(home, Database(home.records, read_only=True), self.kit)
        try:
            application = application_by_id(context.db, task.application_id)
            mark = mark_of(context, application)
            return [
                (name, mark, gzip.compress(make(context, application.slug), _LEVEL)) for name, make in MAKERS.items()
            ]
        finally:
            context.db.close()


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


def answer(context: Context, slug: str, name: str) -> bytes:
    """One view of an application, packed with gzip; made and kept when it is not there. Raises NotFound."""
    application = get_application(context.db, slug)
    mark = mark_of(context, application)
    key = (application.id, name)
    held = context.answers.get(key)
    if held is not None and held[0] == mark:
        return held[1]
    body = kept_answer(context.db, application.id, name, mark)
    if body is None:
        body = gzip.compress(MAKERS[name](context, slug), _LEVEL)
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
            if any(held.get((application.id, name)) != mark for name in MAKERS):
                found.append(application.id)
    return found


def keep_answers(context: Context, application_id: int, answers: list[tuple[str, str, bytes]]) -> None:
    """Keep what a worker made."""
    with context.db.write(counts=False) as connection:
        for name, mark, body in answers:
            keep_answer(connection, application_id, name, mark, body)
