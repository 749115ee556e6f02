"""How long a closed step may have taken, from the commits that touched its files while it was open: suggested, never written by itself."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Final

from yoake.context.context import Context
from yoake.core.portfolio.sessions import session_minutes
from yoake.core.values.errors import BadSource
from yoake.runner.git import mirror
from yoake.store.applications import application_by_id
from yoake.store.steps import files_of_step, get_step, is_stage

_MOST_FILES: Final = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class SuggestedMinutes:
    """What commits say: minutes, over how many of them; ``why`` there is no suggestion, empty where there is one."""

    minutes: float
    commits: int
    why: str


def suggest_minutes(context: Context, number: int) -> SuggestedMinutes:
    """Minutes between the commits of a closed step. Raises NotFound for an unknown step."""
    row = get_step(context.db, number, context.today)
    application = application_by_id(context.db, row["application_id"])
    if row["state"] != "closed":
        return _none("it is not closed yet")
    if application.source.kind != "git":
        return _none("its source is no git repository")
    opened, closed = datetime.fromisoformat(row["opened_at"]), datetime.fromisoformat(row["closed_at"])
    inside = f"{application.source.subfolder}/" if application.source.subfolder else ""
    files = [inside + path for path in files_of_step(row["files"])[:_MOST_FILES]]
    if not files and not is_stage(row["finding_key"]):
        return _none("it names no file")
    try:
        repository = mirror(application.source.location, context.home.mirrors)
        times = repository.commit_times(repository.resolve(application.source.ref), opened, closed, files)
    except BadSource as error:
        return _none(str(error))
    if not times:
        return _none("no commit touched its files while it was open")
    return SuggestedMinutes(minutes=round(session_minutes(times)), commits=len(times), why="")


def _none(why: str) -> SuggestedMinutes:
    return SuggestedMinutes(minutes=0.0, commits=0, why=why)
