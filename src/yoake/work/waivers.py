"""Waivers: accept a finding on purpose, and take that back."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from yoake.core.values.errors import BadInput, NotFound
from yoake.formats.waivers import Waiver, write_waivers
from yoake.store.applications import get_application
from yoake.store.database import Row
from yoake.store.finding_windows import one_finding, titles_of
from yoake.store.scans import latest_scan
from yoake.store.steps import add_event
from yoake.store.waivers import drop_waiver, put_waiver, waivers_of
from yoake.work.collisions import expect
from yoake.work.office import Office
from yoake.work.tracking import read_day, replan


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
    expired = row["until"] is not None and row["until"] < today.isoformat()
    return WaiverView(row["by_whom"], row["why"], row["until"], expired, row["version"])


def waivers_file(office: Office, slug: str) -> str:
    """Every waiver of an application that has not run out, as a file for builds. Raises NotFound."""
    application = get_application(office.db, slug)
    scan = latest_scan(office.db, application.id, application.destination.id)
    held = waivers_of(office.db, application.id)
    titles = titles_of(office.db, scan["id"], held) if scan is not None else {}
    made = (
        Waiver(finding=key, title=titles.get(key, ""), by=row["by_whom"], why=row["why"], until=read_day(row["until"]))
        for key, row in sorted(held.items())
    )
    return write_waivers(waiver for waiver in made if waiver.holds(office.today))


def waive(
    office: Office, slug: str, key: str, who: str, why: str, until: str | None, version: int | None = None
) -> WaiverView:
    """Accept a finding on purpose, or change how it was accepted; the plan is made again without it.

    Raises BadInput, NotFound, and Outdated when the waiver is not at ``version`` any more (0: there was none).
    """
    if not who.strip() or not why.strip():
        raise BadInput("A waiver names who accepts it and why. Choose your name in the top bar, and give a reason.")
    last = read_day(until)
    if last is not None and last < office.today:
        raise BadInput(f"{until} is past: a waiver lasts at least until today.")
    application = get_application(office.db, slug)
    scan = latest_scan(office.db, application.id, application.destination.id)
    if scan is None or one_finding(office.db, scan["id"], key) is None:
        raise NotFound("The newest scan has no such finding. It may have changed: look at the list again.")
    event = {"at": office.stamp, "who": who, "application": application.id, "subject": f"finding {key}"}
    with office.db.write() as connection:
        held = waivers_of(office.db, application.id).get(key)
        expect(version, held["version"] if held else 0, "this waiver", waiver_view(held, office.today))
        before = held["until"] if held else None
        number = add_event(connection, {**event, "what": "waived", "why": why, "before": before, "after": until})
        values = {"application": application.id, "key": key, "by": who, "why": why, "until": until or None}
        put_waiver(connection, {**values, "version": number})
    replan(office, application)
    return WaiverView(who, why, until or None, expired=False, version=number)


def unwaive(office: Office, slug: str, key: str, who: str, version: int | None = None) -> None:
    """Take a waiver back. Raises NotFound, and Outdated when it is not at ``version`` any more."""
    application = get_application(office.db, slug)
    event = {"at": office.stamp, "who": who, "application": application.id, "subject": f"finding {key}"}
    with office.db.write() as connection:
        held = waivers_of(office.db, application.id).get(key)
        expect(version, held["version"] if held else 0, "this waiver", waiver_view(held, office.today))
        if held is None:
            raise NotFound("This finding is not waived.")
        drop_waiver(connection, application.id, key)
        add_event(connection, {**event, "what": "waiver taken back"})
    replan(office, application)
