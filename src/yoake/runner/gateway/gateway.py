"""The gateway as an ASGI application: each request goes to the side that its route's rule names, and what is mirrored is compared."""

from __future__ import annotations

import asyncio
import secrets
import time
from collections.abc import AsyncIterator, Awaitable, Callable, MutableMapping
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

import aiohttp
import structlog
from yarl import URL

from yoake.core.crossing.guard import Guard
from yoake.core.crossing.parity import Answer, differences
from yoake.core.crossing.rules import (
    SAFE_METHODS,
    CrossingRules,
    Decision,
    RouteRule,
    Side,
    Standing,
    decide,
    tester_side,
)
from yoake.runner.gateway.asking import LOST, ask_side
from yoake.runner.gateway.headers import HOP, RawHeaders, asked, cookies, passed_on, plain
from yoake.runner.gateway.records import GatewayRecord
from yoake.runner.gateway.sockets import pass_socket

if TYPE_CHECKING:
    from yoake.runner.gateway.rules_file import RulesFile

log = structlog.get_logger()

Scope = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[MutableMapping[str, Any]]]
Send = Callable[[MutableMapping[str, Any]], Awaitable[None]]

LARGEST_COMPARED: Final = 2_000_000  # bytes of a body that is kept for comparing; larger answers are passed on only
_MOST_MIRRORED: Final = 32  # requests asked of the new side at once
_MOST_WAITING: Final = 500  # copies that wait; more are left out and counted
_LOOK: Final = 0.5  # seconds between two looks at the rules
_YEAR: Final = 31_536_000
_UNREACHED: Final = (aiohttp.ClientConnectorError, aiohttp.ConnectionTimeoutError)


class CallerGone(Exception):
    """Whoever called hung up."""


@dataclass(slots=True, kw_only=True)
class _Asked:
    """One request while it passes."""

    method: str
    target: str
    headers: list[tuple[str, str]]
    rule: RouteRule | None
    decision: Decision
    set_cookie: bytes = b""
    body: bytearray | None = None  # kept where the other side may have to be asked the same
    is_too_large: bool = False  # the body is, so only one side is asked

    @property
    def name(self) -> str:
        """The route it belongs to; empty where no rule names it."""
        return self.rule.route.name if self.rule is not None else ""


