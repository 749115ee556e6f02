"""The gateway, parity and access logs: python -m bench.crossing [FOLDER]

Needs nginx and wrk. Both sides are nginx answering at once, so that what is measured is what stands in between. Figures go to
docs/accuracy.md by hand.
"""

from __future__ import annotations

import asyncio
import contextlib
import json
import os
import random
import re
import resource
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import aiohttp

from yoake.core.crossing.parity import Answer, differences
from yoake.core.crossing.rules import Comparison
from yoake.core.values.routes import Route
from yoake.usecases.find_routes import count_traffic

OLD, NEW, PLAIN, GATE = 18801, 18802, 18803, 18804
RULES = """yoake: crossing/1
application: bench
sides: {{old: 'http://127.0.0.1:{old}', new: 'http://127.0.0.1:{new}'}}
routes:
  - {{route: GET /a, stands: {stands}}}
  - {{route: GET /mirrored, stands: mirrored}}
"""


def nginx(folder: Path, name: str, servers: str) -> subprocess.Popen[bytes]:
    """An nginx of its own in the foreground."""
    conf = folder / f"{name}.conf"
    conf.write_text(
        f"daemon off; pid {folder}/{name}.pid; error_log {folder}/{name}.err; worker_processes 1; events {{ worker_connections 2048; }}\n"
        f"http {{ access_log off; keepalive_requests 10000000; {servers} }}\n"
    )
    return subprocess.Popen(["/usr/sbin/nginx", "-c", str(conf)], start_new_session=True)


def kill(server: subprocess.Popen[bytes]) -> None:
    """At once, with its workers."""
    with contextlib.suppress(ProcessLookupError):
        os.killpg(server.pid, signal.SIGKILL)
    server.wait()


def side(port: int, name: str) -> str:
    return f'server {{ listen {port}; location / {{ default_type text/plain; return 200 "{name} $args"; }} }}'


def wrk(port: int, path: str, connections: int) -> tuple[float, float]:
    """(requests a second, median in milliseconds)."""
    done = subprocess.run(
        ["wrk", "-t1", f"-c{connections}", "-d6s", "--latency", f"http://127.0.0.1:{port}{path}"],
        capture_output=True,
        text=True,
        check=True,
    )
    rate = float(re.search(r"Requests/sec:\s+([\d.]+)", done.stdout).group(1))  # type: ignore[union-attr]
    number, unit = re.search(r"50%\s+([\d.]+)(us|ms|s)", done.stdout).groups()  # type: ignore[union-attr]
    return rate, float(number) * {"us": 0.001, "ms": 1.0, "s": 1000.0}[unit]


async def hammer(port: int, count: int) -> tuple[int, int]:
    """(answers that are missing or no 200, answers that belong to another request)."""
    lost = wrong = 0
    numbers = iter(range(count))

    async def work(session: aiohttp.ClientSession) -> None:
        nonlocal lost, wrong
        for number in numbers:
            try:
                async with session.get(f"http://127.0.0.1:{port}/a?n={number}") as answer:
                    text = await answer.text()
                    lost += answer.status != 200
                    wrong += answer.status == 200 and not text.endswith(f"n={number}")
            except aiohttp.ClientError:
                lost += 1

    async with aiohttp.ClientSession(connector=aiohttp.TCPConnector(limit=0)) as session:
        await asyncio.gather(*(work(session) for _ in range(16)))
    return lost, wrong


async def under_fire(folder: Path, count: int) -> str:
    """Rules are written anew twice a second, and the new side is killed every three seconds."""
    rules = folder / "rules.yaml"
    new = nginx(folder, "new", side(NEW, "new"))
    task = asyncio.create_task(hammer(GATE, count))
    kills = reloads = 0
    turn = 0
    while not task.done():
        await asyncio.sleep(0.5)
        turn += 1
        stands = ("new", "shared, share: 50", "old")[turn % 3]
        partial = folder / "rules.part"
        partial.write_text(RULES.format(old=OLD, new=NEW, stands=stands))
        partial.replace(rules)
        reloads += 1
        if turn % 6 == 0:
            kill(new)
            kills += 1
        elif turn % 6 == 1 and kills:
            new = nginx(folder, "new", side(NEW, "new"))
    lost, wrong = await task
    kill(new)
    return f"{count:,} requests, {reloads} reloads, {kills} kills of the new side: {lost} lost, {wrong} mistaken"


