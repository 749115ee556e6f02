"""Routes of Crossing: an application that moves piece by piece."""

from __future__ import annotations

import tempfile
from dataclasses import replace
from pathlib import Path
from typing import Annotated, Final, Literal

from fastapi import File, Query, Request, Response, UploadFile
from pydantic import AfterValidator, BaseModel, Field, TypeAdapter

from yoake.context.context import Context
from yoake.core.crossing.parts import PartChoice, PartKey
from yoake.core.crossing.rules import CrossingRules, Session, Side, Standing
from yoake.core.crossing.slices import SliceBasis
from yoake.core.values.errors import BadInput, NotFound
from yoake.formats.nginx import nginx_configuration
from yoake.server.answers import view_router
from yoake.server.bodies import Body, Filled, Named, Version, storable
from yoake.server.deps import ContextDep, QueueDep, Slug, Who
from yoake.store.applications import get_application
from yoake.store.crossings import ChosenSlice, StoredCrossing, crossing_of
from yoake.usecases.bring_description import bring_description
from yoake.usecases.check_session import check_session
from yoake.usecases.choose_part import choose_part
from yoake.usecases.compare_recording import ask_recording, recording_folder
from yoake.usecases.count_calls import ask_calls, log_folder
from yoake.usecases.cross import (
    ask_routes,
    begin_crossing,
    choose_slices,
    crossing_rules,
    declare_safe,
    end_crossing,
    find_crossing,
    move_routes,
    rules_text,
    say_mended,
    set_crossing,
)
from yoake.usecases.route_steps import renew_route_steps, retire
from yoake.usecases.take_record import crossing_stamp, gateway_state, record_folder, take_record
from yoake.views.crossing import CrossingView, crossing_view, not_begun
from yoake.views.crossing_parts import PartsPicture, parts_picture
from yoake.views.crossing_route import RouteDetail, route_detail
from yoake.views.crossing_slices import ProposedSlice, proposals
from yoake.views.crossing_state import CrossingState, read_state

router = view_router(tags=["crossing"], prefix="/applications/{slug}/crossing")
_PIECE = 1 << 20
_LARGEST = 4_000_000_000  # bytes of one log that is handed over
_LARGEST_DESCRIPTION = 20_000_000  # bytes; the reader of it says so in words
_LARGEST_RECORDING = 100_000_000  # bytes
_LOGIN_SECONDS = 10.0  # that a person waits for each of six answers at most
_REQUEST = r"^[A-Z]{3,10} /\S*$"
FormText = Annotated[str, Field(max_length=1000), AfterValidator(storable)]
RouteName = Annotated[str, Field(min_length=5, max_length=9000)]
Address = Annotated[str, Field(min_length=8, max_length=500)]
Why = Annotated[str, Field(max_length=2000)]


class BeginBody(Body):
    """The new side, if it is taken in already, and where both answer."""

    new: Named = ""
    old_address: Address
    new_address: Address


class CrossingBody(Body):
    """The sides, and what a route has to show before it moves on."""

    new: Named | None = None
    old_address: Address | None = None
    new_address: Address | None = None
    answers: Annotated[int, Field(ge=1, le=400)]
    days: Annotated[int, Field(ge=0, le=365)]
    quiet: Annotated[int, Field(ge=1, le=365)]
    tests: bool = True
    grows: bool = False
    version: Version | None = None


class MoveBody(Body):
    """Routes to put elsewhere. A share is a percentage of the callers."""

    routes: Annotated[list[RouteName], Field(min_length=1, max_length=2000)]
    standing: Standing
    share: Annotated[float, Field(ge=0, le=100)] = 0.0
    why: Why = ""


class SafeBody(Body):
    """Whether a route may be asked of both sides."""

    route: RouteName
    safe: bool
    why: Why = ""


class MendedBody(Body):
    """A route whose differences were mended."""

    route: RouteName
    why: Why = ""


class RetireBody(Body):
    """Routes to take out."""

    routes: Annotated[list[RouteName], Field(min_length=1, max_length=2000)]
    why: Why = ""


class SliceBody(Body):
    """Routes that move together."""

    name: Filled
    routes: Annotated[list[RouteName], Field(max_length=2000)]


class SlicesBody(Body):
    """Slices in their order."""

    slices: Annotated[list[SliceBody], Field(max_length=200)]


class PartBody(Body):
    """A function or class of the old side, and what is to become of it."""

    file: Annotated[str, Field(min_length=1, max_length=4000)]
    name: Filled
    choice: PartChoice
    why: Why = ""


class BroughtDescription(BaseModel):
    """How many routes a description has, and how many of them are in no code."""

    described: int
    only: int


class SessionBody(Body):
    """A log-in: the request that logs in with what its form holds, and one that needs it. An empty form takes that of the rules."""

    login: Annotated[str, Field(min_length=5, max_length=4000, pattern=_REQUEST)]
    then: Annotated[str, Field(min_length=5, max_length=4000, pattern=_REQUEST)]
    form: Annotated[dict[FormText, FormText], Field(max_length=50, default_factory=dict)]


