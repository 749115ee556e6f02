"""Waivers as screens show them, and as a file for builds."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from yoake.context.context import Context
from yoake.formats.waivers import Waiver, in_force, write_waivers
from yoake.store.applications import get_application
from yoake.store.database import Row
from yoake.store.finding_windows import titles_of
from yoake.store.scans import latest_scan
from yoake.store.waivers import waivers_of


@dataclass(frozen=True, slots=True)
class WaiverView:
    """Who accepted a finding, why and until when. ``version``: for who changes it or takes it back."""

    by: str
    why: str
    until: str | None
    expired: bool
    version: int


def waiver_view(row: Row | None, today: date) -> WaiverView | None:
    """A stored waiver; one that ran out is marked."""
    if row is None:
        return None
    expired = not in_force(_day(row["until"]), today)
    return WaiverView(row["by_whom"], row["why"], row["until"], expired, row["version"])


def _day(text: str | None) -> date | None:
    return date.fromisoformat(text) if text else None


def waivers_file(context: Context, slug: str) -> str:
    """Every waiver of an application that has not run out, as a file for builds. Raises NotFound."""
    application = get_application(context.db, slug)
    scan = latest_scan(context.db, application.id, application.destination.id)
    held = waivers_of(context.db, application.id)
    titles = titles_of(context.db, scan.id, held) if scan is not None else {}
    made = (
        Waiver(finding=key, title=titles.get(key, ""), by=row["by_whom"], why=row["why"], until=_day(row["until"]))
        for key, row in sorted(held.items())
    )
    return write_waivers(waiver for waiver in made if waiver.holds(context.today))
