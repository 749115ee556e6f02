"""A side that speaks TLS is asked for by its name, by the gateway only where its certificate is trusted. Skips without openssl."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx2
import pytest

from tests.runner.gateway.sides import SideServer, free_port, make_certificate, rules_text, served
from tests.waiting import until

pytestmark = pytest.mark.skipif(shutil.which("openssl") is None, reason="needs openssl from Debian's packages")
ROUTES = '  - {route: "GET /whole/{day}", stands: new}\n'


@pytest.fixture(scope="module")
def certificate(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    return make_certificate(tmp_path_factory.mktemp("tls"))


@contextmanager
def gateway(folder: Path, certificate: tuple[Path, Path], **surroundings: str) -> Iterator[httpx2.Client]:
    """The real command before an old side and a new one that speaks TLS."""
    old, new, port = SideServer(name="old"), SideServer(name="new"), free_port()
    made, key = certificate
    with served(old) as at, served(new, ssl_certfile=str(made), ssl_keyfile=str(key)) as behind:
        rules = folder / "rules.yaml"
        rules.write_text(
            rules_text(at, behind, ROUTES).replace(f"http://127.0.0.1:{behind}", f"https://localhost:{behind}")
        )
        command = [sys.executable, "-m", "yoake", "gateway", str(rules), "--port", str(port)]
        running = subprocess.Popen(command, env=os.environ | surroundings, stderr=subprocess.DEVNULL)
        try:
            with httpx2.Client(base_url=f"http://127.0.0.1:{port}") as client:
                until(lambda: answers(client), 60)
                yield client
        finally:
            running.terminate()
            running.wait(20)


def answers(client: httpx2.Client) -> bool:
    try:
        return client.get("/").status_code == 200
    except httpx2.TransportError:
        return False


def test_a_side_with_a_trusted_certificate_answers(tmp_path: Path, certificate: tuple[Path, Path]) -> None:
    with gateway(tmp_path, certificate, SSL_CERT_FILE=str(certificate[0])) as client:
        assert client.get("/whole/today").headers["x-side"] == "new"


def test_a_side_nobody_trusts_is_one_that_cannot_be_reached(tmp_path: Path, certificate: tuple[Path, Path]) -> None:
    """Nothing was sent to it, so the old side answers."""
    with gateway(tmp_path, certificate) as client:
        assert client.get("/whole/today").headers["x-side"] == "old"
