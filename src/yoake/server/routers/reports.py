"""Routes of reports: HTML, CSV, SARIF, for one application and for the portfolio."""

from __future__ import annotations

from typing import Literal

from fastapi import APIRouter, Response

from yoake.server.deps import OfficeDep, Slug
from yoake.work.reporting import Document, application_report, portfolio_report

router = APIRouter(prefix="/reports", tags=["reports"])
Form = Literal["html", "csv", "sarif", "cyclonedx"]


def _answer(document: Document, download: bool) -> Response:
    place = "attachment" if download or document.media_type != "text/html" else "inline"
    headers = {
        "Content-Disposition": f'{place}; filename="{document.name}"',
        "Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; img-src data:",
        "X-Content-Type-Options": "nosniff",
    }
    return Response(document.body, media_type=f"{document.media_type}; charset=utf-8", headers=headers)


@router.get("/portfolio", response_class=Response)
def get_portfolio_report(office: OfficeDep, form: Form = "html", download: bool = False) -> Response:
    """The report of all applications."""
    return _answer(portfolio_report(office, form), download)


@router.get("/applications/{slug}", response_class=Response)
def get_application_report(slug: Slug, office: OfficeDep, form: Form = "html", download: bool = False) -> Response:
    """The report of one application."""
    return _answer(application_report(office, slug, form), download)
