"""The guard of the event loop hears what blocks it, and only that."""

from __future__ import annotations

import asyncio
from pathlib import Path

from tests.server import loop_guard
from yoake.store.database import Database


async def _reads(db: Database, *, in_a_thread: bool) -> None:
    if in_a_thread:
        await asyncio.to_thread(db.all, "SELECT 1")
    else:
        db.all("SELECT 1")


def test_a_statement_on_the_loop_is_heard_and_one_in_a_thread_is_not(tmp_path: Path) -> None:
    db = Database(tmp_path / "a.sqlite", loop_guard.statement)
    with loop_guard.listening() as heard:
        asyncio.run(_reads(db, in_a_thread=True))
        db.all("SELECT 1")
        assert heard == []
        asyncio.run(_reads(db, in_a_thread=False))
        assert any(line.startswith("statement SELECT 1 at store/database.py") for line in heard)
    db.close()
