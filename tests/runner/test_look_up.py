"""Packages looked up all at once, through the real package clients, pointed at a registry of our own on this machine."""

from __future__ import annotations

import json
import shutil
import threading
from collections.abc import Callable, Iterator
from datetime import date
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any
from urllib.parse import unquote

import pytest

from yoake.core.values.coordinates import Coordinate, Line, parse_coordinate
from yoake.core.values.findings import PackageState
from yoake.runner.clients.javascript.records import npm_records
from yoake.runner.clients.python.records import pypi_records
from yoake.runner.home import Home
from yoake.shipped import KIT
from yoake.usecases.look_up import LookUpTask, look_up, without_record

TODAY = date(2026, 11, 27)
METADATA = "Metadata-Version: 2.1\nName: harbour-lamp\nVersion: 2.0\nRequires-Python: >=3.9\nRequires-Dist: wick>=1\nRequires-Dist: oil ; extra == 'all'\n\n"
SAIL = {
    "name": "sail",
    "time": {"1.0.0": "2019-05-04T00:00:00.000Z"},
    "versions": {
        "1.0.0": {"name": "sail", "version": "1.0.0", "engines": {"node": ">=8"}, "peerDependencies": {"mast": "^1.0.0", "flag": "*"},
                  "peerDependenciesMeta": {"flag": {"optional": True}}, "dependencies": {"rope": "^2.0.0"}},
        "2.0.0-beta.1": {"name": "sail", "version": "2.0.0-beta.1"},
        "0.9.0": {"name": "sail", "version": "0.9.0", "deprecated": "leaks"},
    },
}  # fmt: skip
MAST = {
    "name": "mast",
    "versions": {"1.0.0": {"name": "mast", "version": "1.0.0", "peerDependencies": {"keel": "^1.0.0"}}},
}
KEEL = {"name": "keel", "versions": {"1.2.0": {"name": "keel", "version": "1.2.0"}}}


class Shelf(BaseHTTPRequestHandler):
    """A registry of PyPI and npm in one: what the tests need of either."""

    def do_GET(self) -> None:
        address = f"http://{self.headers['Host']}"
        names = ("harbour_lamp-1.0.tar.gz", "harbour_lamp-2.0-py3-none-any.whl", "harbour_lamp-3.0rc1-py3-none-any.whl")
        listed: list[dict[str, Any]] = [
            {"filename": n, "url": f"{address}/files/{n}", "hashes": {}, "requires-python": ">=3.9" if "2.0" in n else None,
             "yanked": False, "upload-time": "2024-02-03T04:05:06Z"}
            for n in names
        ]  # fmt: skip
        held = {
            "/simple/harbour-lamp/": ("application/vnd.pypi.simple.v1+json", {"meta": {"api-version": "1.0"}, "name": "harbour-lamp", "files": listed}),
            "/files/harbour_lamp-2.0-py3-none-any.whl.metadata": ("text/plain", METADATA),
            "/sail": ("application/json", SAIL),
            "/mast": ("application/json", MAST),
            "/keel": ("application/json", KEEL),
        }  # fmt: skip
        kind, body = held.get(unquote(self.path), ("text/plain", None))
        data = (body if isinstance(body, str) else json.dumps(body)).encode()
        self.send_response(200 if body is not None else 404)
        self.send_header("content-type", kind)
        self.send_header("content-length", str(len(data)))
        self.end_headers()
        self.wfile.write(data)

    def log_message(self, *_: object) -> None:
        """Say nothing."""


