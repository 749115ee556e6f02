"""Make the answers of an application that are kept, where its scan ran."""

from __future__ import annotations

import gzip
from collections.abc import Callable
from typing import Final

from yoake.context.context import Context
from yoake.context.kit import Kit
from yoake.runner.home import Home
from yoake.store.applications import application_by_id
from yoake.store.database import Database
from yoake.usecases.keep_answers import PACKED, AnswersTask, mark_of
from yoake.views.path import path_json
from yoake.views.reports import report_page

_MAKERS: Final = {"path": path_json, "report": report_page}


class AnswersWorker:
    """Makes the kept answers of an application in a process of its own, which reads the records and writes nothing."""

    def __init__(self, kit: Kit) -> None:
        self.kit = kit

    def __call__(self, task: AnswersTask, _tell: Callable[[str, object], None]) -> list[tuple[str, str, bytes]]:
        """(name, mark, packed answer) of each view."""
        home = Home(task.home)
        context = Context(home=home, db=Database(home.records, read_only=True), kit=self.kit)
        try:
            application = application_by_id(context.db, task.application_id)
            mark = mark_of(context, application)
            return [
                (name, mark, gzip.compress(make(context, application.slug), PACKED)) for name, make in _MAKERS.items()
            ]
        finally:
            context.db.close()
