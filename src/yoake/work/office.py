"""What every use case needs at hand: records, knowledge, home, and the clock."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, date, datetime

from yoake.core.knowledge.base import Knowledge
from yoake.runner.home import Home
from yoake.runner.knowledge_files import load_knowledge
from yoake.store.database import Database


def _now() -> datetime:
    return datetime.now(UTC)


@dataclass
class Office:
    """Records, knowledge and clock of one running Yoake."""

    home: Home
    db: Database
    clock: Callable[[], datetime] = field(default=_now)

    @property
    def knowledge(self) -> Knowledge:
        """Knowledge as it is on disk now."""
        return load_knowledge(self.home.knowledge)

    @property
    def today(self) -> date:
        """Today's date."""
        return self.clock().date()

    @property
    def stamp(self) -> str:
        """Now, as ISO text with seconds, in UTC."""
        return self.clock().isoformat(timespec="seconds")


def open_office(home: Home, clock: Callable[[], datetime] = _now) -> Office:
    """Open the records below ``home``."""
    return Office(home, Database(home.records), clock)
