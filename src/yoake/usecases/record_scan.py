"""A finished scan as it is kept: its findings, files and texts, the plan, and what it says of each step. One transaction."""

from __future__ import annotations

import hashlib
import json
import zlib
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Any, Final

from yoake.context.context import Context
from yoake.core.knowledge.base import Knowledge
from yoake.core.planning.sets import sets_of
from yoake.core.readiness.clearance import clearance
from yoake.core.readiness.estimate import needs_work, three_point
from yoake.core.values.coordinates import Coordinate, Line, Target
from yoake.core.values.findings import (
    ANALYSER,
    NO_READER,
    FileResult,
    Finding,
    PackageState,
    ScanResult,
    ScanSummary,
    Tally,
)
from yoake.core.values.journeys import ModuleSet
from yoake.core.values.modules import ModuleLine, ModuleOutline
from yoake.core.values.plans import Plan
from yoake.store.adopted_paths import AdoptedPath
from yoake.store.applications import Application
from yoake.store.database import Connection, Row
from yoake.store.events import Event, add_event
from yoake.store.runs import looks_of
from yoake.store.scans import (
    FindingRows,
    ScanFacts,
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
from yoake.usecases.find_slices import find_slices
from yoake.usecases.finding_rows import finding_rows
from yoake.usecases.scan import Scanned
from yoake.usecases.stage_steps import renew_stage_steps, stages_of
from yoake.views.journeys import plan_in


def identity_of(knowledge: Knowledge, targets: Sequence[Target], said: Sequence[Target]) -> str:
    """Digest of all that decides a scan beside the snapshot."""
    parts = [ANALYSER, knowledge.digest, *sorted(map(str, targets)), "said", *sorted(map(str, said))]
    return hashlib.sha256("\n".join(parts).encode()).hexdigest()[:16]


_MOST_GONE: Final = 50  # titles of what a scan no longer finds
_MOST_UNKNOWNS: Final = 40  # reasons for which checks are not known, the most frequent first
_MOST_FAULTS: Final = 200  # files that could not be read, by name; the list of files has all


@dataclass(frozen=True, slots=True)
class StepFact:
    """What a scan says of one step: its finding, where it stands and what it costs (likely minutes)."""

    key: str
    title: str
    places: int
    minutes: float
    files: tuple[str, ...]
    kind: str = ""
    coordinate: str = ""


@dataclass(slots=True)
class ScanRecord:
    """A finished scan in the form in which it is kept. Made where the scan ran; stored by the server.

    ``waived`` and ``adopted``: what the plan heeded, to see whether people decided otherwise meanwhile.
    """

    facts: ScanFacts
    findings: FindingRows
    packages: list[PackageState]
    files: list[FileResult]
    tallies: dict[str, Tally]
    work: dict[str, int]
    lonely: frozenset[str]
    offered: list[Coordinate]
    texts: list[tuple[str, bytes]]
    plan: Plan
    steps: list[StepFact]
    waived: frozenset[str]
    adopted: Mapping[str, AdoptedPath]


def record_of(
    scanned: Scanned,
    knowledge: Knowledge,
    *,
    targets: Sequence[Target],
    said: Sequence[Target],
    waived: frozenset[str],
    adopted: Mapping[str, AdoptedPath],
    days_per_week: float | None,
    today: date,
    slices: Mapping[str, Sequence[str]],
) -> ScanRecord:
    """Everything that is kept of a scan, its plan included. ``slices``: as people chose them, slice → routes. Nothing is stored."""
    result = scanned.result
    open_work = [f for f in result.findings if f.key not in waived]
    sets = sets_of(result, targets, knowledge.ecosystems, find_slices(scanned, knowledge.ecosystems, slices))
    days = days_per_week or knowledge.effort.days_per_week
    plan = plan_in(sets, result.packages, open_work, knowledge, today, days, adopted)
    facts = _facts(scanned, knowledge, sets, identity_of(knowledge, targets, said))
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
        facts,
        finding_rows(result.findings, {f.path: f.role for f in files}, knowledge.effort, knowledge.ecosystems),
        result.packages,
        files,
        result.checks.by_file,
        _work_by_file(result.findings),
        frozenset(result.lonely),
        sorted({e.package(m.name.lower()) for m in result.modules if m.name for e in knowledge.ecosystems.ecosystems}),
        [(digests[path], zlib.compress(data, 6)) for path, data in scanned.texts.items()],
        plan,
        [_step_fact(f, knowledge) for f in result.findings if needs_work(f)],
        waived,
        adopted,
    )


