"""What every use case needs at hand: records, knowledge, home, and the clock."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Hashable, Mapping
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from datetime import UTC, date, datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from yoake.context.memo import Memo
from yoake.core.values.plans import Plan, StageDates
from yoake.store.database import Database

if TYPE_CHECKING:
    from yoake.context.kit import Kit
    from yoake.core.contract.registry import Registry
    from yoake.core.crossing.rules import CrossingRules
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.planning.alternatives import Ways
    from yoake.runner.home import Home

KEEP_SCANS: Final = 2
"""The newest scan and the one before it, so that what is new and what is gone can be told."""

_LOOK_EVERY: Final = 1.0  # seconds; a report of 500 applications asks thousands of times


DatesOfStages = tuple[Mapping[str, Mapping[int, StageDates]], str]
"""Application → number of a stage → its dates as the portfolio was put into weeks, with the mark of that plan."""


def _now() -> datetime:
    return datetime.now(UTC)


@dataclass(kw_only=True)
class Context:
    """Records, knowledge and clock of one running Yoake. ``searches``: ways that were searched lately, by all they depend on.

    ``horizon`` and ``row_json``: the rows of the Horizon as they were last made and sent.
    ``answers``: packed answers lately given, by application and view, each with its mark.
    ``rows``: rows of the Horizon as last computed, by application, with all they depend on.
    ``windows``, ``grids``, ``deltas``, ``counted``, ``known``: packed windows of the Horizon, packages against stages, what else
    changes, findings by cause and the list of what is known, as last computed, so that the next window of them costs a look.
    ``waves``, ``planned``, ``planned_dates``, ``last_plan``: the portfolio as a problem, plans of it with their forecasts, the dates of
    their stages, and the plan that was made last. ``planning``: one plans, the others wait for what was made.
    ``behind``, ``renewing``: a thread that plans while the last plan is shown, and what it does.
    ``asked_for``: the mark of the portfolio for which a better plan was asked for last.
    ``outlines``, ``uses``: plans of applications by scan and version, and who requires whom by all newest scans.
    ``route_needs``: what routes drag along, by application and the time at which they were read.
    ``crossing_rules``: rules of gateways by their files as they are.
    ``dates``: asks the plan of the portfolio for the dates of stages; None where nobody plans it.
    ``allowed``: folders that may be taken in and read, None for all.
    ``keep_scans``: how many of the newest scans of an application and destination keep what they found.
    """

    home: Home
    db: Database
    kit: Kit
    clock: Callable[[], datetime] = field(default=_now)
    keep_scans: int = KEEP_SCANS
    allowed: tuple[Path, ...] | None = None
    searches: dict[tuple[Hashable, ...], Ways] = field(default_factory=dict, repr=False)
    rows: dict[int, tuple[tuple[object, ...], Any]] = field(default_factory=dict, repr=False)
    row_json: dict[str, tuple[Any, bytes]] = field(default_factory=dict, repr=False)
    horizon: tuple[tuple[object, ...], Any] | None = field(default=None, repr=False)
    packing: threading.Lock = field(default_factory=threading.Lock, repr=False)
    answers: dict[tuple[int, str], tuple[str, bytes]] = field(default_factory=dict, repr=False)
    grids: Memo[Any] = field(default_factory=lambda: Memo(8), repr=False)
    deltas: Memo[Any] = field(default_factory=lambda: Memo(8), repr=False)
    known: Memo[Any] = field(default_factory=lambda: Memo(2), repr=False)
    windows: Memo[Any] = field(default_factory=lambda: Memo(64), repr=False)
    counted: Memo[Any] = field(default_factory=lambda: Memo(256), repr=False)
    waves: Memo[Any] = field(default_factory=lambda: Memo(2), repr=False)
    planned: Memo[Any] = field(default_factory=lambda: Memo(2), repr=False)
    planning: threading.RLock = field(default_factory=threading.RLock, repr=False)
    asked_for: str = ""
    behind: ThreadPoolExecutor = field(default_factory=lambda: ThreadPoolExecutor(1, "behind"), repr=False)
    renewing: Future[Any] | None = field(default=None, repr=False)
    outlines: dict[int, tuple[tuple[int, int], Plan | None]] = field(default_factory=dict, repr=False)
    route_needs: Memo[Any] = field(default_factory=lambda: Memo(4), repr=False)
    crossing_rules: Memo[CrossingRules] = field(default_factory=lambda: Memo(8), repr=False)
    uses: Memo[list[tuple[int, int]]] = field(default_factory=lambda: Memo(2), repr=False)
    planned_dates: Memo[Any] = field(default_factory=lambda: Memo(2), repr=False)
    last_plan: Any = field(default=None, repr=False)
    dates: Callable[[Context], DatesOfStages] | None = field(default=None, repr=False)
    _known: tuple[float, Knowledge] | None = field(default=None, repr=False)
    _looking: threading.Lock = field(default_factory=threading.Lock, repr=False)

    @property
    def knowledge(self) -> Knowledge:
        """Knowledge as it is on disk, looked at anew once a second at most, by one of those who ask; the others take what is known."""
        known = self._known
        if known is None:
            self._looking.acquire()
        elif time.monotonic() - known[0] <= _LOOK_EVERY or not self._looking.acquire(blocking=False):
            return known[1]
        try:
            found = self.kit.knowledge(self.home.knowledge)
            self._known = (time.monotonic(), found)
            return found
        finally:
            self._looking.release()

    def look_again(self) -> None:
        """Forget what was known: files of knowledge have just changed. Whoever is looking has finished, and cannot bring it back."""
        with self._looking:
            self._known = None

    @property
    def ecosystems(self) -> Registry:
        """The ecosystems and frameworks that are known."""
        return self.kit.ecosystems

    @property
    def stage_dates(self) -> DatesOfStages:
        """Dates of stages as the portfolio was put into weeks; none where nobody plans it."""
        return self.dates(self) if self.dates is not None else ({}, "")

    @property
    def today(self) -> date:
        """Today's date."""
        return self.clock().date()

    @property
    def stamp(self) -> str:
        """Now, as ISO text with seconds, in UTC."""
        return self.clock().isoformat(timespec="seconds")


def open_context(home: Home, kit: Kit, clock: Callable[[], datetime] = _now) -> Context:
    """Open the records below ``home``."""
    return Context(home=home, db=Database(home.records), kit=kit, clock=clock)
