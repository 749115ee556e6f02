"""A finished scan as it is kept: its findings, files and texts, the plan, and what it says of each step. One transaction."""

from __future__ import annotations

import hashlib
import json
import sqlite3
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import date
from typing import Any

from yoake.core.coordinates import Target, line_key
from yoake.core.knowledge.base import Knowledge
from yoake.core.path.model import Plan
from yoake.core.path.sets import sets_of
from yoake.core.readiness.clearance import clearance
from yoake.core.readiness.effort import draw, quantiles
from yoake.core.readiness.estimate import needs_work, three_point
from yoake.core.scan.model import NO_READER, FileResult, Finding, ScanResult, Tally
from yoake.core.scan.report import finding_to_json
from yoake.core.scan.run import ANALYSER
from yoake.store.applications import Application
from yoake.store.scans import add_files, add_findings, add_scan, add_texts
from yoake.store.steps import add_event, put_step, set_step_state, steps_of
from yoake.work.office import Office
from yoake.work.scanning import Scanned
from yoake.work.staging import is_stage, renew_stage_steps, stages_of
from yoake.work.travelling import plan_in, sets_to_json


def identity_of(knowledge: Knowledge, targets: Sequence[Target], said: Sequence[Target]) -> str:
    """Digest of all that decides a scan beside the snapshot."""
    parts = [ANALYSER, knowledge.digest, *sorted(map(str, targets)), "said", *sorted(map(str, said))]
    return hashlib.sha256("\n".join(parts).encode()).hexdigest()[:16]


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
    findings: list[tuple[str, str, str]]
    files: list[FileResult]
    tallies: dict[str, Tally]
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
    detail = _detail(result, targets)
    days = days_per_week or knowledge.effort.days_per_week
    plan = plan_in(detail, open_work, knowledge, today, days, adopted)
    values = {
        "snapshot": scanned.identity,
        "label": scanned.label,
        "seconds": scanned.seconds,
        "analyser": ANALYSER,
        "knowledge": identity_of(knowledge, targets, said),
        "summary": json.dumps(_summary(result, plan, knowledge, open_work)),
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
    return ScanRecord(
        values,
        [(f.key, f.level, json.dumps(finding_to_json(f))) for f in result.findings],
        [*result.files, *manifests],
        result.checks.by_file,
        [(digests[path], zlib.compress(data, 6)) for path, data in scanned.texts.items()],
        plan,
        [_step_fact(f, knowledge) for f in result.findings if needs_work(f)],
        _today_lines(result),
        waived,
        adopted,
    )


def keep(office: Office, application: Application, record: ScanRecord) -> int:
    """Store a scan and bring the steps up to date, in one transaction; returns the scan's number."""
    values = {
        **record.values,
        "application": application.id,
        "destination": application.destination.id,
        "taken_at": office.stamp,
    }
    with office.db.write() as connection:
        number = add_scan(connection, values)
        add_findings(connection, number, record.findings)
        add_files(connection, number, record.files, record.tallies)
        add_texts(connection, record.texts)
        _renew_steps(connection, office, application, record)
        renew_stage_steps(connection, office, application, record.plan, record.today, adopted=bool(record.adopted))
        add_event(
            connection,
            {
                "at": office.stamp,
                "application": application.id,
                "subject": "scan",
                "what": "scanned",
                "after": record.values["label"],
            },
        )
    return number


def _today_lines(result: ScanResult) -> dict[str, str]:
    """purl → the oldest of today's lines over all modules."""
    found: dict[str, str] = {}
    for lines in result.today.values():
        for purl, stated in lines.items():
            if purl not in found or line_key(stated.line) < line_key(found[purl]):
                found[purl] = stated.line
    return found


def _summary(result: ScanResult, plan: Plan, knowledge: Knowledge, open_work: Sequence[Finding]) -> dict[str, Any]:
    whole = clearance(result.checks.by_sort.values())
    work = [f for f in open_work if needs_work(f)]
    effort = quantiles(draw(work, knowledge.effort))
    return {
        "clear": whole.clear,
        "known": whole.known,
        "tallies": {sort: asdict(tally) for sort, tally in result.checks.by_sort.items()},
        "levels": {
            level: sum(1 for f in result.findings if f.level == level) for level in ("error", "warning", "note")
        },
        "places": sum(len(f.places) for f in result.findings),
        "safe_now": sum(1 for f in work if f.key in plan.before_keys),
        "edit_p50": effort.p50,
        "edit_p80": effort.p80,
        "plan": asdict(plan),
        "today": [
            {**asdict(stated), "module": module} for module, lines in result.today.items() for stated in lines.values()
        ],
        "files": _count_files(result.files),
        "languages": sorted({f.language for f in result.files if f.reason == NO_READER}),
        "unknowns": dict(sorted(result.checks.unknowns.items(), key=lambda item: -item[1])[:40]),
        "notes": result.notes,
    }


def _count_files(files: Sequence[FileResult]) -> dict[str, int]:
    found: dict[str, int] = {}
    for file in files:
        found[file.state] = found.get(file.state, 0) + 1
    return found


def _detail(result: ScanResult, targets: Sequence[Target]) -> dict[str, Any]:
    return {
        "sets": sets_to_json(sets_of(result, targets)),
        "packages": [asdict(package) for package in result.packages],
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


def _renew_steps(connection: sqlite3.Connection, office: Office, application: Application, record: ScanRecord) -> None:
    """Open, close and reopen steps by what was found. A step that is not found closes only when its files were read."""
    known = {row["finding_key"]: row for row in steps_of(office.db, application.id, application.destination.id)}
    found = {fact.key for fact in record.steps}
    stages = stages_of(record.plan)
    for fact in record.steps:
        row = known.get(fact.key)
        back = row is not None and row["state"] in ("closed", "reopened")
        stage = stages.get(fact.key, 0)
        put_step(connection, _step_values(office, application, fact, stage, "reopened" if back else "open"))
        if row is not None and row["state"] == "closed":
            _step_event(connection, office, application, row["title"], "closed", "reopened", "found again by a scan")
    states = {f.path: f.state for f in record.files}
    for key, row in known.items():
        if key in found or row["state"] == "closed" or is_stage(key):
            continue
        unread = [path for path in json.loads(row["files"]) if states.get(path, "scanned") != "scanned"]
        if unread:
            set_step_state(connection, row["id"], "not seen", f"{unread[0]} was not read by the last scan", None)
            continue
        set_step_state(connection, row["id"], "closed", "the last scan no longer finds it", office.stamp)
        _step_event(connection, office, application, row["title"], row["state"], "closed", "no longer found by a scan")


def _step_event(
    connection: sqlite3.Connection,
    office: Office,
    application: Application,
    title: str,
    before: str,
    after: str,
    why: str,
) -> None:
    add_event(
        connection,
        {
            "at": office.stamp,
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


def _step_values(office: Office, application: Application, fact: StepFact, stage: int, state: str) -> Mapping[str, Any]:
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
        "at": office.stamp,
    }


def _title(finding: Finding) -> str:
    if finding.kind in ("package", "toolchain", "behaviour"):
        return finding.title
    if finding.replacement and finding.replacement != "none":
        return f"{finding.title} → {finding.replacement}"
    return finding.title
