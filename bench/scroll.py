"""The browser while 10,000 rows scroll by: every task of its main thread that takes longer than 50 ms.

    python -m bench.scroll HOME [--rows 10000]

HOME as in ``bench.load``. Work, Evidence by cause and by place of the largest application, and its packages are scrolled from the
top, 600 pixels every 60 ms, as a hand on a wheel would.
"""

from __future__ import annotations

import argparse
import gzip
import http.client
import json
import os
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

from selenium import webdriver
from selenium.webdriver.chrome.service import Service

from bench.load import answers, ask, free_port, wait
from tests.browser.conftest import BROWSER, DRIVER, FLAGS

WATCH = """
window.tasks = [];
new PerformanceObserver(list => list.getEntries().forEach(e => window.tasks.push(e.duration))).observe({type: 'longtask', buffered: false});
"""
BUSY = "setTimeout(() => { const until = performance.now() + 80; while (performance.now() < until); })"
SCROLL = """
const [name, rows, height] = arguments;
window.seen = null;
const done = seen => { window.seen = seen; };
const host = document.querySelector(`[role=region][aria-label="${name}"]`);
if (!host) return done({rows: -1, blank: 0, frames: 0, tasks: []});
window.tasks.length = 0;
const end = Math.min(rows * height, host.scrollHeight - host.clientHeight);
let frames = 0, blank = 0;
const step = () => {
  host.scrollTop += 600;
  frames += 1;
  const box = host.getBoundingClientRect();
  const seen = document.elementFromPoint(box.left + 80, box.top + box.height / 2);
  if (!seen || !seen.textContent.trim()) blank += 1;
  if (host.scrollTop >= end - 1) return setTimeout(() => done({rows: Math.round(host.scrollTop / height), blank, frames, tasks: window.tasks}), 500);
  setTimeout(step, 60);
};
step();
"""


def main() -> None:
    """Serve, open each list, scroll it, print what was seen."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("home", type=Path)
    parser.add_argument("--rows", type=int, default=10_000)
    given = parser.parse_args()
    port = free_port()
    environment = {**os.environ, "YOAKE_HOME": str(given.home), "YOAKE_SOURCES": str(given.home)}
    server = subprocess.Popen(
        [sys.executable, "-m", "yoake", "serve", "--port", str(port)],
        env=environment,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    try:
        wait(lambda: answers(port))
        slug = largest(port)
        options = webdriver.ChromeOptions()
        options.binary_location = BROWSER or ""
        for flag in FLAGS:
            options.add_argument(flag)
        driver = webdriver.Chrome(service=Service(DRIVER), options=options)
        for title, address, region, height in (
            ("Work", "/work?by=urgency", "Steps", 50),
            ("Evidence by cause", f"/applications/{slug}", "Findings", 52),
            ("All changes", f"/applications/{slug}?by=other", "All changes", 27),
        ):
            driver.get(f"http://127.0.0.1:{port}{address}")
            wait(
                lambda region=region: bool(
                    driver.execute_script(
                        "return document.querySelector(`[role=region][aria-label='${arguments[0]}'] button, [role=region][aria-label='${arguments[0]}'] li`)",
                        region,
                    )
                )
            )  # type: ignore[misc]
            driver.execute_script(WATCH)
            driver.execute_script(BUSY)  # the watch is watched: a task that is surely long has to be seen
            wait(lambda: bool(driver.execute_script("return window.tasks.length")))
            time.sleep(1)
            driver.execute_script(SCROLL, region, given.rows, height)
            wait(lambda: driver.execute_script("return window.seen !== null"), 900)
            seen: dict[str, Any] = driver.execute_script("return window.seen")
            long = sorted(seen["tasks"], reverse=True)
            print(
                f"{title:20}{seen['rows']:8,} rows in {seen['frames']:5} steps, {seen['blank']:4} of them on rows still on their way; "
                f"{len(long)} tasks above 50 ms, the longest {long[0] if long else 0:.0f} ms",
                flush=True,
            )
        driver.quit()
    finally:
        server.terminate()
        server.wait(30)


def largest(port: int) -> str:
    """The application with the most findings, of those with the smallest margin."""
    body = ask(http.client.HTTPConnection("127.0.0.1", port, timeout=60), "/api/v1/portfolio?limit=200&order=name")[3]
    rows = json.loads(gzip.decompress(body))["rows"]
    return str(max(rows, key=lambda row: row["errors"] + row["warnings"])["slug"])


if __name__ == "__main__":
    main()