class Gateway:
    """The ASGI application. ``folder`` is where rules stand; their record is kept beside them."""

    def __init__(self, file: RulesFile, folder: Path) -> None:
        self._file = file
        self._hop = secrets.token_hex(8)
        self._rules = file.rules
        self.record = GatewayRecord(folder / file.rules.record)
        self._guards: dict[str, Guard] = {}
        self._marks = _marks(file.rules)
        self._session: aiohttp.ClientSession | None = None
        self._mirrored = asyncio.Semaphore(_MOST_MIRRORED)
        self._copies: set[asyncio.Task[None]] = set()
        self._ticker: asyncio.Task[None] | None = None
        self._ended = asyncio.Event()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """One request, one websocket, or the lifespan."""
        if scope["type"] == "lifespan":
            await self._live(receive, send)
        elif scope["type"] == "websocket":
            await self._websocket(scope, receive, send)
        elif scope["type"] == "http":
            await self._http(scope, receive, send)

    # lifespan

    async def _live(self, receive: Receive, send: Send) -> None:
        while True:
            message = await receive()
            if message["type"] == "lifespan.startup":
                self._session = aiohttp.ClientSession(
                    connector=aiohttp.TCPConnector(limit=0, ttl_dns_cache=30, keepalive_timeout=20),
                    auto_decompress=False,
                    cookie_jar=aiohttp.DummyCookieJar(),
                    skip_auto_headers=("User-Agent", "Accept", "Accept-Encoding", "Content-Type"),
                )
                self._ticker = asyncio.create_task(self._tick())
                await send({"type": "lifespan.startup.complete"})
            else:
                await self._end()
                await send({"type": "lifespan.shutdown.complete"})
                return

    async def _end(self) -> None:
        self._ended.set()
        if self._ticker is not None:
            await self._ticker
        for copy in list(self._copies):
            copy.cancel()
        if self._session is not None:
            await self._session.close()
        await self._write()

    async def _tick(self) -> None:
        while not self._ended.is_set():
            with suppress(TimeoutError):
                await asyncio.wait_for(self._ended.wait(), _LOOK)
            found = await asyncio.to_thread(self._file.look)
            if found is not None:
                self._take(found)
            await self._write()

    async def _write(self) -> None:
        """Writes the record in a thread: requests go on meanwhile."""
        taken = self.record.taken(self._guards)
        try:
            await asyncio.to_thread(self.record.keep_lines, taken)
            self.record.forget(taken)
            await asyncio.to_thread(self.record.keep_state, taken)
        except OSError as error:
            log.warning("the record cannot be written", error=str(error))

    def _take(self, rules: CrossingRules) -> None:
        """New rules hold for requests that come from now on; a route whose rule changed begins anew."""
        before, self._marks = self._marks, _marks(rules)
        self._rules = rules
        for name in [name for name, row in self.record.fallen.items() if row.get("mark") != self._marks.get(name)]:
            del self.record.fallen[name]
        for name, guard in self._guards.items():
            guard.limits = rules.fall_back
            if before.get(name) != self._marks.get(name):
                guard.forget_new()

    # requests

    async def _http(self, scope: Scope, receive: Receive, send: Send) -> None:
        given = plain(scope["headers"])
        if given.get(HOP) == self._hop:
            await _say(send, 508, "This gateway asks itself: the address of a side is its own.")
            return
        if "host" not in given or given.get("expect", "100-continue").lower() != "100-continue":
            await _say(send, 400, "A request needs a host, and expects nothing that is not known.")
            return
        rules = self._rules
        request = self._request(scope, given, rules)
        try:
            await self._answer(request, scope, receive, send, rules)
        except CallerGone:
            return

    def _request(self, scope: Scope, given: dict[str, str], rules: CrossingRules) -> _Asked:
        method = scope["method"]
        target = scope["raw_path"].decode("latin-1")
        rule = rules.rule_of(method, target)
        held = cookies(given) if "cookie" in given else {}
        wanted = tester_side(given, held, rules)
        caller, set_cookie = held.get(rules.caller_cookie, ""), b""
        if not caller and rule is not None and rule.standing is Standing.SHARED and not wanted:
            caller = secrets.token_urlsafe(12)
            set_cookie = f"{rules.caller_cookie}={caller}; Path=/; Max-Age={_YEAR}; HttpOnly; SameSite=Lax".encode()
        fallen = rule is not None and rule.route.name in self.record.fallen
        decision = decide(rule, wanted, caller, rules.application, method=method, fallen=fallen)
        query = scope["query_string"].decode("latin-1")
        client = scope["client"][0] if scope.get("client") else "unknown"
        headers = asked(scope["headers"], client, scope.get("scheme", "http"), self._hop)
        return _Asked(
            method=method,
            target=f"{target}?{query}" if query else target,
            headers=headers,
            rule=rule,
            decision=decision,
            set_cookie=set_cookie,
        )

    async def _answer(self, request: _Asked, scope: Scope, receive: Receive, send: Send, rules: CrossingRules) -> None:
        side, decision = request.decision.side, request.decision
        body = _has_body(scope["headers"])
        if body and (decision.mirror or decision.instead):
            request.body = bytearray()
        try:
            await self._ask(request, side, _Body(receive, request) if body else None, send, rules)
        except _UNREACHED as error:
            self._note(request, side, 0, 0.0, rules)
            if not decision.instead:
                await self._dead(send, side, error)
                return
            await self._ask_other(request, body, receive, send, rules)
        except _Unanswered as error:
            if decision.instead and request.method in SAFE_METHODS and not request.is_too_large:
                await self._ask_other(request, body, receive, send, rules)
            else:
                await self._dead(send, side, error.__cause__ or error)

    async def _ask_other(self, request: _Asked, body: bool, receive: Receive, send: Send, rules: CrossingRules) -> None:
        """The other side is asked the same: what was read of the body already, and the rest."""
        other = request.decision.side.other
        rest = _Body(receive, None, begun=bytes(request.body or b"")) if body else None
        try:
            await self._ask(request, other, rest, send, rules)
        except (*_UNREACHED, _Unanswered) as error:
            self._note(request, other, 0, 0.0, rules)
            await _say(send, 502, f"Neither side answers: {error}.")

    @staticmethod
    async def _dead(send: Send, side: Side, error: BaseException) -> None:
        late = isinstance(error, TimeoutError)
        said = "does not answer in time" if late else "cannot be reached"
        await _say(send, 504 if late else 502, f"The {side.value} side {said}.")

    async def _ask(  # noqa: C901 - one way out an accident
        self, request: _Asked, side: Side, body: _Body | None, send: Send, rules: CrossingRules
    ) -> None:
        """Asks a side and passes its answer on. Raises what says that the side was not reached, or ``_Unanswered`` where it was, and
        nothing came back."""
        if self._session is None:
            raise RuntimeError("the gateway is not started")
        begin = time.perf_counter()
        keeps = request.decision.mirror and side is Side.OLD
        begun = False
        try:
            async with self._session.request(
                request.method,
                URL(f"{rules.address(side)}{request.target}", encoded=True),
                headers=request.headers,
                data=body.pieces() if body is not None else None,
                allow_redirects=False,
                timeout=aiohttp.ClientTimeout(
                    total=None, sock_connect=rules.limits.connect, sock_read=rules.limits.answer
                ),
            ) as response:
                headers = passed_on(response.raw_headers)
                if request.set_cookie:
                    headers.append((b"set-cookie", request.set_cookie))
                await send({"type": "http.response.start", "status": response.status, "headers": headers})
                begun = True
                kept = bytearray() if keeps else None
                async for piece in response.content.iter_any():
                    if kept is not None:
                        kept.extend(piece)
                        kept = kept if len(kept) <= LARGEST_COMPARED else None
                    await send({"type": "http.response.body", "body": piece, "more_body": True})
                await send({"type": "http.response.body", "body": b"", "more_body": False})
                status = response.status
        except CallerGone:
            raise
        except _UNREACHED:
            raise
        except LOST as error:
            if body is not None and body.gone:
                raise CallerGone from error
            self._note(request, side, 0, time.perf_counter() - begin, rules)
            if begun:  # half an answer cannot be taken back: the connection ends, and the caller sees that it is broken
                log.warning("a side broke off", side=side.value, route=request.name)
                raise
            raise _Unanswered(str(error)) from error
        seconds = time.perf_counter() - begin
        self._note(request, side, status, seconds, rules)
        if kept is not None:
            self._mirror(
                request, Answer(status=status, headers=plain(headers), body=bytes(kept), seconds=seconds), rules
            )

    def _note(self, request: _Asked, side: Side, status: int, seconds: float, rules: CrossingRules) -> None:
        rule, name = request.rule, request.name
        if rule is None and not 0 < status < 400:
            return  # nobody answers there: it keeps no side busy
        self.record.count(name, side, failed=status >= 500 or status == 0)
        if rule is None:
            return
        guard = self._guards.get(name)
        if guard is None:
            guard = self._guards[name] = Guard(rules.fall_back)
        guard.add(side, status, seconds)
        if side is Side.NEW and rule.standing in (Standing.SHARED, Standing.NEW) and name not in self.record.fallen:
            why = guard.verdict()
            if why:
                log.warning("a route falls back to the old side", route=name, why=why)
                self.record.fell_back(name, why, _mark(rule))

    # copies

    def _mirror(self, request: _Asked, old: Answer, rules: CrossingRules) -> None:
        if len(self._copies) >= _MOST_WAITING or request.is_too_large:
            self.record.dropped += 1
            return
        copy = asyncio.create_task(self._copy(request, old, rules))
        self._copies.add(copy)
        copy.add_done_callback(self._copies.discard)

    async def _copy(self, request: _Asked, old: Answer, rules: CrossingRules) -> None:
        """Asks the new side the same and compares; nobody waits for it."""
        rule = request.rule
        if rule is None or self._session is None:
            return
        url = URL(f"{rules.new}{request.target}", encoded=True)
        body = bytes(request.body) if request.body is not None else None
        async with self._mirrored:
            begin = time.perf_counter()
            new = await ask_side(
                self._session, request.method, url, request.headers, body, rules.limits, LARGEST_COMPARED
            )
        if new is None:
            new = Answer(status=0, headers={}, body=b"", seconds=time.perf_counter() - begin)
        guard = self._guards.get(rule.route.name)
        if guard is not None:
            guard.add(Side.NEW, new.status, new.seconds)
        found = await asyncio.to_thread(differences, old, new, rule.comparison)
        self.record.compared(rule.route.name, request.target, found, old.seconds, new.seconds)

    # websockets

    async def _websocket(self, scope: Scope, receive: Receive, send: Send) -> None:
        rules = self._rules
        given = plain(scope["headers"])
        if given.get(HOP) == self._hop or self._session is None:
            await send({"type": "websocket.close", "code": 1008})
            return
        scope = {**scope, "method": "GET", "scheme": {"ws": "http", "wss": "https"}.get(scope["scheme"], "http")}
        request = self._request(scope, given, rules)
        await receive()  # the request to open
        side, decision = request.decision.side, request.decision
        for each in (side, side.other) if decision.instead else (side,):
            url = URL(f"{rules.address(each)}{request.target}", encoded=True)
            if await pass_socket(
                self._session, url, request.headers, request.set_cookie, scope, receive, send, rules.limits
            ):
                self.record.count(request.name, each, failed=False)
                return
            self.record.count(request.name, each, failed=True)
        await send({"type": "websocket.close", "code": 1014})


