"""The server under load: eight clients over a portfolio of 500 applications and a million findings, with and without a scan.

    python -m bench.load HOME [--seconds 30] [--clients 8]

HOME is made by ``python -m bench.portfolio`` when it is not there (half an hour). Prints the 50th, 95th and 99th percentile of
each view in milliseconds, the largest answer in kilobytes as it is sent, and the memory of the server and of its jobs.
"""

from __future__ import annotations

import argparse
import http.client
import json
import os
import random
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from yoake.shipped import KIT
from yoake.context.context import Context
from yoake.runner.home import Home
from yoake.store.database import Database
from yoake.usecases.keep_answers import stale_applications

WARM = 2  # rounds through every view before anything is counted
RENEWED_WITHIN = 3600.0  # seconds


@dataclass
class Seen:
    """Times (ms) and sizes (bytes as sent) of one view."""

    times: list[float] = field(default_factory=list)
    sizes: list[int] = field(default_factory=list)
    failed: int = 0


def views(rng: random.Random, slugs: Sequence[str]) -> dict[str, str]:
    """One address for each main view, of some application."""
    slug = rng.choice(slugs)
    at = f"/api/v1/applications/{slug}"
    word = rng.choice(("imp", "django", "area00", "collections", "unit0001", "removed"))
    return {
        "Horizon": "/api/v1/portfolio",
        "Horizon, far down": f"/api/v1/portfolio?offset={rng.randrange(0, 400, 100)}",
        "Horizon, filtered": f"/api/v1/portfolio?q=app-{rng.randrange(10)}&order=name&group=team",
        "Evidence": f"{at}/evidence",
        "Evidence, first window": f"{at}/findings?limit=100",
        "Evidence, filtered": f"{at}/findings?limit=100&q={word}&show={rng.choice(('all', 'now', 'hop', 'switch'))}",
        "Evidence, far down": f"{at}/findings?limit=100&offset={rng.randrange(0, 2000, 100)}",
        "Evidence, by place": f"{at}/places?limit=15",
        "Evidence, in tests": f"{at}/findings?limit=100&where=source&within=src",
        "Path (kept)": f"{at}/path",
        "Work": "/api/v1/work?limit=100",
        "Work of one": f"/api/v1/work?limit=100&slug={slug}",
        "Work by stage": "/api/v1/step-groups?by=stage",
        "Work by person": "/api/v1/step-groups?by=person",
        "Work, far down": f"/api/v1/work?limit=100&offset={rng.randrange(0, 5000, 100)}",
        "Report of one": f"/api/v1/reports/applications/{slug}",
        "Files": f"{at}/files?limit=100",
        "Waves": "/api/v1/waves",
        "Forecast": "/api/v1/forecast",
        "Who requires whom": "/api/v1/portfolio/links",
        "Digest": "/api/v1/digest",
    }


def ask(connection: http.client.HTTPConnection, path: str) -> tuple[int, int, float, bytes]:
    """(status, bytes sent, milliseconds, body)."""
    began = time.perf_counter()
    connection.request("GET", path, headers={"Accept-Encoding": "gzip"})
    answer = connection.getresponse()
    body = answer.read()
    return answer.status, len(body), (time.perf_counter() - began) * 1000, body


def client(
    port: int, slugs: Sequence[str], seed: int, until: float, seen: dict[str, Seen], lock: threading.Lock
) -> None:
    """One person who goes from view to view."""
    rng = random.Random(seed)  # noqa: S311  which application is looked at
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=120)
    while time.monotonic() < until:
        for name, path in rng.sample(sorted(views(rng, slugs).items()), k=6):
            status, size, took, _ = ask(connection, path)
            with lock:
                held = seen.setdefault(name, Seen())
                held.times.append(took)
                held.sizes.append(size)
                held.failed += status != 200
    connection.close()


def percentile(values: Sequence[float], share: float) -> float:
    """The value below which this share lies."""
    ordered = sorted(values)
    return ordered[min(int(share * len(ordered)), len(ordered) - 1)] if ordered else 0.0


def memory(process: int) -> tuple[float, float]:
    """MiB (PSS) of the server itself, and of all its children."""
    children = subprocess.run(["pgrep", "-P", str(process)], capture_output=True, text=True, check=False).stdout.split()
    below = [
        c
        for child in children
        for c in subprocess.run(["pgrep", "-P", child], capture_output=True, text=True, check=False).stdout.split()
    ]
    return pss(process), sum(pss(int(child)) for child in {*children, *below})


