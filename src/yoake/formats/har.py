"""Recorded requests out of HAR files and access logs, to be asked of both sides again."""

from __future__ import annotations

import base64
import binascii
import json
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from typing import Any, Final
from urllib.parse import urlsplit

from yoake.core.crossing.traffic import Call
from yoake.core.values.errors import BadInput

_LARGEST: Final = 500_000_000  # bytes of a file
_DROPPED: Final = frozenset(
    ("host", "content-length", "connection", "transfer-encoding", "upgrade", "keep-alive", "te", "trailer", "expect")
)


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordedRequest:
    """A request as it was recorded. ``target`` is path and query."""

    method: str
    target: str
    headers: tuple[tuple[str, str], ...] = ()
    body: bytes = field(default=b"", repr=False)

    @property
    def path(self) -> str:
        """The path without its query."""
        return self.target.split("?", 1)[0]


@dataclass(frozen=True, slots=True)
class Recording:
    """Requests in order, and how many entries were none."""

    requests: tuple[RecordedRequest, ...]
    others: int = 0


def read_har(text: bytes, name: str = "the recording") -> Recording:
    """The requests of a HAR file. Raises BadInput for what is no such file; single entries that are none are counted."""
    if len(text) > _LARGEST:
        raise BadInput(f"{name} is larger than 500 MB: split it.")
    try:
        body = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise BadInput(f"{name} is no JSON: {error}.") from error
    log = body.get("log") if isinstance(body, dict) else None
    entries = log.get("entries") if isinstance(log, dict) else None
    if not isinstance(entries, list):
        raise BadInput(f"{name} is no HAR file: it has no log with entries.")
    found = [_request(entry) for entry in entries]
    requests = tuple(each for each in found if each is not None)
    return Recording(requests, len(found) - len(requests))


def _request(entry: Any) -> RecordedRequest | None:
    request = entry.get("request") if isinstance(entry, dict) else None
    if not isinstance(request, dict) or not isinstance(request.get("url"), str):
        return None
    try:
        parts = urlsplit(request["url"])
    except ValueError:
        return None
    method = request.get("method")
    if not isinstance(method, str) or not method.isalpha() or len(method) > 20:
        return None
    target = (parts.path or "/") + (f"?{parts.query}" if parts.query else "")
    if not target.startswith("/") or any(sign <= " " for sign in target):
        return None
    return RecordedRequest(
        method=method.upper(), target=target, headers=tuple(_headers(request.get("headers"))), body=_body(request)
    )


def _headers(given: Any) -> Iterator[tuple[str, str]]:
    for each in given if isinstance(given, list) else ():
        name, value = (each.get("name"), each.get("value")) if isinstance(each, dict) else (None, None)
        if not isinstance(name, str) or not isinstance(value, str):
            continue
        if name.startswith(":") or name.lower() in _DROPPED or any(sign in value for sign in "\r\n\0"):
            continue
        yield name, value


def _body(request: dict[str, Any]) -> bytes:
    data = request.get("postData")
    written = data.get("text") if isinstance(data, dict) else None
    if not isinstance(written, str):
        return b""
    if isinstance(data, dict) and data.get("encoding") == "base64":
        try:
            return base64.b64decode(written, validate=True)
        except binascii.Error:
            return b""
    return written.encode("utf-8", "surrogatepass")


def from_calls(calls: Iterable[Call]) -> Recording:
    """Requests out of lines of a log: those of GET only, for nothing else can be asked again without its body."""
    given = list(calls)
    wanted = [call for call in given if call.method == "GET" and call.path.startswith("/") and " " not in call.path]
    return Recording(
        tuple(RecordedRequest(method="GET", target=call.path) for call in wanted), len(given) - len(wanted)
    )
