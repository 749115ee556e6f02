"""Steps and events. Steps are never ticked: scans open and close them."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date
from typing import Any

from yoake.core.values.errors import NotFound
from yoake.core.values.plans import ROUTE_PREFIX, STAGE_PREFIX
from yoake.core.values.words import StepState
from yoake.store.database import Database, Row, escaped
from yoake.store.waivers import IN_FORCE


def is_stage(key: str) -> bool:
    """Whether a step stands for a stage and not for a finding."""
    return key.startswith(STAGE_PREFIX)


def is_route(key: str) -> bool:
    """Whether a step takes a route out."""
    return key.startswith(ROUTE_PREFIX)


def steps_of(db: Database, application_id: int, destination_id: int) -> list[Row]:
    """Steps of one application and destination, in path order."""
    return db.all(
        "SELECT * FROM steps WHERE application_id = :application AND destination_id = :destination ORDER BY stage, id",
        {"application": application_id, "destination": destination_id},
    )


_COLUMNS = (
    "s.*, a.slug, a.name AS application, a.team, a.owner AS application_owner, w.finding_key IS NOT NULL AS waived"
)
_FROM = (
    "FROM steps s JOIN applications a ON a.id = s.application_id "
    f"LEFT JOIN waivers w ON w.application_id = s.application_id AND w.finding_key = s.finding_key AND {IN_FORCE}"
)
_STATES = {
    "open": "s.live = 1 AND w.finding_key IS NULL",
    "closed": "s.live = 2",
    "waived": "s.live = 1 AND w.finding_key IS NOT NULL",
    "all": "s.live IN (1, 2)",
}
_WHOSE = {"everyone": "1", "me": "s.owner = :me COLLATE NOCASE AND s.owner <> ''", "nobody": "s.owner = ''"}
_KEPT_STATES = ("open", "closed", "reopened", "not seen")
_ORDER = "s.live, (s.state = 'reopened') DESC, coalesce(s.due, '9999'), s.stage, s.application_id, s.id"
MOST_COUNTED = 10_000
"""Steps that a filter counts before it says “more than”: to count a million takes longer than anybody waits."""


@dataclass(frozen=True, slots=True, kw_only=True)
class WantedSteps:
    """Which steps: of one application or of all, whose, in which state, with these words, of one ``stage``, of one ``owner`` (empty:
    of nobody); ``today`` decides on waivers."""

    today: date
    application_id: int | None = None
    whose: str = "everyone"
    me: str = ""
    state: str = "open"
    text: str = ""
    stage: int | None = None
    owner: str | None = None
    source: str = _FROM

    @property
    def where(self) -> str:
        """The condition on ``s`` and ``a``."""
        parts = [_STATES[self.state], _WHOSE[self.whose]]
        if self.application_id is not None:
            parts.append("s.application_id = :application")
        if self.stage is not None:
            parts.append("s.stage = :stage")
        if self.owner is not None:
            parts.append("s.owner = :owner COLLATE NOCASE AND s.owner <> ''" if self.owner else "s.owner = ''")
        parts += [
            f"(s.title || ' ' || a.name || ' ' || a.team || ' ' || s.owner || ' ' || s.state || ' ' || s.note) LIKE :word{n} ESCAPE '\\'"
            for n in range(len(self.words))
        ]
        return " AND ".join(parts)

    @property
    def words(self) -> list[str]:
        """The words of the filter, at most eight."""
        return self.text.split()[:8]

    @property
    def values(self) -> dict[str, Any]:
        """What the queries are bound to."""
        held = {f"word{n}": f"%{escaped(word)}%" for n, word in enumerate(self.words)}
        return {
            "today": self.today.isoformat(),
            "application": self.application_id,
            "me": self.me,
            "stage": self.stage,
            "owner": self.owner,
            **held,
        }


def step_window(db: Database, wanted: WantedSteps, offset: int, limit: int) -> list[Row]:
    """A window of steps, the most urgent first: found again, then by date, then what can be done first."""
    return db.all(
        f"SELECT {_COLUMNS} {wanted.source} WHERE {wanted.where} ORDER BY {_ORDER} LIMIT :limit OFFSET :offset",
        {**wanted.values, "limit": limit, "offset": offset},
    )


def count_steps(db: Database, wanted: WantedSteps) -> int:
    """How many steps fit, at most one more than ``MOST_COUNTED``."""
    row = db.one(
        f"SELECT count(*) AS n FROM (SELECT 1 {wanted.source} WHERE {wanted.where} LIMIT {MOST_COUNTED + 1})",
        wanted.values,
    )
    return int(row["n"]) if row is not None else 0


_HOLDING = """
SELECT s.id FROM step_titles t CROSS JOIN steps s ON s.title = t.title WHERE t.title LIKE :{word} ESCAPE '\\'
UNION ALL SELECT s.id FROM applications a CROSS JOIN steps s ON s.application_id = a.id
  WHERE (a.name || ' ' || a.team) LIKE :{word} ESCAPE '\\'
