"""Reports for people outside: one self-contained page, CSV, SARIF; for one application or all."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

from yoake import __version__
from yoake.context.context import Context
from yoake.core.contract.registry import Registry
from yoake.core.values.findings import Finding
from yoake.core.values.plans import Stage
from yoake.formats.sarif import SarifRun, sarif_lines
from yoake.formats.tables import findings_csv, write_csv
from yoake.report.page import ReportApplication, ReportStage, render_report
from yoake.store.applications import Application, get_application, list_applications
from yoake.store.scans import finding_pages, latest_scan
from yoake.store.steps import stage_counts
from yoake.store.waivers import waivers_of
from yoake.views.application_rows import ApplicationRow, StageSpan, portfolio, read_application
from yoake.views.evidence import evidence
from yoake.views.findings import Query, find_findings, read_finding
from yoake.views.inventory import inventory_document, portfolio_inventory

PORTFOLIO_COLUMNS = (
    "application",
    "owner",
    "team",
    "destination",
    "today",
    "margin_days",
    "unsupported_since",
    "arrival_50",
    "arrival_80",
    "clear",
    "known",
    "errors",
    "warnings",
    "effort_days_50",
    "effort_days_80",
    "days_per_week",
    "scanned_at",
)


_SARIF: Final = "application/sarif+json"
_MOST_LISTED: Final = 60  # findings of one application by name; the CSV has all
_MOST_IN_DETAIL: Final = (
    60  # applications of a portfolio in detail, the smallest margin first; the table at its head has all
)


@dataclass(frozen=True, slots=True)
class Document:
    """A report: finished, or read from the records while it is sent."""

    name: str
    media_type: str
    body: str | Iterator[str]


def application_report(context: Context, slug: str, format_: str) -> Document:
    """The report of one application. Raises NotFound."""
    application, row, _ = read_application(context, slug)
    if format_ == "csv":
        return Document(f"{slug}.csv", "text/csv", findings_csv([(application.name, _findings(context, application))]))
    if format_ == "sarif":
        return Document(f"{slug}.sarif", _SARIF, sarif_lines([_sarif_run(context, application)], __version__))
    if format_ == "cyclonedx":
        body = json.dumps(inventory_document(context, slug), indent=1)
        return Document(f"{slug}.cdx.json", "application/vnd.cyclonedx+json", body)
    shown = _report_application(context, row)
    return Document(f"{slug}.html", "text/html", render_report(f"{application.name}", [shown], context.today, None))


def report_page(context: Context, slug: str) -> bytes:
    """The report of an application as a page. Raises NotFound."""
    return "".join(application_report(context, slug, "html").body).encode()


def portfolio_report(context: Context, format_: str) -> Document:
    """The report of all applications."""
    view = portfolio(context)
    if format_ == "csv":
        return Document(
            "portfolio.csv", "text/csv", write_csv(PORTFOLIO_COLUMNS, [_portfolio_row(row) for row in view.rows])
        )
    if format_ == "sarif":
        runs = (_sarif_run(context, a, base=f"{a.slug}/") for a in list_applications(context.db))
        return Document("portfolio.sarif", _SARIF, sarif_lines(runs, __version__))
    if format_ == "cyclonedx":
        body = json.dumps(portfolio_inventory(context), indent=1)
        return Document("portfolio.cdx.json", "application/vnd.cyclonedx+json", body)
    shown = [_report_application(context, row) for row in view.rows[:_MOST_IN_DETAIL]]
    return Document("portfolio.html", "text/html", render_report("Portfolio", shown, context.today, view))


def _report_application(context: Context, row: ApplicationRow) -> ReportApplication:
    """What the report shows of one application."""
    application = get_application(context.db, row.slug)
    scan = latest_scan(context.db, application.id, application.destination.id)
    if scan is None:
        return ReportApplication(row, evidence(context, row.slug), [], [], 0)
    found = find_findings(context, row.slug, Query("all"), 0, _MOST_LISTED + 1)
    listed = [read_finding(context, row.slug, f.key, Query()) for f in found.rows if f.level != "note"][:_MOST_LISTED]
    plan = scan.plan
    counts = stage_counts(context.db, application.id, application.destination.id)
    stages = [
        _stage(stage, span, counts.get(stage.number, 0), context.ecosystems)
        for stage, span in zip(plan.stages, row.stages, strict=False)
    ]
    return ReportApplication(row, evidence(context, row.slug), stages, listed, scan.errors + scan.warnings)


def _stage(stage: Stage, span: StageSpan, steps: int, ecosystems: Registry) -> ReportStage:
    moves = [(ecosystems.spoken(m.coordinate), str(m.start), str(m.goal)) for m in stage.moves]
    return ReportStage(
        number=stage.number,
        moves=moves,
        reasons=list(stage.reasons),
        steps=steps,
        effort50=stage.effort.p50,
        effort80=stage.effort.p80,
        arrives50=span.arrives50,
    )


def _portfolio_row(row: ApplicationRow) -> tuple[object, ...]:
    today = ", ".join(f"{view.name} {view.line}" for view in row.today)
    return (
        row.name,
        row.owner,
        row.team,
        row.destination,
        today,
        row.margin,
        row.unsupported_since,
        row.arrival50,
        row.arrival80,
        None if row.clear is None else round(row.clear, 4),
        round(row.known, 4),
        row.errors,
        row.warnings,
        round(row.effort50, 2),
        round(row.effort80, 2),
        row.days_per_week,
        row.scanned_at,
    )


def _sarif_run(context: Context, application: Application, base: str = "") -> SarifRun:
    """One run an application, its paths below the application's name in a portfolio."""
    held = waivers_of(context.db, application.id)
    waived = {key: f"{w['by_whom']}: {w['why']}" for key, w in held.items()}
    return SarifRun(name=f"{application.slug}/", findings=_findings(context, application), waived=waived, base=base)


def _findings(context: Context, application: Application) -> Iterator[Finding]:
    """The findings of the newest scan, read page by page."""
    scan = latest_scan(context.db, application.id, application.destination.id)
    for page in finding_pages(context.db, scan.id) if scan is not None else ():
        yield from page
