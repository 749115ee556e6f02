"""What a gateway leaves behind in a folder: one line a comparison and a move, and what is known of every route."""

from __future__ import annotations

import json
import os
import time
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from yoake.core.crossing.masking import masked_path
from yoake.runner.answers import write_whole

if TYPE_CHECKING:
    from yoake.core.crossing.guard import Guard
    from yoake.core.crossing.parity import Difference
    from yoake.core.crossing.rules import Side

LINES: Final = "answers.jsonl"
STATE: Final = "state.json"
_LARGEST: Final = 20_000_000  # bytes of lines; the file before it is kept once
_MOST_WAITING: Final = 5_000  # lines between two writes; more are counted only


@dataclass(slots=True)
class RouteCount:
    """Answers of one route by side and their failures."""

    answers: Counter[str] = field(default_factory=Counter)
    failures: Counter[str] = field(default_factory=Counter)


@dataclass(frozen=True, slots=True)
class Taken:
    """Lines and a state that are on their way to the disk."""

    lines: tuple[str, ...]
    state: dict[str, Any]


class GatewayRecord:
    """Keeps what happened in memory and writes it now and then: a request never waits for a disk."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)
        self._waiting: list[str] = []
        self.dropped = 0
        self.counts: dict[str, RouteCount] = {}
        self._changed: set[str] = set()
        self._rows: dict[str, dict[str, Any]] = {}
        self.fallen: dict[str, dict[str, Any]] = {}
        self._load()

    def _load(self) -> None:
        try:
            held = json.loads((self.folder / STATE).read_text("utf-8"))
        except (OSError, ValueError):
            return
        fallen = held.get("fallen") if isinstance(held, dict) else None
        if isinstance(fallen, dict):
            self.fallen = {str(name): row for name, row in fallen.items() if isinstance(row, dict)}

    def count(self, route: str, side: Side, *, failed: bool) -> None:
        """One more answer."""
        held = self.counts.get(route)
        if held is None:
            held = self.counts[route] = RouteCount()
        held.answers[side.value] += 1
        self._changed.add(route)
        if failed:
            held.failures[side.value] += 1

    def compared(
        self, route: str, path: str, found: Sequence[Difference], old_seconds: float, new_seconds: float
    ) -> None:
        """One comparison."""
        self._note(
            {
                "at": _now(),
                "route": route,
                "path": masked_path(path),
                "alike": not found,
                "old_ms": round(old_seconds * 1000, 1),
                "new_ms": round(new_seconds * 1000, 1),
                "differences": [
                    {"kind": each.kind, "where": each.where, "old": each.old, "new": each.new} for each in found
                ],
            }
        )

    def fell_back(self, route: str, why: str, mark: str) -> None:
        """A route went back by itself. ``mark`` names the rule under which it did."""
        self.fallen[route] = {"why": why, "mark": mark, "at": _now()}
        self._note({"at": _now(), "route": route, "event": "fell back", "why": why})

    def _note(self, line: dict[str, Any]) -> None:
        if len(self._waiting) >= _MOST_WAITING:
            self.dropped += 1
            return
        self._waiting.append(json.dumps(line, ensure_ascii=False))

    def write(self, guards: dict[str, Guard]) -> None:
        """Writes what waits, and the state of every route. Raises OSError, and keeps what waits."""
        taken = self.taken(guards)
        self.keep_lines(taken)
        self.forget(taken)
        self.keep_state(taken)

    def taken(self, guards: dict[str, Guard]) -> Taken:
        """What is to be written now; it still waits until it is forgotten."""
        for route in self._changed:
            self._rows[route] = self._told(self.counts[route], guards.get(route))
        self._changed.clear()
        state = {
            "at": _now(),
            "pid": os.getpid(),
            "dropped": self.dropped,
            "fallen": dict(self.fallen),
            "routes": dict(self._rows),
        }
        return Taken(tuple(self._waiting), state)

    def keep_lines(self, taken: Taken) -> None:
        """Add the lines to those of the folder: whatever thread does it, only one at a time. Raises OSError."""
        path = self.folder / LINES
        if taken.lines:
            if path.exists() and path.stat().st_size > _LARGEST:
                path.replace(path.with_suffix(".before.jsonl"))
            with path.open("a", encoding="utf-8") as file:
                file.write("\n".join(taken.lines) + "\n")

    def keep_state(self, taken: Taken) -> None:
        """Put the state into the folder. Raises OSError."""
        write_whole(self.folder / STATE, json.dumps(taken.state, ensure_ascii=False, indent=1))

    def forget(self, taken: Taken) -> None:
        """What was written waits no longer."""
        del self._waiting[: len(taken.lines)]

    @staticmethod
    def _told(count: RouteCount, guard: Guard | None) -> dict[str, Any]:
        sides = guard.sides if guard is not None else {}
        return {
            "answers": dict(count.answers),
            "failures": dict(count.failures),
            "p95_ms": {side.value: round(each.p95 * 1000, 1) for side, each in sides.items() if len(each)},
        }


def _now() -> str:
    return time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime())