UNION ALL SELECT id FROM steps INDEXED BY steps_written
  WHERE (owner <> '' OR note <> '') AND (owner || ' ' || note) LIKE :{word} ESCAPE '\\'
"""
"""Steps that hold a word, from the places where it can stand."""
_RARE = 20_000  # steps that hold a word, up to which it is quicker to sort those than to walk through all in order


def narrowed(db: Database, wanted: WantedSteps) -> WantedSteps:
    """The same steps, looked for among those that hold the rarest word of the filter; among all where none is rare."""
    found: list[tuple[int, str]] = []
    for number, word in enumerate(wanted.words):
        if any(word.lower() in state for state in _KEPT_STATES):
            continue  # half of all steps may be in that state
        holding = _HOLDING.format(word=f"word{number}")
        row = db.one(f"SELECT count(*) AS n FROM ({holding} LIMIT {_RARE + 1})", wanted.values)
        found.append((int(row["n"]) if row is not None else 0, holding))
    fewest = min(found, default=None)
    if fewest is None or fewest[0] > _RARE:
        return wanted
    source = _FROM.replace(
        "FROM steps s", f"FROM (SELECT DISTINCT id FROM ({fewest[1]})) h CROSS JOIN steps s ON s.id = h.id"
    )
    return replace(wanted, source=source)


@dataclass(frozen=True, slots=True)
class StepCounts:
    """Steps to do (those accepted left out), closed, past their date, and found again."""

    open: int
    closed: int
    late: int
    again: int


def step_counts(db: Database, today: date, application_id: int | None = None) -> StepCounts:
    """How the work stands, over all applications or one."""
    values = {"today": today.isoformat(), "application": application_id}
    one = "" if application_id is None else "AND application_id = :application "
    row = db.one(
        "SELECT coalesce(sum(open_steps), 0) AS open, coalesce(sum(closed_steps), 0) AS closed FROM applications "
        f"WHERE removed_at IS NULL {one.replace('application_id', 'id')}",
        values,
    )
    waived = db.one(
        "SELECT count(*) AS n FROM waivers w CROSS JOIN application_destinations d ON d.application_id = w.application_id AND d.is_current = 1 "
        "CROSS JOIN steps s ON s.application_id = w.application_id AND s.destination_id = d.destination_id "
        "AND s.finding_key = w.finding_key AND s.live = 1 "
        f"WHERE {IN_FORCE} {one.replace('application_id', 'w.application_id')}",
        values,
    )
    late = db.one(
        f"SELECT count(*) AS n FROM steps INDEXED BY steps_due WHERE due IS NOT NULL AND live = 1 AND due < :today {one}",
        values,
    )
    again = db.one(
        f"SELECT count(*) AS n FROM steps INDEXED BY steps_again WHERE state = 'reopened' AND live = 1 {one}", values
    )
    counted = [int(r["n"]) if r is not None else 0 for r in (waived, late, again)]
    opened, closed = (int(row["open"]), int(row["closed"])) if row is not None else (0, 0)
    return StepCounts(opened - counted[0], closed, counted[1], counted[2])


def get_step(db: Database, number: int, today: date) -> Row:
    """One step. Raises NotFound."""
    row = db.one(f"SELECT {_COLUMNS} {_FROM} WHERE s.id = :id", {"id": number, "today": today.isoformat()})
    if row is None:
        raise NotFound(f"There is no step {number}.")
    return row


def put_step(connection: sqlite3.Connection, values: Mapping[str, Any]) -> None:
    """Add a step or renew what a scan says of it; owner, due and note are a person's and stay."""
    connection.execute("INSERT OR IGNORE INTO step_titles VALUES (:title)", {"title": values["title"]})
    connection.execute(
        "INSERT INTO steps (application_id, destination_id, finding_key, stage, title, state, why, places, minutes, files, "
        "kind, coordinate, opened_at) "
        "VALUES (:application, :destination, :key, :stage, :title, :state, :why, :places, :minutes, :files, :kind, :coordinate, :at) "
        "ON CONFLICT (application_id, destination_id, finding_key) DO UPDATE SET stage = :stage, title = :title, state = :state, "
        "why = :why, places = :places, minutes = :minutes, files = :files, kind = :kind, coordinate = :coordinate, closed_at = NULL",
        {"kind": "", "coordinate": "", **values},
    )


def set_step_state(
    connection: sqlite3.Connection, step_id: int, state: StepState, why: str, closed_at: str | None
) -> None:
    """What a scan says of a step that it no longer finds."""
    connection.execute(
        "UPDATE steps SET state = :state, why = :why, closed_at = :closed WHERE id = :id",
        {"state": state, "why": why, "closed": closed_at, "id": step_id},
    )


