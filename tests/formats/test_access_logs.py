"""Lines of access logs are calls, whatever writes them; everything else is counted and left out."""

from __future__ import annotations

import json
from collections.abc import Iterator

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yoake.core.crossing.traffic import Call
from yoake.formats.access_logs import read_access_log

COMMON = b'127.0.0.1 - frank [02/Nov/2026:13:55:36 +0000] "GET /boats/7?x=1 HTTP/1.1" 200 2326\n'
COMBINED = (
    b'10.0.0.1 - - [02/Nov/2026:13:55:37 +0000] "POST /tickets HTTP/2.0" 502 0 "https://x/" "Mozilla/5.0 \\"x\\""\n'
)
WHOLE = b'10.0.0.1 - - [02/Nov/2026:13:55:37 +0000] "GET http://ferry.example/a HTTP/1.1" 304 0\n'


def calls(text: bytes, size: int = 1 << 20) -> tuple[dict[Call, int], int, int]:
    def pieces() -> Iterator[bytes]:
        yield from (text[at : at + size] for at in range(0, len(text), size))

    found: dict[Call, int] = {}
    lines = others = 0
    for piece in read_access_log(pieces()):
        lines += piece.lines
        others += piece.others
        for call, count in piece.calls.items():
            found[call] = found.get(call, 0) + count
    return found, lines, others


def test_common_and_combined_lines() -> None:
    found, lines, others = calls(COMMON * 3 + COMBINED + WHOLE)
    assert found == {
        Call("2026-11-02", "GET", "/boats/7", 200): 3,
        Call("2026-11-02", "POST", "/tickets", 502): 1,
        Call("2026-11-02", "GET", "/a", 304): 1,
    }
    assert (lines, others) == (5, 0)


@pytest.mark.parametrize(
    "body",
    [
        {"time": "2026-11-02T10:00:00Z", "method": "GET", "path": "/a", "status": 200},
        {"@timestamp": "2026-11-02T10:00:00+01:00", "request_method": "get", "request_uri": "/a?b=1", "status": "200"},
        {"ts": 1793613600.5, "request": {"method": "GET", "uri": "/a"}, "status": 200},
        {"time_local": "02/Nov/2026:10:00:00 +0000", "request": "GET /a HTTP/1.1", "status": 200},
        {"timestamp": 1793613600500, "http_method": "GET", "url": "http://x/a", "status_code": 200},
    ],
)
def test_json_lines(body: dict[str, object]) -> None:
    found, _, others = calls(json.dumps(body).encode() + b"\n")
    assert found == {Call("2026-11-02", "GET", "/a", 200): 1}
    assert others == 0


@given(st.integers(min_value=1, max_value=200))
def test_the_size_of_the_pieces_is_no_matter(size: int) -> None:
    assert calls(COMMON + COMBINED + b"no log line\n" + WHOLE, size) == calls(
        COMMON + COMBINED + b"no log line\n" + WHOLE
    )


def test_what_is_no_request_is_counted_and_harms_nothing() -> None:
    text = (
        b"\n"
        + COMMON
        + b'\x00\xff\xfe\n{"a": 1}\n[]\n{"method": 5, "path": []}\n'
        + b'1 - - [02/Nov/2026:13:55:36 +0000] "\\x16\\x03" 400 0\n'
        + b'1 - - [99/Foo/2026:13:55:36 +0000] "GET /x HTTP/1.1" 200 0\n'
        + b"{" * 40_000
        + b"\n"
        + b"x" * 300_000
        + b"\n"
        + COMMON
    )
    found, _, others = calls(text, 4096)
    assert found[Call("2026-11-02", "GET", "/boats/7", 200)] == 2
    assert found[Call("", "GET", "/x", 200)] == 1
    assert others == 7
