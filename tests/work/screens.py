"""What tests look at: everything that a screen would show of a small application, at once."""

from __future__ import annotations

from yoake.work.findings import FileView, FindingView, Query, find_files, find_findings, read_finding
from yoake.work.office import Office
from yoake.work.stepping import StepQuery, StepView, work


def steps(office: Office, state: str = "all") -> list[StepView]:
    return work(office, StepQuery(state=state)).rows


def findings(office: Office, slug: str) -> list[FindingView]:
    rows = find_findings(office, slug, Query(), 0, 200).rows
    return [read_finding(office, slug, row.key, Query()) for row in rows]


def files(office: Office, slug: str) -> list[FileView]:
    return find_files(office, slug, "", 0, 200).rows
