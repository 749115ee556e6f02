"""How long a stop takes: scans are stopped at random moments of their life, again and again.

    python -m bench.stops [--stops 100]

Prints the seconds from asking for the stop until the job is told to be stopped and its processes do no work any more, and whether
everything that was asked for afterwards was still scanned.
"""

from __future__ import annotations

import argparse
import http.client
import json
import os
import random
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

from bench.kills import make_sources, unfinished
from bench.load import answers, free_port, percentile, post, wait


def jobs(port: int) -> list[dict[str, Any]]:
    """The newest jobs."""
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=30)
    connection.request("GET", "/api/v1/jobs")
    return list(json.loads(connection.getresponse().read()))


def state(port: int, number: int) -> str:
    """The state of one job."""
    return next((str(job["state"]) for job in jobs(port) if job["id"] == number), "gone")


def main() -> None:
    """Ask, wait a little, stop, measure."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--stops", type=int, default=100)
    given = parser.parse_args()
    rng = random.Random(11)  # noqa: S311
    with tempfile.TemporaryDirectory() as place:
        sources = make_sources(Path(place) / "sources")
        port = free_port()
        environment = {**os.environ, "YOAKE_HOME": str(Path(place) / "home"), "YOAKE_SOURCES": place}
        server = subprocess.Popen(
            [sys.executable, "-m", "yoake", "serve", "--port", str(port)],
            env=environment,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        times: list[float] = []
        finished = 0
        try:
            wait(lambda: answers(port))
            taken = json.loads(
                post(
                    port,
                    "/api/v1/intake",
                    {"candidates": [{"source": str(s), "destination": "python@3.13 pypi/django@5.2"} for s in sources]},
                )
            )
            slugs = taken["slugs"]
            while len(times) < given.stops:
                wait(lambda: not unfinished(port), 300)
                for root in sources:
                    (root / "touched.py").write_text(f"import imp\ny = {time.time_ns()}\n")
                asked = json.loads(post(port, "/api/v1/scans", {"applications": slugs}))["jobs"]
                time.sleep(rng.uniform(0, 0.6))
                number = rng.choice(asked)
                began = time.perf_counter()
                if b"ended already" in post(port, f"/api/v1/jobs/{number}/stop", {}):
                    finished += 1
                    continue
                wait(lambda number=number: state(port, number) not in ("waiting", "running"), 60)  # type: ignore[misc]
                if state(port, number) == "stopped":
                    times.append(time.perf_counter() - began)
            post(port, "/api/v1/scans", {"applications": slugs})
            wait(lambda: not unfinished(port), 300)
            last = {job["application"]: job["state"] for job in reversed(jobs(port)) if job["id"] > max(asked)}
        finally:
            server.terminate()
            server.wait(30)
    shares = ", ".join(f"{share:.0%} {percentile(times, share):.2f} s" for share in (0.5, 0.95, 0.99, 1.0))
    print(f"{len(times)} stops ({finished} came after the end): {shares}; afterwards {sorted(set(last.values()))}")


if __name__ == "__main__":
    main()
