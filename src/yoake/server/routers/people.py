"""Routes of accounts, tokens, and of what happened."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Query, Response
from pydantic import Field

from yoake.formats.tables import write_csv
from yoake.server.answers import view_router
from yoake.server.bodies import Body, Day, Filled, Named, Problem, Version
from yoake.server.deps import ContextDep, Limit, Number, Offset
from yoake.server.people import PersonDep
from yoake.store.accounts import list_accounts, list_tokens
from yoake.store.events import WantedEvents, count_events, event_window
from yoake.usecases.sign_in import (
    LEAST_PASSWORD,
    AccountView,
    Role,
    Scope,
    account_view,
    change_person,
    end_token,
    make_account,
    make_token,
)

router = view_router(tags=["people"])
_MOST_EXPORTED = 100_000
_COLUMNS = ("at", "who", "application", "subject", "what", "before", "after", "why")

Password = Annotated[str, Field(min_length=LEAST_PASSWORD, max_length=1000)]


@dataclass(frozen=True, slots=True, kw_only=True)
class TokenView:
    """A token, without its secret."""

    id: int
    name: str
    account: str
    scope: str
    made_at: str
    ends_at: str
    revoked: bool


@dataclass(frozen=True, slots=True)
class NewToken:
    """A token with its secret, which is shown this once."""

    id: int
    secret: str


@dataclass(frozen=True, slots=True, kw_only=True)
class EventRow:
    """Something that happened."""

    id: int
    at: str
    who: str
    application: str
    slug: str
    subject: str
    what: str
    before: str | None
    after: str | None
    why: str


@dataclass(frozen=True, slots=True)
class EventWindow:
    """A window of what happened, newest first."""

    total: int
    offset: int
    rows: list[EventRow]


class NewAccount(Body):
    """An account to make."""

    name: Filled
    role: Role
    password: Password


class AccountChange(Body):
    """What to set on an account; what is left out stays."""

    role: Role | None = None
    password: Password | None = None
    disabled: bool | None = None
    version: Version | None = Field(None, description="The version that was seen; another one is a conflict.")


class AccountConflict(Problem):
    """Somebody else changed this account: nothing was written; ``current`` is how it is now."""

    current: AccountView | None = None


class TokenAsked(Body):
    """A token to make: for what, and for how long."""

    name: Filled
    scope: Scope = Scope.SCAN
    days: int = Field(90, ge=1, le=3660)


@router.get("/accounts")
def get_accounts(context: ContextDep) -> list[AccountView]:
    """All accounts."""
    return [account_view(row) for row in list_accounts(context.db)]


@router.post("/accounts", status_code=201)
def post_account(account: NewAccount, context: ContextDep, person: PersonDep) -> list[AccountView]:
    """Make an account."""
    make_account(context, account.name, account.role, account.password, person.name)
    return get_accounts(context)


@router.patch("/accounts/{number}", responses={409: {"model": AccountConflict}})
def patch_account(number: Number, change: AccountChange, context: ContextDep, person: PersonDep) -> list[AccountView]:
    """Change a role or a password, disable or enable."""
    fields = change.model_dump()
    change_person(context, number, person.name, **fields)
    return get_accounts(context)


@router.get("/tokens")
def get_tokens(context: ContextDep, person: PersonDep) -> list[TokenView]:
    """One's own tokens; an administrator sees all."""
    rows = list_tokens(context.db, None if person.role is Role.ADMIN else person.number)
    return [
        TokenView(
            id=r["id"],
            name=r["name"],
            account=r["account"],
            scope=r["scope"],
            made_at=r["made_at"],
            ends_at=r["ends_at"],
            revoked=r["revoked_at"] is not None,
        )
        for r in rows
    ]


@router.post("/tokens", status_code=201)
def post_token(asked: TokenAsked, context: ContextDep, person: PersonDep) -> NewToken:
    """Make a token for a program; its secret is in this answer and nowhere else."""
    return NewToken(*make_token(context, person, asked.name, asked.scope, asked.days))


@router.delete("/tokens/{number}", status_code=204)
def delete_token(number: Number, context: ContextDep, person: PersonDep) -> Response:
    """Revoke a token."""
    end_token(context, person, number)
    return Response(status_code=204)


async def wanted_events(
    who: Annotated[Named, Query(description="By this person.")] = "",
    slug: Annotated[Named, Query(description="On this application.")] = "",
    since: Annotated[Day, Query(description="From this day on.")] = "",
    until: Annotated[Day, Query(description="Up to this day.")] = "",
    q: Annotated[str, Query(max_length=200, description="With these words.")] = "",
) -> WantedEvents:
    """Which events are asked for."""
    return WantedEvents(who, slug, since, until, q)


EventsDep = Annotated[WantedEvents, Depends(wanted_events)]


@router.get("/events")
def get_events(
    context: ContextDep,
    wanted: EventsDep,
    offset: Offset = 0,
    limit: Limit = 100,
) -> EventWindow:
    """A window of what happened, newest first: by a person, on an application, between two days, with words."""
    rows = [
        EventRow(
            id=r["id"],
            at=r["at"],
            who=r["who"],
            application=r["application"] or "",
            slug=r["slug"] or "",
            subject=r["subject"],
            what=r["what"],
            before=r["before"],
            after=r["after"],
            why=r["why"],
        )
        for r in event_window(context.db, wanted, offset, limit)
    ]
    return EventWindow(count_events(context.db, wanted), offset, rows)


@router.get("/events/export", response_class=Response)
def export_events(context: ContextDep, wanted: EventsDep) -> Response:
    """What happened, as CSV."""
    rows = event_window(context.db, wanted, 0, _MOST_EXPORTED)
    body = write_csv(_COLUMNS, ([row[name] for name in _COLUMNS] for row in rows))
    return Response(
        body, media_type="text/csv; charset=utf-8", headers={"Content-Disposition": 'attachment; filename="events.csv"'}
    )
