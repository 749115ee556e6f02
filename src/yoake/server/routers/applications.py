"""Routes of applications: the Horizon, one application, its sources, and changes to a selection."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import Depends, Path, Query, Request, Response
from pydantic import BaseModel, Field

from yoake.server.answers import view_router
from yoake.server.bodies import Body, Day, DaysPerWeek, Named, Problem, Reason, Version
from yoake.server.deps import ContextDep, Limit, Offset, QueueDep, Slug, VersionSeen, Who
from yoake.server.packed import packed
from yoake.store.applications import get_application, get_applications, list_applications
from yoake.usecases.track import (
    ApplicationChange,
    Edited,
    SaidLine,
    change_applications,
    correct_line,
    remove_application,
)
from yoake.usecases.waive import unwaive, waive
from yoake.views.evidence import Evidence, SourceText, evidence, source_text
from yoake.views.findings import (
    FileWindow,
    FindingView,
    FindingWindow,
    MappedFile,
    PlaceWindow,
    find_files,
    find_findings,
    find_places,
    map_files,
    read_finding,
)
from yoake.views.findings import Query as FindingQuery
from yoake.views.horizon import Grouping, HorizonQuery, HorizonWindow, Order, packed_horizon
from yoake.views.inventory import DeltaWindow, ModuleGraph, delta_window, module_graph
from yoake.views.packages import PackageWindow, package_window
from yoake.views.waivers import WaiverView, waivers_file

router = view_router(tags=["applications"])


class Changes(Body):
    """What to set on a selection of applications; what is left out stays."""

    applications: list[Named] = Field(min_length=1, max_length=5000)
    owner: Named | None = None
    team: Named | None = None
    destination: str | None = Field(None, max_length=400)
    days_per_week: DaysPerWeek | None = Field(None, description="Null takes it back to what the table of efforts has.")
    versions: dict[Named, Version] = Field(
        default_factory=dict, max_length=5000, description="The versions that were seen; other ones are a conflict."
    )


class LineSaid(Body):
    """Today's line as a person says it; an empty line takes it back."""

    coordinate: str = Field(max_length=200)
    line: str = Field("", max_length=40)
    version: Version | None = Field(None, description="The version of the application that was seen.")


class Waiving(Body):
    """Why a finding is accepted, and until when."""

    why: Reason
    until: Day | None = None
    version: Version | None = Field(None, description="The version of the waiver that was seen, 0 for none.")


class ScanRequest(Body):
    """Applications to scan; none means all of them."""

    applications: list[Named] = Field(default_factory=list, max_length=5000)


class JobsAsked(BaseModel):
    """The jobs that were asked for."""

    jobs: list[int]


class Changed(BaseModel):
    """The applications before and after, and the scans that a new destination asks for."""

    jobs: list[int]
    changes: list[ApplicationChange]


class ApplicationsConflict(Problem):
    """Somebody else changed some of these: nothing was written; ``current`` is how those are now."""

    current: list[Edited] | None = None


class LineConflict(Problem):
    """Somebody else changed this application: nothing was written; ``current`` is what is said of this coordinate now."""

    current: SaidLine | None = None


class WaiverConflict(Problem):
    """Somebody else waived this, or took the waiver back: nothing was written; ``current`` is how it is now."""

    current: WaiverView | None = None


@router.get("/portfolio", response_model=HorizonWindow)
def get_portfolio(
    request: Request,
    context: ContextDep,
    q: Annotated[
        str, Query(max_length=200, description="Words that all must match; team:, owner: … look at one field.")
    ] = "",
    order: Order = Order.MARGIN,
    group: Grouping = Grouping.NONE,
    offset: Offset = 0,
    limit: Limit = 100,
) -> Response:
    """A window of the Horizon, the smallest margin first."""
    return packed(request, packed_horizon(context, HorizonQuery(q, order, group), offset, limit), "application/json")


@router.patch("/applications", responses={409: {"model": ApplicationsConflict}})
def patch_applications(changes: Changes, context: ContextDep, queue: QueueDep, who: Who) -> Changed:
    """Set owner, team, capacity or destination on a selection; a new destination is scanned for."""
    wanted = changes.model_dump(exclude={"applications", "versions"}, exclude_unset=True)
    made = change_applications(context, changes.applications, wanted, who, changes.versions)
    moved = get_applications(context.db, changes.applications) if wanted.get("destination") else []
    return Changed(jobs=queue.ask(moved, who) if moved else [], changes=made)


@router.delete("/applications/{slug}", status_code=204)
def delete_application(slug: Slug, context: ContextDep, who: Who) -> Response:
    """Take an application off the Horizon; its history is kept."""
    remove_application(context, slug, who)
    return Response(status_code=204)


@router.post("/applications/{slug}/restore", status_code=204)
def restore_application(slug: Slug, context: ContextDep, who: Who) -> Response:
    """Bring a removed application back."""
    remove_application(context, slug, who, restore=True)
    return Response(status_code=204)


@router.post("/scans")
def post_scans(request: ScanRequest, context: ContextDep, queue: QueueDep, who: Who) -> JobsAsked:
    """Ask for scans. What has not changed since its last scan ends at once."""
    wanted = get_applications(context.db, request.applications) or list_applications(context.db)
    return JobsAsked(jobs=queue.ask(wanted, who))


