"""Routes of the portfolio in time: waves, forecast, graph, what-ifs, teams and days off."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Annotated

from fastapi import Query, Request, Response
from pydantic import Field

from yoake.core.portfolio.capacity import Person
from yoake.formats.calendars import MOST_TEXT
from yoake.formats.what_ifs import WhatIf
from yoake.server.answers import view_router
from yoake.server.bodies import Body, Filled, Named, Problem, Version
from yoake.server.deps import ContextDep, Number, QueueDep, Slug, VersionSeen, Who
from yoake.server.packed import packed
from yoake.store.applications import get_application, list_applications
from yoake.store.teams import DayKind, DaysOff, StoredTeam, list_days_off, list_teams, shares_of_teams
from yoake.store.waves import (
    Outside,
    StoredWhatIf,
    Weight,
    list_what_ifs,
    outside_applications,
    weights_of,
    what_if_by_id,
)
from yoake.usecases.ask_vendor import OutsideView, outside_view, set_outside, take_back
from yoake.usecases.fix_stage import MoveView, look_at_move, put_on_day
from yoake.usecases.set_capacity import (
    CalendarRead,
    add_days,
    forget_team,
    read_days,
    remove_days,
    set_team,
    share_application,
    weigh_application,
)
from yoake.usecases.what_if import Comparison, compare, keep, throw_away
from yoake.views.forecasts import ForecastView, forecast_view
from yoake.views.packed_views import packed_view
from yoake.views.portfolio_links import LinksView, portfolio_links
from yoake.views.wave_calendar import waves_calendar
from yoake.views.wave_plans import planned
from yoake.views.wave_stories import StageStory, stage_story
from yoake.views.waves import WavesView, packed_waves

router = view_router(tags=["waves"])
StageKey = Annotated[str, Field(min_length=3, max_length=2000)]
Share = Annotated[float, Field(ge=0, le=0.95, allow_inf_nan=False)]


@router.get("/waves", response_model=WavesView)
def get_waves(request: Request, context: ContextDep, queue: QueueDep, who: Who) -> Response:
    """Who works on what in which week. Where a better plan can be looked for, that is asked for."""
    body, open_ended = packed_waves(context)
    mark = planned(context).portfolio.mark
    if open_ended and context.asked_for != mark:
        context.asked_for = mark
        queue.ask_waves(mark, who)
    return packed(request, body, "application/json")


@router.get("/waves.ics")
def get_waves_calendar(context: ContextDep) -> Response:
    """Stages and support ends as a calendar."""
    headers = {"Content-Disposition": 'attachment; filename="waves.ics"'}
    return Response(waves_calendar(context), media_type="text/calendar; charset=utf-8", headers=headers)


@router.get("/waves/story")
def get_story(context: ContextDep, stage: Annotated[str, Query(min_length=3, max_length=2000)]) -> StageStory:
    """Why a stage is where it is."""
    return stage_story(context, stage)


class Moving(Body):
    """A stage and the day it is put on; None lets it go."""

    stage: StageKey
    begins: date | None
    why: Annotated[str, Field(max_length=2000)] = ""


@router.post("/waves/look")
def look_at(moving: Moving, context: ContextDep) -> MoveView:
    """What comes of putting a stage on a day; nothing is kept."""
    return look_at_move(context, moving.stage, moving.begins)


@router.put("/waves/fixed", status_code=204)
def put_fixed(moving: Moving, context: ContextDep, who: Who) -> Response:
    """Put a stage on a day, or let it go."""
    put_on_day(context, moving.stage, moving.begins, who, moving.why)
    return Response(status_code=204)


@router.get("/forecast", response_model=ForecastView)
def get_forecast(request: Request, context: ContextDep) -> Response:
    """When each application arrives, and with which chance it misses a support end."""
    return packed(request, packed_view(context, "forecast", forecast_view, ForecastView), "application/json")


@router.get("/portfolio/links", response_model=LinksView)
def get_links(request: Request, context: ContextDep) -> Response:
    """Who requires whom."""
    return packed(request, packed_view(context, "links", portfolio_links, LinksView), "application/json")


@router.post("/waves/what-if")
def post_what_if(changes: WhatIf, context: ContextDep) -> Comparison:
    """The plan there is beside what would be; nothing is kept."""
    return compare(context, changes)


@dataclass(frozen=True, slots=True, kw_only=True)
class WhatIfView:
    """A what-if that was kept."""

    id: int
    name: str
    changes: WhatIf
    by_whom: str
    at: str
    version: int


def _what_if(held: StoredWhatIf) -> WhatIfView:
    changes = WhatIf.model_validate_json(held.changes)
    return WhatIfView(
        id=held.id, name=held.name, changes=changes, by_whom=held.by_whom, at=held.at, version=held.version
    )


@router.get("/what-ifs")
def get_what_ifs(context: ContextDep) -> list[WhatIfView]:
    """What-ifs that were kept, by name."""
    return [_what_if(held) for held in list_what_ifs(context.db)]


@router.get("/what-ifs/{number}")
def get_what_if(number: Number, context: ContextDep) -> WhatIfView:
    """One what-if."""
    return _what_if(what_if_by_id(context.db, number))


class Keeping(Body):
    """A what-if and its name."""

    name: Filled
    changes: WhatIf


@router.post("/what-ifs", status_code=201)
def post_kept(keeping: Keeping, context: ContextDep, who: Who) -> WhatIfView:
    """Keep a what-if under a name."""
    return _what_if(keep(context, keeping.name, keeping.changes, who))


@router.delete("/what-ifs/{number}", status_code=204)
def delete_what_if(number: Number, context: ContextDep, who: Who) -> Response:
    """Throw a what-if away."""
    throw_away(context, number, who)
    return Response(status_code=204)


class PersonBody(Body):
    """Somebody in a team, with days a week for migrations."""

    name: Filled
    days: Annotated[float, Field(ge=0, le=7, allow_inf_nan=False)]
    since: date | None = None
    until: date | None = None


class TeamBody(Body):
    """Who is in a team. ``features``: share of its days that features take."""

    people: Annotated[list[PersonBody], Field(max_length=200)]
    features: Share = 0.0
    version: Version | None = Field(
        None, description="The version that was edited, 0 for none; another one is a conflict."
    )


class TeamConflict(Problem):
    """Two people changed one team: nothing was written; ``current`` is how it is now."""

    current: StoredTeam | None = None


TeamName = Annotated[str, Query(min_length=1, max_length=120)]


@router.get("/teams")
def get_teams(context: ContextDep) -> list[StoredTeam]:
    """Teams of which somebody said who is in them."""
    return list_teams(context.db)


@router.put("/teams", responses={409: {"model": TeamConflict}})
def put_team(name: TeamName, body: TeamBody, context: ContextDep, who: Who) -> StoredTeam:
    """Say who is in a team."""
    people = [Person(name=p.name, days=p.days, since=p.since, until=p.until) for p in body.people]
    return set_team(context, name.strip(), body.features, people, who, body.version)


@router.delete("/teams", status_code=204, responses={409: {"model": TeamConflict}})
def delete_team(name: TeamName, context: ContextDep, who: Who, version: VersionSeen = None) -> Response:
    """Forget who is in a team."""
    forget_team(context, name, who, version)
    return Response(status_code=204)


class DaysBody(Body):
    """Days on which somebody is away, or nothing goes live. An empty ``team``: everybody."""

    kind: DayKind
    team: Named = ""
    person: Named = ""
    application: Named = ""
    first: date
    last: date
    title: Named = ""


@router.get("/days-off")
def get_days_off(context: ContextDep) -> list[DaysOff]:
    """All absences, holidays and freezes."""
    return list_days_off(context.db)


@router.post("/days-off", status_code=201)
def post_days_off(body: DaysBody, context: ContextDep, who: Who) -> DaysOff:
    """Add an absence, a holiday or a freeze."""
    return add_days(context, DaysOff(**body.model_dump()), who)


@router.delete("/days-off/{number}")
def delete_days_off(number: Number, context: ContextDep, who: Who) -> DaysOff:
    """Take days back; answers with what they were."""
    return remove_days(context, number, who)


class CalendarBody(Body):
    """An iCalendar file and whose days it has."""

    name: Filled
    text: Annotated[str, Field(max_length=MOST_TEXT)]
    kind: DayKind = "holiday"
    team: Named = ""
    person: Named = ""


@router.post("/days-off/calendar", status_code=201)
def post_calendar(body: CalendarBody, context: ContextDep, who: Who) -> CalendarRead:
    """Add the days of an iCalendar file, in place of what was read from it before."""
    return read_days(
        context=context, name=body.name, text=body.text, kind=body.kind, team=body.team, person=body.person, who=who
    )


@dataclass(frozen=True, slots=True)
class InTime:
    """How an application counts in the plan of the portfolio: teams that share it, its weight, and who else moves it."""

    teams: dict[str, float]
    features: float
    late: float
    days_per_week: float | None
    outside: OutsideView | None


@router.get("/applications/{slug}/in-time")
def get_in_time(slug: Slug, context: ContextDep) -> InTime:
    """How an application counts in the plan of the portfolio."""
    a = get_application(context.db, slug)
    weight = weights_of(context.db).get(a.id, Weight(features=0.0, late=1.0))
    outside = outside_applications(context.db).get(a.id)
    shown = outside_view(context, a.slug, a.name, outside) if outside is not None else None
    shares = shares_of_teams(context.db).get(a.id) or ({a.team: 1.0} if a.team else {})
    return InTime(shares, weight.features, weight.late, a.days_per_week, shown)


class SharesBody(Body):
    """Shares of teams, adding up to 1; none: it is its own team's alone."""

    teams: dict[Filled, Annotated[float, Field(gt=0, le=1, allow_inf_nan=False)]]