def parity(pairs: int) -> str:
    rows = [{"code": f"T{n}", "fare": n / 100, "legs": [{"from": "a", "to": "b", "at": n} for n in range(20)]} for n in range(10)]
    body = json.dumps({"rows": rows}).encode()
    other = json.dumps({"rows": [{**row, "fare": row["fare"] + 0.001} for row in rows]}).encode()
    page = b"<html><body>" + b"".join(b"<p>Sailing <b>%d</b> leaves</p>" % n for n in range(200)) + b"</body></html>"
    json_ = {"content-type": "application/json"}
    html = {"content-type": "text/html"}
    begin = time.perf_counter()
    for number in range(pairs):
        if number % 3:
            differences(
                Answer(status=200, headers=json_, body=body), Answer(status=200, headers=json_, body=other), Comparison()
            )
        else:
            differences(
                Answer(status=200, headers=html, body=page),
                Answer(status=200, headers=html, body=page.replace(b"leaves", b"sails")),
                Comparison(),
            )
    return f"{pairs:,} pairs of {len(body) // 1000} KB JSON and {len(page) // 1000} KB HTML compared in {time.perf_counter() - begin:.1f} s"


def log(folder: Path, size: int) -> str:
    path = folder / "access.log"
    chance = random.Random(1)
    paths = ["/", "/static/a.css", "/a/%d", "/b/%d/c", "/d/e%d", "/nope/%d", "/f", "/g/%d?x=1"]
    agent = "Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Safari/537.36"
    with path.open("w") as file:
        written = 0
        while written < size:
            lines = []
            for number in range(20_000):
                shown = chance.choice(paths)
                shown = shown % chance.randrange(100_000) if "%" in shown else shown
                lines.append(
                    f'10.0.1.2 - - [{1 + number % 28:02}/Nov/2026:10:00:00 +0000] "GET {shown} HTTP/1.1" 200 512 "-" "{agent}"\n'
                )
            text = "".join(lines)
            file.write(text)
            written += len(text)
    routes = [Route(method="GET", path=p) for p in ("/", "/static/{f}", "/a/{n}", "/b/{n}/c", "/d/{n}", "/f", "/g/{n}")]
    begin = time.perf_counter()
    traffic = count_traffic(routes, [path])
    seconds = time.perf_counter() - begin
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    path.unlink()
    return f"{written / 1e9:.2f} GB, {traffic.lines:,} lines in {seconds:.1f} s, at most {memory:.0f} MB"


def main() -> None:
    folder = Path(sys.argv[1] if len(sys.argv) > 1 else "/tmp/yoake-crossing")
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    print("parity:", parity(10_000))
    print("log:", log(folder, 1_000_000_000))
    proxy = f"upstream u {{ server 127.0.0.1:{OLD}; keepalive 64; }} server {{ listen {PLAIN}; location / {{ proxy_pass http://u; proxy_http_version 1.1; proxy_set_header Connection ''; }} }}"
    servers = [nginx(folder, "old", side(OLD, "old")), nginx(folder, "plain", proxy)]
    (folder / "rules.yaml").write_text(RULES.format(old=OLD, new=OLD, stands="old").replace(f"new: 'http://127.0.0.1:{OLD}'", f"new: 'http://127.0.0.1:{NEW}'"))
    gate = subprocess.Popen([str(Path(sys.executable).parent / "yoake"), "gateway", str(folder / "rules.yaml"), "--port", str(GATE)])
    servers.append(gate)
    time.sleep(3)
    try:
        for connections in (1, 16, 64):
            direct, proxied, ours = (wrk(port, "/a", connections) for port in (OLD, PLAIN, GATE))
            print(
                f"{connections} connections: direct {direct[0]:,.0f}/s {direct[1]:.2f} ms; nginx {proxied[0]:,.0f}/s {proxied[1]:.2f} ms; "
                f"gateway {ours[0]:,.0f}/s {ours[1]:.2f} ms, {ours[1] - direct[1]:.2f} ms more at the median"
            )
        print("under fire:", asyncio.run(under_fire(folder, 100_000)))
    finally:
        gate.terminate()
        for each in servers[:2]:
            kill(each)


if __name__ == "__main__":
    main()
