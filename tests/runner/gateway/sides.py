"""Two small real servers and a gateway in front of them, each on a port of its own."""

from __future__ import annotations

import asyncio
import hashlib
import json
import socket
import subprocess
import threading
from collections.abc import Callable, Iterator, MutableMapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import uvicorn

from tests.waiting import until
from yoake.runner.gateway.gateway import Gateway
from yoake.runner.gateway.records import LINES
from yoake.runner.gateway.rules_file import RulesFile

App = Callable[..., Any]


@dataclass(kw_only=True)
class SideServer:
    """Says which side it is, and what it was asked. ``fails``: it answers 500; ``slow``: seconds it waits; ``filling``: characters that
    come before the fare."""

    name: str
    fails: bool = False
    slow: float = 0.0
    fares: float = 12.5
    filling: int = 0
    seen: list[dict[str, Any]] = field(default_factory=list)
    port: int = 0

    async def __call__(self, scope: MutableMapping[str, Any], receive: Any, send: Any) -> None:
        if scope["type"] == "websocket":
            await receive()
            await send({"type": "websocket.accept"})
            while (message := await receive())["type"] == "websocket.receive":
                await send({"type": "websocket.send", "text": f"{self.name}: {message.get('text')}"})
            return
        body = hashlib.sha256()
        length = 0
        whole = b""
        while True:
            message = await receive()
            piece = message.get("body", b"")
            body.update(piece)
            length += len(piece)
            whole = piece if len(whole) == 0 else whole
            if not message.get("more_body"):
                break
        headers = {k.decode(): v.decode() for k, v in scope["headers"]}
        self.seen.append(
            {
                "method": scope["method"],
                "path": scope["path"],
                "headers": headers,
                "length": length,
                "begin": whole[:80],
            }
        )
        if self.slow:
            await asyncio.sleep(self.slow)
        if scope["path"] == "/events":
            await self._events(send)
            return
        answer: dict[str, Any] = {
            "filling": "x" * self.filling,
            "path": scope["path"],
            "fare": self.fares,
            "length": length,
            "digest": body.hexdigest(),
        }
        if scope["path"].startswith("/whole"):
            answer |= {"side": self.name, "headers": headers, "query": scope["query_string"].decode()}
        text = json.dumps(answer).encode()
        await send(
            {
                "type": "http.response.start",
                "status": 500 if self.fails else 200,
                "headers": [
                    (b"content-type", b"application/json"),
                    (b"content-length", str(len(text)).encode()),
                    (b"x-side", self.name.encode()),
                    (b"set-cookie", b"a=1"),
                    (b"set-cookie", b"b=2"),
                    (b"keep-alive", b"timeout=5"),
                ],
            }
        )
        await send({"type": "http.response.body", "body": text})

    async def _events(self, send: Any) -> None:
        await send({"type": "http.response.start", "status": 200, "headers": [(b"content-type", b"text/event-stream")]})
        for number in range(3):
            await send({"type": "http.response.body", "body": f"data: {number}\n\n".encode(), "more_body": True})
            await asyncio.sleep(0.2)
        await send({"type": "http.response.body", "body": b""})


def make_certificate(folder: Path) -> tuple[Path, Path]:
    """(certificate, key) of localhost, made a moment ago and trusted by nobody; needs openssl."""
    made, key = folder / "side.pem", folder / "side.key"
    request = ["req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "1", "-subj", "/CN=localhost"]
    names = ["-addext", "subjectAltName=DNS:localhost", "-keyout", str(key), "-out", str(made)]
    subprocess.run(["openssl", *request, *names], check=True, capture_output=True)
    return made, key


def free_port() -> int:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return int(found.getsockname()[1])


@contextmanager
def served(app: App, port: int = 0, **settings: Any) -> Iterator[int]:
    """An ASGI application on a port of its own."""
    port = port or free_port()
    server = uvicorn.Server(
        uvicorn.Config(
            app,
            port=port,
            log_level="error",
            http="httptools",
            ws="websockets-sansio",
            timeout_graceful_shutdown=2,
            proxy_headers=False,
            **settings,
        )
    )
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    until(lambda: server.started, 20)
    try:
        yield port
    finally:
        server.should_exit = True
        thread.join(20)


@dataclass
class Crossing:
    """Everything that runs, and the file of rules."""

    old: SideServer
    new: SideServer
    gateway: Gateway
    port: int
    file: Path

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def lines(self) -> list[dict[str, Any]]:
        """What the gateway wrote down."""
        path = self.gateway.record.folder / LINES
        return [json.loads(line) for line in path.read_text().splitlines()] if path.exists() else []


def rules_text(old: int, new: int, routes: str, more: str = "") -> str:
    return (
        "yoake: crossing/1\napplication: quay\n"
        f"sides: {{old: 'http://127.0.0.1:{old}', new: 'http://127.0.0.1:{new}'}}\n{more}\nroutes:\n{routes}"
    )


@contextmanager
def crossing(folder: Path, routes: str, more: str = "", *, dead: str = "") -> Iterator[Crossing]:
    """Both sides and the gateway. ``dead``: a side that nobody starts."""
    old, new = SideServer(name="old"), SideServer(name="new")
    with (
        served(old) if dead not in ("old", "both") else _nobody() as old.port,
        served(new) if dead not in ("new", "both") else _nobody() as new.port,
    ):
        file = folder / "rules.yaml"
        file.write_text(rules_text(old.port, new.port, routes, more))
        gateway = Gateway(RulesFile(file), folder)
        with served(gateway, lifespan="on") as port:
            yield Crossing(old, new, gateway, port, file)


@contextmanager
def _nobody() -> Iterator[int]:
    yield free_port()
