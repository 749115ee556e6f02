"""Scans with their findings, places, packages, files and texts, and the plan made on each."""

from __future__ import annotations

import json
import sqlite3
import zlib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final

from yoake.core.values.errors import BadRecords
from yoake.core.values.findings import FileResult, Tally
from yoake.store.database import Database, Row

Rows = Sequence[tuple[Any, ...]]

_DETAIL: Final = ("findings", "finding_bodies", "places", "packages", "scan_files", "offered")


@dataclass(frozen=True, slots=True)
class FindingRows:
    """Findings in the columns of their tables, without the scan: findings (the change left out), bodies, places."""

    findings: Rows
    bodies: Rows
    places: Rows


def add_scan(connection: sqlite3.Connection, values: Mapping[str, Any]) -> int:
    """Add one finished scan; returns its number."""
    cursor = connection.execute(
        "INSERT INTO scans (application_id, destination_id, snapshot, label, taken_at, seconds, analyser, knowledge, "
        "clear, known, errors, warnings, notes, places, summary, detail) "
        "VALUES (:application, :destination, :snapshot, :label, :taken_at, :seconds, :analyser, :knowledge, "
        ":clear, :known, :errors, :warnings, :notes, :places, :summary, :detail)",
        values,
    )
    return int(cursor.lastrowid or 0)


def put_plan(connection: sqlite3.Connection, scan_id: int, outline: str, body: str, safe_now: int) -> None:
    """The plan on a scan; one that is there is replaced, and its version grows."""
    connection.execute(
        "INSERT INTO plans (scan_id, safe_now, outline, body) VALUES (:scan, :safe, :outline, :body) "
        "ON CONFLICT (scan_id) DO UPDATE SET version = version + 1, safe_now = :safe, outline = :outline, body = :body",
        {"scan": scan_id, "safe": safe_now, "outline": outline, "body": body},
    )


def add_findings(connection: sqlite3.Connection, scan_id: int, rows: FindingRows, before: set[str] | None) -> None:
    """Findings of a scan. ``before``: keys of the scan before it, None when there is none to compare with."""
    changes = ("first" if before is None else "still" if row[2] in before else "new" for row in rows.findings)
    marks = ",".join("?" * 23)
    connection.executemany(
        f"INSERT INTO findings VALUES ({marks})",  # noqa: S608  only question marks
        ((scan_id, *row[:-1], change, row[-1]) for row, change in zip(rows.findings, changes, strict=True)),
    )
    connection.executemany("INSERT INTO finding_bodies VALUES (?, ?, ?)", ((scan_id, *row) for row in rows.bodies))
    connection.executemany(
        "INSERT INTO places VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        ((scan_id, *row) for row in rows.places),
    )


def add_packages(connection: sqlite3.Connection, scan_id: int, rows: Rows) -> None:
    """Packages of a scan as (coordinate, module, direct, state, body), in their order."""
    connection.executemany(
        "INSERT INTO packages VALUES (?, ?, ?, ?, ?, ?, ?)", ((scan_id, n, *row) for n, row in enumerate(rows))
    )


def add_offered(connection: sqlite3.Connection, scan_id: int, purls: Iterable[str]) -> None:
    """What the modules of an application are called by those that require them; kept answers of such libraries are forgotten.

    Also forgotten: those of the libraries that this scan requires.
    """
    connection.executemany("INSERT OR IGNORE INTO offered VALUES (?, ?)", ((scan_id, purl) for purl in purls))
    connection.execute(
        "DELETE FROM kept_answers WHERE application_id IN (SELECT s.application_id FROM packages p "
        "JOIN offered o ON o.coordinate = p.coordinate JOIN scans s ON s.id = o.scan_id WHERE p.scan_id = :scan AND p.direct = 1)",
        {"scan": scan_id},
    )


def offered_by(db: Database, scan_id: int) -> list[str]:
    """Package URLs under which others may require a module of this scan."""
    return [
        row["coordinate"] for row in db.all("SELECT coordinate FROM offered WHERE scan_id = :scan", {"scan": scan_id})
    ]


