"""Check that a log-in on one side holds on the other."""

from __future__ import annotations

import asyncio
from dataclasses import dataclass

import aiohttp
from yarl import URL

from yoake.core.crossing.rules import CrossingRules, Session, Side
from yoake.core.values.errors import BadInput


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionCheck:
    """One way round: the side that logged in, how it answered, and how each side answered with its cookies. 0: no answer."""

    side: Side
    logged_in: int
    cookies: tuple[str, ...]
    same: int
    other: int

    @property
    def holds(self) -> bool:
        """Whether the other side takes the log-in as its own."""
        return self.logged_in < 400 and self.logged_in != 0 and self.same == self.other and 200 <= self.same < 300

    @property
    def told(self) -> str:
        """In a sentence."""
        if self.logged_in == 0 or self.logged_in >= 400:
            return f"the {self.side.value} side does not log in: it answers {self.logged_in or 'nothing'}"
        if not 200 <= self.same < 300:
            return f"the {self.side.value} side does not know its own log-in: it answers {self.same or 'nothing'}"
        if self.holds:
            return f"a log-in on the {self.side.value} side holds on the other"
        shared = ", ".join(self.cookies) or "no cookie"
        return (
            f"a log-in on the {self.side.value} side does not hold on the other, which answers {self.other or 'nothing'}: "
            f"share the store or the key behind {shared}"
        )


def check_session(rules: CrossingRules) -> list[SessionCheck]:
    """Both ways round. Raises BadInput where the rules say nothing of a session."""
    if rules.session is None:
        raise BadInput(
            "The rules say nothing of a session: add “session: {login: POST /login, form: {…}, then: GET /…}”."
        )
    return asyncio.run(_check(rules, rules.session))


async def _check(rules: CrossingRules, session: Session) -> list[SessionCheck]:
    return [await _one(rules, session, side) for side in Side]


async def _one(rules: CrossingRules, session: Session, side: Side) -> SessionCheck:
    method, _, path = session.login.partition(" ")
    limits = aiohttp.ClientTimeout(total=rules.limits.answer, sock_connect=rules.limits.connect)
    jar = aiohttp.DummyCookieJar()
    async with aiohttp.ClientSession(cookie_jar=jar, timeout=limits) as client:
        given: dict[str, str] = {}
        logged_in = 0
        try:
            async with client.request(
                method, URL(rules.address(side) + path, encoded=True), data=dict(session.form), allow_redirects=False
            ) as answer:
                logged_in = answer.status
                given = {name: morsel.value for name, morsel in answer.cookies.items()}
        except (aiohttp.ClientError, TimeoutError, OSError):
            logged_in = 0
        same = await _then(client, rules.address(side), session.then, given)
        other = await _then(client, rules.address(side.other), session.then, given)
    return SessionCheck(side=side, logged_in=logged_in, cookies=tuple(given), same=same, other=other)


async def _then(client: aiohttp.ClientSession, address: str, then: str, cookies: dict[str, str]) -> int:
    method, _, path = then.partition(" ")
    headers = {"Cookie": "; ".join(f"{name}={value}" for name, value in cookies.items())} if cookies else {}
    try:
        async with client.request(
            method, URL(address + path, encoded=True), headers=headers, allow_redirects=False
        ) as answer:
            return answer.status
    except (aiohttp.ClientError, TimeoutError, OSError):
        return 0
