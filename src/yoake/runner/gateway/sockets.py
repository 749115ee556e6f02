"""Websockets through a gateway: messages of both directions, until one end closes."""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable, MutableMapping
from typing import Any

import aiohttp
from yarl import URL

from yoake.core.crossing.rules import Limits

_OWN = frozenset(("sec-websocket-key", "sec-websocket-version", "sec-websocket-extensions", "sec-websocket-protocol"))


async def pass_socket(
    session: aiohttp.ClientSession,
    url: URL,
    headers: list[tuple[str, str]],
    scope: MutableMapping[str, Any],
    receive: Callable[[], Awaitable[MutableMapping[str, Any]]],
    send: Callable[[MutableMapping[str, Any]], Awaitable[None]],
    limits: Limits,
) -> int:
    """Passes one websocket on; answers 101, or 0 where the side did not take it."""
    await receive()  # the request to open
    try:
        socket = await session.ws_connect(
            url,
            headers=[(name, value) for name, value in headers if name not in _OWN and name != "content-length"],
            protocols=scope.get("subprotocols") or (),
            timeout=aiohttp.ClientWSTimeout(ws_close=limits.connect),
            max_msg_size=0,
        )
    except (aiohttp.ClientError, TimeoutError, OSError):
        await send({"type": "websocket.close", "code": 1014})
        return 0
    await send({"type": "websocket.accept", "subprotocol": socket.protocol})
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
    return 101


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