def add_files(
    connection: sqlite3.Connection,
    scan_id: int,
    files: Iterable[FileResult],
    tallies: Mapping[str, Tally],
    work: Mapping[str, int],
) -> None:
    """What happened to each file, with its checks and the places to change in it."""
    none = Tally()
    connection.executemany(
        "INSERT INTO scan_files (scan_id, path, state, reason, language, lines, digest, holds, fails, unknown, role, work) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            (
                scan_id,
                f.path,
                f.state,
                f.reason,
                f.language,
                f.lines,
                f.digest,
                t.holds,
                t.fails,
                t.unknown,
                f.role,
                work.get(f.path, 0),
            )
            for f in files
            for t in [tallies.get(f.path, none)]
        ),
    )


def add_texts(connection: sqlite3.Connection, texts: Iterable[tuple[str, bytes]]) -> None:
    """Texts, compressed with zlib, by digest; known ones are kept."""
    connection.executemany("INSERT OR IGNORE INTO texts VALUES (?, ?)", texts)


def drop_detail(connection: sqlite3.Connection, application_id: int, destination_id: int, keep: int) -> None:
    """Of all but the newest ``keep`` scans only the summary stays: findings, files and texts that no other scan has go."""
    rows = connection.execute(
        "SELECT id FROM scans WHERE application_id = :application AND destination_id = :destination AND has_detail = 1 "
        "ORDER BY id DESC LIMIT -1 OFFSET :keep",
        {"application": application_id, "destination": destination_id, "keep": keep},
    ).fetchall()
    for row in rows:
        values = {"scan": row["id"]}
        digests = [
            r["digest"]
            for r in connection.execute("SELECT DISTINCT digest FROM scan_files WHERE scan_id = :scan", values)
        ]
        for name in _DETAIL:
            connection.execute(f"DELETE FROM {name} WHERE scan_id = :scan", values)  # noqa: S608  names from the list above
        connection.execute("UPDATE scans SET has_detail = 0, detail = '{}' WHERE id = :scan", values)
        connection.execute("DELETE FROM plans WHERE scan_id = :scan", values)
        connection.executemany(
            "DELETE FROM texts WHERE digest = :digest AND NOT EXISTS (SELECT 1 FROM scan_files f WHERE f.digest = :digest)",
            ({"digest": digest} for digest in digests),
        )


def latest_scan(db: Database, application_id: int, destination_id: int) -> Row | None:
    """The newest scan for an application and destination, with its plan (``plan``, ``outline``, ``plan_version``, ``safe_now``)."""
    return db.one(
        "SELECT s.*, p.body AS plan, p.outline, p.version AS plan_version, p.safe_now FROM scans s "
        "LEFT JOIN plans p ON p.scan_id = s.id "
        "WHERE s.application_id = :application AND s.destination_id = :destination ORDER BY s.id DESC LIMIT 1",
        {"application": application_id, "destination": destination_id},
    )


def requirers(db: Database, purls: Iterable[str], but: int) -> set[int]:
    """Applications whose newest scan requires one of these packages directly, one of them left out; one query for all."""
    rows = db.all(
        "SELECT DISTINCT a.id FROM json_each(:purls) w JOIN packages p ON p.coordinate = w.value AND p.direct = 1 "
        "JOIN scans s ON s.id = p.scan_id JOIN applications a ON a.id = s.application_id "
        "JOIN application_destinations ad ON ad.application_id = a.id AND ad.is_current = 1 AND ad.destination_id = s.destination_id "
        "WHERE a.removed_at IS NULL AND a.id <> :but "
        "AND s.id = (SELECT max(id) FROM scans WHERE application_id = a.id AND destination_id = ad.destination_id)",
        {"but": but, "purls": json.dumps(sorted(purls))},
    )
    return {row["id"] for row in rows}


