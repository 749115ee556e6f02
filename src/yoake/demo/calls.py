"""Four weeks of made-up calls of the desk at the quay, as the access log that its server would have written."""

from __future__ import annotations

import gzip
import random
from datetime import date, timedelta
from pathlib import Path
from typing import Final

_A_WEEK: Final = {
    ("GET", "/sailings"): 4_821,
    ("GET", "/sailings/2026-12-{n}"): 3_102,
    ("GET", "/ports/{port}/board"): 2_240,
    ("GET", "/tickets/W{m}"): 1_895,
    ("POST", "/login"): 880,
    ("GET", "/account"): 740,
    ("POST", "/tickets"): 612,
    ("GET", "/fares?to=isle&adults=2"): 523,
    ("GET", "/office/manifests"): 95,
    ("POST", "/tickets/W{m}/refund"): 41,
    ("GET", "/wp-login.php"): 37,
    ("GET", "/apple-touch-icon.png"): 22,
}
_WEEKS: Final = 4


def write_log(path: Path, until: date) -> None:
    """A packed log in the combined format, up to and including a day."""
    chance = random.Random(3)  # noqa: S311 - made-up calls
    with gzip.open(path, "wt", encoding="utf-8", compresslevel=3) as log:
        for back in range(7 * _WEEKS - 1, -1, -1):
            day = until - timedelta(days=back)
            for (method, path_), weekly in _A_WEEK.items():
                for number in range(round(weekly / 7 * (0.85 + 0.3 * chance.random()))):
                    shown = path_.format(n=f"{1 + number % 28:02}", m=number % 900, port=("harrow", "isle")[number % 2])
                    status = 404 if "wp-" in shown or "icon" in shown else 201 if shown == "/tickets" else 200
                    log.write(
                        f"10.0.{number % 200}.7 - - [{day:%d/%b/%Y}:{number % 24:02}:{number % 60:02}:00 +0000] "
                        f'"{method} {shown} HTTP/1.1" {status} {400 + number % 600} "-" "harbour/1"\n'
                    )
