"""Behind a real nginx with TLS, set up by the very lines of the operating page. Skips, and says so, where there is no nginx."""

from __future__ import annotations

import os
import re
import shutil
import socket
import subprocess
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import httpx
import pytest

from tests.conftest import write
from tests.waiting import until

NGINX = shutil.which("nginx", path=f"{os.environ.get('PATH', '')}:/usr/sbin")
OPERATING = Path(__file__).parents[2] / "docs" / "operating.md"
SITE = "yoake.example.org"
PASSWORD = "nine tides and a half"

pytestmark = pytest.mark.skipif(
    NGINX is None or shutil.which("openssl") is None, reason="needs nginx and openssl from Debian's packages"
)


@dataclass
class Site:
    """A server behind nginx: where nginx listens, and the link of the first start."""

    address: str
    first: str

    def client(self) -> httpx.Client:
        """Somebody's browser: it asks the site by its name."""
        headers = {"Host": SITE, "Origin": f"https://{SITE}"}
        return httpx.Client(base_url=self.address, headers=headers, verify=False)  # noqa: S501  a certificate made a moment ago


def free_port() -> int:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return int(found.getsockname()[1])


def server_block(folder: Path, listens: int, serves: int) -> str:
    """The block of the operating page, with this test's ports and files."""
    block = re.search(r"^server \{\n.*?^\}\n", OPERATING.read_text("utf-8"), re.MULTILINE | re.DOTALL)
    assert block is not None
    changes = {"listen 443": f"listen 127.0.0.1:{listens}", ":8710": f":{serves}", "/etc/ssl/": f"{folder}/"}
    text = block.group()
    for old, new in changes.items():
        assert old in text
        text = text.replace(old, new)
    return text


@pytest.fixture
def site(tmp_path: Path) -> Iterator[Site]:
    listens, serves = free_port(), free_port()
    files = ("-keyout", str(tmp_path / "yoake.key"), "-out", str(tmp_path / "yoake.pem"))
    subprocess.run(
        ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "1", "-subj", f"/CN={SITE}", *files],
        check=True,
        capture_output=True,
    )
    conf = tmp_path / "nginx.conf"
    temporary = " ".join(
        f"{name}_temp_path {tmp_path}/{name};" for name in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
    )
    conf.write_text(
        f"daemon off; pid {tmp_path}/nginx.pid; error_log {tmp_path}/error.log; events {{}}\n"
        f"http {{ access_log off; {temporary}\n{server_block(tmp_path, listens, serves)}}}\n"
    )
    settings = {
        "YOAKE_HOME": str(tmp_path / "home"),
        "YOAKE_HOSTS": SITE,
        "YOAKE_HTTPS": "1",
        "YOAKE_SIGN_IN": "1",
        "YOAKE_SOURCES": str(tmp_path),
    }
    served = subprocess.Popen(
        [sys.executable, "-m", "yoake", "serve", "--port", str(serves)],
        env={**os.environ, **settings},
        stdout=subprocess.PIPE,
        text=True,
    )
    proxy = subprocess.Popen([str(NGINX), "-p", str(tmp_path), "-c", str(conf)])
    assert served.stdout is not None
    said = next(line for line in served.stdout if "/first?token=" in line)
    made = Site(f"https://127.0.0.1:{listens}", said.split()[-1])
    yield made
    for process in (proxy, served):
        process.terminate()
        process.wait(30)
    served.stdout.close()


def answers(client: httpx.Client) -> bool:
    try:
        return client.get("/api/v1/health").status_code == 200
    except httpx.TransportError:
        return False


def test_a_team_signs_in_writes_and_watches_through_tls(site: Site, tmp_path: Path) -> None:
    source = write(tmp_path / "desk", {".python-version": "3.8\n", "a.py": "import imp\n"})
    with site.client() as client:
        until(lambda: answers(client))
        assert site.first.startswith(f"https://{SITE}/first?token=")
        token = site.first.partition("token=")[2]
        made = client.post("/api/v1/session/first", json={"token": token, "name": "Ines", "password": PASSWORD})
        assert made.status_code == 204
        assert {"secure", "httponly", "samesite=lax"} <= {
            part.strip().lower() for part in made.headers["set-cookie"].split(";")
        }
        client.headers["Cookie"] = made.headers["set-cookie"].partition(";")[0]
        page = client.get("/")
        assert "content-security-policy" in page.headers
        assert page.headers["x-request-id"]
        found = client.post("/api/v1/intake/preview", json={"source": str(source), "destination": "python@3.13"}).json()
        assert client.post("/api/v1/intake", json={"candidates": found["candidates"]}).status_code == 200
        with client.stream("GET", "/api/v1/jobs/stream", timeout=30) as stream:  # nothing holds it back
            told = next(line for line in stream.iter_lines() if line.startswith("data:"))
        assert "desk" in told
        elsewhere = client.post("/api/v1/scans", json={}, headers={"Origin": "https://elsewhere.example.org"})
        assert elsewhere.status_code == 403
        assert client.get("/api/v1/health", headers={"Host": "elsewhere.example.org"}).status_code == 421
    with site.client() as stranger:
        assert stranger.get("/api/v1/portfolio").status_code == 401
