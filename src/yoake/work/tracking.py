"""What people change: owners, teams, capacity, destinations, steps, waivers. Every change is an appended event."""

from __future__ import annotations

import json
import re
import sqlite3
from collections.abc import Mapping, Sequence
from datetime import date
from typing import Final

from yoake.core.coordinates import line_key, parse_target
from yoake.core.errors import BadInput, Conflict, NotFound
from yoake.store.adopted_paths import adopted_paths
from yoake.store.applications import (
    Application,
    change_application,
    ensure_destination,
    get_application,
    say_line,
    set_destination,
)
from yoake.store.finding_windows import one_finding
from yoake.store.scans import latest_scan, packages_of_scan, put_plan
from yoake.store.steps import add_event, change_step, drop_waiver, get_step, live_waivers, put_waiver, renew_live
from yoake.work.intake import read_destination
from yoake.work.office import Office
from yoake.work.reading import stored_findings
from yoake.work.recording import plan_rows
from yoake.work.staging import renew_stage_steps
from yoake.work.stepping import one_step
from yoake.work.travelling import plan_in

_MAX_TEXT: Final = 4000
_DAY: Final = re.compile(r"\d{4}-\d{2}-\d{2}")


def change_applications(
    office: Office, slugs: Sequence[str], changes: Mapping[str, str | float | None], who: str
) -> list[Application]:
    """Set owner, team, days_per_week or destination on a selection. Raises BadInput and NotFound, then changes nothing."""
    applications = [get_application(office.db, slug) for slug in slugs]
    destination = read_destination(office, str(changes["destination"])) if changes.get("destination") else None
    days = changes.get("days_per_week")
    if days is not None and not (isinstance(days, int | float) and 0.01 <= days <= 35):
        raise BadInput("Capacity is days a week, from 0.01 to 35 (five people full time are 25).")
    with office.db.write() as connection:
        for application in applications:
            for field in ("owner", "team", "days_per_week"):
                if field in changes and changes[field] is not None:
                    change_application(connection, application.id, field, changes[field])
                    _event(
                        office,
                        connection,
                        application,
                        who,
                        field,
                        str(getattr(application, field)),
                        str(changes[field]),
                    )
            if destination is not None:
                set_destination(connection, application.id, ensure_destination(connection, *destination))
                renew_live(connection, application.id)
                _event(
                    office, connection, application, who, "destination", application.destination.name, destination[0]
                )
    return [get_application(office.db, slug) for slug in slugs]


def _event(
    office: Office,
    connection: sqlite3.Connection,
    application: Application,
    who: str,
    what: str,
    before: str,
    after: str,
) -> None:
    add_event(
        connection,
        {
            "at": office.stamp,
            "who": who,
            "application": application.id,
            "subject": "application",
            "what": what,
            "before": before,
            "after": after,
        },
    )


def remove_application(office: Office, slug: str, who: str, *, restore: bool = False) -> None:
    """Take an application off the Horizon, or bring it back; its history is kept. Raises NotFound."""
    application = get_application(office.db, slug)
    with office.db.write() as connection:
        change_application(connection, application.id, "removed_at", None if restore else office.stamp)
        renew_live(connection, application.id)
        _event(office, connection, application, who, "restored" if restore else "removed", "", "")


def correct_line(office: Office, slug: str, coordinate: str, line: str, who: str) -> None:
    """Say what today's line is; an empty line takes it back. Raises BadInput."""
    application = get_application(office.db, slug)
    target = office.knowledge.check_target(parse_target(f"{coordinate}@{line}")) if line else None
    short = target.coordinate.short if target is not None else coordinate
    with office.db.write() as connection:
        say_line(connection, application.id, target, short)
        _event(office, connection, application, who, f"today's line of {short}", "", line or "as the files say")


