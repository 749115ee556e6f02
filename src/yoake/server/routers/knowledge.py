"""Routes of knowledge: destinations, lines and their dates, the table of weights."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import APIRouter, Path, Response
from pydantic import BaseModel, Field

from yoake.core.coordinates import Coordinate, line_of, parse_coordinate
from yoake.core.knowledge.models import EffortTable
from yoake.server.bodies import Body, Filled, Named
from yoake.server.deps import OfficeDep, QueueDep, Who
from yoake.store.applications import list_destinations
from yoake.store.kept_views import drop_view, keep_view, kept_views
from yoake.work.making_known import check_makeable
from yoake.work.views import shown, spoken

router = APIRouter(tags=["knowledge"])


class LineInfo(BaseModel):
    """One line of a coordinate."""

    line: str
    released: date | None
    support_ends: date | None
    kind: str
    runs_on: list[str]
    captured: bool
    release: str
    how: str


class CoordinateInfo(BaseModel):
    """What is known of one coordinate."""

    coordinate: str
    short: str
    name: str
    symbols: int
    rules: int
    source: str
    as_of: date | None
    recalled: bool
    lines: list[LineInfo]


class DestinationInfo(BaseModel):
    """A named set of lines and how many applications head for it."""

    name: str
    lines: list[str]
    shown: list[str]
    applications: int


@router.get("/destinations")
def destinations(office: OfficeDep) -> list[DestinationInfo]:
    """Destinations, the most used first."""
    return [
        DestinationInfo(
            name=d.name, lines=[str(t) for t in d.targets], shown=[shown(t) for t in d.targets], applications=users
        )
        for d, users in list_destinations(office.db)
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
    return JobAsked(job=queue.ask_known(check_makeable(parse_coordinate(making.coordinate)), who))


class KeptView(Body):
    """A filter kept under a name."""

    name: Annotated[Filled, Field(max_length=80)]
    query: str = Field(max_length=2000)
    by: Named = ""


Screen = Annotated[str, Path(min_length=1, max_length=40, pattern=r"^[a-z-]+$")]
ViewName = Annotated[str, Path(min_length=1, max_length=80)]


@router.get("/views/{screen}")
def get_views(screen: Screen, office: OfficeDep) -> list[KeptView]:
    """Kept filters of one screen."""
    return [KeptView(name=r["name"], query=r["query"], by=r["by_whom"]) for r in kept_views(office.db, screen)]


@router.put("/views/{screen}", status_code=204)
def put_view(screen: Screen, view: KeptView, office: OfficeDep, who: Who) -> Response:
    """Keep a filter under a name."""
    with office.db.write() as connection:
        values = {"screen": screen, "name": view.name.strip(), "query": view.query, "by": who, "at": office.stamp}
        keep_view(connection, values)
    return Response(status_code=204)


@router.delete("/views/{screen}/{name}", status_code=204)
def delete_view(screen: Screen, name: ViewName, office: OfficeDep) -> Response:
    """Forget a kept filter."""
    with office.db.write() as connection:
        drop_view(connection, screen, name)
    return Response(status_code=204)


@router.get("/knowledge/effort")
def effort(office: OfficeDep) -> EffortTable:
    """Weights, efforts and planning constants."""
    return office.knowledge.effort


@router.get("/knowledge")
def coordinates(office: OfficeDep) -> list[CoordinateInfo]:
    """Everything that is known, coordinate by coordinate."""
    knowledge = office.knowledge
    purls = sorted({*knowledge.lifecycles, *knowledge.timelines}, key=lambda p: (not p.startswith("pkg:generic/"), p))
    return [_coordinate(office, purl) for purl in purls]


def _coordinate(office: OfficeDep, purl: str) -> CoordinateInfo:
    knowledge = office.knowledge
    lifecycle, head, rules = knowledge.lifecycles.get(purl), knowledge.heads.get(purl), knowledge.rule_files.get(purl)
    captured = {line.line: line for line in head.lines} if head else {}
    record = knowledge.catalogues.get(purl)
    dates = {line_of(Coordinate(purl), d.release): d.released for d in record.details} if record else {}
    lines = []
    for line in knowledge.lines(Coordinate(purl)):
        facts, read = knowledge.line_facts(purl, line), captured.get(line)
        lines.append(
            LineInfo(
                line=line,
                released=facts.released if facts else dates.get(line),
                support_ends=facts.support_ends if facts else None,
                kind=facts.kind if facts else "",
                runs_on=list(facts.runs_on) if facts else [],
                captured=read is not None,
                release=read.release if read else "",
                how=read.how if read else "",
            )
        )
    return CoordinateInfo(
        coordinate=purl,
        short=Coordinate(purl).short,
        name=spoken(purl),
        symbols=head.symbols if head else 0,
        rules=len(rules.rules) if rules else 0,
        source=lifecycle.source if lifecycle else "",
        as_of=lifecycle.as_of if lifecycle else None,
        recalled=lifecycle.recalled if lifecycle else False,
        lines=lines,
    )
