"""The configuration for nginx does in a real nginx what the rules say. Skips, and says so, where there is no nginx."""

from __future__ import annotations

import os
import shutil
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx2
import pytest

from tests.runner.gateway.sides import SideServer, free_port, make_certificate, rules_text, served
from tests.waiting import until
from yoake.formats.crossing_rules import read_rules
from yoake.formats.nginx import nginx_configuration

NGINX = shutil.which("nginx", path=f"{os.environ.get('PATH', '')}:/usr/sbin")
pytestmark = pytest.mark.skipif(NGINX is None, reason="needs nginx from Debian's packages")

ROUTES = """
  - {route: "GET /whole/{day}", stands: new}
  - {route: "GET /whole/today", stands: old}
  - {route: "GET /whole/files/{path}", stands: new, rest: [path]}
  - {route: "GET /whole/shared/{x}", stands: shared, share: 50}
  - {route: "GET /mirrored", stands: mirrored}
  - {route: "POST /mirrored", stands: mirrored}
  - {route: "ANY /any", stands: mirrored}
  - {route: "POST /upload", stands: new}
  - {route: "GET /a.b$c/{x}", stands: new}
"""


@contextmanager
def behind(
    folder: Path, routes: str, new_port: int = 0, tls: tuple[Path, Path] | None = None
) -> Iterator[tuple[SideServer, SideServer, str]]:
    old, new = SideServer(name="old"), SideServer(name="new")
    port = free_port()
    speaking: dict[str, Any] = {"ssl_certfile": str(tls[0]), "ssl_keyfile": str(tls[1])} if tls else {}
    with served(old) as old.port, served(new, **speaking) as new.port:
        rules = rules_text(old.port, new_port or new.port, routes)
        if tls:
            rules = rules.replace(f"http://127.0.0.1:{new.port}", f"https://localhost:{new.port}")
        text = nginx_configuration(read_rules(rules), port)
        temporary = " ".join(
            f"{name}_temp_path {folder}/{name};" for name in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
        )
        conf = folder / "nginx.conf"
        conf.write_text(
            f"daemon off; pid {folder}/nginx.pid; error_log {folder}/error.log; events {{}}\n"
            f"http {{ access_log off; {temporary}\n{text}}}\n"
        )
        subprocess.run([str(NGINX), "-t", "-c", str(conf)], check=True, capture_output=True)
        server = subprocess.Popen([str(NGINX), "-c", str(conf)], stderr=subprocess.DEVNULL)
        try:
            until((folder / "nginx.pid").exists, 10)
            yield old, new, f"http://127.0.0.1:{port}"
        finally:
            server.terminate()
            server.wait(10)


def test_nginx_answers_from_where_each_route_stands(tmp_path: Path) -> None:
    with behind(tmp_path, ROUTES) as (old, new, url), httpx2.Client(base_url=url) as client:

        def side(path: str, **headers: str) -> str:
            return str(client.get(path, headers=headers).headers["x-side"])

        assert side("/whole/today") == "old"
        assert side("/whole/2026-11-02") == side("/whole/2026-11-02/") == "new"
        assert side("/whole/files/a/b/c") == "new"
        assert side("/whole/a/b") == side("/nothing") == "old"
        assert side("/a.b$c/1") == "new"
        assert side("/aXb$c/1") == "old"
        assert side("/whole/today", **{"X-Crossing-Side": "new"}) == "new"
        assert client.post("/upload", content=b"x" * 100_000).json()["length"] == 100_000
        assert new.seen[-1]["headers"]["x-forwarded-for"] == "127.0.0.1"
        assert client.get("/mirrored").headers["x-side"] == "old"
        client.post("/mirrored", content=b"changes something")
        client.post("/any", content=b"changes something")
        until(lambda: any(each["path"] == "/mirrored" for each in new.seen), 10)
        assert [each["method"] for each in new.seen if each["path"] == "/mirrored"] == ["GET"]
        assert [each["method"] for each in old.seen if each["path"] == "/mirrored"] == ["GET", "POST"]
        assert "/any" not in {each["path"] for each in new.seen}


def test_callers_stay_where_they_are(tmp_path: Path) -> None:
    with behind(tmp_path, ROUTES) as (_old, _new, url):
        sides: list[str] = []
        for _ in range(20):
            with httpx2.Client(base_url=url) as client:
                client.get("/whole/shared/0")
                found = {client.get(f"/whole/shared/{i}").headers["x-side"] for i in range(3)}
                assert len(found) == 1
                sides.extend(found)
        assert set(sides) == {"old", "new"}


def test_the_old_side_answers_where_the_new_one_is_dead(tmp_path: Path) -> None:
    with behind(tmp_path, ROUTES, new_port=free_port()) as (_old, _new, url), httpx2.Client(base_url=url) as client:
        assert client.get("/whole/2026-11-02").headers["x-side"] == "old"


@pytest.mark.skipif(shutil.which("openssl") is None, reason="needs openssl from Debian's packages")
def test_a_side_that_speaks_tls_is_asked_so_and_the_other_as_before(tmp_path: Path) -> None:
    """Mirrored copies, too."""
    with (
        behind(tmp_path, ROUTES, tls=make_certificate(tmp_path)) as (_, new, url),
        httpx2.Client(base_url=url) as client,
    ):
        assert client.get("/whole/2026-11-02").headers["x-side"] == "new"
        assert client.get("/whole/today").headers["x-side"] == "old"
        assert client.get("/mirrored").headers["x-side"] == "old"
        until(lambda: any(one["path"] == "/mirrored" for one in new.seen), 10)
