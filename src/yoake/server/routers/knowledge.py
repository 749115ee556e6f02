"""Routes of knowledge: health, destinations, lines and their dates, the table of weights."""

from __future__ import annotations

from datetime import date
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel

from yoake import __version__
from yoake.core.coordinates import Coordinate
from yoake.core.knowledge.models import EffortTable
from yoake.server.deps import OfficeDep
from yoake.store.applications import list_destinations
from yoake.work.views import shown, spoken

router = APIRouter(tags=["knowledge"])


class Health(BaseModel):
    """Whether it can be used."""

    status: Literal["ok"]
    version: str


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


@router.get("/health")
def health(office: OfficeDep) -> Health:
    """Answers once Yoake can be used."""
    office.db.one("SELECT 1")
    return Health(status="ok", version=__version__)


@router.get("/destinations")
def destinations(office: OfficeDep) -> list[DestinationInfo]:
    """Destinations, the most used first."""
    return [
        DestinationInfo(
            name=d.name, lines=[str(t) for t in d.targets], shown=[shown(t) for t in d.targets], applications=users
        )
        for d, users in list_destinations(office.db)
    ]


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
    lines = []
    for line in knowledge.lines(Coordinate(purl)):
        facts, read = knowledge.line_facts(purl, line), captured.get(line)
        lines.append(
            LineInfo(
                line=line,
                released=facts.released if facts else None,
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
