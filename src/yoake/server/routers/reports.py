"""Routes of reports: HTML, CSV, SARIF, for one application and for the portfolio."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from typing import Final, Literal

from fastapi import Request, Response
from fastapi.responses import StreamingResponse

from yoake.server.answers import view_router
from yoake.server.deps import ContextDep, Slug
from yoake.server.packed import packed
from yoake.usecases.keep_answers import answer
from yoake.views.reports import Document, application_report, portfolio_report, report_page

router = view_router(prefix="/reports", tags=["reports"])
_LINES: Final = 500  # of an export, sent at once
Form = Literal["html", "csv", "sarif", "cyclonedx"]


def _headers(name: str, *, download: bool) -> dict[str, str]:
    return {
        "Content-Disposition": f'{"attachment" if download else "inline"}; filename="{name}"',
        "Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; img-src data:; frame-ancestors 'self'",
    }


def _answer(document: Document, download: bool) -> Response:
    headers = _headers(document.name, download=download or document.media_type != "text/html")
    if not isinstance(document.body, str):
        return StreamingResponse(
            _bundled(document.body), media_type=f"{document.media_type}; charset=utf-8", headers=headers
        )
    return Response(document.body, media_type=f"{document.media_type}; charset=utf-8", headers=headers)


def _bundled(lines: Iterator[str]) -> Iterator[str]:
    """Lines in pieces worth sending."""
    while piece := "".join(itertools.islice(lines, _LINES)):
        yield piece


@router.get("/portfolio", response_class=Response)
def get_portfolio_report(context: ContextDep, form: Form = "html", download: bool = False) -> Response:
    """The report of all applications."""
    return _answer(portfolio_report(context, form), download)


@router.get("/applications/{slug}", response_class=Response)
def get_application_report(
    slug: Slug, request: Request, context: ContextDep, form: Form = "html", download: bool = False
) -> Response:
    """The report of one application."""
    if form == "html":
        body = answer(context, slug, "report", report_page)
        return packed(request, body, "text/html; charset=utf-8", _headers(f"{slug}.html", download=download))
    return _answer(application_report(context, slug, form), download)