@router.put("/applications/{slug}/teams")
def put_shares(slug: Slug, body: SharesBody, context: ContextDep, who: Who) -> dict[str, float]:
    """Say which teams share an application."""
    return share_application(context, slug, body.teams, who)


class WeightBody(Body):
    """``features``: share of the days that its features take; ``late``: what a late day costs, 1 as a rule."""

    features: Share = 0.0
    late: Annotated[float, Field(ge=0.01, le=1000, allow_inf_nan=False)] = 1.0


@router.put("/applications/{slug}/weight")
def put_weight(slug: Slug, body: WeightBody, context: ContextDep, who: Who) -> Weight:
    """Say how much an application counts."""
    return weigh_application(context, slug, body.features, body.late, who)


class OutsideBody(Body):
    """Who else moves an application, and how that stands."""

    vendor: Filled
    contact: Named = ""
    asked: date | None = None
    answer: Annotated[str, Field(max_length=2000)] = ""
    promised: date | None = None
    chase: date | None = None
    arrived: date | None = None
    version: Version | None = None


class OutsideConflict(Problem):
    """Two people changed how it stands: nothing was written; ``current`` is how it is now."""

    current: Outside | None = None


@router.get("/outside")
def get_outside(context: ContextDep) -> list[OutsideView]:
    """Applications that somebody else moves, and how it stands with each."""
    held = outside_applications(context.db)
    return [outside_view(context, a.slug, a.name, held[a.id]) for a in list_applications(context.db) if a.id in held]


@router.put("/applications/{slug}/outside", responses={409: {"model": OutsideConflict}})
def put_outside(slug: Slug, body: OutsideBody, context: ContextDep, who: Who) -> OutsideView:
    """Say that somebody else moves an application."""
    outside = Outside(**body.model_dump(exclude={"version"}))
    return set_outside(context, slug, outside, who, body.version)


@router.delete("/applications/{slug}/outside", status_code=204)
def delete_outside(slug: Slug, context: ContextDep, who: Who) -> Response:
    """Say that an application is ours to move."""
    take_back(context, slug, who)
    return Response(status_code=204)
