"""A finished scan as it is kept: its findings, files and texts, the plan, and what it says of each step. One transaction."""

from __future__ import annotations

import hashlib
import zlib
from collections import Counter
from collections.abc import Mapping, Sequence
from datetime import date
from typing import Final

from yoake.core.knowledge.base import Knowledge
from yoake.core.planning.sets import sets_of
from yoake.core.readiness.clearance import clearance
from yoake.core.readiness.estimate import needs_work, three_point
from yoake.core.values.coordinates import Target
from yoake.core.values.findings import ANALYSER, NO_READER, FileResult, Finding, ScanSummary, Tally
from yoake.core.values.journeys import ModuleSet
from yoake.core.values.modules import ModuleLine, ModuleOutline
from yoake.core.values.results import ScanResult
from yoake.store.adopted_paths import AdoptedPath
from yoake.store.scans import (
    ScanFacts,
)
from yoake.usecases.find_slices import find_slices
from yoake.usecases.finding_rows import finding_rows
from yoake.usecases.scan_record import ScanRecord, StepFact
from yoake.usecases.scanned import Scanned
from yoake.views.journeys import plan_in


def identity_of(knowledge: Knowledge, targets: Sequence[Target], said: Sequence[Target]) -> str:
    """Digest of all that decides a scan beside the snapshot."""
    parts = [ANALYSER, knowledge.digest, *sorted(map(str, targets)), "said", *sorted(map(str, said))]
    return hashlib.sha256("\n".join(parts).encode()).hexdigest()[:16]


_MOST_UNKNOWNS: Final = 40  # reasons for which checks are not known, the most frequent first
_MOST_FAULTS: Final = 200  # files that could not be read, by name; the list of files has all


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
    plan = plan_in(
        sets=sets,
        packages=result.packages,
        findings=open_work,
        knowledge=knowledge,
        today=today,
        days_per_week=days,
        adopted=adopted,
    )
    facts = _facts(scanned, knowledge, sets, identity_of(knowledge, targets, said))
    digests = {f.path: f.digest for f in result.files if f.digest}
    digests.update(
        {path: hashlib.sha256(data).hexdigest() for path, data in scanned.texts.items() if path not in digests}
    )
    listed = {f.path for f in result.files}
    manifests = [
        FileResult(
            path=path, state="scanned", reason="", language="manifest", lines=data.count(b"\n"), digest=digests[path]
        )
        for path, data in scanned.texts.items()
        if path not in listed
    ]
    files = [*result.files, *manifests]
    return ScanRecord(
        facts=facts,
        findings=finding_rows(result.findings, {f.path: f.role for f in files}, knowledge.effort, knowledge.ecosystems),
        packages=result.packages,
        files=files,
        tallies=result.checks.by_file,
        work=_work_by_file(result.findings),
        lonely=frozenset(result.lonely),
        offered=sorted(
            {e.package(m.name.lower()) for m in result.modules if m.name for e in knowledge.ecosystems.ecosystems}
        ),
        texts=[(digests[path], zlib.compress(data, 6)) for path, data in scanned.texts.items()],
        plan=plan,
        steps=[_step_fact(f, knowledge) for f in result.findings if needs_work(f)],
        waived=waived,
        adopted=adopted,
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


def _work_by_file(findings: Sequence[Finding]) -> dict[str, int]:
    found: dict[str, int] = {}
    for finding in findings:
        for place in finding.places:
            if place.is_work:
                found[place.file] = found.get(place.file, 0) + 1
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


def _step_fact(finding: Finding, knowledge: Knowledge) -> StepFact:
    places = [place for place in finding.places if place.is_work]
    minutes = three_point(finding, knowledge.effort)[1]
    files = tuple(sorted({p.file for p in places}))
    return StepFact(
        key=finding.key,
        title=_title(finding),
        places=len(places),
        minutes=minutes,
        files=files,
        kind=finding.kind,
        coordinate=finding.coordinate,
    )


def _title(finding: Finding) -> str:
    if finding.kind in ("package", "toolchain", "behaviour"):
        return finding.title
    if finding.replacement and finding.replacement != "none":
        return f"{finding.title} → {finding.replacement}"
    return finding.title
