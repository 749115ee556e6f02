"""Routes of the standing watch: what is done by itself, the digest, and pages for people outside."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Annotated, Literal

from fastapi import Query, Request, Response
from pydantic import Field

from yoake.formats.digests import atom_feed, digest_mail, digest_page, digest_text
from yoake.report.board import render_board
from yoake.server.answers import view_router
from yoake.server.bodies import Body, Problem, Version
from yoake.server.deps import ContextDep, Who
from yoake.server.packed import packed
from yoake.store.watch import Watch, read_watch
from yoake.usecases.set_watch import addresses, set_watch
from yoake.views.board import board
from yoake.views.digest import Digest, digest, period_of
from yoake.views.packed_views import packed_view

router = view_router(tags=["watch"])
Days = Annotated[int, Query(ge=1, le=366, description="How many days it looks back.")]
Every = Annotated[int, Field(ge=0, le=366)]
_PAGE = {
    "Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; img-src data:; frame-ancestors 'self'"
}


class WatchBody(Body):
    """Every how many days, 0 for never; ``mail_to``: addresses with commas between."""

    rescan_days: Every = 0
    records_days: Every = 0
    digest_days: Every = 0
    next_days: Every = 0
    mail_to: Annotated[str, Field(max_length=1000)] = ""
    version: Version | None = None


class WatchConflict(Problem):
    """Two people changed it: nothing was written; ``current`` is how it is now."""

    current: Watch | None = None


@router.get("/watch")
def get_watch(context: ContextDep) -> Watch:
    """What is done by itself, and when it was done last."""
    return read_watch(context.db)


@router.put("/watch", responses={409: {"model": WatchConflict}})
def put_watch(body: WatchBody, context: ContextDep, who: Who) -> Watch:
    """Say what is done by itself."""
    return set_watch(context, Watch(**body.model_dump(exclude={"version"})), who, body.version)


@router.get("/digest", response_model=Digest)
def get_digest(request: Request, context: ContextDep, days: Days = 7) -> Response:
    """What changed in the last days."""
    body = packed_view(context, f"digest {days}", lambda c: digest(c, days), Digest)
    return packed(request, body, "application/json")


@router.get("/digest/written", response_class=Response)
def get_written_digest(
    request: Request,
    context: ContextDep,
    form: Literal["html", "text", "atom", "mail"] = "html",
    days: Days = 7,
    download: bool = False,
) -> Response:
    """The digest as a page, as text, as a feed (of one entry a week), or as a mail in a file."""
    if form == "atom":
        return Response(_feed(context, str(request.base_url)), media_type="application/atom+xml; charset=utf-8")
    made = digest(context, days)
    period = period_of(made)
    if form == "text":
        return Response(digest_text(made, period), media_type="text/plain; charset=utf-8")
    if form == "mail":
        to = addresses(read_watch(context.db).mail_to) or ["yoake@localhost"]
        message = digest_mail(made, period, "yoake@localhost", to, context.clock())
        headers = {"Content-Disposition": f'attachment; filename="digest-{made.until}.eml"'}
        return Response(message.as_bytes(), media_type="message/rfc822", headers=headers)
    placed = "attachment" if download else "inline"
    headers = _PAGE | {"Content-Disposition": f'{placed}; filename="digest-{made.until}.html"'}
    return Response(digest_page(made, period), media_type="text/html; charset=utf-8", headers=headers)


def _feed(context: ContextDep, base: str) -> str:
    """One entry for this week: its id stays while the week lasts."""
    made = digest(context, 7)
    monday = made.until - timedelta(days=made.until.weekday())
    at = datetime.combine(made.until, datetime.min.time(), context.clock().tzinfo)
    entry = (f"{base}digest/{monday}", made.heading, digest_text(made, period_of(made)), at)
    return atom_feed([entry], f"{base}digest", at)


@router.get("/reports/board", response_class=Response)
def get_board(
    context: ContextDep,
    team: Annotated[str, Query(max_length=120, description="Of this team only.")] = "",
    form: Literal["html", "mermaid"] = "html",
    download: bool = False,
) -> Response:
    """One page for a board, or for a team."""
    made = board(context, team)
    name = "".join(c if c.isalnum() else "-" for c in (made.team or "board").lower())
    if form == "mermaid":
        headers = {"Content-Disposition": f'attachment; filename="{name}.mmd"'}
        return Response(made.mermaid, media_type="text/plain; charset=utf-8", headers=headers)
    headers = _PAGE | {"Content-Disposition": f'{"attachment" if download else "inline"}; filename="{name}.html"'}
    return Response(render_board(made), media_type="text/html; charset=utf-8", headers=headers)