def namers(db: Database, purl: str) -> set[int]:
    """Applications whose newest scan names this package, directly or in a lock file."""
    rows = db.all(
        "SELECT DISTINCT s.application_id AS id FROM packages p JOIN scans s ON s.id = p.scan_id WHERE p.coordinate = :purl "
        "AND s.id = (SELECT max(id) FROM scans n WHERE n.application_id = s.application_id AND n.destination_id = s.destination_id)",
        {"purl": purl},
    )
    return {row["id"] for row in rows}


def scan_history(db: Database, application_id: int, destination_id: int, most: int = 1000) -> list[Row]:
    """The newest scans of an application and destination, oldest first, without what was found."""
    rows = db.all(
        "SELECT id, label, taken_at, clear, known, errors, warnings FROM scans "
        "WHERE application_id = :application AND destination_id = :destination ORDER BY id DESC LIMIT :most",
        {"application": application_id, "destination": destination_id, "most": most},
    )
    return rows[::-1]


def latest_marks(db: Database) -> dict[int, tuple[int, int]]:
    """Application → (newest scan for its current destination, version of the plan on it)."""
    rows = db.all(
        "SELECT ad.application_id, s.id, coalesce(p.version, 0) AS version FROM application_destinations ad "
        "JOIN scans s ON s.id = (SELECT max(id) FROM scans WHERE application_id = ad.application_id AND destination_id = ad.destination_id) "
        "LEFT JOIN plans p ON p.scan_id = s.id WHERE ad.is_current = 1"
    )
    return {row["application_id"]: (row["id"], row["version"]) for row in rows}


def latest_mark(db: Database, application_id: int, destination_id: int) -> tuple[int, int]:
    """(newest scan, version of the plan on it); zeros before the first."""
    row = db.one(
        "SELECT s.id, coalesce(p.version, 0) AS version FROM scans s LEFT JOIN plans p ON p.scan_id = s.id "
        "WHERE s.application_id = :application AND s.destination_id = :destination ORDER BY s.id DESC LIMIT 1",
        {"application": application_id, "destination": destination_id},
    )
    return (row["id"], row["version"]) if row is not None else (0, 0)


def scan_outlines(db: Database, scan_ids: Iterable[int]) -> dict[int, Row]:
    """Scan → its summary with the outline of its plan."""
    rows = db.all(
        "SELECT s.id, s.taken_at, s.label, s.clear, s.known, s.errors, s.warnings, s.notes, s.summary, p.outline, p.safe_now "
        "FROM json_each(:ids) w JOIN scans s ON s.id = w.value LEFT JOIN plans p ON p.scan_id = s.id",
        {"ids": json.dumps(list(scan_ids))},
    )
    return {row["id"]: row for row in rows}


def clearances(db: Database) -> dict[tuple[int, int], list[float]]:
    """(application, destination) → clearance of its scans, oldest first, where it is known."""
    found: dict[tuple[int, int], list[float]] = {}
    for row in db.all("SELECT application_id, destination_id, clear FROM scans WHERE clear IS NOT NULL ORDER BY id"):
        found.setdefault((row["application_id"], row["destination_id"]), []).append(round(row["clear"], 4))
    return found


def clearances_of(db: Database, application_id: int, destination_id: int, most: int = 12) -> list[float]:
    """Clearance of the newest scans of one application and destination, oldest first, where it is known."""
    rows = db.all(
        "SELECT clear FROM scans WHERE application_id = :application AND destination_id = :destination AND clear IS NOT NULL "
        "ORDER BY id DESC LIMIT :most",
        {"application": application_id, "destination": destination_id, "most": most},
    )
    return [round(row["clear"], 4) for row in reversed(rows)]


def findings_of(db: Database, scan_id: int) -> list[dict[str, Any]]:
    """Findings of a scan in the scan's order, whole, as they were stored."""
    places: dict[int, list[dict[str, Any]]] = {}
    for row in db.all("SELECT * FROM places WHERE scan_id = :scan ORDER BY position, ordinal", {"scan": scan_id}):
        place = {name: row[name] for name in _PLACE_FIELDS}
        places.setdefault(row["position"], []).append(place)
    rows = db.all(
        "SELECT f.position, b.body FROM findings f JOIN finding_bodies b ON b.scan_id = f.scan_id AND b.position = f.position "
        "WHERE f.scan_id = :scan ORDER BY f.ordinal",
        {"scan": scan_id},
    )
    return [{**json.loads(row["body"]), "places": places.get(row["position"], [])} for row in rows]