class SideLogin(BaseModel):
    """One way round: whether a log-in on this side holds on the other, and what is told of it."""

    side: Literal["old", "new"]
    holds: bool
    cookies: list[str]
    told: str


_VIEW: Final[TypeAdapter[CrossingView]] = TypeAdapter(CrossingView)


class AskedJob(BaseModel):
    """The job that does it."""

    job: int


def _taken(context: Context, slug: str) -> tuple[StoredCrossing, CrossingRules]:
    """A crossing with what its gateway wrote since the last look. Raises NotFound and BadInput."""
    crossing = find_crossing(context, slug)
    rules = crossing_rules(context, crossing)
    return take_record(context, crossing, rules), rules


def _looked_at(context: Context, slug: str) -> CrossingState:
    crossing, rules = _taken(context, slug)
    return read_state(context, crossing, rules, gateway_state(record_folder(crossing, rules)))


def _unchanged(request: Request, tag: str) -> Response | None:
    """That nothing has changed since the client last asked. Who watches a crossing asks every few seconds."""
    return Response(status_code=304, headers=_tagged(tag)) if tag in request.headers.get("if-none-match", "") else None


def _tagged(tag: str) -> dict[str, str]:
    return {"ETag": f'W/"{tag}"', "Cache-Control": "private, no-cache"}


def _renew_steps(context: Context, slug: str) -> None:
    crossing = find_crossing(context, slug)
    renew_route_steps(context, crossing, crossing_rules(context, crossing))


@router.get("", response_model=CrossingView)
def get_crossing(slug: Slug, request: Request, context: ContextDep) -> Response:
    """Every route with where it stands."""
    if crossing_of(context.db, get_application(context.db, slug).id) is None:
        return Response(_VIEW.dump_json(not_begun(context, slug)), media_type="application/json")
    crossing, rules = _taken(context, slug)
    tag = crossing_stamp(context, crossing, rules)
    unchanged = _unchanged(request, tag)
    if unchanged is not None:
        return unchanged
    view = crossing_view(
        context, slug, read_state(context, crossing, rules, gateway_state(record_folder(crossing, rules)))
    )
    return Response(_VIEW.dump_json(view), media_type="application/json", headers=_tagged(tag))


@router.post("", status_code=201)
def post_crossing(slug: Slug, body: BeginBody, context: ContextDep, queue: QueueDep, who: Who) -> AskedJob:
    """Begin to move an application piece by piece."""
    job = begin_crossing(context, slug, body.new, body.old_address, body.new_address, who)
    queue.look()
    return AskedJob(job=job)


@router.put("", status_code=204)
def put_crossing(slug: Slug, body: CrossingBody, context: ContextDep, queue: QueueDep, who: Who) -> None:
    """Change the sides and what a route has to show."""
    set_crossing(
        context,
        slug,
        new_slug=body.new,
        old=body.old_address,
        new=body.new_address,
        answers=body.answers,
        days=body.days,
        quiet=body.quiet,
        tests=body.tests,
        grows=body.grows,
        who=who,
        version=body.version,
    )
    if body.new is not None:
        ask_routes(context, slug, who)
        queue.look()


@router.delete("", status_code=204)
def delete_crossing(slug: Slug, context: ContextDep, who: Who) -> None:
    """End it; the file of rules stays."""
    end_crossing(context, slug, who)


@router.post("/read", status_code=202)
def post_read(slug: Slug, context: ContextDep, queue: QueueDep, who: Who) -> AskedJob:
    """Read the routes of both sides again."""
    job = ask_routes(context, slug, who)
    queue.look()
    return AskedJob(job=job)


@router.get("/route")
def get_route(
    slug: Slug, name: Annotated[str, Query(min_length=5, max_length=9000)], context: ContextDep
) -> RouteDetail:
    """One route from nearby."""
    found = route_detail(_looked_at(context, slug), name)
    if found is None:
        raise NotFound(f"The old side has no route “{name}”.")
    return found


@router.post("/moves", status_code=204)
def post_moves(slug: Slug, body: MoveBody, context: ContextDep, who: Who) -> None:
    """Put routes elsewhere."""
    move_routes(
        context=context, slug=slug, names=body.routes, standing=body.standing, share=body.share, who=who, why=body.why
    )
    _renew_steps(context, slug)


@router.post("/safe", status_code=204)
def post_safe(slug: Slug, body: SafeBody, context: ContextDep, who: Who) -> None:
    """Say whether a route may be asked twice."""
    declare_safe(context, slug, body.route, safe=body.safe, who=who, why=body.why)


@router.post("/mended", status_code=204)
def post_mended(slug: Slug, body: MendedBody, context: ContextDep, who: Who) -> None:
    """Say that differences were mended: comparisons count from now on."""
    say_mended(context, slug, body.route, who, body.why)


