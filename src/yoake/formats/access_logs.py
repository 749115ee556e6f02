"""Access logs → calls: Common and Combined format as Apache and nginx write them, and JSON a line. Read in pieces, so that size is no matter."""

from __future__ import annotations

import json
import re
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import lru_cache
from typing import Any, Final

from yoake.core.crossing.traffic import Call

_PIECE: Final = 1 << 20
_LONGEST_LINE: Final = 1 << 16  # bytes; longer ones are told and left out
_COMMON: Final = re.compile(
    rb"^[^\n\"\[{]*\[(\d\d/\w{3}/\d{4})[^\]\n]*\] \"([A-Z]{3,20}) ([^\s\"?]+)[^\"\n]*\" (\d{3})\b", re.MULTILINE
)
_MONTHS: Final = {
    name: f"{number:02d}" for number, name in enumerate(b"Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec".split(), 1)
}
_REQUEST: Final = re.compile(r"^([A-Z]{3,20}) (\S+)")
_METHODS: Final = ("method", "request_method", "http_method", "verb")
_PATHS: Final = ("path", "uri", "request_uri", "url", "request_path", "http_path")
_STATUSES: Final = ("status", "status_code", "response_status", "code")
_TIMES: Final = ("time", "timestamp", "@timestamp", "ts", "time_iso8601", "date", "datetime", "time_local", "msec")
_ESCAPED: Final = re.compile(r"\\x([0-9A-Fa-f]{2})")


@dataclass(frozen=True, slots=True)
class LogPiece:
    """Calls of one piece of a log with how often each came, how many lines there were, and how many of them are no calls."""

    calls: Counter[Call]
    lines: int
    others: int
    sample: str = ""


def read_access_log(pieces: Iterable[bytes]) -> Iterator[LogPiece]:
    """Calls out of a log that comes in pieces of any size."""
    rest = b""
    dropping = False
    for piece in pieces:
        text = rest + piece
        end = text.rfind(b"\n")
        if end < 0:
            if len(text) > _LONGEST_LINE:
                rest, dropping = b"", True
            else:
                rest = text
            continue
        whole, rest = text[: end + 1], text[end + 1 :]
        if dropping:
            whole = whole[whole.find(b"\n") + 1 :]
            dropping = False
            yield LogPiece(Counter(), 1, 1, "a line of more than 64 KB")
        if len(rest) > _LONGEST_LINE:
            rest, dropping = b"", True
        if whole:
            yield _read(whole)
    if rest and not dropping:
        yield _read(rest)


def pieces_of(read: Any) -> Iterator[bytes]:
    """What an open file gives, piece by piece."""
    while piece := read(_PIECE):
        yield piece


def _read(text: bytes) -> LogPiece:
    lines = text.count(b"\n") + (not text.endswith(b"\n"))
    rows = _COMMON.findall(text)
    calls: Counter[Call] = Counter()
    for row, count in Counter(rows).items():
        calls[_call(*row)] += count
    if len(rows) == lines:
        return LogPiece(calls, lines, 0)
    return _with_others(text, calls, lines)


def _with_others(text: bytes, calls: Counter[Call], lines: int) -> LogPiece:
    """Lines that are not in the common format: JSON, empty ones, and what says nothing."""
    others = 0
    sample = ""
    for line in text.split(b"\n"):
        if not line.strip():
            lines -= 1 if line else 0
            continue
        if _COMMON.match(line):
            continue
        call = _json_call(line) if line.lstrip()[:1] == b"{" else None
        if call is not None:
            calls[call] += 1
        else:
            others += 1
            sample = sample or line[:200].decode("utf-8", "replace")
    return LogPiece(calls, lines, others, sample)


def _call(day: bytes, method: bytes, path: bytes, status: bytes) -> Call:
    return Call(_common_day(day), _word(method), _path(path.decode("utf-8", "replace")), int(status))


@lru_cache(maxsize=1024)
def _common_day(day: bytes) -> str:
    month = _MONTHS.get(day[3:6])
    return f"{day[7:].decode()}-{month}-{day[:2].decode()}" if month else ""


@lru_cache(maxsize=256)
def _word(method: bytes) -> str:
    return method.decode()


def _path(target: str) -> str:
    """The path of a request target: without query; of a whole address, what stands behind the host."""
    if target[:1] == "/" and "\\" not in target and "?" not in target:
        return target
    if "\\x" in target:
        target = _ESCAPED.sub(lambda m: chr(int(m.group(1), 16)), target)
    if not target.startswith("/") and "://" in target[:10]:
        target = "/" + target.split("://", 1)[1].partition("/")[2]
    return target.split("?", 1)[0]


def _json_call(line: bytes) -> Call | None:
    try:
        body = json.loads(line)
    except (ValueError, RecursionError):
        return None
    if not isinstance(body, dict):
        return None
    for inner in ("request", "http", "httpRequest", "req"):
        if isinstance(body.get(inner), dict):
            body = {**body[inner], **body}
    method, path = _first(body, _METHODS), _first(body, _PATHS)
    request = body.get("request", body.get("request_line"))
    if isinstance(request, str) and (found := _REQUEST.match(request)):
        method, path = method or found.group(1), path or found.group(2)
    if not isinstance(method, str) or not isinstance(path, str):
        return None
    status = _first(body, _STATUSES)
    number = (
        int(status)
        if isinstance(status, int) or (isinstance(status, str) and status.isdigit() and len(status) < 4)
        else 0
    )
    return Call(_day(_first(body, _TIMES)), method.upper()[:20], _path(path), number)


def _first(body: dict[str, Any], names: tuple[str, ...]) -> Any:
    return next((body[name] for name in names if body.get(name) is not None), None)


def _day(value: Any) -> str:
    """A day out of what logs write as time: ISO 8601, seconds or milliseconds since 1970, or the common format."""
    if isinstance(value, str):
        if re.match(r"\d{4}-\d\d-\d\d", value):
            return value[:10]
        common = re.match(r"(\d\d)/(\w{3})/(\d{4})", value)
        if common and (month := _MONTHS.get(common.group(2).encode())):
            return f"{common.group(3)}-{month}-{common.group(1)}"
        try:
            value = float(value)
        except ValueError:
            return ""
    if isinstance(value, int | float) and 0 < value < 1e14:
        seconds = value / 1000 if value > 1e11 else value
        return datetime.fromtimestamp(seconds, UTC).date().isoformat()
    return ""