@pytest.fixture
def shelf(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> Iterator[str]:
    server = ThreadingHTTPServer(("127.0.0.1", 0), Shelf)
    thread = threading.Thread(target=server.serve_forever)
    thread.start()
    address = f"http://127.0.0.1:{server.server_port}"
    monkeypatch.setenv("PIP_CONFIG_FILE", "/dev/null")
    monkeypatch.setenv("PIP_INDEX_URL", f"{address}/simple/")
    monkeypatch.delenv("PIP_EXTRA_INDEX_URL", raising=False)
    monkeypatch.setenv("PIP_TRUSTED_HOST", "127.0.0.1")
    monkeypatch.setenv("PIP_NO_CACHE_DIR", "1")
    monkeypatch.setenv("npm_config_registry", f"{address}/")
    monkeypatch.setenv("npm_config_cache", str(tmp_path / "npm"))
    monkeypatch.setenv("npm_config_fetch_retries", "0")
    yield address
    server.shutdown()
    server.server_close()
    thread.join()


@pytest.mark.usefixtures("shelf")
def test_a_record_of_pypi_says_what_fits_what_is_built_and_what_it_asks_for() -> None:
    lamp, nobody = parse_coordinate("pypi/harbour-lamp"), parse_coordinate("pypi/nobody-has-this")
    found = dict(pypi_records([lamp, nobody], TODAY))
    assert found[nobody] is None
    record = found[lamp]
    assert record is not None
    assert record.releases == ("1.0", "2.0")
    assert record.fits[Line("3.8")] == ("1.0",)
    assert record.fits[Line("3.12")] == ("1.0", "2.0")
    assert record.built[Line("3.12")] == ("2.0",)
    (facts,) = record.details
    assert (facts.release, facts.runs, facts.needs, facts.released) == (
        "2.0",
        ">=3.9",
        {"wick": ">=1"},
        date(2024, 2, 3),
    )


@pytest.mark.skipif(shutil.which("npm") is None, reason="there is no npm on this machine")
@pytest.mark.usefixtures("shelf")
def test_a_record_of_npm_says_engines_peers_and_which_of_them_are_optional() -> None:
    sail, odd = parse_coordinate("npm/sail"), Coordinate("pkg:npm/..%2F..%2Fetc")
    found = dict(npm_records([sail, odd], TODAY))
    assert found[odd] is None
    record = found[sail]
    assert record is not None
    assert record.releases == ("0.9.0", "1.0.0")
    old, new = record.details
    assert old.withdrawn == "leaks"
    assert (new.runs, new.peers, new.optional, new.needs) == (
        ">=8",
        {"mast": "^1.0.0", "flag": "*"},
        ("flag",),
        {"rope": "^2.0.0"},
    )


@pytest.mark.skipif(shutil.which("npm") is None, reason="there is no npm on this machine")
@pytest.mark.usefixtures("shelf")
def test_what_is_looked_up_is_kept_with_the_peers_it_brings_in_and_theirs(home: Home) -> None:
    asked = tuple(parse_coordinate(name) for name in ("npm/sail", "pypi/harbour-lamp", "npm/nobody-has-this"))
    said: list[tuple[int, int]] = []
    done = look_up(LookUpTask(home.folder, asked, TODAY), KIT, lambda p: said.append((p.done, p.total)))
    assert (done.found, done.unknown) == (2, ("npm/nobody-has-this",))
    assert done.story == "2 found; no package client knows npm/nobody-has-this"
    assert said == [(1, 3), (2, 3), (3, 3)]
    knowledge = KIT.knowledge(home.knowledge)
    assert {"pkg:npm/sail", "pkg:npm/mast", "pkg:npm/keel", "pkg:pypi/harbour-lamp"} <= set(knowledge.catalogues)
    assert "pkg:npm/flag" not in knowledge.catalogues


def test_what_is_asked_is_what_manifests_name_and_no_record_holds(package: Callable[..., PackageState]) -> None:
    packages = [
        package("pkg:npm/sail"),
        package("pkg:npm/mast", direct=False),
        package("pkg:npm/react"),
        package("pkg:generic/node"),
    ]
    assert without_record(packages, {Coordinate("pkg:npm/react")}, KIT.ecosystems) == (Coordinate("pkg:npm/sail"),)


@pytest.fixture
def package() -> Callable[..., PackageState]:
    def made(coordinate: Coordinate, *, direct: bool = True) -> PackageState:
        return PackageState(
            coordinate=Coordinate(coordinate),
            module="",
            line=Line("1"),
            how="range",
            state="unknown",
            note="",
            file="package.json",
            line_number=1,
            direct=direct,
        )

    return made
