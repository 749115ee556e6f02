"""Findings, places and files of one scan as a screen asks for them: filtered, counted, and a window of rows."""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, Final

from yoake.store.database import Database, Row, escaped

ROLES: Final = {"anywhere": (), "source": ("source",), "test": ("test",), "other": ("vendored", "generated")}
"""Where a place may stand → the roles of such files; none means any."""

_WORK: Final = "f.level <> 'note' AND f.minutes_likely > 0"  # what is only in copies takes no minutes
_SHOWN: Final = {
    "all": "1",
    "now": f"{_WORK} AND f.window_state = 'now'",
    "hop": f"{_WORK} AND f.window_state = 'hop'",
    "switch": f"{_WORK} AND f.window_state = 'switch'",
    "new": "f.change = 'new'",
    "notes": "f.level = 'note'",
}
_STANDS: Final = "(:role1 = '' OR p.role IN (:role1, :role2)) AND (:within = '' OR p.file = :within OR (p.file > :low AND p.file < :high))"


@dataclass(frozen=True, slots=True)
class Wanted:
    """Which findings of a scan: by ``show`` and ``where`` as the screen names them, below a folder, with these words."""

    scan_id: int
    show: str = "all"
    where: str = "anywhere"
    within: str = ""
    text: str = ""

    @property
    def values(self) -> dict[str, Any]:
        """What the queries are bound to."""
        roles = (*ROLES[self.where], "", "")
        words = {f"word{n}": f"%{escaped(word)}%" for n, word in enumerate(self.words)}
        ends = {"low": f"{self.within}/", "high": f"{self.within}0"}  # “0” is the character after “/”
        return {
            "scan": self.scan_id,
            "within": self.within,
            "role1": roles[0],
            "role2": roles[1] or roles[0],
            **ends,
            **words,
        }

    @property
    def words(self) -> list[str]:
        """The words of the filter, at most eight."""
        return self.text.lower().split()[:8]

    @property
    def by_place(self) -> bool:
        """Whether the filter asks for the places of a finding."""
        return self.where != "anywhere" or self.within != ""

    @property
    def condition(self) -> str:
        """The condition on ``f``, a finding."""
        words = [
            f"(f.text LIKE :word{n} ESCAPE '\\' OR EXISTS (SELECT 1 FROM places q WHERE q.scan_id = f.scan_id "
            f"AND q.position = f.position AND q.file LIKE :word{n} ESCAPE '\\'))"
            for n in range(len(self.words))
        ]
        return " AND ".join(["f.scan_id = :scan", _SHOWN[self.show], *words])

    @property
    def source(self) -> str:
        """FROM and WHERE; ``held`` is the number of places that fit."""
        if not self.by_place:
            return f"(SELECT f.*, f.places AS held FROM findings f WHERE {self.condition})"
        return (
            "(SELECT f.*, h.held FROM findings f JOIN (SELECT p.position, count(*) AS held FROM places p "
            f"WHERE p.scan_id = :scan AND {_STANDS} GROUP BY p.position) h ON h.position = f.position WHERE {self.condition})"
        )


def causes(db: Database, wanted: Wanted) -> list[Row]:
    """(cause, findings, places) in the order in which they are read."""
    return db.all(
        f"SELECT cause, count(*) AS findings, sum(held) AS places, min(position) AS first FROM {wanted.source} "
        "GROUP BY cause ORDER BY first",
        wanted.values,
    )


def finding_window(db: Database, wanted: Wanted, offset: int, limit: int) -> list[Row]:
    """A window of findings in the order in which they are read, with the places that fit."""
    return db.all(
        f"SELECT * FROM {wanted.source} ORDER BY position LIMIT :limit OFFSET :offset",
        {**wanted.values, "limit": limit, "offset": offset},
    )


def offset_of(db: Database, wanted: Wanted, key: str) -> int | None:
    """How many findings of the window's order come before one; None when it is not among them."""
    row = db.one(
        f"SELECT (SELECT count(*) FROM {wanted.source} b WHERE b.position < a.position) AS n FROM {wanted.source} a WHERE a.key = :key",
        {**wanted.values, "key": key},
    )
    return int(row["n"]) if row is not None else None


def one_finding(db: Database, scan_id: int, key: str) -> Row | None:
    """One finding of a scan with its body."""
    return db.one(
        "SELECT f.*, b.body FROM findings f JOIN finding_bodies b ON b.scan_id = f.scan_id AND b.position = f.position "
        "WHERE f.key = :key AND f.scan_id = :scan",
        {"scan": scan_id, "key": key},
    )


