"""The records of this home, for commands that only read them."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from yoake.context.context import Context
from yoake.core.values.errors import BadRecords, BadSource
from yoake.runner.answers import write_whole
from yoake.runner.home import default_home
from yoake.store.database import Database, examine, newest_schema

if TYPE_CHECKING:
    from yoake.context.kit import Kit


@contextmanager
def own_records(kit: Kit) -> Iterator[Context]:
    """The records, to read. Raises BadSource where there are none, and BadRecords for those of an older version."""
    home = default_home()
    if not home.records.is_file():
        raise BadSource(f"There are no records in {home.folder}. YOAKE_HOME names another folder.")
    if (at := examine(home.records)) < newest_schema():
        raise BadRecords(
            f"The records in {home.folder} are those of an older Yoake (schema {at}). Start “yoake serve” once: it makes a backup, and "
            "brings them over."
        )
    context = Context(home=home, db=Database(home.records, read_only=True), kit=kit, clock=lambda: datetime.now(UTC))
    try:
        yield context
    finally:
        context.db.close()


def write_out(shown: str, output: Path | None) -> None:
    """To a file, whole or not at all, or to standard output."""
    if output is not None:
        write_whole(output, shown)
    else:
        print(shown, end="")
