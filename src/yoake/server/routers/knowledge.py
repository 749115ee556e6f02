"""Routes of knowledge: destinations, lines and their dates, the table of weights."""

from __future__ import annotations

from typing import Annotated

from fastapi import Path, Query
from pydantic import BaseModel, Field

from yoake.core.knowledge.models import EffortTable
from yoake.core.values.coordinates import parse_coordinate, parse_target
from yoake.server.answers import view_router
from yoake.server.bodies import Body, Filled, Named, Problem, Version
from yoake.server.deps import ContextDep, Limit, Offset, QueueDep, VersionSeen, Who
from yoake.store.applications import get_applications, list_applications, list_destinations
from yoake.usecases.keep_filters import KeptFilter, forget_filter, keep_filter, kept_filters
from yoake.usecases.make_known import check_makeable
from yoake.usecases.try_release import check_trial
from yoake.views.known_coordinates import CoordinateInfo, KnowledgeWindow, coordinate_info, knowledge_window

router = view_router(tags=["knowledge"])


class DestinationInfo(BaseModel):
    """A named set of lines and how many applications head for it."""

    name: str
    lines: list[str]
    shown: list[str]
    applications: int


@router.get("/destinations")
def destinations(context: ContextDep) -> list[DestinationInfo]:
    """Destinations, the most used first."""
    return [
        DestinationInfo(
            name=d.name,
            lines=[str(t) for t in d.targets],
            shown=[context.ecosystems.spoken_target(t) for t in d.targets],
            applications=users,
        )
        for d, users in list_destinations(context.db)
    ]


class Making(Body):
    """A library to make known."""

    coordinate: str = Field(max_length=200)


class JobAsked(BaseModel):
    """The job that was asked for."""

    job: int


@router.post("/knowledge", status_code=202)
def post_knowledge(making: Making, queue: QueueDep, who: Who) -> JobAsked:
    """Make a library known through its package client; what uses it is scanned again."""
    return JobAsked(
        job=queue.ask_known(check_makeable(queue.context.ecosystems, parse_coordinate(making.coordinate)), who)
    )


class Trying(Body):
    """A release to try on a line of its runtime."""

    coordinate: str = Field(max_length=200)
    release: str = Field(max_length=80)
    on: str = Field(max_length=80, description="A line of its runtime, as python@3.13.")


@router.post("/knowledge/trials", status_code=202)
def post_trial(trying: Trying, queue: QueueDep, who: Who) -> JobAsked:
    """Install and use a release in a throw-away environment; what uses it is scanned again."""
    on = parse_target(trying.on)
    coordinate = check_trial(queue.context.kit, parse_coordinate(trying.coordinate), trying.release, on)
    return JobAsked(job=queue.ask_trial(coordinate, trying.release, on, who))


class LookingUp(Body):
    """Applications whose packages are to be looked up; all of them when none is named."""

    applications: list[Named] = Field(default_factory=list, max_length=5000)


class LookUpAsked(BaseModel):
    """The jobs that were asked for, one an application."""

    jobs: list[int]


@router.post("/knowledge/records", status_code=202)
def post_records(looking: LookingUp, context: ContextDep, queue: QueueDep, who: Who) -> LookUpAsked:
    """Ask the package clients for release records of packages that have none; what uses them is scanned again."""
    named = looking.applications
    chosen = get_applications(context.db, named) if named else list_applications(context.db)
    return LookUpAsked(jobs=queue.ask_look_up(chosen, who))


class Keeping(Body):
    """A filter to keep under a name."""

    name: Annotated[Filled, Field(max_length=80)]
    query: str = Field(max_length=2000)
    version: Version | None = Field(None, description="The version of the one of this name that was seen, 0 for none.")


class FilterConflict(Problem):
    """Somebody else keeps another filter under this name; nothing was written."""

    current: KeptFilter | None = None


Screen = Annotated[str, Path(min_length=1, max_length=40, pattern=r"^[a-z-]+$")]
ViewName = Annotated[str, Path(min_length=1, max_length=80)]


@router.get("/views/{screen}")
def get_views(screen: Screen, context: ContextDep) -> list[KeptFilter]:
    """Kept filters of one screen."""
    return kept_filters(context, screen)


@router.put("/views/{screen}", responses={409: {"model": FilterConflict}})
def put_view(screen: Screen, view: Keeping, context: ContextDep, who: Who) -> KeptFilter:
    """Keep a filter under a name."""
    return keep_filter(context, screen, view.name, view.query, who, view.version)


@router.delete("/views/{screen}/{name}", responses={409: {"model": FilterConflict}})
def delete_view(
    screen: Screen, name: ViewName, context: ContextDep, who: Who, version: VersionSeen = None
) -> KeptFilter:
    """Forget a kept filter; answers with what it was."""
    return forget_filter(context, screen, name, who, version)


@router.get("/knowledge/effort")
def effort(context: ContextDep) -> EffortTable:
    """Weights, efforts and planning constants."""
    return context.knowledge.effort


@router.get("/knowledge")
def get_knowledge(
    context: ContextDep,
    q: Annotated[str, Query(max_length=200, description="A part of the coordinate.")] = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> KnowledgeWindow:
    """A window of the coordinates that are known."""
    return knowledge_window(context, q, offset, limit)


@router.get("/knowledge/coordinate")
def get_coordinate(of: Annotated[str, Query(min_length=1, max_length=200)], context: ContextDep) -> CoordinateInfo:
    """What is known of one coordinate, line by line."""
    return coordinate_info(context, of)
