"""The desk at the quay, twice and for real: the old side, the new one, a gateway between them, and callers.

Run as a program of its own (``python -m yoake.demo.sides HOME PORT``): the old side answers on PORT, the new one on the next, the
gateway on the one after. It ends with the program that started it.
"""

from __future__ import annotations

import asyncio
import importlib
import os
import random
import sys
import threading
from collections.abc import Awaitable, Callable, MutableMapping
from pathlib import Path
from typing import Any, Final

import aiohttp
import uvicorn

from yoake.formats.crossing_rules import with_sides
from yoake.runner.answers import write_whole
from yoake.runner.gateway.gateway import Gateway
from yoake.runner.gateway.rules_file import RulesFile

OLD, NEW = "quay-desk", "quay-desk-next"
_CALLS_A_SECOND: Final = 6.0
_WEIGHTS: Final = {
    "/sailings": 30,
    "/sailings/2026-12-{n}": 20,
    "/ports/harrow/board": 14,
    "/tickets/W{m}": 14,
    "/fares?to=skerry&adults={a}&children={c}": 6,
    "/account": 5,
    "/office/manifests": 1,
}
_SLOW: Final = 0.4  # seconds that the new side takes while it is made to

Send = Callable[[MutableMapping[str, Any]], Awaitable[None]]


class Switched:
    """The new side with switches for trying: ``POST /demo/switch?mended=1`` mends the rounding of fares, ``failing=1`` makes it fail,
    ``slow=1`` makes it slow."""

    def __init__(self, app: Any, sales: Any) -> None:
        self._app = app
        self._sales = sales
        self._fare = sales.fare
        self.on: dict[str, bool] = {"mended": False, "failing": False, "slow": False}

    async def __call__(self, scope: MutableMapping[str, Any], receive: Any, send: Send) -> None:
        """One request."""
        if scope["type"] == "http" and scope["path"] == "/demo/switch":
            for pair in scope["query_string"].decode().split("&"):
                name, _, value = pair.partition("=")
                if name in self.on:
                    self.on[name] = value == "1"
            self._sales.fare = self._rounded_down if self.on["mended"] else self._fare
            await _say(send, 200, str(self.on))
            return
        if scope["type"] == "http" and self.on["slow"]:
            await asyncio.sleep(_SLOW)
        if scope["type"] == "http" and self.on["failing"]:
            await _say(send, 500, "The lamp is out.")
            return
        await self._app(scope, receive, send)

    def _rounded_down(self, start: str, end: str, adults: int, children: int) -> float:
        each = self._sales.PENNIES.get((start, end), 2000)
        return float((each * adults + each // 2 * children) / 100)


async def _say(send: Send, status: int, text: str) -> None:
    await send({"type": "http.response.start", "status": status, "headers": [(b"content-type", b"text/plain")]})
    await send({"type": "http.response.body", "body": text.encode()})


def side_apps(repositories: Path) -> tuple[Any, Switched]:
    """Both applications out of their repositories."""
    for name in (OLD, NEW):
        sys.path.insert(0, str(repositories / name))
    old = importlib.import_module("quay.app").app
    new = importlib.import_module("quay_next.app").app
    return old, Switched(new, importlib.import_module("quay_next.sales"))


def rules_path(home: Path) -> Path:
    """Where the rules of the demo stand."""
    return home / "crossings" / OLD / "rules.yaml"


async def run(home: Path, port: int, *, calls: bool = True) -> None:
    """Serves both sides and the gateway, and calls now and then, until it is cancelled."""
    old, new = side_apps(home / "harrowmere")
    path = rules_path(home)
    text = path.read_text("utf-8")
    write_whole(path, with_sides(text, f"http://127.0.0.1:{port}", f"http://127.0.0.1:{port + 1}"))
    gateway = Gateway(RulesFile(path), path.parent)
    servers = [_server(old, port), _server(new, port + 1), _server(gateway, port + 2)]
    tasks = [asyncio.create_task(server.serve()) for server in servers]
    if calls:
        tasks.append(asyncio.create_task(_call(f"http://127.0.0.1:{port + 2}")))
    try:
        await asyncio.gather(*tasks)
    finally:
        for server in servers:
            server.should_exit = True


def _server(app: Any, port: int) -> uvicorn.Server:
    config = uvicorn.Config(
        app, port=port, log_level="error", access_log=False, ws="websockets-sansio", proxy_headers=False
    )
    server = uvicorn.Server(config)
    server.install_signal_handlers = lambda: None  # type: ignore[attr-defined]
    return server


async def _call(url: str) -> None:
    """A few made-up callers who look at sailings, boards and tickets."""
    chance = random.Random(7)  # noqa: S311 - callers of a demo
    async with aiohttp.ClientSession() as session:
        while True:
            await asyncio.sleep(1 / _CALLS_A_SECOND)
            path = chance.choices(list(_WEIGHTS), list(_WEIGHTS.values()))[0]
            path = path.format(
                n=f"{chance.randrange(1, 29):02}",
                m=chance.randrange(900),
                a=1 + chance.randrange(3),
                c=chance.randrange(2),
            )
            caller = f"crossing_caller=demo{chance.randrange(200)}"
            try:
                async with session.get(f"{url}{path}", headers={"Cookie": caller}) as answer:
                    await answer.read()
            except aiohttp.ClientError:
                await asyncio.sleep(1)


def _end_with_parent() -> None:
    """Ends when whoever started this is gone: then nothing more comes in."""
    sys.stdin.buffer.read()
    os._exit(0)


def main() -> None:
    """``python -m yoake.demo.sides HOME PORT``."""
    home, port = Path(sys.argv[1]), int(sys.argv[2])
    threading.Thread(target=_end_with_parent, daemon=True).start()
    asyncio.run(run(home, port))


if __name__ == "__main__":
    main()
