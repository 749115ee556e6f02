"""Scans with their findings, places, packages, files and texts, and the plan made on each."""

from __future__ import annotations

import json
import sqlite3
import zlib
from collections.abc import Container, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Final

from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.errors import BadRecords
from yoake.core.values.findings import FileResult, Finding, PackageState, Place, ScanSummary, Tally
from yoake.core.values.journeys import ModuleSet
from yoake.core.values.modules import ModuleLine, ModuleOutline, Stated
from yoake.core.values.plans import Plan
from yoake.core.values.words import CheckSort
from yoake.formats.records import FINDING, MODULE, MODULE_SET, PACKAGE, PLAN, SUMMARY, TEXTS
from yoake.store.database import Database, Row

Rows = Sequence[tuple[Any, ...]]

_DETAIL: Final = (
    "findings", "finding_bodies", "places", "packages", "scan_files", "offered",
    "module_sets", "scan_modules", "folder_references", "used_symbols",
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class ScanFacts:
    """What is kept of a finished scan beside its findings, packages and files.

    ``checks``: sort → weights; ``modules`` with theirs; ``references``: (folder, folder) → times; ``used``: coordinate → symbols.
    """

    snapshot: str
    label: str
    seconds: float
    analyser: str
    knowledge: str
    clear: float | None
    known: float
    errors: int
    warnings: int
    notes: int
    places: int
    summary: ScanSummary
    today: Sequence[ModuleLine]
    checks: Mapping[CheckSort, Tally]
    sets: Sequence[ModuleSet]
    modules: Sequence[tuple[ModuleOutline, Tally]]
    references: Mapping[tuple[str, str], int]
    used: Mapping[str, Sequence[str]]


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredScan:
    """A scan as it is kept, with today's lines. ``outline`` is its plan without the keys of findings; both None without a plan."""

    id: int
    label: str
    taken_at: str
    seconds: float
    snapshot: str
    knowledge: str
    clear: float | None
    known: float
    errors: int
    warnings: int
    notes: int
    has_detail: bool
    summary: ScanSummary
    today: tuple[ModuleLine, ...]
    plan_text: str | None
    outline_text: str | None
    plan_version: int
    safe_now: int

    @property
    def plan(self) -> Plan:
        """The plan on it; an empty one where there is none. Raises BadRecords."""
        return PLAN.read(self.plan_text) if self.plan_text else Plan()

    @property
    def outline(self) -> Plan | None:
        """The plan without the keys of its findings. Raises BadRecords."""
        return PLAN.read(self.outline_text) if self.outline_text else None


@dataclass(frozen=True, slots=True)
class FindingRows:
    """Findings in the columns of their tables, without the scan: findings (the change left out), bodies, places."""

    findings: Rows
    bodies: Rows
    places: Rows


def add_scan(
    connection: sqlite3.Connection, application_id: int, destination_id: int, taken_at: str, facts: ScanFacts
) -> int:
    """Add one finished scan; returns its number."""
    cursor = connection.execute(
        "INSERT INTO scans (application_id, destination_id, snapshot, label, taken_at, seconds, analyser, knowledge, "
        "clear, known, errors, warnings, notes, places, summary) "
        "VALUES (:application, :destination, :snapshot, :label, :taken_at, :seconds, :analyser, :knowledge, "
        ":clear, :known, :errors, :warnings, :notes, :places, :summary)",
        {
            "application": application_id,
            "destination": destination_id,
            "snapshot": facts.snapshot,
            "label": facts.label,
            "taken_at": taken_at,
            "seconds": facts.seconds,
            "analyser": facts.analyser,
            "knowledge": facts.knowledge,
            "clear": facts.clear,
            "known": facts.known,
            "errors": facts.errors,
            "warnings": facts.warnings,
            "notes": facts.notes,
            "places": facts.places,
            "summary": SUMMARY.write(facts.summary),
        },
    )
    number = int(cursor.lastrowid or 0)
    _add_tables(connection, number, facts)
    return number


def _add_tables(connection: sqlite3.Connection, scan_id: int, facts: ScanFacts) -> None:
    today = (
        (scan_id, n, row.module, s.coordinate, s.line, s.how, s.file, s.line_number, TEXTS.write(s.disagreements))
        for n, row in enumerate(facts.today)
        for s in [row.stated]
    )
    connection.executemany("INSERT INTO today_lines VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)", today)
    connection.executemany(
        "INSERT INTO scan_checks VALUES (?, ?, ?, ?, ?, ?)",
        ((scan_id, n, sort, t.holds, t.fails, t.unknown) for n, (sort, t) in enumerate(facts.checks.items())),
    )
    connection.executemany(
        "INSERT INTO module_sets VALUES (?, ?, ?, ?)",
        ((scan_id, n, made.name, MODULE_SET.write(made)) for n, made in enumerate(facts.sets)),
    )
    connection.executemany(
        "INSERT INTO scan_modules VALUES (?, ?, ?, ?, ?, ?, ?)",
        (
            (scan_id, n, module.path, t.holds, t.fails, t.unknown, MODULE.write(module))
            for n, (module, t) in enumerate(facts.modules)
        ),
    )
    connection.executemany(
        "INSERT INTO folder_references VALUES (?, ?, ?, ?)",
        ((scan_id, source, target, count) for (source, target), count in sorted(facts.references.items())),
    )
    connection.executemany(
        "INSERT OR IGNORE INTO used_symbols VALUES (?, ?, ?)",
        ((scan_id, coordinate, symbol) for coordinate, symbols in facts.used.items() for symbol in symbols),
    )


def put_plan(connection: sqlite3.Connection, scan_id: int, plan: Plan) -> None:
    """The plan on a scan; one that is there is replaced, and its version grows."""
    stages = tuple(replace(stage, finding_keys=(), safe_keys=()) for stage in plan.stages)
    outline = replace(plan, before_keys=(), stages=stages)
    connection.execute(
        "INSERT INTO plans (scan_id, safe_now, outline, body) VALUES (:scan, :safe, :outline, :body) "
        "ON CONFLICT (scan_id) DO UPDATE SET version = version + 1, safe_now = :safe, outline = :outline, body = :body",
        {
            "scan": scan_id,
            "safe": len(plan.before_keys),
            "outline": PLAN.write(outline),
            "body": PLAN.write(plan),
        },
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


def add_packages(connection: sqlite3.Connection, scan_id: int, packages: Sequence[PackageState]) -> None:
    """Packages of a scan, in their order."""
    connection.executemany(
        "INSERT INTO packages VALUES (?, ?, ?, ?, ?, ?, ?)",
        (
            (scan_id, n, p.coordinate, p.module, int(p.direct), p.state, PACKAGE.write(p))
            for n, p in enumerate(packages)
        ),
    )


def add_offered(connection: sqlite3.Connection, scan_id: int, coordinates: Iterable[Coordinate]) -> None:
    """What the modules of an application are called by those that require them; kept answers of such libraries are forgotten.

    Also forgotten: those of the libraries that this scan requires.
    """
    connection.executemany(
        "INSERT OR IGNORE INTO offered VALUES (?, ?)", ((scan_id, coordinate) for coordinate in coordinates)
    )
    connection.execute(
        "DELETE FROM kept_answers WHERE application_id IN (SELECT s.application_id FROM packages p "
        "JOIN offered o ON o.coordinate = p.coordinate JOIN scans s ON s.id = o.scan_id WHERE p.scan_id = :scan AND p.direct = 1)",
        {"scan": scan_id},
    )


def offered_by(db: Database, scan_id: int) -> list[Coordinate]:
    """Coordinates under which others may require a module of this scan."""
    return [
        Coordinate(row["coordinate"])
        for row in db.all("SELECT coordinate FROM offered WHERE scan_id = :scan", {"scan": scan_id})
    ]


def every_offered(db: Database) -> frozenset[Coordinate]:
    """Package URLs of all modules that were ever scanned here: no registry need be asked about them."""
    return frozenset(Coordinate(row["coordinate"]) for row in db.all("SELECT DISTINCT coordinate FROM offered", {}))


def add_files(
    connection: sqlite3.Connection,
    scan_id: int,
    files: Iterable[FileResult],
    tallies: Mapping[str, Tally],
    work: Mapping[str, int],
    lonely: Container[str],
) -> None:
    """What happened to each file, with its checks and the places to change in it. ``lonely``: those that no other names."""
    none = Tally()
    connection.executemany(
        "INSERT INTO scan_files (scan_id, path, state, reason, language, lines, digest, holds, fails, unknown, role, work, lonely) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
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
                int(f.path in lonely),
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
        connection.execute("UPDATE scans SET has_detail = 0 WHERE id = :scan", values)
        connection.execute("DELETE FROM plans WHERE scan_id = :scan", values)
        connection.executemany(
            "DELETE FROM texts WHERE digest = :digest AND NOT EXISTS (SELECT 1 FROM scan_files f WHERE f.digest = :digest)",
            ({"digest": digest} for digest in digests),
        )


_SCAN: Final = (
    "SELECT s.id, s.label, s.taken_at, s.seconds, s.snapshot, s.knowledge, s.clear, s.known, s.errors, s.warnings, s.notes, "
    "s.has_detail, s.summary, p.outline, coalesce(p.version, 0) AS plan_version, coalesce(p.safe_now, 0) AS safe_now"
)


def latest_scan(db: Database, application_id: int, destination_id: int) -> StoredScan | None:
    """The newest scan for an application and destination, with its plan."""
    row = db.one(
        f"{_SCAN}, p.body AS plan FROM scans s LEFT JOIN plans p ON p.scan_id = s.id "
        "WHERE s.application_id = :application AND s.destination_id = :destination ORDER BY s.id DESC LIMIT 1",
        {"application": application_id, "destination": destination_id},
    )
    return _stored(row, _today_of(db, [row["id"]]).get(row["id"], ()), row["plan"]) if row is not None else None


def _stored(row: Row, today: Sequence[ModuleLine], plan: str | None) -> StoredScan:
    return StoredScan(
        id=row["id"],
        label=row["label"],
        taken_at=row["taken_at"],
        seconds=row["seconds"],
        snapshot=row["snapshot"],
        knowledge=row["knowledge"],
        clear=row["clear"],
        known=row["known"],
        errors=row["errors"],
        warnings=row["warnings"],
        notes=row["notes"],
        has_detail=bool(row["has_detail"]),
        summary=SUMMARY.read(row["summary"]),
        today=tuple(today),
        plan_text=plan,
        outline_text=row["outline"],
        plan_version=row["plan_version"],
        safe_now=row["safe_now"],
    )


def _today_of(db: Database, scan_ids: Sequence[int]) -> dict[int, list[ModuleLine]]:
    found: dict[int, list[ModuleLine]] = {}
    rows = db.all(
        "SELECT t.* FROM json_each(:ids) w CROSS JOIN today_lines t ON t.scan_id = w.value ORDER BY t.scan_id, t.ordinal",
        {"ids": json.dumps(list(scan_ids))},
    )
    for row in rows:
        stated = Stated(
            coordinate=Coordinate(row["coordinate"]),
            line=Line(row["line"]),
            how=row["how"],
            file=row["file"],
            line_number=row["line_number"],
            disagreements=TEXTS.read(row["disagreements"]),
        )
        found.setdefault(row["scan_id"], []).append(ModuleLine(row["module"], stated))
    return found


def checks_of(db: Database, scan_id: int) -> dict[CheckSort, Tally]:
    """Sort → weights of the checks of a scan."""
    rows = db.all("SELECT * FROM scan_checks WHERE scan_id = :scan ORDER BY ordinal", {"scan": scan_id})
    return {row["sort"]: Tally(row["holds"], row["fails"], row["unknown"]) for row in rows}


def sets_of_scan(db: Database, scan_id: int) -> list[ModuleSet]:
    """The sets of modules of a scan, by name. Raises BadRecords."""
    rows = db.all("SELECT body FROM module_sets WHERE scan_id = :scan ORDER BY ordinal", {"scan": scan_id})
    return [MODULE_SET.read(row["body"]) for row in rows]


def modules_of_scan(db: Database, scan_id: int) -> list[ModuleOutline]:
    """The modules of a scan. Raises BadRecords."""
    rows = db.all("SELECT body FROM scan_modules WHERE scan_id = :scan ORDER BY ordinal", {"scan": scan_id})
    return [MODULE.read(row["body"]) for row in rows]


def references_of(db: Database, scan_id: int) -> dict[tuple[str, str], int]:
    """(folder, folder) → how many references go from the first to the second."""
    rows = db.all("SELECT source, target, count FROM folder_references WHERE scan_id = :scan", {"scan": scan_id})
    return {(row["source"], row["target"]): row["count"] for row in rows}


def used_symbols(db: Database, scan_id: int, coordinate: Coordinate) -> list[str]:
    """Symbols of one coordinate that the code of a scan uses, by name."""
    rows = db.all(
        "SELECT symbol FROM used_symbols WHERE scan_id = :scan AND coordinate = :coordinate ORDER BY symbol",
        {"scan": scan_id, "coordinate": coordinate},
    )
    return [row["symbol"] for row in rows]


def requirers(db: Database, coordinates: Iterable[Coordinate], but: int) -> set[int]:
    """Applications whose newest scan requires one of these packages directly, one of them left out; one query for all."""
    rows = db.all(
        "SELECT DISTINCT a.id FROM json_each(:coordinates) w JOIN packages p ON p.coordinate = w.value AND p.direct = 1 "
        "JOIN scans s ON s.id = p.scan_id JOIN applications a ON a.id = s.application_id "
        "JOIN application_destinations ad ON ad.application_id = a.id AND ad.is_current = 1 AND ad.destination_id = s.destination_id "
        "WHERE a.removed_at IS NULL AND a.id <> :but "
        "AND s.id = (SELECT max(id) FROM scans WHERE application_id = a.id AND destination_id = ad.destination_id)",
        {"but": but, "coordinates": json.dumps(sorted(coordinates))},
    )
    return {row["id"] for row in rows}


def namers(db: Database, coordinate: Coordinate) -> set[int]:
    """Applications whose newest scan names this package, directly or in a lock file."""
    rows = db.all(
        "SELECT DISTINCT s.application_id AS id FROM packages p JOIN scans s ON s.id = p.scan_id WHERE p.coordinate = :coordinate "
        "AND s.id = (SELECT max(id) FROM scans n WHERE n.application_id = s.application_id AND n.destination_id = s.destination_id)",
        {"coordinate": coordinate},
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


def scan_outlines(db: Database, scan_ids: Sequence[int]) -> dict[int, StoredScan]:
    """Scan → what it says in all, with the outline of its plan; the plan itself is left out."""
    today = _today_of(db, scan_ids)
    rows = db.all(
        f"{_SCAN} FROM json_each(:ids) w JOIN scans s ON s.id = w.value LEFT JOIN plans p ON p.scan_id = s.id",
        {"ids": json.dumps(list(scan_ids))},
    )
    return {row["id"]: _stored(row, today.get(row["id"], ()), None) for row in rows}


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


def findings_of(db: Database, scan_id: int) -> list[Finding]:
    """Findings of a scan in the scan's order, whole. Raises BadRecords."""
    places: dict[int, list[Place]] = {}
    for row in db.all("SELECT * FROM places WHERE scan_id = :scan ORDER BY position, ordinal", {"scan": scan_id}):
        places.setdefault(row["position"], []).append(_place(row))
    rows = db.all(
        "SELECT f.position, b.body FROM findings f JOIN finding_bodies b ON b.scan_id = f.scan_id AND b.position = f.position "
        "WHERE f.scan_id = :scan ORDER BY f.ordinal",
        {"scan": scan_id},
    )
    return [replace(FINDING.read(row["body"]), places=tuple(places.get(row["position"], ()))) for row in rows]


def finding_pages(db: Database, scan_id: int, size: int = 500) -> Iterator[list[Finding]]:
    """Findings of a scan in the scan's order, whole, a page at a time: for who writes them all without holding them all.

    Raises BadRecords when the scan's detail is dropped meanwhile.
    """
    rows = db.all("SELECT position FROM findings WHERE scan_id = :scan ORDER BY ordinal", {"scan": scan_id})
    positions = [row["position"] for row in rows]
    for at in range(0, len(positions), size):
        wanted = positions[at : at + size]
        values = {"scan": scan_id, "positions": json.dumps(wanted)}
        places: dict[int, list[Place]] = {}
        for row in db.all(
            f"SELECT p.* {_OF_PAGE} CROSS JOIN places p ON {_SAME} ORDER BY p.position, p.ordinal", values
        ):
            places.setdefault(row["position"], []).append(_place(row))
        found = db.all(f"SELECT p.position, p.body {_OF_PAGE} CROSS JOIN finding_bodies p ON {_SAME}", values)
        bodies = {row["position"]: FINDING.read(row["body"]) for row in found}
        if len(bodies) < len(wanted):
            raise BadRecords("The scan was dropped while it was being written out. Ask for the newest one.")
        yield [replace(bodies[position], places=tuple(places.get(position, ()))) for position in wanted]


_OF_PAGE: Final = "FROM json_each(:positions) w"
_SAME: Final = "p.scan_id = :scan AND p.position = w.value"


def _place(row: Row) -> Place:
    return Place(
        key=row["key"],
        file=row["file"],
        line=row["line"],
        column=row["column"],
        end_column=row["end_column"],
        symbol=row["symbol"],
        form=row["form"],
        scope=row["scope"],
        guarded=row["guarded"],
        level=row["level"],
        first_line=row["first_line"],
        role=row["role"],
    )


def packages_of_scan(db: Database, scan_id: int) -> list[PackageState]:
    """Packages of a scan in their order. Raises BadRecords."""
    rows = db.all("SELECT body FROM packages WHERE scan_id = :scan ORDER BY ordinal", {"scan": scan_id})
    return [PACKAGE.read(row["body"]) for row in rows]


def finding_keys(db: Database, scan_id: int) -> set[str]:
    """Keys of the findings of a scan."""
    return {row["key"] for row in db.all("SELECT key FROM findings WHERE scan_id = :scan", {"scan": scan_id})}


def count_role(db: Database, scan_id: int, role: str) -> int:
    """Files of a role that a scan read."""
    row = db.one(
        "SELECT count(*) AS n FROM scan_files WHERE scan_id = :scan AND role = :role", {"scan": scan_id, "role": role}
    )
    return int(row["n"]) if row is not None else 0


def count_kind(db: Database, scan_id: int, kind: str) -> int:
    """Findings of a kind that a scan has."""
    row = db.one(
        "SELECT count(*) AS n FROM findings WHERE scan_id = :scan AND kind = :kind", {"scan": scan_id, "kind": kind}
    )
    return int(row["n"]) if row is not None else 0


def changed_behaviours(db: Database, scan_id: int, keys: Sequence[str]) -> frozenset[str]:
    """Which of these findings of a scan are about code that goes on running and does something else: somebody has to look at it. What fails
    is not among them."""
    rows = db.all(
        "SELECT key FROM findings WHERE scan_id = :scan AND kind = 'behaviour' AND level <> 'error' "
        "AND key IN (SELECT value FROM json_each(:keys))",
        {"scan": scan_id, "keys": json.dumps(list(keys))},
    )
    return frozenset(row["key"] for row in rows)


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
