"""Who is in a team, when they are away, when nothing goes live, and how much an application counts. Every change is an event."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import timedelta
from typing import Final

from yoake.context.context import Context
from yoake.core.portfolio.capacity import Person
from yoake.core.values.errors import BadInput, NotFound
from yoake.formats.calendars import read_calendar
from yoake.store.applications import get_application
from yoake.store.database import Connection
from yoake.store.events import Event, add_event
from yoake.store.teams import (
    DayKind,
    DaysOff,
    StoredTeam,
    add_days_off,
    days_off,
    drop_calendar,
    drop_days_off,
    drop_team,
    put_shares,
    put_team,
    shares_of_teams,
    team_named,
)
from yoake.store.waves import Weight, set_weight, weights_of
from yoake.usecases.collisions import expect

MOST_DAYS: Final = 7.0
"""Days a week that one person can have."""

_MOST_PEOPLE: Final = 200
_LONGEST: Final = timedelta(days=3_660)  # of an absence: ten years
_YEARS_AHEAD: Final = timedelta(days=3 * 366)  # of a calendar that are read
_EXACT: Final = 1e-6


def set_team(
    context: Context, name: str, features: float, people: Sequence[Person], who: str, version: int | None = None
) -> StoredTeam:
    """Say who is in a team. Raises BadInput with all faults, and Outdated when it is not at ``version`` any more (0: not there)."""
    faults = _faults(name, features, people)
    if faults:
        raise BadInput(faults[0], tuple(faults))
    with context.db.write() as connection:
        before = team_named(context.db, name)
        expect(version, before.version if before is not None else 0, f"the team {name}", before)
        put_team(connection, name, features, people)
        said = _team_text(before.features, before.people) if before is not None else ""
        _event(
            context=context,
            connection=connection,
            who=who,
            subject=f"team {name}",
            what="people",
            before=said,
            after=_team_text(features, people),
        )
    found = team_named(context.db, name)
    if found is None:
        raise NotFound(f"There is no team “{name}”.")
    return found


def _faults(name: str, features: float, people: Sequence[Person]) -> list[str]:
    faults = []
    if not name.strip():
        faults.append("A team has a name.")
    if not 0 <= features <= 0.95:
        faults.append("The share that features take is from 0 to 0.95.")
    if len(people) > _MOST_PEOPLE:
        faults.append(f"A team has at most {_MOST_PEOPLE} people here.")
    seen: set[str] = set()
    for person in people:
        if not person.name.strip():
            faults.append("Everybody in a team has a name.")
        elif person.name.lower() in seen:
            faults.append(f"{person.name} is in the team twice.")
        seen.add(person.name.lower())
        if not 0 <= person.days <= MOST_DAYS:
            faults.append(f"{person.name} has from 0 to {MOST_DAYS:g} days a week.")
        if person.since is not None and person.until is not None and person.until < person.since:
            faults.append(f"{person.name} leaves before they come.")
    return faults


def _team_text(features: float, people: Sequence[Person]) -> str:
    told = ", ".join(f"{p.name} {p.days:g}{_span(p)}" for p in people)
    return told + (f"; features take {features:.0%}" if features else "")


def _span(person: Person) -> str:
    since = f" from {person.since}" if person.since else ""
    return since + (f" until {person.until}" if person.until else "")


def forget_team(context: Context, name: str, who: str, version: int | None = None) -> None:
    """Forget who is in a team. Raises NotFound, and Outdated."""
    with context.db.write() as connection:
        before = team_named(context.db, name)
        if before is None:
            raise NotFound(f"Nobody said who is in the team “{name}”.")
        expect(version, before.version, f"the team {name}", before)
        drop_team(connection, before.name)
        _event(
            context=context,
            connection=connection,
            who=who,
            subject=f"team {name}",
            what="people",
            before=_team_text(before.features, before.people),
            after="",
        )


def add_days(context: Context, days: DaysOff, who: str) -> DaysOff:
    """Add an absence, a holiday or a freeze. Raises BadInput, and NotFound for an unknown application."""
    _check_days(days)
    if days.application:
        get_application(context.db, days.application)
    if days.person:
        _check_person(context, days)
    with context.db.write() as connection:
        number = add_days_off(connection, days)
        _event(
            context=context,
            connection=connection,
            who=who,
            subject=_whose(days),
            what=days.kind,
            before="",
            after=_days_text(days),
        )
    return days_off(context.db, number)


def _check_days(days: DaysOff) -> None:
    if days.last < days.first:
        raise BadInput(f"These days end on {days.last} before they begin on {days.first}.")
    if days.last - days.first > _LONGEST:
        raise BadInput("Days off are at most ten years.")
    if days.person and not days.team:
        raise BadInput("An absence of a person names their team.")
    if days.application and days.kind != "freeze":
        raise BadInput("Only a freeze is for an application.")
    if days.kind == "absence" and not days.team:
        raise BadInput("An absence names a team, or somebody in it; days off for everybody are a holiday.")


def _check_person(context: Context, days: DaysOff) -> None:
    """Days of somebody who is in no team would be kept and change nothing. Raises BadInput."""
    held = team_named(context.db, days.team)
    names = [person.name for person in held.people] if held is not None else []
    if days.person not in names:
        known = f"in it are {', '.join(names)}" if names else "nobody is in it yet"
        raise BadInput(f"{days.person} is not in the team {days.team}: {known}.")


def _whose(days: DaysOff) -> str:
    return f"team {days.team}" if days.team else "everybody"


def _days_text(days: DaysOff) -> str:
    who = days.person or days.application
    span = f"{days.first}" if days.first == days.last else f"{days.first} to {days.last}"
    return " ".join(part for part in (who, span, days.title) if part)


def remove_days(context: Context, number: int, who: str) -> DaysOff:
    """Take days back; returns what they were. Raises NotFound."""
    with context.db.write() as connection:
        before = days_off(context.db, number)
        drop_days_off(connection, number)
        _event(
            context=context,
            connection=connection,
            who=who,
            subject=_whose(before),
            what=before.kind,
            before=_days_text(before),
            after="",
        )
    return before


@dataclass(frozen=True, slots=True, kw_only=True)
class CalendarRead:
    """What came of a calendar file: days added, and days of an earlier reading of the same calendar that were taken back."""

    name: str
    added: int
    replaced: int


def read_days(context: Context, name: str, text: str, kind: DayKind, team: str, person: str, who: str) -> CalendarRead:
    """Add the entries of an iCalendar file from today on, in place of what was read from it before. Raises BadInput."""
    entries = read_calendar(text, context.today, context.today + _YEARS_AHEAD)
    template = DaysOff(kind=kind, team=team, person=person, first=context.today, last=context.today, calendar=name)
    _check_days(template)
    if template.person:
        _check_person(context, template)
    if not entries:
        raise BadInput(f"“{name}” has no days off from today on. Whole days count, and what takes half a working day.")
    with context.db.write() as connection:
        replaced = drop_calendar(connection, name)
        for entry in entries:
            add_days_off(connection, replace(template, first=entry.first, last=entry.last, title=entry.title))
        _event(
            context=context,
            connection=connection,
            who=who,
            subject=_whose(template),
            what=f"calendar {name}",
            before="",
            after=f"{len(entries)} entries",
        )
    return CalendarRead(name=name, added=len(entries), replaced=replaced)


def share_application(context: Context, slug: str, shares: Mapping[str, float], who: str) -> dict[str, float]:
    """Say which teams share an application; none: it is its own team's alone. Raises BadInput and NotFound."""
    if shares and (abs(sum(shares.values()) - 1.0) > _EXACT or min(shares.values()) <= 0):
        raise BadInput("Shares are above 0 and add up to 1.")
    if len({name.lower() for name in shares}) != len(shares):
        raise BadInput("A team is named once.")
    application = get_application(context.db, slug)
    with context.db.write() as connection:
        before = shares_of_teams(context.db).get(application.id, {})
        put_shares(connection, application.id, shares if len(shares) > 1 else {})
        told = [", ".join(f"{name} {share:.0%}" for name, share in held.items()) for held in (before, shares)]
        _event(context, connection, who, "application", "teams", *told, application=application.id)
    return dict(shares)


def weigh_application(context: Context, slug: str, features: float, late: float, who: str) -> Weight:
    """Say what features take of an application's days, and what a late day of it costs. Raises BadInput and NotFound."""
    if not 0 <= features <= 0.95 or not 0.01 <= late <= 1_000:
        raise BadInput("Features take from 0 to 0.95 of the days; a late day costs from 0.01 to 1000.")
    application = get_application(context.db, slug)
    weight = Weight(features=features, late=late)
    with context.db.write() as connection:
        before = weights_of(context.db).get(application.id, Weight(features=0.0, late=1.0))
        set_weight(connection, application.id, weight)
        told = [f"features {w.features:.0%}, a late day {w.late:g}" for w in (before, weight)]
        _event(context, connection, who, "application", "weight", *told, application=application.id)
    return weight


def _event(
    context: Context,
    connection: Connection,
    who: str,
    subject: str,
    what: str,
    before: str,
    after: str,
    *,
    application: int | None = None,
) -> None:
    add_event(
        connection,
        Event(
            at=context.stamp,
            who=who,
            application=application,
            subject=subject,
            what=what,
            before=before or None,
            after=after or None,
        ),
    )
