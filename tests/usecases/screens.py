"""What tests look at: everything that a screen would show of a small application, at once."""

from __future__ import annotations

from yoake.context.context import Context
from yoake.views.findings import FileView, FindingView, Query, find_files, find_findings, read_finding
from yoake.views.work import StepQuery, StepView, work


def steps(context: Context, state: str = "all") -> list[StepView]:
    return work(context, StepQuery(state=state)).rows


def findings(context: Context, slug: str) -> list[FindingView]:
    rows = find_findings(context, slug, Query(), 0, 200).rows
    return [read_finding(context, slug, row.key, Query()) for row in rows]


def files(context: Context, slug: str) -> list[FileView]:
    return find_files(context, slug, "", 0, 200).rows
