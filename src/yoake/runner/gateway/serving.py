"""Starts a gateway."""

from __future__ import annotations

from pathlib import Path
from urllib.parse import urlsplit

import uvicorn

from yoake.core.values.errors import BadInput
from yoake.runner.gateway.gateway import Gateway
from yoake.runner.gateway.rules_file import RulesFile

_OWN_HOSTS = frozenset(("127.0.0.1", "localhost", "::1", "0.0.0.0"))  # noqa: S104 - compared with, not bound to


def serve_gateway(rules: Path, host: str, port: int) -> None:
    """Answers until it is stopped. Raises BadInput for rules that are wrong or that name the gateway itself."""
    file = RulesFile(rules)
    for address in (file.rules.old, file.rules.new):
        parts = urlsplit(address)
        if parts.port == port and parts.hostname in _OWN_HOSTS and host in _OWN_HOSTS:
            raise BadInput(f"{address} is the gateway itself: a side needs an address of its own.")
    uvicorn.run(
        Gateway(file, rules.parent),
        host=host,
        port=port,
        loop="uvloop",
        http="httptools",
        ws="websockets-sansio",
        access_log=False,
        log_level="warning",
        proxy_headers=False,  # what a caller says of itself is told on, not believed
        server_header=False,
        date_header=False,
        timeout_graceful_shutdown=10,
    )
