"""Routes of applications: the Horizon, one application, its sources, and changes to a selection."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Path, Query, Request, Response
from pydantic import Field

from yoake.server.bodies import Body, Day, DaysPerWeek, Named, Reason
from yoake.server.deps import Limit, OfficeDep, Offset, QueueDep, Slug, Who
from yoake.server.packed import packed
from yoake.store.applications import get_application, list_applications
from yoake.work.deepening import DeltaView, ModuleGraph, PackageGrid, delta_of, module_graph, package_grid
from yoake.work.findings import (
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
from yoake.work.findings import Query as FindingQuery
from yoake.work.reading import Evidence, SourceText, evidence, source_text
from yoake.work.tracking import change_applications, correct_line, remove_application, unwaive, waive
from yoake.work.views import Portfolio, packed_portfolio

router = APIRouter(tags=["applications"])


class Changes(Body):
    """What to set on a selection of applications; what is left out stays."""

    applications: list[Named] = Field(min_length=1, max_length=5000)
    owner: Named | None = None
    team: Named | None = None
    destination: str | None = Field(None, max_length=400)
    days_per_week: DaysPerWeek | None = None


class LineSaid(Body):
    """Today's line as a person says it; an empty line takes it back."""

    coordinate: str = Field(max_length=200)
    line: str = Field("", max_length=40)


class Waiving(Body):
    """Why a finding is accepted, and until when."""

    why: Reason
    until: Day | None = None


class ScanRequest(Body):
    """Applications to scan; none means all of them."""

    applications: list[Named] = Field(default_factory=list, max_length=5000)


class JobsAsked(Body):
    """The jobs that were asked for."""

    jobs: list[int]


@router.get("/portfolio", response_model=Portfolio)
def get_portfolio(request: Request, office: OfficeDep) -> Response:
    """The Horizon."""
    return packed(request, packed_portfolio(office), "application/json")


@router.patch("/applications")
def patch_applications(changes: Changes, office: OfficeDep, queue: QueueDep, who: Who) -> JobsAsked:
    """Set owner, team, capacity or destination on a selection; a new destination is scanned for."""
    wanted = changes.model_dump(exclude={"applications"}, exclude_none=True)
    changed = change_applications(office, changes.applications, wanted, who)
    return JobsAsked(jobs=queue.ask(changed, who) if "destination" in wanted else [])


@router.delete("/applications/{slug}", status_code=204)
def delete_application(slug: Slug, office: OfficeDep, who: Who) -> Response:
    """Take an application off the Horizon; its history is kept."""
    remove_application(office, slug, who)
    return Response(status_code=204)


@router.post("/applications/{slug}/restore", status_code=204)
def restore_application(slug: Slug, office: OfficeDep, who: Who) -> Response:
    """Bring a removed application back."""
    remove_application(office, slug, who, restore=True)
    return Response(status_code=204)


@router.post("/scans")
def post_scans(request: ScanRequest, office: OfficeDep, queue: QueueDep, who: Who) -> JobsAsked:
    """Ask for scans. What has not changed since its last scan ends at once."""
    wanted = [get_application(office.db, s) for s in request.applications] or list_applications(office.db)
    return JobsAsked(jobs=queue.ask(wanted, who))


@router.get("/applications/{slug}/evidence")
def get_evidence(slug: Slug, office: OfficeDep) -> Evidence:
    """What stands in the way of one application."""
    return evidence(office, slug)


Key = Annotated[str, Path(min_length=1, max_length=64, pattern=r"^[0-9a-z:.+-]+$")]


def finding_query(
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
    office: OfficeDep,
    offset: Offset = 0,
    limit: Limit = 100,
    around: Annotated[str, Query(max_length=64, description="Move the window to where this finding stands.")] = "",
) -> FindingWindow:
    """A window of the findings that fit, in the order in which they are read, counted by cause."""
    return find_findings(office, slug, wanted, offset, limit, around)


@router.get("/applications/{slug}/findings/{key}")
def get_finding(slug: Slug, key: Key, wanted: Wanted, office: OfficeDep) -> FindingView:
    """One finding in full, with those of its places that fit."""
    return read_finding(office, slug, key, wanted)


@router.get("/applications/{slug}/places")
def get_places(slug: Slug, wanted: Wanted, office: OfficeDep, offset: Offset = 0, limit: Limit = 60) -> PlaceWindow:
    """A window of the files in which findings stand, those with the most to do first."""
    return find_places(office, slug, wanted, offset, limit)


@router.get("/applications/{slug}/files")
def get_files(
    slug: Slug,
    office: OfficeDep,
    q: Annotated[str, Query(max_length=200)] = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> FileWindow:
    """A window of the files that were looked at, each with its result."""
    return find_files(office, slug, q, offset, limit)


@router.get("/applications/{slug}/map")
def get_map(slug: Slug, office: OfficeDep, within: Annotated[str, Query(max_length=2000)] = "") -> list[MappedFile]:
    """The largest files below a folder: their lines and the places to change in them."""
    return map_files(office, slug, within)


@router.get("/applications/{slug}/packages")
def get_packages(slug: Slug, office: OfficeDep) -> PackageGrid:
    """Packages against the stages of the path."""
    return package_grid(office, slug)


@router.get("/applications/{slug}/graph")
def get_graph(slug: Slug, office: OfficeDep) -> ModuleGraph:
    """Who uses whom inside the application."""
    return module_graph(office, slug)


@router.get("/applications/{slug}/delta")
def get_delta(slug: Slug, coordinate: Annotated[str, Query(max_length=200)], office: OfficeDep) -> DeltaView:
    """What else changes on the way, used here or not."""
    return delta_of(office, slug, coordinate)


@router.get("/applications/{slug}/source")
def get_source(slug: Slug, file: Annotated[str, Query(max_length=2000)], office: OfficeDep) -> SourceText:
    """One file as the last scan read it."""
    return source_text(office, slug, file)


@router.put("/applications/{slug}/today", status_code=204)
def put_today(slug: Slug, said: LineSaid, office: OfficeDep, queue: QueueDep, who: Who) -> Response:
    """Correct today's line, and scan again."""
    correct_line(office, slug, said.coordinate, said.line, who)
    queue.ask([get_application(office.db, slug)], who)
    return Response(status_code=204)


@router.put("/applications/{slug}/waivers/{key}", status_code=204)
def put_waiver(slug: Slug, key: str, waiving: Waiving, office: OfficeDep, who: Who) -> Response:
    """Accept a finding on purpose."""
    waive(office, slug, key, who, waiving.why, waiving.until)
    return Response(status_code=204)


@router.delete("/applications/{slug}/waivers/{key}", status_code=204)
def delete_waiver(slug: Slug, key: str, office: OfficeDep, who: Who) -> Response:
    """Take a waiver back."""
    unwaive(office, slug, key, who)
    return Response(status_code=204)
