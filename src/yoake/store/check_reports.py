"""Reports of checks that ran on other machines."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Final

from pydantic import TypeAdapter

from yoake.core.values.checks import CheckFinding, CheckReport
from yoake.store.database import Database

_FINDINGS: Final = TypeAdapter(tuple[CheckFinding, ...])


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredReport:
    """A report with what it is about: a stage (an empty key: today), the content that was looked at, where, when and by whose hand."""

    stage_key: str
    identity: str
    machine: str
    at: str
    who: str
    report: CheckReport


def put_report(connection: sqlite3.Connection, application_id: int, stored: StoredReport) -> None:
    """Keep a report in the place of the one before of the same tool."""
    report = stored.report
    connection.execute(
        "INSERT OR REPLACE INTO check_reports VALUES (:application, :stage, :tool, :identity, :machine, :errors, :warnings, :notes, "
        ":findings, :at, :who)",
        {
            "application": application_id,
            "stage": stored.stage_key,
            "tool": report.tool,
            "identity": stored.identity,
            "machine": stored.machine,
            "errors": report.errors,
            "warnings": report.warnings,
            "notes": report.notes,
            "findings": _FINDINGS.dump_json(report.findings).decode(),
            "at": stored.at,
            "who": stored.who,
        },
    )


def reports_of(db: Database, application_id: int) -> list[StoredReport]:
    """The newest report of each tool, of all stages."""
    rows = db.all(
        "SELECT * FROM check_reports WHERE application_id = :application ORDER BY stage_key, tool",
        {"application": application_id},
    )
    return [
        StoredReport(
            stage_key=row["stage_key"],
            identity=row["identity"],
            machine=row["machine"],
            at=row["at"],
            who=row["who"],
            report=CheckReport(
                row["tool"], row["errors"], row["warnings"], row["notes"], _FINDINGS.validate_json(row["findings"])
            ),
        )
        for row in rows
    ]