@router.post("/retire", status_code=204)
def post_retire(slug: Slug, body: RetireBody, context: ContextDep, who: Who) -> None:
    """Make steps of taking routes out: each closes when the code has its route no more."""
    retire(context, find_crossing(context, slug), body.routes, who, body.why)


@router.get("/proposals")
def get_proposals(slug: Slug, context: ContextDep, by: SliceBasis = SliceBasis.PREFIX) -> list[ProposedSlice]:
    """Slices by what routes have in common, in an order that pays early."""
    return proposals(_looked_at(context, slug), by)


@router.get("/parts")
def get_parts(
    slug: Slug, name: Annotated[str, Query(min_length=5, max_length=9000)], context: ContextDep
) -> PartsPicture:
    """What a route drags along, part by part."""
    found = parts_picture(context, find_crossing(context, slug), name)
    if found is None:
        raise NotFound(f"What “{name}” drags along is not known: its handler was not found in the code.")
    return found


@router.put("/parts", status_code=204)
def put_part(slug: Slug, body: PartBody, context: ContextDep, who: Who) -> None:
    """Say what is to become of a part: brought along, shared through a bridge, or left out."""
    choose_part(context, slug, PartKey(body.file, body.name), body.choice, who, body.why)


@router.put("/slices", status_code=204)
def put_slices(slug: Slug, body: SlicesBody, context: ContextDep, who: Who) -> None:
    """Choose slices and their order; none to have them proposed again."""
    choose_slices(context, slug, [ChosenSlice(each.name, tuple(each.routes)) for each in body.slices], who)


def _keep(file: UploadFile, folder: Path, suffix: str, most: int, too_large: str) -> None:
    """Keep a file that is handed over, piece by piece; it has its suffix when it is whole. Raises BadInput."""
    with tempfile.NamedTemporaryFile(dir=folder, suffix=".part", delete=False) as kept:
        partial = Path(kept.name)
        size = 0
        while piece := file.file.read(_PIECE):
            size += len(piece)
            if size > most:
                partial.unlink()
                raise BadInput(too_large)
            kept.write(piece)
    partial.replace(partial.with_suffix(suffix))


@router.post("/logs", status_code=202)
def post_logs(
    slug: Slug, file: Annotated[UploadFile, File()], context: ContextDep, queue: QueueDep, who: Who
) -> AskedJob:
    """Have the calls of an access log counted."""
    crossing = find_crossing(context, slug)
    _keep(file, log_folder(context, slug), ".log", _LARGEST, "The log is larger than 4 GB: hand it over in parts.")
    job = ask_calls(context, crossing.application_id, who)
    queue.look()
    return AskedJob(job=job)


@router.post("/recording", status_code=202)
def post_recording(
    slug: Slug, file: Annotated[UploadFile, File()], context: ContextDep, queue: QueueDep, who: Who
) -> AskedJob:
    """Have both sides asked what a HAR file recorded: what may be asked twice, with the answers compared."""
    crossing = find_crossing(context, slug)
    too_large = "The recording is larger than 100 MB: hand it over in parts, or run yoake parity."
    _keep(file, recording_folder(context, slug), ".har", _LARGEST_RECORDING, too_large)
    job = ask_recording(context, crossing.application_id, who)
    queue.look()
    return AskedJob(job=job)


@router.post("/session")
def post_session(slug: Slug, body: SessionBody, context: ContextDep) -> list[SideLogin]:
    """Check that a log-in on one side holds on the other, each way round. What the form holds is not kept."""
    rules = crossing_rules(context, find_crossing(context, slug))
    form = body.form or (rules.session.form if rules.session is not None else {})
    limits = replace(rules.limits, answer=min(rules.limits.answer, _LOGIN_SECONDS))
    checks = check_session(replace(rules, limits=limits, session=Session(login=body.login, form=form, then=body.then)))
    return [
        SideLogin(side="old" if c.side is Side.OLD else "new", holds=c.holds, cookies=list(c.cookies), told=c.told)
        for c in checks
    ]


@router.post("/description")
def post_description(
    slug: Slug, file: Annotated[UploadFile, File()], context: ContextDep, who: Who
) -> BroughtDescription:
    """Take in an OpenAPI 3 document of the old side."""
    text = file.file.read(_LARGEST_DESCRIPTION + 1)
    name = (file.filename or "the description")[-200:]
    described, only = bring_description(context, slug, text, name, who)
    return BroughtDescription(described=described, only=only)


@router.get("/rules", response_class=Response)
def get_rules(slug: Slug, context: ContextDep) -> Response:
    """The file of rules."""
    return Response(rules_text(Path(find_crossing(context, slug).rules)), media_type="application/yaml")


@router.get("/nginx", response_class=Response)
def get_nginx(slug: Slug, context: ContextDep, port: Annotated[int, Query(ge=1, le=65535)] = 8700) -> Response:
    """The same rules for nginx."""
    text = nginx_configuration(crossing_rules(context, find_crossing(context, slug)), port)
    return Response(text, media_type="text/plain; charset=utf-8")
