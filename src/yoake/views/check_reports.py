"""Reports of checks that ran on other machines, by stage and tool."""

from __future__ import annotations

from dataclasses import dataclass

from yoake.context.context import Context
from yoake.core.values.checks import CheckFinding
from yoake.core.values.plans import stage_key
from yoake.store.applications import get_application
from yoake.store.check_reports import reports_of
from yoake.store.scans import latest_scan


@dataclass(frozen=True, slots=True, kw_only=True)
class ReportView:
    """The newest report of one tool. ``stage``: its number in the plan of today, 0 for today, None where the plan has it no more;
    ``fresh``: whether it is about what the newest scan read; ``findings``: the first of them, errors before others."""

    tool: str
    stage: int | None
    commit: str
    machine: str
    at: str
    who: str
    fresh: bool
    errors: int
    warnings: int
    notes: int
    findings: list[CheckFinding]


def check_reports(context: Context, slug: str) -> list[ReportView]:
    """Reports of an application. Raises NotFound."""
    application = get_application(context.db, slug)
    scan = latest_scan(context.db, application.id, application.destination.id)
    named = {t.coordinate for t in application.destination.targets}
    numbers = {stage_key(s, named): s.number for s in scan.plan.stages} if scan is not None else {}
    return [
        ReportView(
            tool=stored.report.tool,
            stage=numbers.get(stored.stage_key) if stored.stage_key else 0,
            commit=stored.identity.removeprefix("commit:"),
            machine=stored.machine,
            at=stored.at,
            who=stored.who,
            fresh=scan is not None and scan.snapshot == stored.identity,
            errors=stored.report.errors,
            warnings=stored.report.warnings,
            notes=stored.report.notes,
            findings=list(stored.report.findings),
        )
        for stored in reports_of(context.db, application.id)
    ]