def pss(process: int) -> float:
    """Proportional set size in MiB."""
    try:
        rows = Path(f"/proc/{process}/smaps_rollup").read_text().splitlines()
    except OSError:
        return 0.0
    return next((int(row.split()[1]) / 1024 for row in rows if row.startswith("Pss:")), 0.0)


def free_port() -> int:
    """A port that nobody listens on."""
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return int(found.getsockname()[1])


def load(title: str, port: int, slugs: Sequence[str], clients: int, seconds: float, server: int) -> None:
    """Drive the server for a while and print what was seen."""
    seen: dict[str, Seen] = {}
    lock = threading.Lock()
    until = time.monotonic() + seconds
    threads = [threading.Thread(target=client, args=(port, slugs, n, until, seen, lock)) for n in range(clients)]
    peak = [0.0, 0.0]
    for thread in threads:
        thread.start()
    while any(thread.is_alive() for thread in threads):
        peak = [max(a, b) for a, b in zip(peak, memory(server), strict=True)]
        time.sleep(0.5)
    total = sum(len(held.times) for held in seen.values())
    print(f"\n{title}: {clients} clients, {total / seconds:.0f} answers a second")
    print(f"{'':26}{'n':>6}{'50 %':>8}{'95 %':>8}{'99 %':>8}{'largest':>10}{'failed':>8}")
    for name, held in sorted(seen.items()):
        shares = "".join(f"{percentile(held.times, share):8.0f}" for share in (0.5, 0.95, 0.99))
        print(f"{name:26}{len(held.times):6}{shares}{max(held.sizes) / 1000:8.0f} kB{held.failed:8}")
    print(f"server {peak[0]:.0f} MiB, its jobs {peak[1]:.0f} MiB at most", flush=True)


def post(port: int, path: str, body: object) -> bytes:
    """Ask for something to be done."""
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
    connection.request("POST", path, json.dumps(body), {"Content-Type": "application/json"})
    return connection.getresponse().read()


def wait(condition: Callable[[], bool], seconds: float = 120) -> None:
    """Wait until something holds."""
    end = time.monotonic() + seconds
    while not condition():
        if time.monotonic() > end:
            raise TimeoutError("the server does not answer")
        time.sleep(0.2)


def renewed(home: Path) -> float:
    """Wait until the server has renewed what a new day or a new version made stale; returns the seconds that took."""
    began = time.monotonic()
    context = Context(home=Home(home), db=Database(Home(home).records, read_only=True), kit=KIT)
    wait(lambda: not stale_applications(context), RENEWED_WITHIN)
    context.db.close()
    return time.monotonic() - began


def answers(port: int) -> bool:
    """Whether the server answers."""
    try:
        return ask(http.client.HTTPConnection("127.0.0.1", port, timeout=5), "/api/v1/health")[0] == 200
    except OSError:
        return False


def main() -> None:
    """Serve, warm up, load, load with a scan running."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("home", type=Path)
    parser.add_argument("--seconds", type=float, default=30)
    parser.add_argument("--clients", type=int, default=8)
    given = parser.parse_args()
    if not (given.home / "records.sqlite").exists():
        subprocess.run([sys.executable, "-m", "bench.portfolio", str(given.home)], check=True)
    port = free_port()
    environment = {**os.environ, "YOAKE_HOME": str(given.home), "YOAKE_SOURCES": str(given.home)}
    server = subprocess.Popen([sys.executable, "-m", "yoake", "serve", "--port", str(port)], env=environment)
    try:
        wait(lambda: answers(port))
        print(f"kept answers were as of today after {renewed(given.home):.0f} s")
        connection = http.client.HTTPConnection("127.0.0.1", port, timeout=120)
        slugs = [entry["slug"] for entry in json.loads(_plain(port, "/api/v1/portfolio"))["entries"]]
        rng = random.Random(0)  # noqa: S311
        for _ in range(WARM):
            for path in views(rng, slugs).values():
                ask(connection, path)
        load("At rest", port, slugs, given.clients, given.seconds, server.pid)
        changed = given.home / "sources" / slugs[0]
        for number, slug in enumerate(sorted(slugs)[1:9]):
            (given.home / "sources" / slug / f"touched_{time.time_ns()}.py").write_text(f"import imp\nx = {number}\n")
        post(port, "/api/v1/scans", {"applications": sorted(slugs)[1:9]})
        load(f"While {changed.parent.name} are scanned", port, slugs, given.clients, given.seconds, server.pid)
    finally:
        server.terminate()
        server.wait(30)


def _plain(port: int, path: str) -> bytes:
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=120)
    connection.request("GET", path)
    return connection.getresponse().read()


if __name__ == "__main__":
    main()