def finding_pages(db: Database, scan_id: int, size: int = 500) -> Iterator[list[dict[str, Any]]]:
    """Findings of a scan in the scan's order, whole, a page at a time: for who writes them all without holding them all.

    Raises BadRecords when the scan's detail is dropped meanwhile.
    """
    rows = db.all("SELECT position FROM findings WHERE scan_id = :scan ORDER BY ordinal", {"scan": scan_id})
    positions = [row["position"] for row in rows]
    for at in range(0, len(positions), size):
        wanted = positions[at : at + size]
        values = {"scan": scan_id, "positions": json.dumps(wanted)}
        places: dict[int, list[dict[str, Any]]] = {}
        for row in db.all(
            f"SELECT p.* {_OF_PAGE} CROSS JOIN places p ON {_SAME} ORDER BY p.position, p.ordinal", values
        ):
            places.setdefault(row["position"], []).append({name: row[name] for name in _PLACE_FIELDS})
        found = db.all(f"SELECT p.position, p.body {_OF_PAGE} CROSS JOIN finding_bodies p ON {_SAME}", values)
        bodies = {row["position"]: json.loads(row["body"]) for row in found}
        if len(bodies) < len(wanted):
            raise BadRecords("The scan was dropped while it was being written out. Ask for the newest one.")
        yield [{**bodies[position], "places": places.get(position, [])} for position in wanted]


_OF_PAGE: Final = "FROM json_each(:positions) w"
_SAME: Final = "p.scan_id = :scan AND p.position = w.value"
_PLACE_FIELDS: Final = (
    "key",
    "file",
    "line",
    "column",
    "end_column",
    "symbol",
    "form",
    "scope",
    "guarded",
    "level",
    "first_line",
)


def packages_of_scan(db: Database, scan_id: int) -> list[dict[str, Any]]:
    """Packages of a scan in their order, as they were stored."""
    rows = db.all("SELECT body FROM packages WHERE scan_id = :scan ORDER BY ordinal", {"scan": scan_id})
    return [json.loads(row["body"]) for row in rows]


def finding_keys(db: Database, scan_id: int) -> set[str]:
    """Keys of the findings of a scan."""
    return {row["key"] for row in db.all("SELECT key FROM findings WHERE scan_id = :scan", {"scan": scan_id})}


def files_of(db: Database, scan_id: int) -> list[Row]:
    """Files of a scan in path order."""
    return db.all("SELECT * FROM scan_files WHERE scan_id = :scan ORDER BY path", {"scan": scan_id})


def text_of(db: Database, scan_id: int, path: str) -> bytes | None:
    """The text of one file as it was scanned; None when it was not kept."""
    row = db.one(
        "SELECT t.body FROM scan_files f JOIN texts t ON t.digest = f.digest WHERE f.scan_id = :scan AND f.path = :path",
        {"scan": scan_id, "path": path},
    )
    return zlib.decompress(row["body"]) if row is not None else None


def count_levels(db: Database) -> dict[str, int]:
    """Level → findings of the newest scans towards current destinations."""
    row = db.one(
        "SELECT sum(s.errors) AS error, sum(s.warnings) AS warning, sum(s.notes) AS note FROM applications a "
        "JOIN application_destinations d ON d.application_id = a.id AND d.is_current = 1 "
        "JOIN scans s ON s.id = (SELECT max(id) FROM scans WHERE application_id = a.id AND destination_id = d.destination_id) "
        "WHERE a.removed_at IS NULL"
    )
    return {level: (row[level] or 0) if row is not None else 0 for level in ("error", "warning", "note")}
