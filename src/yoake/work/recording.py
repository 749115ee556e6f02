"""Keep a finished scan: its findings, files and texts, the plan, and what it says of each step. One transaction."""

from __future__ import annotations

import hashlib
import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

from yoake.core.coordinates import Target, line_key
from yoake.core.knowledge.base import Knowledge
from yoake.core.path.model import Plan
from yoake.core.path.sets import sets_of
from yoake.core.readiness.clearance import clearance
from yoake.core.readiness.effort import draw, needs_work, quantiles, three_point
from yoake.core.scan.model import NO_READER, FileResult, Finding, ScanResult
from yoake.core.scan.report import finding_to_json
from yoake.core.scan.run import ANALYSER
from yoake.store.adopted_paths import adopted_paths
from yoake.store.applications import Application
from yoake.store.scans import add_files, add_findings, add_scan, add_texts
from yoake.store.steps import add_event, put_step, set_step_state, steps_of, waivers_of
from yoake.work.office import Office
from yoake.work.scanning import Scanned
from yoake.work.staging import is_stage, renew_stage_steps, stage_of
from yoake.work.travelling import plan_in, sets_to_json


def identity_of(knowledge: Knowledge, targets: Sequence[Target], said: Sequence[Target]) -> str:
    """Digest of all that decides a scan beside the snapshot."""
    parts = [ANALYSER, knowledge.digest, *sorted(map(str, targets)), "said", *sorted(map(str, said))]
    return hashlib.sha256("\n".join(parts).encode()).hexdigest()[:16]


def record_scan(office: Office, application: Application, scanned: Scanned, said: Sequence[Target]) -> int:
    """Store a scan and bring the steps up to date; returns the scan's number."""
    knowledge, result = office.knowledge, scanned.result
    targets = application.destination.targets
    today = office.today.isoformat()
    held = waivers_of(office.db, application.id)
    waived = {key for key, row in held.items() if not row["until"] or row["until"] >= today}
    open_work = [f for f in result.findings if f.key not in waived]
    detail = _detail(result, targets)
    days = application.days_per_week or knowledge.effort.days_per_week
    adopted = adopted_paths(office.db, application.id, application.destination.id)
    plan = plan_in(detail, open_work, knowledge, office.today, days, adopted)
    values = {
        "application": application.id,
        "destination": application.destination.id,
        "snapshot": scanned.identity,
        "label": scanned.label,
        "taken_at": office.stamp,
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
    manifests = [
        FileResult(path, "scanned", "", "manifest", data.count(b"\n"), digests[path])
        for path, data in scanned.texts.items()
        if path not in {f.path for f in result.files}
    ]
    with office.db.write() as connection:
        number = add_scan(connection, values)
        rows = [(f.key, f.level, json.dumps(finding_to_json(f))) for f in result.findings]
        add_findings(connection, number, rows)
        add_files(connection, number, [*result.files, *manifests], result.checks.by_file)
        add_texts(connection, ((digests[path], data) for path, data in scanned.texts.items()))
        _renew_steps(connection, office, application, result, plan)
        renew_stage_steps(connection, office, application, plan, _today_lines(result), adopted=bool(adopted))
        add_event(
            connection,
            {
                "at": office.stamp,
                "application": application.id,
                "subject": "scan",
                "what": "scanned",
                "after": scanned.label,
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


def _renew_steps(
    connection: sqlite3.Connection, office: Office, application: Application, result: ScanResult, plan: Plan
) -> None:
    """Open, close and reopen steps by what was found. A step that is not found closes only when its files were read."""
    known = {row["finding_key"]: row for row in steps_of(office.db, application.id, application.destination.id)}
    found = {f.key: f for f in result.findings if needs_work(f)}
    for key, finding in found.items():
        row = known.get(key)
        back = row is not None and row["state"] in ("closed", "reopened")
        put_step(connection, _step_values(office, application, finding, plan, "reopened" if back else "open"))
        if row is not None and row["state"] == "closed":
            _step_event(connection, office, application, row["title"], "closed", "reopened", "found again by a scan")
    states = {f.path: f.state for f in result.files}
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


def _step_values(
    office: Office, application: Application, finding: Finding, plan: Plan, state: str
) -> Mapping[str, Any]:
    places = [place for place in finding.places if place.level != "note"]
    return {
        "application": application.id,
        "destination": application.destination.id,
        "key": finding.key,
        "stage": stage_of(plan, finding.key),
        "title": _title(finding),
        "state": state,
        "why": "",
        "places": len(places),
        "minutes": three_point(finding, office.knowledge.effort)[1],
        "files": json.dumps(sorted({p.file for p in places})),
        "at": office.stamp,
    }


def _title(finding: Finding) -> str:
    if finding.kind in ("package", "toolchain", "behaviour"):
        return finding.title
    if finding.replacement and finding.replacement != "none":
        return f"{finding.title} → {finding.replacement}"
    return finding.title
