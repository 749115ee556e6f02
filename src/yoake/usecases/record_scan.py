"""A finished scan as it is kept: its findings, files and texts, the plan, and what it says of each step. One transaction."""

from __future__ import annotations

import hashlib
import json
import sqlite3
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import date
from typing import Any, Final

from yoake.context.context import Context
from yoake.core.knowledge.base import Knowledge
from yoake.core.planning.sets import sets_of
from yoake.core.readiness.clearance import clearance
from yoake.core.readiness.effort import draw, quantiles
from yoake.core.readiness.estimate import needs_work, three_point
from yoake.core.scan.run import ANALYSER
from yoake.core.values.coordinates import Target, line_key
from yoake.core.values.findings import NO_READER, FileResult, Finding, ScanResult, Tally
from yoake.core.values.plans import Plan
from yoake.store.applications import Application
from yoake.store.database import Row
from yoake.store.scans import (
    FindingRows,
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
from yoake.store.steps import add_event, is_stage, put_step, renew_live, set_step_state, steps_of
from yoake.usecases.finding_rows import finding_rows
from yoake.usecases.scan import Scanned
from yoake.usecases.stage_steps import renew_stage_steps, stages_of
from yoake.views.journeys import plan_in, sets_to_json


def identity_of(knowledge: Knowledge, targets: Sequence[Target], said: Sequence[Target]) -> str:
    """Digest of all that decides a scan beside the snapshot."""
    parts = [ANALYSER, knowledge.digest, *sorted(map(str, targets)), "said", *sorted(map(str, said))]
    return hashlib.sha256("\n".join(parts).encode()).hexdigest()[:16]


_MOST_GONE: Final = 50  # titles of what a scan no longer finds
_MOST_FAULTS: Final = 200  # files that could not be read, by name; the list of files has all


@dataclass(frozen=True, slots=True)
class StepFact:
    """What a scan says of one step: its finding, where it stands and what it costs (likely minutes)."""

    key: str
    title: str
    places: int
    minutes: float
    files: tuple[str, ...]


@dataclass(slots=True)
class ScanRecord:
    """A finished scan in the form in which it is kept. Made where the scan ran; stored by the server.

    ``waived`` and ``adopted``: what the plan heeded, to see whether people decided otherwise meanwhile.
    """

    values: dict[str, Any]
    summary: dict[str, Any]
    findings: FindingRows
    packages: list[tuple[Any, ...]]
    files: list[FileResult]
    tallies: dict[str, Tally]
    work: dict[str, int]
    offered: list[str]
    texts: list[tuple[str, bytes]]
    plan: Plan
    steps: list[StepFact]
    today: dict[str, str]
    waived: frozenset[str]
    adopted: Mapping[str, Mapping[str, Any]]


def record_of(
    scanned: Scanned,
    knowledge: Knowledge,
    *,
    targets: Sequence[Target],
    said: Sequence[Target],
    waived: frozenset[str],
    adopted: Mapping[str, Mapping[str, Any]],
    days_per_week: float | None,
    today: date,
) -> ScanRecord:
    """Everything that is kept of a scan, its plan included. Nothing is stored."""
    result = scanned.result
    open_work = [f for f in result.findings if f.key not in waived]
    detail = _detail(result, targets, knowledge)
    packages = [asdict(package) for package in result.packages]
    days = days_per_week or knowledge.effort.days_per_week
    plan = plan_in(detail, packages, open_work, knowledge, today, days, adopted)
    whole = clearance(result.checks.by_sort.values())
    levels = {level: sum(1 for f in result.findings if f.level == level) for level in ("error", "warning", "note")}
    values = {
        "snapshot": scanned.identity,
        "label": scanned.label,
        "seconds": scanned.seconds,
        "analyser": ANALYSER,
        "knowledge": identity_of(knowledge, targets, said),
        "clear": whole.clear,
        "known": whole.known,
        "errors": levels["error"],
        "warnings": levels["warning"],
        "notes": levels["note"],
        "places": sum(len(f.places) for f in result.findings),
        "detail": json.dumps(detail),
    }
    digests = {f.path: f.digest for f in result.files if f.digest}
    digests.update(
        {path: hashlib.sha256(data).hexdigest() for path, data in scanned.texts.items() if path not in digests}
    )
    listed = {f.path for f in result.files}
    manifests = [
        FileResult(path, "scanned", "", "manifest", data.count(b"\n"), digests[path])
        for path, data in scanned.texts.items()
        if path not in listed
    ]
    files = [*result.files, *manifests]
    return ScanRecord(
        values,
        _summary(result, knowledge, open_work),
        finding_rows(result.findings, {f.path: f.role for f in files}, knowledge.effort),
        [(p["coordinate"], p["module"], int(p["direct"]), p["state"], json.dumps(p)) for p in packages],
        files,
        result.checks.by_file,
        _work_by_file(result.findings),
        sorted(
            {e.package(m.name.lower()).purl for m in result.modules if m.name for e in knowledge.ecosystems.ecosystems}
        ),
        [(digests[path], zlib.compress(data, 6)) for path, data in scanned.texts.items()],
        plan,
        [_step_fact(f, knowledge) for f in result.findings if needs_work(f)],
        _today_lines(result),
        waived,
        adopted,
    )


def keep(context: Context, application: Application, record: ScanRecord) -> int:
    """Store a scan and bring the steps up to date, in one transaction; returns the scan's number."""
    latest = latest_scan(context.db, application.id, application.destination.id)
    before = finding_keys(context.db, latest["id"]) if latest is not None and latest["has_detail"] else None
    known = {row["finding_key"]: row for row in steps_of(context.db, application.id, application.destination.id)}
    gone = sorted((before or set()) - {row[2] for row in record.findings.findings})
    titles = [known[key]["title"] for key in gone if key in known]
    summary = {**record.summary, "gone": titles[:_MOST_GONE], "gone_count": len(gone)}
    values = {
        **record.values,
        "application": application.id,
        "destination": application.destination.id,
        "taken_at": context.stamp,
        "summary": json.dumps(summary),
    }
    with context.db.write() as connection:
        number = add_scan(connection, values)
        put_plan(connection, number, *plan_rows(record.plan))
        add_findings(connection, number, record.findings, before)
        add_packages(connection, number, record.packages)
        add_offered(connection, number, record.offered)
        add_files(connection, number, record.files, record.tallies, record.work)
        add_texts(connection, record.texts)
        _renew_steps(connection, context, application, record, known)
        renew_stage_steps(connection, context, application, record.plan, record.today, adopted=bool(record.adopted))
        renew_live(connection, application.id)
        drop_detail(connection, application.id, application.destination.id, context.keep_scans)
        add_event(
            connection,
            {
                "at": context.stamp,
                "application": application.id,
                "subject": "scan",
                "what": "scanned",
                "after": record.values["label"],
            },
        )
    return number


def plan_rows(plan: Plan) -> tuple[str, str, int]:
    """(outline, whole plan, changes that need no move) as they are stored."""
    stages = tuple(replace(stage, finding_keys=(), safe_keys=()) for stage in plan.stages)
    outline = replace(plan, before_keys=(), stages=stages)
    return json.dumps(asdict(outline)), json.dumps(asdict(plan)), len(plan.before_keys)


def _work_by_file(findings: Sequence[Finding]) -> dict[str, int]:
    found: dict[str, int] = {}
    for finding in findings:
        for place in finding.places:
            if place.level != "note":
                found[place.file] = found.get(place.file, 0) + 1
    return found


def _today_lines(result: ScanResult) -> dict[str, str]:
    """purl → the oldest of today's lines over all modules."""
    found: dict[str, str] = {}
    for lines in result.today.values():
        for purl, stated in lines.items():
            if purl not in found or line_key(stated.line) < line_key(found[purl]):
                found[purl] = stated.line
    return found


def _summary(result: ScanResult, knowledge: Knowledge, open_work: Sequence[Finding]) -> dict[str, Any]:
    work = [f for f in open_work if needs_work(f)]
    effort = quantiles(draw(work, knowledge.effort))
    faults = [f"{fault.file}: {fault.reason}" for module in result.modules for fault in module.faults]
    return {
        "tallies": {sort: asdict(tally) for sort, tally in result.checks.by_sort.items()},
        "edit_p50": effort.p50,
        "edit_p80": effort.p80,
        "today": [
            {**asdict(stated), "module": module} for module, lines in result.today.items() for stated in lines.values()
        ],
        "files": _count_files(result.files),
        "languages": sorted({f.language for f in result.files if f.reason == NO_READER}),
        "unknowns": dict(sorted(result.checks.unknowns.items(), key=lambda item: -item[1])[:40]),
        "notes": result.notes,
        "faults": faults[:_MOST_FAULTS],
    }


def _count_files(files: Sequence[FileResult]) -> dict[str, int]:
    found: dict[str, int] = {}
    for file in files:
        found[file.state] = found.get(file.state, 0) + 1
    return found


def _detail(result: ScanResult, targets: Sequence[Target], knowledge: Knowledge) -> dict[str, Any]:
    return {
        "sets": sets_to_json(sets_of(result, targets, knowledge.ecosystems)),
        "modules": [
            {
                "path": m.path,
                "name": m.name,
                "manifests": m.manifests,
                "faults": [asdict(f) for f in m.faults],
                "pins": [asdict(p) for p in m.pins],
            }
            for m in result.modules
        ],
        "references": [[source, target, count] for (source, target), count in sorted(result.references.items())],
        "lonely": result.lonely,
        "used": result.used,
        "by_module": {module: asdict(tally) for module, tally in result.checks.by_module.items()},
    }


def _renew_steps(
    connection: sqlite3.Connection,
    context: Context,
    application: Application,
    record: ScanRecord,
    known: Mapping[str, Row],
) -> None:
    """Open, close and reopen steps by what was found. A step that is not found closes only when its files were read."""
    found = {fact.key for fact in record.steps}
    stages = stages_of(record.plan)
    for fact in record.steps:
        row = known.get(fact.key)
        back = row is not None and row["state"] in ("closed", "reopened")
        stage = stages.get(fact.key, 0)
        put_step(connection, _step_values(context, application, fact, stage, "reopened" if back else "open"))
        if row is not None and row["state"] == "closed":
            _step_event(connection, context, application, row["title"], "closed", "reopened", "found again by a scan")
    states = {f.path: f.state for f in record.files}
    for key, row in known.items():
        if key in found or row["state"] == "closed" or is_stage(key):
            continue
        unread = [path for path in json.loads(row["files"]) if states.get(path, "scanned") != "scanned"]
        if unread:
            set_step_state(connection, row["id"], "not seen", f"{unread[0]} was not read by the last scan", None)
            continue
        set_step_state(connection, row["id"], "closed", "the last scan no longer finds it", context.stamp)
        _step_event(connection, context, application, row["title"], row["state"], "closed", "no longer found by a scan")


def _step_event(
    connection: sqlite3.Connection,
    context: Context,
    application: Application,
    title: str,
    before: str,
    after: str,
    why: str,
) -> None:
    add_event(
        connection,
        {
            "at": context.stamp,
            "application": application.id,
            "subject": f"step {title}",
            "what": "state",
            "before": before,
            "after": after,
            "why": why,
        },
    )


def _step_fact(finding: Finding, knowledge: Knowledge) -> StepFact:
    places = [place for place in finding.places if place.level != "note"]
    minutes = three_point(finding, knowledge.effort)[1]
    return StepFact(finding.key, _title(finding), len(places), minutes, tuple(sorted({p.file for p in places})))


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
        "at": context.stamp,
    }


def _title(finding: Finding) -> str:
    if finding.kind in ("package", "toolchain", "behaviour"):
        return finding.title
    if finding.replacement and finding.replacement != "none":
        return f"{finding.title} → {finding.replacement}"
    return finding.title
