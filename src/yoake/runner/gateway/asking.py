"""One request of one side, and its whole answer."""

from __future__ import annotations

import time
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import aiohttp
from yarl import URL

from yoake.core.crossing.parity import Answer

if TYPE_CHECKING:
    from yoake.core.crossing.rules import Limits

LOST = (aiohttp.ClientError, TimeoutError, OSError)
"""What keeps a side from answering."""


async def whole(content: aiohttp.StreamReader, most: int) -> bytes:
    """A body to its end, or one byte more than ``most`` of it."""
    kept = bytearray()
    async for piece in content.iter_any():
        kept.extend(piece)
        if len(kept) > most:
            break
    return bytes(kept[: most + 1])


async def ask_side(
    session: aiohttp.ClientSession,
    method: str,
    url: URL,
    headers: Sequence[tuple[str, str]] | Mapping[str, str],
    body: bytes | None,
    limits: Limits,
    most: int,
) -> Answer | None:
    """What a side answers, without following where it points to; None where it does not answer in time."""
    begin = time.perf_counter()
    try:
        async with session.request(
            method,
            url,
            headers=headers,
            data=body,
            allow_redirects=False,
            timeout=aiohttp.ClientTimeout(total=limits.answer, sock_connect=limits.connect),
        ) as response:
            content = await whole(response.content, most)
            names = {name.decode("latin-1").lower(): value.decode("latin-1") for name, value in response.raw_headers}
            return Answer(status=response.status, headers=names, body=content, seconds=time.perf_counter() - begin)
    except LOST:
        return None