@router.get("/applications/{slug}/evidence")
def get_evidence(slug: Slug, context: ContextDep) -> Evidence:
    """What stands in the way of one application."""
    return evidence(context, slug)


Key = Annotated[str, Path(min_length=1, max_length=64, pattern=r"^[0-9a-z:.+-]+$")]


async def finding_query(
    show: Literal["all", "now", "hop", "switch", "new", "notes"] = "all",
    where: Literal["anywhere", "source", "test", "other"] = "anywhere",
    within: Annotated[str, Query(max_length=2000, description="Only places below this folder, or in this file.")] = "",
    q: Annotated[str, Query(max_length=200, description="Words that all must match.")] = "",
) -> FindingQuery:
    """Which findings are asked for."""
    return FindingQuery(show, where, within, q)


Wanted = Annotated[FindingQuery, Depends(finding_query)]


@router.get("/applications/{slug}/findings")
def get_findings(
    slug: Slug,
    wanted: Wanted,
    context: ContextDep,
    offset: Offset = 0,
    limit: Limit = 100,
    around: Annotated[str, Query(max_length=64, description="Move the window to where this finding stands.")] = "",
) -> FindingWindow:
    """A window of the findings that fit, in the order in which they are read, counted by cause."""
    return find_findings(context, slug, wanted, offset, limit, around)


@router.get("/applications/{slug}/findings/{key}")
def get_finding(slug: Slug, key: Key, wanted: Wanted, context: ContextDep) -> FindingView:
    """One finding in full, with those of its places that fit."""
    return read_finding(context, slug, key, wanted)


@router.get("/applications/{slug}/places")
def get_places(slug: Slug, wanted: Wanted, context: ContextDep, offset: Offset = 0, limit: Limit = 60) -> PlaceWindow:
    """A window of the files in which findings stand, those with the most to do first."""
    return find_places(context, slug, wanted, offset, limit)


@router.get("/applications/{slug}/files")
def get_files(
    slug: Slug,
    context: ContextDep,
    q: Annotated[str, Query(max_length=200)] = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> FileWindow:
    """A window of the files that were looked at, each with its result."""
    return find_files(context, slug, q, offset, limit)


@router.get("/applications/{slug}/map")
def get_map(slug: Slug, context: ContextDep, within: Annotated[str, Query(max_length=2000)] = "") -> list[MappedFile]:
    """The largest files below a folder: their lines and the places to change in them."""
    return map_files(context, slug, within)


Name = Annotated[str, Query(max_length=200, description="A part of the name.")]


@router.get("/applications/{slug}/packages")
def get_packages(
    slug: Slug, context: ContextDep, q: Name = "", offset: Offset = 0, limit: Limit = 100
) -> PackageWindow:
    """A window of the packages against the stages of the path."""
    return package_window(context, slug, q, offset, limit)


@router.get("/applications/{slug}/graph")
def get_graph(slug: Slug, context: ContextDep) -> ModuleGraph:
    """Who uses whom inside the application."""
    return module_graph(context, slug)


@router.get("/applications/{slug}/delta")
def get_delta(
    slug: Slug,
    coordinate: Annotated[str, Query(max_length=200)],
    context: ContextDep,
    q: Name = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> DeltaWindow:
    """A window of what else changes on the way, used here or not."""
    return delta_window(context, slug, coordinate, q, offset, limit)


@router.get("/applications/{slug}/source")
def get_source(slug: Slug, file: Annotated[str, Query(max_length=2000)], context: ContextDep) -> SourceText:
    """One file as the last scan read it."""
    return source_text(context, slug, file)


@router.put("/applications/{slug}/today", responses={409: {"model": LineConflict}})
def put_today(slug: Slug, said: LineSaid, context: ContextDep, queue: QueueDep, who: Who) -> SaidLine:
    """Correct today's line, and scan again; answers with what was said before."""
    before = correct_line(context, slug, said.coordinate, said.line, who, said.version)
    queue.ask([get_application(context.db, slug)], who)
    return before


@router.get("/applications/{slug}/waivers", response_class=Response)
def get_waivers(slug: Slug, context: ContextDep) -> Response:
    """The waivers that have not run out, as a file for ``yoake scan --waivers``."""
    headers = {"Content-Disposition": f'attachment; filename="{slug}-waivers.toml"'}
    return Response(waivers_file(context, slug), media_type="application/toml", headers=headers)


@router.put("/applications/{slug}/waivers/{key}", responses={409: {"model": WaiverConflict}})
def put_waiver(slug: Slug, key: Key, waiving: Waiving, context: ContextDep, who: Who) -> WaiverView:
    """Accept a finding on purpose, or change why and until when."""
    return waive(
        context=context, slug=slug, key=key, who=who, why=waiving.why, until=waiving.until, version=waiving.version
    )


@router.delete("/applications/{slug}/waivers/{key}", status_code=204, responses={409: {"model": WaiverConflict}})
def delete_waiver(slug: Slug, key: Key, context: ContextDep, who: Who, version: VersionSeen = None) -> Response:
    """Take a waiver back."""
    unwaive(context, slug, key, who, version)
    return Response(status_code=204)
