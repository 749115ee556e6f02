"""Routes of signing in and out; the only ones that anybody may ask."""

from __future__ import annotations

from typing import Annotated, Final

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import RedirectResponse
from pydantic import BaseModel, Field

from yoake.context.context import Context
from yoake.core.values.errors import NotFound, NotSignedIn
from yoake.server.answers import take_turn
from yoake.server.bodies import Body
from yoake.server.deps import ContextDep
from yoake.server.identity import Vouched
from yoake.server.people import COOKIE, SignIn, known_person
from yoake.store.accounts import count_accounts
from yoake.usecases.sign_in import (
    SESSION_DAYS,
    Role,
    begin_session,
    make_first_account,
    person_of_subject,
    sign_in,
    sign_out,
)

router = APIRouter(prefix="/session", tags=["session"])
_FLOW: Final = "yoake_flow"


class Session(BaseModel):
    """Who is here. ``open``: nobody needs to sign in; ``first``: there is no account yet; ``provider``: an outside one may be used."""

    signed_in: bool
    name: str
    role: str
    open: bool
    first: bool
    provider: bool


class Credentials(Body):
    """A name and its password."""

    name: str = Field(max_length=200)
    password: str = Field(max_length=1000)


class First(Credentials):
    """The first account, by the link that was printed."""

    token: str = Field(max_length=200)


def _signing(request: Request) -> SignIn:
    signing: SignIn = request.app.state.sign_in
    return signing


def _session(request: Request, context: ContextDep) -> Session:
    signing, person = _signing(request), known_person(request)
    first = signing.required and not count_accounts(context.db)
    name, role = (person.name, person.role.value) if person is not None else ("", "")
    return Session(
        signed_in=person is not None,
        name=name,
        role=role,
        open=not signing.required,
        first=first,
        provider=signing.provider is not None,
    )


def _remember(request: Request, response: Response, secret: str) -> None:
    response.set_cookie(
        COOKIE,
        secret,
        max_age=SESSION_DAYS * 86_400,
        httponly=True,
        samesite="lax",
        secure=_signing(request).secure,
        path="/",
    )


@router.get("")
def get_session(request: Request, context: ContextDep) -> Session:
    """Who is here, and how one signs in."""
    return _session(request, context)


@router.post("", status_code=204)
def post_session(given: Credentials, request: Request, context: ContextDep) -> Response:
    """Sign in."""
    secret = sign_in(
        context, given.name, given.password, request.headers.get("user-agent", ""), _signing(request).attempts
    )
    response = Response(status_code=204)
    _remember(request, response, secret)
    return response


@router.post("/first", status_code=204)
def post_first(given: First, request: Request, context: ContextDep) -> Response:
    """Make the first account, an administrator, and sign in."""
    number = make_first_account(context, given.token, given.name, given.password)
    response = Response(status_code=204)
    _remember(request, response, begin_session(context, number, request.headers.get("user-agent", "")))
    return response


@router.delete("", status_code=204)
def delete_session(request: Request, context: ContextDep) -> Response:
    """Sign out."""
    secret = request.cookies.get(COOKIE)
    if secret:
        sign_out(context, secret)
    response = Response(status_code=204)
    response.delete_cookie(COOKIE, path="/")
    return response


def _begin_vouched(context: Context, vouched: Vouched, role: Role, agent: str) -> str:
    return begin_session(context, person_of_subject(context, vouched.subject, vouched.name, role), agent)


def _back(request: Request) -> str:
    scheme = "https" if _signing(request).secure else request.url.scheme
    return f"{scheme}://{request.headers['host']}/api/session/provider/back"


@router.get("/provider", response_class=RedirectResponse, status_code=302)
async def get_provider(request: Request) -> RedirectResponse:
    """Go to the identity provider."""
    provider = _signing(request).provider
    if provider is None:
        raise NotFound("No identity provider is set up here.")
    address, state = await provider.begin(_back(request))
    response = RedirectResponse(address, status_code=302)
    response.set_cookie(
        _FLOW, state, max_age=600, httponly=True, samesite="lax", secure=_signing(request).secure, path="/api/session"
    )
    return response


@router.get("/provider/back", response_class=RedirectResponse, status_code=302)
async def get_back(
    request: Request,
    context: ContextDep,
    state: Annotated[str, Query(max_length=200)] = "",
    code: Annotated[str, Query(max_length=4000)] = "",
) -> RedirectResponse:
    """Come back from the identity provider."""
    provider = _signing(request).provider
    if provider is None:
        raise NotFound("No identity provider is set up here.")
    if not state or not code or request.cookies.get(_FLOW) != state:
        raise NotSignedIn("This sign-in was not begun in this browser, or the provider refused it. Begin again.")
    vouched = await provider.finish(_back(request), state, code)
    begun = await take_turn(
        lambda: _begin_vouched(context, vouched, provider.role, request.headers.get("user-agent", ""))
    )
    response = RedirectResponse("/", status_code=302)
    _remember(request, response, begun)
    response.delete_cookie(_FLOW, path="/api/session")
    return response