def titles_of(db: Database, scan_id: int, keys: Iterable[str]) -> dict[str, str]:
    """Finding → title, of those that a scan has."""
    rows = db.all(
        "SELECT f.key, f.title FROM json_each(:keys) w CROSS JOIN findings f ON f.key = w.value AND f.scan_id = :scan",
        {"keys": json.dumps(list(keys)), "scan": scan_id},
    )
    return {row["key"]: row["title"] for row in rows}


def places_of(db: Database, wanted: Wanted, position: int, most: int) -> tuple[int, int, list[Row]]:
    """(all that fit, files they stand in, the first of them) of one finding."""
    values = {**wanted.values, "position": position}
    held = f"FROM places p WHERE p.scan_id = :scan AND p.position = :position AND {_STANDS}"
    counted = db.one(f"SELECT count(*) AS places, count(DISTINCT p.file) AS files {held}", values)
    rows = db.all(f"SELECT p.* {held} ORDER BY p.ordinal LIMIT :most", {**values, "most": most})
    return (counted["places"], counted["files"], rows) if counted is not None else (0, 0, rows)


def file_window(db: Database, wanted: Wanted, offset: int, limit: int) -> tuple[int, list[Row]]:
    """(files, a window of them with their places to change), those with the most to do first."""
    if wanted.show == "all" and not wanted.by_place and not wanted.words:
        return _worked_files(db, wanted.scan_id, offset, limit)
    grouped = (
        f"FROM places p JOIN findings f ON f.scan_id = p.scan_id AND f.position = p.position "
        f"WHERE p.scan_id = :scan AND {_STANDS} AND {wanted.condition} GROUP BY p.file"
    )
    counted = db.one(f"SELECT count(*) AS n FROM (SELECT 1 {grouped})", wanted.values)
    rows = db.all(
        f"SELECT p.file, sum(p.level <> 'note') AS places {grouped} ORDER BY places DESC, p.file LIMIT :limit OFFSET :offset",
        {**wanted.values, "limit": limit, "offset": offset},
    )
    return (int(counted["n"]) if counted is not None else 0), rows


def _worked_files(db: Database, scan_id: int, offset: int, limit: int) -> tuple[int, list[Row]]:
    """The same without a filter, from what was counted when the scan was kept."""
    values = {"scan": scan_id, "limit": limit, "offset": offset}
    counted = db.one("SELECT count(*) AS n FROM scan_files WHERE scan_id = :scan AND work > 0", values)
    rows = db.all(
        "SELECT path AS file, work AS places FROM scan_files WHERE scan_id = :scan AND work > 0 ORDER BY work DESC, path "
        "LIMIT :limit OFFSET :offset",
        values,
    )
    return (int(counted["n"]) if counted is not None else 0), rows


def lines_in(db: Database, wanted: Wanted, files: Iterable[str], most: int) -> list[Row]:
    """(file, key, title, kind, level, line) of what stands in some files, by finding; at most ``most`` rows."""
    return db.all(
        "SELECT p.file, f.key, f.title, f.kind, f.level, p.line FROM json_each(:files) w "
        "CROSS JOIN places p INDEXED BY places_by_file ON p.scan_id = :scan AND p.file = w.value "
        "CROSS JOIN findings f ON f.scan_id = p.scan_id AND f.position = p.position "
        f"WHERE {wanted.condition} ORDER BY p.position, p.ordinal LIMIT :most",
        {**wanted.values, "files": json.dumps(list(files)), "most": most},
    )


def file_results(db: Database, scan_id: int, text: str, offset: int, limit: int) -> tuple[int, list[Row]]:
    """(files that match, a window of them) in path order."""
    values = {"scan": scan_id, "text": f"%{escaped(text)}%"}
    where = (
        "FROM scan_files WHERE scan_id = :scan AND "
        "(path || ' ' || state || ' ' || reason || ' ' || language) LIKE :text ESCAPE '\\'"
    )
    counted = db.one(f"SELECT count(*) AS n {where}", values)
    rows = db.all(
        f"SELECT * {where} ORDER BY path LIMIT :limit OFFSET :offset", {**values, "limit": limit, "offset": offset}
    )
    return (int(counted["n"]) if counted is not None else 0), rows


def mapped_files(db: Database, scan_id: int, within: str, most: int) -> list[Row]:
    """(path, lines, work, role) of the largest files below a folder."""
    return db.all(
        "SELECT path, lines, work, role FROM scan_files WHERE scan_id = :scan AND lines > 0 AND language <> 'manifest' "
        "AND (:within = '' OR path = :within OR (path > :low AND path < :high)) ORDER BY lines DESC, path LIMIT :most",
        {"scan": scan_id, "within": within, "low": f"{within}/", "high": f"{within}0", "most": most},
    )
