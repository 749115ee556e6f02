"""What stands before every route: whom it answers, how much it reads, which headers go back, and one entry for each failure."""

from __future__ import annotations

import re
import secrets
import time
from collections.abc import Awaitable, Callable, Iterable, MutableMapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, Final
from urllib.parse import urlsplit

import structlog
from starlette.responses import JSONResponse

from yoake.formats.junit import MAX_FILE
from yoake.server.address import API, versioned
from yoake.server.answers import TAKES_GZIP

if TYPE_CHECKING:
    from yoake.server.metrics import Metrics

log = structlog.get_logger()

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[[MutableMapping[str, Any], Receive, Send], Awaitable[None]]

MAX_BODY: Final = 4 * 1024**2
"""Bytes of a request; a list of 5,000 applications has some 2 MB."""

MAX_UPLOAD: Final = 512 * 1024**2
"""Bytes of an uploaded archive, with some room for its envelope."""

_UPLOADS: Final = f"{API}/intake/upload"
_RESULTS: Final = ("/results", "/reports")  # of tests, two files; of other checks, one
_SAFE: Final = frozenset(("GET", "HEAD", "OPTIONS"))
_REQUEST_ID: Final = re.compile(r"[A-Za-z0-9._-]{1,64}")
_POLICY: Final = (
    "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self'; connect-src 'self'; "
    "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'self'"
)
_HEADERS: Final = (
    (b"x-content-type-options", b"nosniff"),
    (b"x-frame-options", b"SAMEORIGIN"),
    (b"referrer-policy", b"same-origin"),
    (b"cross-origin-opener-policy", b"same-origin"),
    (b"cross-origin-resource-policy", b"same-origin"),
    (b"permissions-policy", b"camera=(), microphone=(), geolocation=()"),
)


@dataclass(frozen=True, slots=True)
class Reach:
    """Under which names this server answers. ``hosts``: without port, in small letters; ``*`` for any."""

    hosts: frozenset[str] = field(default_factory=lambda: frozenset(("localhost", "127.0.0.1", "[::1]")))

    def answers(self, host: str) -> bool:
        """Whether a ``Host`` header names this server."""
        name = host.rsplit(":", 1)[0] if not host.endswith("]") else host
        return "*" in self.hosts or name.lower() in self.hosts


class Guard:
    """The outermost layer. Refuses other hosts, writes from other origins and bodies without end; answers every failure."""

    def __init__(self, app: App, reach: Reach, metrics: Metrics) -> None:
        self.app = app
        self.reach = reach
        self.metrics = metrics

    async def __call__(self, scope: MutableMapping[str, Any], receive: Receive, send: Send) -> None:
        """One connection."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        scope["path"] = versioned(scope["path"])
        headers = {name.lower(): value.decode("latin-1") for name, value in scope["headers"]}
        asked = headers.get(b"x-request-id", "")
        number = asked if _REQUEST_ID.fullmatch(asked) else secrets.token_hex(8)
        structlog.contextvars.clear_contextvars()
        structlog.contextvars.bind_contextvars(request=number)
        TAKES_GZIP.set("gzip" in headers.get(b"accept-encoding", ""))
        answer = _Answer(send, number)
        began = time.monotonic()
        try:
            refused = self._refused(scope, headers)
            if refused is not None:
                await refused(scope, receive, answer.send)
            else:
                await self.app(scope, _limited(receive, _most(scope["path"]), answer), answer.send)
        except Exception as error:  # the last line of defence: told once, with the trace, and answered in words
            log.exception("request failed", method=scope["method"], path=scope["path"])
            self.metrics.errors.inc()
            problem = (
                f"Something unexpected happened ({type(error).__name__}). Nothing stored was changed; the server log has the details "
                f"under request {number}."
            )
            await answer.instead(500, problem, scope, receive)
        finally:
            self.metrics.answered(scope, answer.status, time.monotonic() - began)

    def _refused(self, scope: MutableMapping[str, Any], headers: dict[bytes, str]) -> JSONResponse | None:
        host = headers.get(b"host", "")
        if not self.reach.answers(host):
            return _problem(
                421, f"This is no address of this server (“{host[:100]}”). YOAKE_HOSTS names those it answers to."
            )
        if scope["method"] not in _SAFE and not _same_origin(headers, host):
            return _problem(403, "The request comes from another site, which may not change anything here.")
        length = headers.get(b"content-length", "0")
        if not length.isdigit() or int(length) > _most(scope["path"]):
            return _problem(413, f"The request is larger than {_most(scope['path']) // 1024**2} MB. Split it.")
        return None


def _same_origin(headers: dict[bytes, str], host: str) -> bool:
    """What a browser says of where a request comes from; programs say nothing, and carry a token instead of a cookie."""
    site, origin = headers.get(b"sec-fetch-site", "none"), headers.get(b"origin")
    if site not in ("same-origin", "none"):
        return False
    return origin is None or urlsplit(origin).netloc.lower() == host.lower()


def _most(path: str) -> int:
    if path == _UPLOADS:
        return MAX_UPLOAD
    return 2 * MAX_FILE + MAX_BODY if path.endswith(_RESULTS) else MAX_BODY


def _problem(status: int, problem: str) -> JSONResponse:
    return JSONResponse({"problem": problem, "faults": [problem]}, status_code=status)


class _TooMuch(Exception):
    """A body went on past its limit."""


def _limited(receive: Receive, most: int, answer: _Answer) -> Receive:
    seen = 0

    async def counted() -> Message:
        nonlocal seen
        message = await receive()
        seen += len(message.get("body", b""))
        if seen > most:
            answer.too_large = most
            raise _TooMuch
        return message

    return counted


class _Answer:
    """What goes back: every answer with the headers that keep it safe, and at most one answer."""

    def __init__(self, send: Send, number: str) -> None:
        self._send = send
        self._number = number
        self.status = 0
        self.too_large = 0  # the limit that the body went past

    async def send(self, message: Message) -> None:
        """Pass a part of the answer on; where the body was too large, that is the answer."""
        if self.too_large and not self.status:
            problem = _problem(413, f"The request is larger than {self.too_large // 1024**2} MB. Split it.")
            await self._pass({"type": "http.response.start", "status": 413, "headers": problem.raw_headers})
            await self._pass({"type": "http.response.body", "body": problem.body})
        elif not self.too_large:
            await self._pass(message)

    async def _pass(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            self.status = message["status"]
            held: list[tuple[bytes, bytes]] = list(message.get("headers", []))
            names = {name.lower() for name, _ in held}
            more: Iterable[tuple[bytes, bytes]] = (*_HEADERS, (b"content-security-policy", _POLICY.encode()))
            held += [pair for pair in more if pair[0] not in names]
            held.append((b"x-request-id", self._number.encode()))
            message = {**message, "headers": held}
        await self._send(message)

    async def instead(self, status: int, problem: str, scope: MutableMapping[str, Any], receive: Receive) -> None:
        """Answer with a problem, unless an answer has begun already."""
        if not self.status:
            await _problem(status, problem)(scope, receive, self.send)