def _facts(scanned: Scanned, knowledge: Knowledge, sets: Sequence[ModuleSet], identity: str) -> ScanFacts:
    result = scanned.result
    whole = clearance(result.checks.by_sort.values())
    levels = Counter(f.level if needs_work(f) else "note" for f in result.findings)  # as many as there are steps
    none = Tally()
    return ScanFacts(
        snapshot=scanned.identity,
        label=scanned.label,
        seconds=scanned.seconds,
        analyser=ANALYSER,
        knowledge=identity,
        clear=whole.clear,
        known=whole.known,
        errors=levels["error"],
        warnings=levels["warning"],
        notes=levels["note"],
        places=sum(len(f.places) for f in result.findings),
        summary=_summary(result),
        today=[ModuleLine(module, s) for module, lines in result.today.items() for s in lines.values()],
        checks=result.checks.by_sort,
        sets=sets,
        modules=[
            (
                ModuleOutline(m.path, m.name, tuple(m.manifests), tuple(m.faults), tuple(m.pins)),
                result.checks.by_module.get(m.path, none),
            )
            for m in result.modules
        ],
        references=result.references,
        used=result.used,
    )


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


def _work_by_file(findings: Sequence[Finding]) -> dict[str, int]:
    found: dict[str, int] = {}
    for finding in findings:
        for place in finding.places:
            if place.is_work:
                found[place.file] = found.get(place.file, 0) + 1
    return found


def oldest_lines(today: Iterable[ModuleLine]) -> dict[Coordinate, Line]:
    """coordinate → the oldest of today's lines over all modules."""
    found: dict[Coordinate, Line] = {}
    for row in today:
        coordinate, line = row.stated.coordinate, row.stated.line
        if coordinate not in found or line < found[coordinate]:
            found[coordinate] = line
    return found


def _summary(result: ScanResult) -> ScanSummary:
    faults = [f"{fault.file}: {fault.reason}" for module in result.modules for fault in module.faults]
    unknowns = sorted(result.checks.unknowns.items(), key=lambda item: -item[1])
    return ScanSummary(
        files=_count_files(result.files),
        languages=tuple(sorted({f.language for f in result.files if f.reason == NO_READER})),
        unknowns=dict(unknowns[:_MOST_UNKNOWNS]),
        notes=tuple(result.notes),
        faults=tuple(faults[:_MOST_FAULTS]),
    )


def _count_files(files: Sequence[FileResult]) -> dict[str, int]:
    found: dict[str, int] = {}
    for file in files:
        found[file.state] = found.get(file.state, 0) + 1
    return found


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
            _step_event(connection, context, application, row["title"], "closed", "reopened", "found again by a scan")
    states = {f.path: f.state for f in record.files}
    for key, row in known.items():
        if key in found or row["state"] == "closed" or is_stage(key) or is_route(key):
            continue
        unread = [path for path in json.loads(row["files"]) if states.get(path, "scanned") != "scanned"]
        if unread:
            set_step_state(connection, row["id"], "not seen", f"{unread[0]} was not read by the last scan", None)
            continue
        set_step_state(connection, row["id"], "closed", "the last scan no longer finds it", context.stamp)
        _step_event(connection, context, application, row["title"], row["state"], "closed", "no longer found by a scan")


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


def _step_fact(finding: Finding, knowledge: Knowledge) -> StepFact:
    places = [place for place in finding.places if place.is_work]
    minutes = three_point(finding, knowledge.effort)[1]
    files = tuple(sorted({p.file for p in places}))
    return StepFact(finding.key, _title(finding), len(places), minutes, files, finding.kind, finding.coordinate)


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


def _title(finding: Finding) -> str:
    if finding.kind in ("package", "toolchain", "behaviour"):
        return finding.title
    if finding.replacement and finding.replacement != "none":
        return f"{finding.title} → {finding.replacement}"
    return finding.title