def renew_live(connection: sqlite3.Connection, application_id: int) -> None:
    """Which steps of an application are to do or closed (``live``), and how many in each stage, after anything that bears on it."""
    values = {"id": application_id}
    connection.execute(
        "UPDATE steps SET live = made.live FROM (SELECT s.id, CASE WHEN a.removed_at IS NOT NULL OR d.destination_id IS NULL THEN 0 "
        "WHEN s.state = 'closed' THEN 2 ELSE 1 END AS live FROM steps s JOIN applications a ON a.id = s.application_id "
        "LEFT JOIN application_destinations d ON d.application_id = a.id AND d.destination_id = s.destination_id AND d.is_current = 1 "
        "WHERE s.application_id = :id) AS made WHERE steps.id = made.id AND steps.live <> made.live",
        values,
    )
    connection.execute(
        "UPDATE applications SET open_steps = (SELECT count(*) FROM steps WHERE application_id = :id AND live = 1), "
        "closed_steps = (SELECT count(*) FROM steps WHERE application_id = :id AND live = 2) WHERE id = :id",
        values,
    )
    connection.execute("DELETE FROM step_groups WHERE application_id = :id", values)
    connection.execute(
        "INSERT INTO step_groups SELECT application_id, stage, count(*), sum(minutes) FROM steps "
        "WHERE application_id = :id AND live = 1 GROUP BY stage",
        values,
    )


def files_of_step(text: str) -> tuple[str, ...]:
    """The files that a step is about."""
    return tuple(json.loads(text))


def step_of(db: Database, application_id: int, destination_id: int, key: str) -> Row | None:
    """The step of one finding."""
    return db.one(
        "SELECT * FROM steps WHERE application_id = :application AND destination_id = :destination AND finding_key = :key",
        {"application": application_id, "destination": destination_id, "key": key},
    )


_ACCEPTED = (
    "EXISTS (SELECT 1 FROM waivers w WHERE w.application_id = s.application_id AND w.finding_key = s.finding_key "
    f"AND {IN_FORCE})"
)


def count_open_waived(db: Database, application_id: int, destination_id: int, today: date) -> int:
    """Findings that the newest scan has and that are accepted today."""
    row = db.one(
        f"SELECT count(*) AS n FROM steps s WHERE s.application_id = :application AND s.destination_id = :destination "
        f"AND s.state <> 'closed' AND s.finding_key IN (SELECT finding_key FROM waivers WHERE application_id = :application) AND {_ACCEPTED}",
        {"application": application_id, "destination": destination_id, "today": today.isoformat()},
    )
    return int(row["n"]) if row is not None else 0


def count_safe_now(db: Database, application_id: int, destination_id: int, today: date) -> int:
    """Findings that can be dealt with before any version moves, those accepted today left out."""
    row = db.one(
        f"SELECT count(*) AS n FROM steps s WHERE s.application_id = :application AND s.destination_id = :destination "
        f"AND s.state IN ('open', 'reopened') AND s.stage = 0 AND s.finding_key NOT LIKE 'stage:%' AND NOT {_ACCEPTED}",
        {"application": application_id, "destination": destination_id, "today": today.isoformat()},
    )
    return int(row["n"]) if row is not None else 0


def stage_counts(db: Database, application_id: int, destination_id: int) -> dict[int, int]:
    """Stage → steps still open in it."""
    rows = db.all(
        "SELECT stage, count(*) AS n FROM steps WHERE application_id = :application AND destination_id = :destination "
        "AND state <> 'closed' GROUP BY stage",
        {"application": application_id, "destination": destination_id},
    )
    return {row["stage"]: row["n"] for row in rows}


def set_stage(connection: sqlite3.Connection, step_id: int, stage: int) -> None:
    """Which stage of the plan a step goes with."""
    connection.execute("UPDATE steps SET stage = :stage WHERE id = :id", {"stage": stage, "id": step_id})


def change_step(connection: sqlite3.Connection, step_id: int, field: str, value: str | None) -> None:
    """Set owner, due or note."""
    statement = {
        "owner": "UPDATE steps SET owner = :value, version = version + 1 WHERE id = :id",
        "due": "UPDATE steps SET due = :value, version = version + 1 WHERE id = :id",
        "note": "UPDATE steps SET note = :value, version = version + 1 WHERE id = :id",
    }[field]
    connection.execute(statement, {"value": value, "id": step_id})


def set_spent(connection: sqlite3.Connection, step_id: int, minutes: float) -> None:
    """Say how many minutes a step took, in all."""
    connection.execute(
        "UPDATE steps SET spent = :spent, version = version + 1 WHERE id = :id", {"spent": minutes, "id": step_id}
    )
