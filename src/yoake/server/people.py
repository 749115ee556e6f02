"""Who asks, and whether they may: one table says which role each route needs."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Final
from urllib.parse import unquote

from fastapi import Depends, Request
from fastapi.concurrency import run_in_threadpool

from yoake.context.context import Context
from yoake.core.values.errors import NotAllowed, NotSignedIn
from yoake.server.address import API
from yoake.server.identity import IdentityProvider
from yoake.usecases.sign_in import Attempts, Person, Role, Scope, person_of_session, person_of_token

COOKIE: Final = "yoake_session"
_SAFE: Final = ("GET", "HEAD")

_NEEDED: Final = {
    ("PATCH", "/steps/{number}"): Role.MEMBER,
    ("PATCH", "/steps"): Role.MEMBER,
    ("PUT", "/views/{screen}"): Role.MEMBER,
    ("DELETE", "/views/{screen}/{name}"): Role.MEMBER,
    ("POST", "/scans"): Role.MEMBER,
    ("POST", "/jobs/{number}/stop"): Role.MEMBER,
    ("PUT", "/applications/{slug}/looks/{key}"): Role.MEMBER,
    ("DELETE", "/applications/{slug}/looks/{key}"): Role.MEMBER,
    ("POST", "/waves/look"): Role.MEMBER,
    ("POST", "/waves/what-if"): Role.MEMBER,
    ("POST", "/what-ifs"): Role.MEMBER,
    ("POST", "/applications/{slug}/results"): Role.MEMBER,
    ("POST", "/applications/{slug}/reports"): Role.MEMBER,
    ("POST", "/tokens"): Role.MEMBER,
    ("GET", "/tokens"): Role.MEMBER,
    ("DELETE", "/tokens/{number}"): Role.MEMBER,
    ("GET", "/events"): Role.LEAD,
    ("GET", "/events/export"): Role.LEAD,
    ("GET", "/accounts"): Role.ADMIN,
    ("POST", "/accounts"): Role.ADMIN,
    ("PATCH", "/accounts/{number}"): Role.ADMIN,
}
"""Route → the role that it needs. What is not here needs a reader for reading and a lead for anything else."""


@dataclass
class SignIn:
    """How people sign in here. ``required``: False where one person uses it on their own machine. ``secure``: behind TLS."""

    required: bool = False
    secure: bool = False
    provider: IdentityProvider | None = None
    attempts: Attempts = field(default_factory=Attempts)


def needed_role(method: str, route: str) -> Role:
    """The role that a route needs."""
    least = Role.READER if method in _SAFE else Role.LEAD
    return _NEEDED.get((method, route.removeprefix(API)), least)


def known_person(request: Request) -> Person | None:
    """Who asks, by a token or a session; where all is open, whoever the top bar says."""
    context: Context = request.app.state.context
    signing: SignIn = request.app.state.sign_in
    if not signing.required:
        return Person(unquote(request.headers.get("x-yoake-who", ""))[:80], Role.ADMIN)
    kind, _, secret = request.headers.get("authorization", "").partition(" ")
    if secret:
        return person_of_token(context, secret.strip()) if kind.lower() == "bearer" else None
    cookie = request.cookies.get(COOKIE)
    return person_of_session(context, cookie) if cookie else None


async def permitted(request: Request) -> Person:
    """Who asks, when they may. Raises NotSignedIn and NotAllowed."""
    signing: SignIn = request.app.state.sign_in
    person = await run_in_threadpool(known_person, request) if signing.required else known_person(request)
    if person is None:
        raise NotSignedIn("Sign in first; a program sends its token as “Authorization: Bearer …”.")
    route = getattr(request.scope.get("route"), "path", request.url.path)
    needed = needed_role(request.method, route)
    if not person.role.includes(needed):
        raise NotAllowed(
            f"This needs the role {needed.value}; yours is {person.role.value}. An administrator can change it."
        )
    scans = request.method == "POST" and route.removeprefix(API) == "/scans"
    narrow = person.scope is Scope.READ or (person.scope is Scope.SCAN and not scans)
    if request.method not in _SAFE and narrow:
        raise NotAllowed(
            f"This token may only {'read' if person.scope is Scope.READ else 'read and ask for scans'}. Make one with a wider scope."
        )
    return person


PersonDep = Annotated[Person, Depends(permitted)]
