"""A server that is killed at random moments, again and again, while it scans: nothing finished is lost, nothing stays behind.

    python -m bench.kills [--kills 100]

After each kill: which of its processes live five seconds later, whether the records are sound, and whether every scan that was
seen before is still whole. At the end the queue must work itself empty.
"""

from __future__ import annotations

import argparse
import http.client
import json
import os
import random
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time
from contextlib import closing
from pathlib import Path

from bench.load import answers, free_port, post, wait
from yoake.store.database import check

APPLICATIONS = 6


def make_sources(folder: Path) -> list[Path]:
    """Small and middling applications, so that kills meet every part of a scan."""
    made = []
    for number in range(APPLICATIONS):
        root = folder / f"app{number}"
        root.mkdir(parents=True)
        (root / ".python-version").write_text("3.8\n")
        (root / "requirements.txt").write_text("django==3.2.25\nsix==1.16.0\n")
        for at in range(3 + 40 * number):
            (root / f"unit{at}.py").write_text(
                "import imp\nfrom collections import Mapping\n" + f"x{at} = {number}\n" * 400
            )
        made.append(root)
    return made


def children(process: int) -> set[int]:
    """All processes below one."""
    found: set[int] = set()
    waiting = [process]
    while waiting:
        below = subprocess.run(
            ["pgrep", "-P", str(waiting.pop())], capture_output=True, text=True, check=False
        ).stdout.split()
        waiting += [int(child) for child in below if int(child) not in found]
        found |= {int(child) for child in below}
    return found


def alive(process: int) -> bool:
    """Whether a process runs."""
    try:
        return Path(f"/proc/{process}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except OSError:
        return False


def whole_scans(records: Path) -> dict[int, tuple[int, int, int]]:
    """Scan → findings it should have, has, and files it has."""
    with closing(sqlite3.connect(f"{records.as_uri()}?mode=ro", uri=True)) as db:
        rows = db.execute(
            "SELECT s.id, CASE WHEN has_detail THEN errors + warnings + notes ELSE 0 END, (SELECT count(*) FROM findings WHERE scan_id = s.id), "
            "(SELECT count(*) FROM plans WHERE scan_id = s.id) FROM scans s"
        ).fetchall()
    return {row[0]: (row[1], row[2], row[3]) for row in rows}


def main() -> None:
    """Kill, look, go on."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--kills", type=int, default=100)
    given = parser.parse_args()
    rng = random.Random(7)  # noqa: S311
    with tempfile.TemporaryDirectory() as place:
        home = Path(place) / "home"
        sources = make_sources(Path(place) / "sources")
        port = free_port()
        environment = {**os.environ, "YOAKE_HOME": str(home), "YOAKE_SOURCES": place}
        lost, half, unsound, left = 0, 0, 0, 0
        seen: set[int] = set()
        for number in range(given.kills + 1):
            server = subprocess.Popen(
                [sys.executable, "-m", "yoake", "serve", "--port", str(port)],
                env=environment,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
            )
            wait(lambda: answers(port))
            if number == 0:
                post(
                    port,
                    "/api/v1/intake",
                    {"candidates": [{"source": str(s), "destination": "python@3.13 pypi/django@5.2"} for s in sources]},
                )
            for root in rng.sample(sources, 3):
                (root / "touched.py").write_text(f"import imp\ny = {time.time_ns()}\n")
            post(port, "/api/v1/scans", {})
            if number == given.kills:
                wait(lambda: not unfinished(port), 300)
                server.terminate()
                server.wait(30)
                break
            time.sleep(rng.uniform(0, 4))
            below = children(server.pid)
            before = set(whole_scans(home / "records.sqlite"))
            os.kill(server.pid, signal.SIGKILL)
            server.wait()
            end = time.monotonic() + 5
            while time.monotonic() < end and any(map(alive, below)):
                time.sleep(0.1)
            left += sum(map(alive, below))
            unsound += bool(check(home / "records.sqlite").faults)
            scans = whole_scans(home / "records.sqlite")
            lost += len((seen | before) - set(scans))
            half += sum(1 for wanted, has, _ in scans.values() if wanted != has)
            seen |= set(scans)
        states = whole_scans(home / "records.sqlite")
        print(
            f"{given.kills} kills, {len(states)} scans kept: {lost} lost, {half} half-written, {unsound} times unsound, {left} processes left after 5 s"
        )


def unfinished(port: int) -> bool:
    """Whether jobs wait or run."""
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=30)
    connection.request("GET", "/api/v1/health")
    queue = json.loads(connection.getresponse().read())["queue"]
    return bool(queue["waiting"] or queue["running"])


if __name__ == "__main__":
    main()