def change_step_fields(
    office: Office, number: int, changes: Mapping[str, str | None], who: str, version: int | None = None
) -> None:
    """Set owner, due date or note of a step. Raises BadInput, NotFound, and Conflict when it is not at ``version`` any more."""
    row = get_step(office.db, number, office.today)
    _day(changes.get("due"))
    if any(len(value or "") > _MAX_TEXT for value in changes.values()):
        raise BadInput(f"A note has at most {_MAX_TEXT} characters.")
    with office.db.write() as connection:
        row = get_step(office.db, number, office.today)  # again, now that nobody else writes
        if version is not None and row["version"] != version:
            raise Conflict("Somebody else changed this step meanwhile. Nothing was written.", one_step(office, number))
        for field in ("owner", "due", "note"):
            if field not in changes:
                continue
            if (row[field] or "") == (changes[field] or ""):
                continue
            change_step(connection, number, field, (changes[field] or None) if field == "due" else changes[field] or "")
            add_event(
                connection,
                {
                    "at": office.stamp,
                    "who": who,
                    "application": row["application_id"],
                    "subject": f"step {row['title']}",
                    "what": field,
                    "before": row[field],
                    "after": changes[field],
                },
            )


def _day(text: str | None) -> date | None:
    """A day as ``2027-03-12``; None for no text. Raises BadInput."""
    if not text:
        return None
    try:
        # weeks and ordinals are dates in the standard too, but nobody means them
        found = date.fromisoformat(text) if _DAY.fullmatch(text) else None
    except ValueError:
        found = None
    if found is None:
        raise BadInput(f"“{text}” is no date: write it as 2027-03-12.")
    return found


def waive(office: Office, slug: str, key: str, who: str, why: str, until: str | None) -> None:
    """Accept a finding on purpose; the plan is made again without it. Raises BadInput."""
    if not who.strip() or not why.strip():
        raise BadInput("A waiver names who accepts it and why. Choose your name in the top bar, and give a reason.")
    last = _day(until)
    if last is not None and last < office.today:
        raise BadInput(f"{until} is past: a waiver lasts at least until today.")
    application = get_application(office.db, slug)
    scan = latest_scan(office.db, application.id, application.destination.id)
    if scan is None or one_finding(office.db, scan["id"], key) is None:
        raise NotFound("The newest scan has no such finding. It may have changed: look at the list again.")
    with office.db.write() as connection:
        put_waiver(connection, application.id, key, who, why, until or None)
        add_event(
            connection,
            {
                "at": office.stamp,
                "who": who,
                "application": application.id,
                "subject": f"finding {key}",
                "what": "waived",
                "why": why,
                "after": until,
            },
        )
    replan(office, application)


def unwaive(office: Office, slug: str, key: str, who: str) -> None:
    """Take a waiver back."""
    application = get_application(office.db, slug)
    with office.db.write() as connection:
        drop_waiver(connection, application.id, key)
        add_event(
            connection,
            {
                "at": office.stamp,
                "who": who,
                "application": application.id,
                "subject": f"finding {key}",
                "what": "waiver taken back",
            },
        )
    replan(office, application)


def replan(office: Office, application: Application) -> None:
    """The plan on the newest scan, without what is waived now, along what was adopted; its steps follow."""
    scan = latest_scan(office.db, application.id, application.destination.id)
    if scan is None:
        return
    live = live_waivers(office.db, application.id, office.today)
    findings = [f for f in stored_findings(office, scan) if f.key not in live]
    days = application.days_per_week or office.knowledge.effort.days_per_week
    adopted = adopted_paths(office.db, application.id, application.destination.id)
    packages = packages_of_scan(office.db, scan["id"])
    plan = plan_in(json.loads(scan["detail"]), packages, findings, office.knowledge, office.today, days, adopted)
    lines: dict[str, str] = {}
    for row in json.loads(scan["summary"])["today"]:
        if row["coordinate"] not in lines or line_key(row["line"]) < line_key(lines[row["coordinate"]]):
            lines[row["coordinate"]] = row["line"]
    with office.db.write() as connection:
        put_plan(connection, scan["id"], *plan_rows(plan))
        renew_stage_steps(connection, office, application, plan, lines, adopted=bool(adopted))
        renew_live(connection, application.id)