class _Unanswered(Exception):
    """A side was reached and gave no answer."""


class _Body:
    """The body of a request as it comes. ``request`` takes a copy, up to a size; ``begun`` is what was read of it before."""

    def __init__(self, receive: Receive, request: _Asked | None, begun: bytes = b"") -> None:
        self._receive, self._request, self._begun = receive, request, begun
        self.gone = False

    async def pieces(self) -> AsyncIterator[bytes]:
        """Piece by piece. Raises CallerGone when whoever sends hangs up."""
        if self._begun:
            yield self._begun
        while True:
            message = await self._receive()
            if message["type"] == "http.disconnect":
                self.gone = True
                raise CallerGone
            piece = message.get("body", b"")
            self._keep(piece)
            if piece:
                yield piece
            if not message.get("more_body"):
                return

    def _keep(self, piece: bytes) -> None:
        request = self._request
        if request is None or request.body is None:
            return
        request.body.extend(piece)
        if len(request.body) > LARGEST_COMPARED:
            request.body, request.is_too_large = None, True


def _has_body(headers: RawHeaders) -> bool:
    return any(
        (name == b"content-length" and value.strip() != b"0") or name == b"transfer-encoding" for name, value in headers
    )


def _marks(rules: CrossingRules) -> dict[str, str]:
    return {rule.route.name: _mark(rule) for rule in rules.routes}


def _mark(rule: RouteRule) -> str:
    return f"{rule.standing.value} {rule.share:g}"


async def _say(send: Send, status: int, sentence: str) -> None:
    body = f"{sentence}\n".encode()
    headers = [(b"content-type", b"text/plain; charset=utf-8"), (b"content-length", str(len(body)).encode())]
    with suppress(RuntimeError):  # the answer may have begun
        await send({"type": "http.response.start", "status": status, "headers": headers})
        await send({"type": "http.response.body", "body": body, "more_body": False})
