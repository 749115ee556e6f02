"""Applications that move piece by piece, as they are kept."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Iterator, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass
from enum import StrEnum
from typing import Any, Final

from yoake.core.crossing.rules import Side, Standing
from yoake.core.crossing.traffic import UnmatchedPath
from yoake.core.values.routes import Route
from yoake.store.database import Database, Row

RECORDING_COMPARED: Final = "recording compared"
"""What the event says of a recording that both sides were asked."""
KEPT_A_ROUTE: Final = 400
"""Comparisons that are kept of a route; older ones said the same."""


class CallSource(StrEnum):
    """Who counted calls. What the old side answered is counted by the gateway too, by itself."""

    LOG = "log"
    GATEWAY = "gateway"
    OLD_SIDE = "old side"


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredCrossing:
    """One crossing. ``rules`` is the path of its file of rules; ``read_until``: bytes of the gateway's lines that were taken;
    ``counted``: what the gateway had counted then; ``tests``: a route has to be called by a test of the new side; ``grows``: shares grow by
    themselves."""

    application_id: int
    new_id: int | None
    rules: str
    answers: int
    days: int
    quiet: int
    tests: bool
    grows: bool
    read_until: int
    counted: dict[str, Any]
    begun_at: str
    routes_at: str | None
    version: int


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredRoute:
    """A route of one side. ``mended_at``: comparisons before it do not count; ``tested``: a test of its side calls it."""

    side: Side
    route: Route
    mended_at: str | None
    seen_at: str
    gone_at: str | None
    tested: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Compared:
    """One comparison of two answers."""

    route: str
    at: str
    alike: bool
    path: str
    old_ms: float
    new_ms: float
    differences: tuple[dict[str, str], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Move:
    """A route was put elsewhere."""

    route: str
    standing: Standing
    share: float
    at: str
    who: str
    why: str


@dataclass(frozen=True, slots=True)
class ChosenSlice:
    """Routes that a person moves together."""

    name: str
    routes: tuple[str, ...]


def crossing_of(db: Database, application_id: int) -> StoredCrossing | None:
    """The crossing of an application; None where it has none."""
    row = db.one("SELECT * FROM crossings WHERE application_id = :id", {"id": application_id})
    return _crossing(row) if row is not None else None


def crossings_with(db: Database, application_id: int) -> list[StoredCrossing]:
    """Crossings in which an application is one of the sides."""
    rows = db.all("SELECT * FROM crossings WHERE application_id = :id OR new_id = :id", {"id": application_id})
    return [_crossing(row) for row in rows]


def all_crossings(db: Database) -> list[StoredCrossing]:
    """All of them."""
    return [_crossing(row) for row in db.all("SELECT * FROM crossings ORDER BY application_id")]


def _crossing(row: Row) -> StoredCrossing:
    held = {name: row[name] for name in StoredCrossing.__slots__}
    return StoredCrossing(
        **held | {"counted": json.loads(row["counted"]), "tests": bool(row["tests"]), "grows": bool(row["grows"])}
    )


def put_crossing(connection: sqlite3.Connection, crossing: StoredCrossing) -> None:
    """Write a crossing."""
    connection.execute(
        "INSERT INTO crossings (application_id, new_id, rules, answers, days, quiet, tests, grows, "
        "read_until, counted, begun_at, routes_at, version) "
        "VALUES (:application_id, :new_id, :rules, :answers, :days, :quiet, :tests, :grows, :read_until, :counted, :begun_at, :routes_at, :version) "
        "ON CONFLICT (application_id) DO UPDATE SET new_id = :new_id, rules = :rules, answers = :answers, days = :days, quiet = :quiet, "
        "tests = :tests, grows = :grows, "
        "read_until = :read_until, counted = :counted, routes_at = :routes_at, version = :version",
        {name: getattr(crossing, name) for name in StoredCrossing.__slots__}
        | {"counted": json.dumps(crossing.counted)},
    )


def drop_crossing(connection: sqlite3.Connection, application_id: int) -> None:
    """Forget a crossing with all that belongs to it."""
    connection.execute("DELETE FROM crossings WHERE application_id = :id", {"id": application_id})


def stored_routes(db: Database, application_id: int) -> list[StoredRoute]:
    """The routes of both sides, also those that are gone."""
    rows = db.all(
        "SELECT side, method, path, handler, file, line, framework, rest, source, mended_at, seen_at, gone_at, tested "
        "FROM crossing_routes WHERE application_id = :id ORDER BY path, method",
        {"id": application_id},
    )
    return [
        StoredRoute(
            side=Side(row["side"]),
            route=Route(
                method=row["method"],
                path=row["path"],
                handler=row["handler"],
                file=row["file"],
                line=row["line"],
                framework=row["framework"],
                rest=frozenset(filter(None, row["rest"].split(" "))),
                source=row["source"],
            ),
            mended_at=row["mended_at"],
            seen_at=row["seen_at"],
            gone_at=row["gone_at"],
            tested=bool(row["tested"]),
        )
        for row in rows
    ]


def keep_routes(
    connection: sqlite3.Connection,
    application_id: int,
    side: Side,
    routes: Sequence[Route],
    at: str,
    tested: AbstractSet[str] = frozenset(),
    source: str = "code",
) -> None:
    """What the code of a side, or a description of its interface, declares now; routes of that ``source`` that are not there any more are
    marked as gone. ``tested``: names of those that its tests call."""
    connection.execute(
        "UPDATE crossing_routes SET gone_at = :at WHERE application_id = :id AND side = :side AND source = :source AND gone_at IS NULL",
        {"id": application_id, "side": side.value, "at": at, "source": source},
    )
    connection.executemany(
        "INSERT INTO crossing_routes (application_id, side, method, path, handler, file, line, framework, rest, source, tested, seen_at) "
        "VALUES (:id, :side, :method, :path, :handler, :file, :line, :framework, :rest, :source, :tested, :at) "
        "ON CONFLICT (application_id, side, method, path) DO UPDATE SET handler = :handler, file = :file, line = :line, "
        "framework = :framework, rest = :rest, source = :source, tested = :tested, gone_at = NULL",
        [
            {
                "id": application_id,
                "side": side.value,
                "method": route.method,
                "path": route.path,
                "handler": route.handler,
                "file": route.file,
                "line": route.line,
                "framework": route.framework,
                "rest": " ".join(sorted(route.rest)),
                "source": route.source,
                "tested": route.name in tested,
                "at": at,
            }
            for route in routes
        ],
    )


def set_mended(connection: sqlite3.Connection, application_id: int, route: Route, at: str) -> None:
    """Comparisons of a route count from now on."""
    connection.execute(
        "UPDATE crossing_routes SET mended_at = :at WHERE application_id = :id AND side = 'old' AND method = :method AND path = :path",
        {"id": application_id, "at": at, "method": route.method, "path": route.path},
    )


_SET_CALLS: Final = (
    "INSERT INTO crossing_calls VALUES (:id, :route, :day, :source, :calls) "
    "ON CONFLICT (application_id, route, day, source) DO UPDATE SET calls = :calls"
)
_ADD_CALLS: Final = (
    "INSERT INTO crossing_calls VALUES (:id, :route, :day, :source, :calls) "
    "ON CONFLICT (application_id, route, day, source) DO UPDATE SET calls = calls + :calls"
)


def set_calls(connection: sqlite3.Connection, application_id: int, rows: Iterable[tuple[str, str, int]]) -> None:
    """Calls as (route, day, count) out of logs; what a log said of the same day before is replaced."""
    connection.executemany(_SET_CALLS, _call_rows(application_id, CallSource.LOG, rows))


def add_calls(
    connection: sqlite3.Connection, application_id: int, source: CallSource, rows: Iterable[tuple[str, str, int]]
) -> None:
    """Calls as (route, day, count) that come on top of those that are there."""
    connection.executemany(_ADD_CALLS, _call_rows(application_id, source, rows))


def _call_rows(
    application_id: int, source: CallSource, rows: Iterable[tuple[str, str, int]]
) -> Iterator[dict[str, Any]]:
    for route, day, count in rows:
        yield {"id": application_id, "route": route, "day": day, "source": source.value, "calls": count}


def keep_unmatched(connection: sqlite3.Connection, application_id: int, rows: Iterable[UnmatchedPath]) -> None:
    """Paths that no route fits."""
    connection.execute("DELETE FROM crossing_unmatched WHERE application_id = :id", {"id": application_id})
    connection.executemany(
        "INSERT OR REPLACE INTO crossing_unmatched VALUES (:id, :method, :path, :requests, :answered)",
        [
            {
                "id": application_id,
                "method": row.method,
                "path": row.path,
                "requests": row.requests,
                "answered": row.answered,
            }
            for row in rows
        ],
    )


def calls_by_route(db: Database, application_id: int) -> dict[str, dict[str, int]]:
    """Route → day → calls; where a log and a gateway counted the same day, the larger figure."""
    rows = db.all(
        "SELECT route, day, MAX(calls) AS calls FROM crossing_calls WHERE application_id = :id GROUP BY route, day",
        {"id": application_id},
    )
    found: dict[str, dict[str, int]] = {}
    for row in rows:
        found.setdefault(row["route"], {})[row["day"]] = row["calls"]
    return found


def days_counted(db: Database, application_id: int, source: CallSource) -> list[str]:
    """Days on which a source counted anything, in order."""
    rows = db.all(
        "SELECT DISTINCT day FROM crossing_calls WHERE application_id = :id AND source = :source ORDER BY day",
        {"id": application_id, "source": source.value},
    )
    return [row["day"] for row in rows]


def unmatched_of(db: Database, application_id: int) -> list[UnmatchedPath]:
    """Paths that no route fits, the most called first."""
    rows = db.all(
        "SELECT * FROM crossing_unmatched WHERE application_id = :id ORDER BY requests DESC, path LIMIT 200",
        {"id": application_id},
    )
    return [
        UnmatchedPath(method=r["method"], path=r["path"], requests=r["requests"], answered=r["answered"]) for r in rows
    ]


def keep_comparisons(connection: sqlite3.Connection, application_id: int, rows: Sequence[Compared]) -> None:
    """Comparisons, in the order in which they were made; of each route the latest stay."""
    connection.executemany(
        "INSERT INTO crossing_comparisons (application_id, route, at, alike, path, old_ms, new_ms, differences) "
        "VALUES (:id, :route, :at, :alike, :path, :old_ms, :new_ms, :differences)",
        [
            {
                "id": application_id,
                "route": row.route,
                "at": row.at,
                "alike": int(row.alike),
                "path": row.path,
                "old_ms": row.old_ms,
                "new_ms": row.new_ms,
                "differences": json.dumps(row.differences),
            }
            for row in rows
        ],
    )
    for route in {row.route for row in rows}:
        connection.execute(
            "DELETE FROM crossing_comparisons WHERE application_id = :id AND route = :route AND id <= "
            "(SELECT id FROM crossing_comparisons WHERE application_id = :id AND route = :route ORDER BY id DESC LIMIT 1 OFFSET :kept)",
            {"id": application_id, "route": route, "kept": KEPT_A_ROUTE},
        )


def comparisons_of(db: Database, application_id: int, route: str | None = None) -> list[Compared]:
    """The latest comparisons, of one route or of all, the oldest first."""
    rows = db.all(
        "SELECT * FROM crossing_comparisons WHERE application_id = :id AND (:route IS NULL OR route = :route) ORDER BY id",
        {"id": application_id, "route": route},
    )
    return [
        Compared(
            route=row["route"],
            at=row["at"],
            alike=bool(row["alike"]),
            path=row["path"],
            old_ms=row["old_ms"],
            new_ms=row["new_ms"],
            differences=() if row["alike"] else tuple(json.loads(row["differences"])),
        )
        for row in rows
    ]


def add_moves(connection: sqlite3.Connection, application_id: int, moves: Iterable[Move]) -> None:
    """Append moves."""
    connection.executemany(
        "INSERT INTO crossing_moves (application_id, route, standing, share, at, who, why) "
        "VALUES (:id, :route, :standing, :share, :at, :who, :why)",
        [
            {
                "id": application_id,
                "route": move.route,
                "standing": move.standing.value,
                "share": move.share,
                "at": move.at,
                "who": move.who,
                "why": move.why,
            }
            for move in moves
        ],
    )


def moves_of(db: Database, application_id: int) -> list[Move]:
    """All moves, the oldest first."""
    rows = db.all("SELECT * FROM crossing_moves WHERE application_id = :id ORDER BY id", {"id": application_id})
    return [
        Move(
            route=row["route"],
            standing=Standing(row["standing"]),
            share=row["share"],
            at=row["at"],
            who=row["who"],
            why=row["why"],
        )
        for row in rows
    ]


def put_slices(connection: sqlite3.Connection, application_id: int, slices: Sequence[ChosenSlice]) -> None:
    """The slices that a person chose, in their order."""
    connection.execute("DELETE FROM crossing_slices WHERE application_id = :id", {"id": application_id})
    connection.executemany(
        "INSERT INTO crossing_slices VALUES (:id, :position, :name, :routes)",
        [
            {"id": application_id, "position": position, "name": each.name, "routes": json.dumps(each.routes)}
            for position, each in enumerate(slices)
        ],
    )


def slices_of(db: Database, application_id: int) -> list[ChosenSlice]:
    """The slices that a person chose, in their order."""
    rows = db.all(
        "SELECT name, routes FROM crossing_slices WHERE application_id = :id ORDER BY position", {"id": application_id}
    )
    return [ChosenSlice(row["name"], tuple(json.loads(row["routes"]))) for row in rows]
