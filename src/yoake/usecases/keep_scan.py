"""Keep a scan: its findings, files and packages, and the steps that follow from it."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import replace
from typing import Any, Final

from yoake.context.context import Context
from yoake.core.values.modules import oldest_lines
from yoake.store.applications import Application
from yoake.store.database import Connection, Row
from yoake.store.events import Event, add_event
from yoake.store.runs import looks_of
from yoake.store.scans import (
    add_files,
    add_findings,
    add_offered,
    add_packages,
    add_scan,
    add_texts,
    drop_detail,
    finding_keys,
    latest_scan,
    put_plan,
)
from yoake.store.steps import is_route, is_stage, put_step, renew_live, set_step_state, steps_of
from yoake.usecases.scan_record import ScanRecord, StepFact
from yoake.usecases.stage_steps import renew_stage_steps, stages_of

_MOST_GONE: Final = 50  # titles of what a scan no longer finds


def keep(context: Context, application: Application, record: ScanRecord) -> int:
    """Store a scan and bring the steps up to date, in one transaction; returns the scan's number."""
    latest = latest_scan(context.db, application.id, application.destination.id)
    before = finding_keys(context.db, latest.id) if latest is not None and latest.has_detail else None
    known = {row["finding_key"]: row for row in steps_of(context.db, application.id, application.destination.id)}
    gone = sorted((before or set()) - {row[2] for row in record.findings.findings})
    titles = [known[key]["title"] for key in gone if key in known]
    summary = replace(record.facts.summary, gone=tuple(titles[:_MOST_GONE]), gone_count=len(gone))
    facts = replace(record.facts, summary=summary)
    with context.db.write() as connection:
        number = add_scan(connection, application.id, application.destination.id, context.stamp, facts)
        put_plan(connection, number, record.plan)
        add_findings(connection, number, record.findings, before)
        add_packages(connection, number, record.packages)
        add_offered(connection, number, record.offered)
        add_files(connection, number, record.files, record.tallies, record.work, record.lonely)
        add_texts(connection, record.texts)
        _renew_steps(connection, context, application, record, known)
        lines = oldest_lines(facts.today)
        renew_stage_steps(connection, context, application, record.plan, lines, adopted=bool(record.adopted))
        renew_live(connection, application.id)
        drop_detail(connection, application.id, application.destination.id, context.keep_scans)
        event = Event(at=context.stamp, application=application.id, subject="scan", what="scanned", after=facts.label)
        add_event(connection, event)
    return number


def _renew_steps(
    connection: Connection,
    context: Context,
    application: Application,
    record: ScanRecord,
    known: Mapping[str, Row],
) -> None:
    """Open, close and reopen steps by what was found. A step that is not found closes only when its files were read."""
    found = {fact.key for fact in record.steps}
    stages = stages_of(record.plan)
    looks = looks_of(context.db, application.id)
    for fact in record.steps:
        row = known.get(fact.key)
        look = looks.get(fact.key)
        if row is not None and row["state"] == "closed" and look is not None and look.holds(fact.places, fact.files):
            continue  # somebody looked at it, and it stands where it stood
        back = row is not None and row["state"] in ("closed", "reopened")
        stage = stages.get(fact.key, 0)
        put_step(connection, _step_values(context, application, fact, stage, "reopened" if back else "open"))
        if row is not None and row["state"] == "closed":
            _step_event(
                connection=connection,
                context=context,
                application=application,
                title=row["title"],
                before="closed",
                after="reopened",
                why="found again by a scan",
            )
    states = {f.path: f.state for f in record.files}
    for key, row in known.items():
        if key in found or row["state"] == "closed" or is_stage(key) or is_route(key):
            continue
        unread = [path for path in json.loads(row["files"]) if states.get(path, "scanned") != "scanned"]
        if unread:
            set_step_state(connection, row["id"], "not seen", f"{unread[0]} was not read by the last scan", None)
            continue
        set_step_state(connection, row["id"], "closed", "the last scan no longer finds it", context.stamp)
        _step_event(
            connection=connection,
            context=context,
            application=application,
            title=row["title"],
            before=row["state"],
            after="closed",
            why="no longer found by a scan",
        )


def _step_event(
    connection: Connection,
    context: Context,
    application: Application,
    title: str,
    before: str,
    after: str,
    why: str,
) -> None:
    event = Event(
        at=context.stamp,
        application=application.id,
        subject=f"step {title}",
        what="state",
        before=before,
        after=after,
        why=why,
    )
    add_event(connection, event)


def _step_values(
    context: Context, application: Application, fact: StepFact, stage: int, state: str
) -> Mapping[str, Any]:
    return {
        "application": application.id,
        "destination": application.destination.id,
        "key": fact.key,
        "stage": stage,
        "title": fact.title,
        "state": state,
        "why": "",
        "places": fact.places,
        "minutes": fact.minutes,
        "files": json.dumps(fact.files),
        "kind": fact.kind,
        "coordinate": fact.coordinate,
        "at": context.stamp,
    }
