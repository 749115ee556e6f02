"""Websockets through a gateway: messages of both directions, until one end closes."""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable, MutableMapping, Sequence
from typing import TYPE_CHECKING, Any

import aiohttp
from yarl import URL

if TYPE_CHECKING:
    from yoake.core.crossing.rules import Limits

_OWN = frozenset(("sec-websocket-key", "sec-websocket-version", "sec-websocket-extensions", "sec-websocket-protocol"))


async def pass_socket(
    session: aiohttp.ClientSession,
    url: URL,
    headers: Sequence[tuple[str, str]],
    set_cookie: bytes,
    scope: MutableMapping[str, Any],
    receive: Callable[[], Awaitable[MutableMapping[str, Any]]],
    send: Callable[[MutableMapping[str, Any]], Awaitable[None]],
    limits: Limits,
) -> bool:
    """Passes one websocket on until an end closes it; answers whether the side took it. Nothing was said to the caller where not."""
    try:
        socket = await session.ws_connect(
            url,
            headers=[(name, value) for name, value in headers if name not in _OWN and name != "content-length"],
            protocols=scope.get("subprotocols") or (),
            timeout=aiohttp.ClientWSTimeout(ws_close=limits.connect),
            max_msg_size=0,
        )
    except (aiohttp.ClientError, TimeoutError, OSError):
        return False
    answer = [(b"set-cookie", set_cookie)] if set_cookie else []
    await send({"type": "websocket.accept", "subprotocol": socket.protocol, "headers": answer})
    directions = [
        asyncio.create_task(_from_caller(socket, receive)),
        asyncio.create_task(_from_side(socket, send)),
    ]
    try:
        await asyncio.wait(directions, return_when=asyncio.FIRST_COMPLETED)
    finally:
        for each in directions:
            each.cancel()
        await asyncio.gather(*directions, return_exceptions=True)
        await socket.close()
    return True


async def _from_caller(
    socket: aiohttp.ClientWebSocketResponse, receive: Callable[[], Awaitable[MutableMapping[str, Any]]]
) -> None:
    while True:
        message = await receive()
        if message["type"] == "websocket.disconnect":
            await socket.close(code=message.get("code") or 1000)
            return
        if message.get("text") is not None:
            await socket.send_str(message["text"])
        else:
            await socket.send_bytes(message.get("bytes") or b"")


async def _from_side(
    socket: aiohttp.ClientWebSocketResponse, send: Callable[[MutableMapping[str, Any]], Awaitable[None]]
) -> None:
    async for message in socket:
        if message.type is aiohttp.WSMsgType.TEXT:
            await send({"type": "websocket.send", "text": message.data})
        elif message.type is aiohttp.WSMsgType.BINARY:
            await send({"type": "websocket.send", "bytes": message.data})
    await send({"type": "websocket.close", "code": socket.close_code or 1000})
