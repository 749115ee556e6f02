"""Scans with their findings, files and texts."""

from __future__ import annotations

import json
import sqlite3
import zlib
from collections.abc import Iterable, Mapping
from typing import Any

from yoake.core.scan.model import FileResult, Tally
from yoake.store.database import Database, Row


def add_scan(connection: sqlite3.Connection, values: Mapping[str, Any]) -> int:
    """Add one finished scan; returns its number."""
    cursor = connection.execute(
        "INSERT INTO scans (application_id, destination_id, snapshot, label, taken_at, seconds, analyser, knowledge, summary, detail) "
        "VALUES (:application, :destination, :snapshot, :label, :taken_at, :seconds, :analyser, :knowledge, :summary, :detail)",
        values,
    )
    return int(cursor.lastrowid or 0)


def add_findings(connection: sqlite3.Connection, scan_id: int, rows: Iterable[tuple[str, str, str]]) -> None:
    """Findings of a scan as (key, level, body) in their order."""
    connection.executemany(
        "INSERT INTO findings (scan_id, ordinal, key, level, body) VALUES (:scan, :ordinal, :key, :level, :body)",
        [
            {"scan": scan_id, "ordinal": i, "key": k, "level": level, "body": body}
            for i, (k, level, body) in enumerate(rows)
        ],
    )


def add_files(
    connection: sqlite3.Connection, scan_id: int, files: Iterable[FileResult], tallies: Mapping[str, Tally]
) -> None:
    """What happened to each file, with its checks."""
    none = Tally()
    connection.executemany(
        "INSERT INTO scan_files VALUES "
        "(:scan, :path, :state, :reason, :language, :lines, :digest, :holds, :fails, :unknown, :role)",
        [
            {
                "scan": scan_id,
                "path": f.path,
                "state": f.state,
                "reason": f.reason,
                "language": f.language,
                "lines": f.lines,
                "digest": f.digest,
                "role": f.role,
                "holds": (t := tallies.get(f.path, none)).holds,
                "fails": t.fails,
                "unknown": t.unknown,
            }
            for f in files
        ],
    )


def add_texts(connection: sqlite3.Connection, texts: Iterable[tuple[str, bytes]]) -> None:
    """Texts, compressed with zlib, by digest; known ones are kept."""
    connection.executemany(
        "INSERT OR IGNORE INTO texts VALUES (:digest, :body)", ({"digest": d, "body": b} for d, b in texts)
    )


def latest_scan(db: Database, application_id: int, destination_id: int) -> Row | None:
    """The newest scan for an application and destination."""
    return db.one(
        "SELECT * FROM scans WHERE application_id = :application AND destination_id = :destination ORDER BY id DESC LIMIT 1",
        {"application": application_id, "destination": destination_id},
    )


def requirers(db: Database, purls: Iterable[str], but: int) -> set[int]:
    """Applications whose newest scan requires one of these packages directly, one of them left out; one query for all."""
    rows = db.all(
        "SELECT a.id FROM applications a "
        "JOIN application_destinations ad ON ad.application_id = a.id AND ad.is_current = 1 "
        "JOIN scans s ON s.id = (SELECT max(id) FROM scans WHERE application_id = a.id AND destination_id = ad.destination_id) "
        "WHERE a.removed_at IS NULL AND a.id <> :but AND EXISTS (SELECT 1 FROM json_each(s.detail, '$.packages') p "
        "WHERE json_extract(p.value, '$.coordinate') IN (SELECT value FROM json_each(:purls)) "
        "AND coalesce(json_extract(p.value, '$.direct'), 1))",
        {"but": but, "purls": json.dumps(sorted(purls))},
    )
    return {row["id"] for row in rows}


def scan_history(db: Database, application_id: int, destination_id: int) -> list[Row]:
    """All scans of an application and destination, oldest first, without their detail."""
    return db.all(
        "SELECT id, snapshot, label, taken_at, seconds, knowledge, summary FROM scans "
        "WHERE application_id = :application AND destination_id = :destination ORDER BY id",
        {"application": application_id, "destination": destination_id},
    )


def latest_summaries(db: Database) -> dict[int, Row]:
    """Application → newest scan (id, taken_at, label, summary) for its current destination."""
    rows = db.all(
        "SELECT s.application_id, s.id, s.taken_at, s.label, s.knowledge, s.analyser, s.summary FROM scans s "
        "JOIN application_destinations ad ON ad.application_id = s.application_id AND ad.destination_id = s.destination_id "
        "AND ad.is_current = 1 WHERE s.id IN (SELECT MAX(id) FROM scans GROUP BY application_id, destination_id)"
    )
    return {row["application_id"]: row for row in rows}


def findings_of(db: Database, scan_id: int) -> list[dict[str, Any]]:
    """Findings of a scan in their order, as they were stored."""
    rows = db.all("SELECT body FROM findings WHERE scan_id = :scan ORDER BY ordinal", {"scan": scan_id})
    return [json.loads(row["body"]) for row in rows]


def finding_keys(db: Database, scan_id: int) -> dict[str, str]:
    """Key → level of the findings of a scan."""
    return {
        row["key"]: row["level"]
        for row in db.all("SELECT key, level FROM findings WHERE scan_id = :scan", {"scan": scan_id})
    }


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
