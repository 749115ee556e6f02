"""Headers as they pass a gateway (RFC 9110, 7.6): what belongs to one connection stays behind, who called is told."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from http.cookies import CookieError, SimpleCookie
from typing import Final

HOP: Final = "x-crossing-hop"
"""Says that a request passed this gateway; one that comes back is a loop."""

_ONE_CONNECTION: Final = frozenset(
    (
        b"connection",
        b"keep-alive",
        b"proxy-authenticate",
        b"proxy-authorization",
        b"proxy-connection",
        b"te",
        b"trailer",
        b"transfer-encoding",
        b"upgrade",
    )
)
_TOLD_ANEW: Final = frozenset((b"x-forwarded-for", b"x-forwarded-proto", b"x-forwarded-host", HOP.encode()))

RawHeaders = Iterable[tuple[bytes, bytes]]


def plain(headers: RawHeaders) -> dict[str, str]:
    """Names in lower case → value; of several the last."""
    return {name.decode("latin-1").lower(): value.decode("latin-1") for name, value in headers}


def cookies(headers: Mapping[str, str]) -> dict[str, str]:
    """The cookies of a request; those that cannot be read are left out."""
    text = headers.get("cookie", "")
    if not text:
        return {}
    try:
        return {name: morsel.value for name, morsel in SimpleCookie(text).items()}
    except CookieError:
        pairs = (part.strip().partition("=") for part in text.split(";"))
        return {name: value for name, _, value in pairs if name}


def passed_on(headers: RawHeaders) -> list[tuple[bytes, bytes]]:
    """Headers without those of one connection, and those that ``connection`` names."""
    given = [(name.lower(), value) for name, value in headers]
    named = {part.strip().lower() for name, value in given if name == b"connection" for part in value.split(b",")}
    return [(name, value) for name, value in given if name not in _ONE_CONNECTION and name not in named]


def asked(headers: RawHeaders, client: str, scheme: str, hop: str) -> list[tuple[str, str]]:
    """Headers of the request to a side: what the caller sent, and who that was. The host stays the caller's."""
    given = passed_on(headers)
    known = {name: value for name, value in given if name in _TOLD_ANEW or name == b"host"}
    chain = known.get(b"x-forwarded-for", b"").decode("latin-1")
    kept = [(name.decode("latin-1"), value.decode("latin-1")) for name, value in given if name not in _TOLD_ANEW]
    return [
        *kept,
        ("x-forwarded-for", f"{chain}, {client}" if chain else client),
        ("x-forwarded-proto", scheme),
        ("x-forwarded-host", known.get(b"host", b"").decode("latin-1")),
        (HOP, hop),
    ]
