"""Take in what a gateway wrote down: comparisons, routes that fell back, and calls."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any, Final

from yoake.context.context import Context
from yoake.core.crossing.rules import CrossingRules, Standing
from yoake.runner.gateway.records import LINES, STATE
from yoake.store.crossings import (
    CallSource,
    Compared,
    Move,
    StoredCrossing,
    add_calls,
    add_moves,
    crossing_of,
    keep_comparisons,
    put_crossing,
)
from yoake.store.events import Event, add_event

_MOST: Final = 8_000_000  # bytes taken at once; the rest comes with the next look


def record_folder(crossing: StoredCrossing, rules: CrossingRules) -> Path:
    """Where the gateway of a crossing leaves its record: beside the rules."""
    return Path(crossing.rules).parent / rules.record


def gateway_state(folder: Path) -> dict[str, Any]:
    """The state a gateway wrote last; empty where there is none."""
    try:
        held = json.loads((folder / STATE).read_text("utf-8"))
    except (OSError, ValueError):
        return {}
    return held if isinstance(held, dict) else {}


def crossing_stamp(context: Context, crossing: StoredCrossing, rules: CrossingRules) -> str:
    """Changes with everything that a look at a crossing shows: records, rules, and what its gateway wrote.

    A gateway that runs notes that every second; whether it still does is told within a minute.
    """
    state = {key: value for key, value in gateway_state(record_folder(crossing, rules)).items() if key != "at"}
    try:
        written = Path(crossing.rules).stat().st_mtime_ns
    except OSError:
        written = 0
    minute = context.clock().strftime("%Y-%m-%d %H:%M")
    parts = (context.db.changes, crossing.version, crossing.read_until, crossing.counted, written, state, minute)
    return hashlib.sha256(json.dumps(parts, sort_keys=True, default=str).encode()).hexdigest()[:24]


def take_record(context: Context, crossing: StoredCrossing, rules: CrossingRules) -> StoredCrossing:
    """Take in what is new since the last look; answers the crossing as it is then."""
    folder = record_folder(crossing, rules)
    state = gateway_state(folder)
    path = folder / LINES
    size = path.stat().st_size if path.exists() else 0
    start = crossing.read_until if crossing.read_until <= size else 0
    counted = _counts(state)
    if start == size and counted == crossing.counted.get("answers", {}):
        return crossing
    lines, end = _lines(path, start) if size > start else ([], start)
    with context.db.write(counts=False) as connection:
        now = crossing_of(context.db, crossing.application_id)
        if now is None or now.read_until != crossing.read_until:
            return now or crossing  # another look took it
        keep_comparisons(connection, crossing.application_id, list(_comparisons(lines)))
        fallen = list(_fallen(lines))
        add_moves(connection, crossing.application_id, fallen)
        for move in fallen:
            add_event(
                connection,
                Event(
                    at=move.at,
                    who=move.who,
                    application=crossing.application_id,
                    subject=f"route {move.route}",
                    what="fell back to the old side",
                    why=move.why,
                ),
            )
        before = crossing.counted.get("answers", {}) if crossing.counted.get("pid") == state.get("pid") else {}
        day = context.today.isoformat()
        for source, sides in ((CallSource.GATEWAY, ("old", "new")), (CallSource.OLD_SIDE, ("old",))):
            grown = ((route, _grown(row, before.get(route, {}), sides)) for route, row in counted.items())
            add_calls(connection, crossing.application_id, source, [(r, day, count) for r, count in grown if count > 0])
        taken = replace(now, read_until=end, counted={"pid": state.get("pid"), "answers": counted})
        put_crossing(connection, taken)
    return taken


def _counts(state: dict[str, Any]) -> dict[str, dict[str, int]]:
    """Route → side → answers since the gateway started."""
    routes = state.get("routes")
    found: dict[str, dict[str, int]] = {}
    for route, row in routes.items() if isinstance(routes, dict) else ():
        answers = row.get("answers") if isinstance(row, dict) else None
        if isinstance(answers, dict):
            found[str(route)] = {side: count for side, count in answers.items() if isinstance(count, int)}
    return found


def _grown(now: dict[str, int], before: dict[str, int], sides: Sequence[str]) -> int:
    return sum(now.get(side, 0) - before.get(side, 0) for side in sides)


def _lines(path: Path, start: int) -> tuple[list[dict[str, Any]], int]:
    """Whole lines from a place on, and where the next look begins."""
    with path.open("rb") as file:
        file.seek(start)
        text = file.read(_MOST)
    whole = text[: text.rfind(b"\n") + 1]
    found = []
    for line in whole.splitlines():
        try:
            row = json.loads(line)
        except ValueError:
            continue
        if isinstance(row, dict) and isinstance(row.get("route"), str) and isinstance(row.get("at"), str):
            found.append(row)
    return found, start + len(whole)


def _comparisons(lines: list[dict[str, Any]]) -> Iterator[Compared]:
    for row in lines:
        if "event" not in row:
            yield Compared(
                route=row["route"],
                at=row["at"],
                alike=bool(row.get("alike")),
                path=str(row.get("path", ""))[:500],
                old_ms=float(row.get("old_ms", 0)),
                new_ms=float(row.get("new_ms", 0)),
                differences=tuple(each for each in row.get("differences", []) if isinstance(each, dict)),
            )


def _fallen(lines: list[dict[str, Any]]) -> Iterator[Move]:
    for row in lines:
        if row.get("event") == "fell back":
            yield Move(
                route=row["route"],
                standing=Standing.OLD,
                share=0.0,
                at=row["at"],
                who="the gateway",
                why=str(row.get("why", ""))[:500],
            )
