"""Old records are brought to the newest schema, with a copy kept; what cannot be read is refused and left as it is."""

from __future__ import annotations

import json
import os
import sqlite3
from contextlib import closing
from importlib.resources import files
from pathlib import Path

import pytest

from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.errors import BadRecords
from yoake.core.values.journeys import Span
from yoake.core.values.plans import Plan
from yoake.store.adopted_paths import adopted_paths
from yoake.store.crossing_parts import part_graph
from yoake.store.crossings import stored_routes
from yoake.store.database import Database, back_up, check, examine, newest_schema
from yoake.store.finding_windows import Wanted, causes, finding_window
from yoake.store.scans import (
    checks_of,
    files_of,
    findings_of,
    latest_scan,
    modules_of_scan,
    packages_of_scan,
    references_of,
    sets_of_scan,
    used_symbols,
)

MIGRATIONS = files("yoake.store") / "migrations"


def place(file: str, level: str = "error") -> dict[str, object]:
    return {"key": file, "file": file, "line": 3, "column": 0, "end_column": 4, "symbol": "imp", "form": "import", "scope": "",
            "guarded": "", "level": level, "first_line": 0}  # fmt: skip


def finding(key: str, level: str, at: str | None, *places: dict[str, object]) -> dict[str, object]:
    window = {
        "state": "now",
        "coordinate": "pkg:generic/python",
        "axis": ["3.8"],
        "old": [],
        "new": [],
        "both": [],
        "here": "3.8",
        "goal": "3.13",
    }
    return {"key": key, "module": "", "coordinate": "pkg:generic/python", "kind": "removed", "symbol": "imp", "title": key, "bites_at": at,
            "after": None, "level": level, "confidence": "certain", "replacement": None, "remedy": "", "mechanical": False,
            "effort": [1, 2, 3], "window": window, "evidence": [], "places": list(places)}  # fmt: skip


@pytest.fixture
def old(tmp_path: Path) -> Path:
    """Records of schema 3 with one scan."""
    path = tmp_path / "records.sqlite"
    with closing(sqlite3.connect(path, isolation_level=None)) as db:
        for number in (1, 2, 3):
            script = next(m for m in MIGRATIONS.iterdir() if m.name.startswith(f"{number:04}")).read_text("utf-8")
            db.executescript(f"BEGIN;{script};PRAGMA user_version={number};COMMIT;")
        db.executescript("""
            INSERT INTO sources (kind, location) VALUES ('folder', '/srv/a');
            INSERT INTO destinations (name, targets) VALUES ('Spring', '["python@3.13"]');
            INSERT INTO applications (slug, name, source_id, taken_in) VALUES ('a', 'a', 1, '2026');
            INSERT INTO application_destinations VALUES (1, 1, 1);
            INSERT INTO steps (application_id, destination_id, finding_key, stage, title, state, opened_at) VALUES (1, 1, 'k1', 0, 't', 'open', '2026');
        """)
        nothing = {"p50": 0.0, "p80": 0.0}
        plan = {
            "today": [["pkg:generic/python", "3.8"]],
            "before_keys": ["k1"],
            "before": nothing,
            "stages": [],
            "total": nothing,
        }
        python = {"coordinate": "pkg:generic/python", "line": "3.8"}
        summary = {
            "clear": 0.5,
            "known": 0.9,
            "levels": {"error": 2, "warning": 0, "note": 1},
            "places": 4,
            "safe_now": 1,
            "plan": plan,
            "tallies": {
                "usage": {"holds": 5.0, "fails": 20.0, "unknown": 0.0},
                "package": {"holds": 1.0, "fails": 0.0, "unknown": 0.0},
            },
            "edit_p50": 0.5,
            "today": [
                {
                    **python,
                    "how": "pin",
                    "file": "a",
                    "line_number": 2,
                    "disagreements": ["3.9 in tox.ini"],
                    "module": "web",
                }
            ],
            "files": {"scanned": 1},
            "languages": [],
            "unknowns": {},
            "notes": [],
            "faults": ["a.toml: cut short"],
        }
        six = {"coordinate": "pkg:pypi/six", "module": "", "line": "1.16", "how": "lock", "state": "holds", "note": "", "file": "",
               "line_number": 0, "direct": True, "breaks": [["2.0", "six.moves"]]}  # fmt: skip
        around = {"known": 0.9, "tests": 1, "serves": [], "generated": [], "used_by": []}
        pin = {
            "coordinate": "pkg:generic/python",
            "version": "3.8",
            "file": "Dockerfile",
            "line": 1,
            "how": "container",
            "text": "",
        }
        detail = {
            "packages": [six],
            "sets": [
                {
                    "name": "web",
                    "modules": ["web"],
                    "spans": {"pkg:generic/python": ["3.8", "3.13"]},
                    "around": around,
                }
            ],
            "modules": [{"path": "web", "name": "web", "manifests": [], "faults": [], "pins": [pin]}],
            "references": [["web", "lib", 3]],
            "lonely": ["tests/d.py"],
            "used": {"pkg:generic/python": ["imp", "os.path"]},
            "by_module": {"web": {"holds": 5.0, "fails": 20.0, "unknown": 0.0}},
        }
        shape = {"pins": ["python@3.11", "npm/@angular/core@17"], "avoid": [], "order": [], "out": [], "dropped": []}
        bare = {"today": [], "before_keys": [], "before": nothing, "stages": [], "total": nothing}
        db.execute(
            "INSERT INTO adopted_paths (application_id, destination_id, set_name, choice, shape, plan, finished, by_whom, why, adopted_at) "
            "VALUES (1, 1, 'web', 'work', ?, ?, ?, 'Ines', '', '2026')",
            (json.dumps(shape), json.dumps(bare), json.dumps(["Python 3.9"])),
        )
        db.execute(
            "INSERT INTO scans VALUES (1, 1, 1, 'commit:1', 'main', '2026', 1.0, 'x', 'y', ?, ?)",
            (json.dumps(summary), json.dumps(detail)),
        )
        bodies = [
            finding("k1", "error", "3.12", place("a.py"), place("b/c.py")),
            finding("k2", "note", None, place("a.py", "note")),
            finding("k3", "error", "3.12", place("tests/d.py")),
        ]
        for ordinal, body in enumerate(bodies):
            db.execute(
                "INSERT INTO findings VALUES (1, ?, ?, ?, ?)", (ordinal, body["key"], body["level"], json.dumps(body))
            )
        db.execute("INSERT INTO scan_files VALUES (1, 'tests/d.py', 'scanned', '', 'Python', 9, 'd', 0, 0, 0, 'test')")
    return path


def test_old_records_keep_everything_in_their_new_tables(old: Path) -> None:
    db = Database(old)
    scan = latest_scan(db, 1, 1)
    assert scan is not None
    assert (scan.clear, scan.errors, scan.safe_now, scan.plan.before_keys) == (0.5, 2, 1, ("k1",))
    assert [(row.module, row.stated.coordinate, row.stated.line, row.stated.disagreements) for row in scan.today] == [
        ("web", "pkg:generic/python", "3.8", ("3.9 in tox.ini",))
    ]
    assert (scan.summary.files, scan.summary.faults) == ({"scanned": 1}, ("a.toml: cut short",))
    assert [(f.key, [p.file for p in f.places]) for f in findings_of(db, 1)] == [
        ("k1", ["a.py", "b/c.py"]),
        ("k2", ["a.py"]),
        ("k3", ["tests/d.py"]),
    ]
    assert [(c["cause"], c["findings"], c["places"]) for c in causes(db, Wanted(1))] == [
        ("bites at Python 3.12", 2, 3),
        ("guarded, or later than the goal", 1, 1),
    ]
    assert [r["key"] for r in finding_window(db, Wanted(1, where="test"), 0, 10)] == ["k3"]
    assert [(p.coordinate, p.breaks, p.grade) for p in packages_of_scan(db, 1)] == [
        ("pkg:pypi/six", (("2.0", "six.moves"),), "none")
    ]
    made = sets_of_scan(db, 1)
    assert [(s.name, s.spans, s.around.known) for s in made] == [
        ("web", {"pkg:generic/python": Span(Line("3.8"), Line("3.13"))}, 0.9)
    ]
    assert [(m.path, m.pins[0].version) for m in modules_of_scan(db, 1)] == [("web", "3.8")]
    assert references_of(db, 1) == {("web", "lib"): 3}
    assert used_symbols(db, 1, Coordinate("pkg:generic/python")) == ["imp", "os.path"]
    assert {sort: tally.fails for sort, tally in checks_of(db, 1).items()} == {"usage": 20.0, "package": 0.0}
    assert [(row["path"], row["lonely"]) for row in files_of(db, 1)] == [("tests/d.py", 1)]
    adopted = adopted_paths(db, 1, 1)["web"]
    assert [str(t) for t in adopted.shape.pins] == ["python@3.11", "npm/@angular/core@17"]
    assert (adopted.plan, adopted.finished) == (Plan(), ("Python 3.9",))
    assert db.one("SELECT open_steps FROM applications")["open_steps"] == 1
    db.close()


def test_routes_of_a_crossing_are_read_again_for_their_parts(tmp_path: Path) -> None:
    path = tmp_path / "yoake.db"
    with closing(sqlite3.connect(path, isolation_level=None)) as db:
        for number in range(1, 12):
            script = next(m for m in MIGRATIONS.iterdir() if m.name.startswith(f"{number:04}")).read_text("utf-8")
            db.executescript(f"BEGIN;{script};PRAGMA user_version={number};COMMIT;")
        db.executescript("""
            INSERT INTO sources (kind, location) VALUES ('folder', '/srv/a');
            INSERT INTO applications (slug, name, source_id, taken_in) VALUES ('a', 'a', 1, '2026');
            INSERT INTO crossings (application_id, rules, begun_at, routes_at) VALUES (1, '/srv/rules.yaml', '2026', '2026');
            INSERT INTO crossing_routes (application_id, side, method, path, handler, file, line, framework, source, needs, safe, seen_at)
              VALUES (1, 'old', 'GET', '/fares', 'fares', 'desk.py', 3, 'flask', 'code', '{}', 1, '2026');
        """)
    with closing(Database(path)) as opened:
        assert [row.route.name for row in stored_routes(opened, 1)] == ["GET /fares"]
        assert part_graph(opened, 1).nodes == ()
        (job,) = opened.all("SELECT kind, application_id, state FROM jobs")
        assert tuple(job) == ("routes", 1, "waiting")


def test_a_copy_is_made_before_a_migration(old: Path) -> None:
    Database(old).close()
    copies = list((old.parent / "backups").glob("*.sqlite"))
    assert [check(copy) for copy in copies] == [check(copies[0])]
    assert (check(copies[0]).schema, check(copies[0]).faults) == (3, ())
    Database(old).close()
    assert list((old.parent / "backups").glob("*.sqlite")) == copies


def test_a_migration_that_fails_leaves_the_file_as_it_was(old: Path) -> None:
    with closing(sqlite3.connect(old)) as db:
        db.execute("CREATE TABLE plans (x)")
        db.commit()
    before = old.read_bytes()
    with pytest.raises(BadRecords, match="could not be brought to schema 4.*as it was before"):
        Database(old)
    assert check(old).schema == 3
    assert len(old.read_bytes()) == len(before)


def test_records_of_a_newer_program_are_refused_and_not_touched(old: Path) -> None:
    with closing(sqlite3.connect(old)) as db:
        db.execute(f"PRAGMA user_version = {newest_schema() + 5}")
    before = old.read_bytes()
    with pytest.raises(BadRecords, match=f"newer Yoake .schema {newest_schema() + 5}"):
        Database(old)
    assert old.read_bytes() == before
    assert not (old.parent / "backups").exists()


def test_a_database_of_another_program_is_refused_and_not_touched(tmp_path: Path) -> None:
    path = tmp_path / "records.sqlite"
    with closing(sqlite3.connect(path)) as db:
        db.execute("CREATE TABLE bookmarks (x)")
        db.commit()
    before = path.read_bytes()
    with pytest.raises(BadRecords, match="not one of Yoake’s"):
        Database(path)
    assert path.read_bytes() == before


@pytest.mark.parametrize(
    ("damage", "said"),
    [
        (lambda data: b"not SQLite at all" + data[17:], "no SQLite database"),
        (lambda data: data[: len(data) // 2], "cut short"),
        (lambda data: data[:50], "no SQLite database"),
    ],
)
def test_a_damaged_file_is_refused_in_words_and_not_touched(old: Path, damage, said: str) -> None:
    old.write_bytes(damage(old.read_bytes()))
    before = old.read_bytes()
    with pytest.raises(BadRecords, match=said):
        Database(old)
    assert old.read_bytes() == before
    assert check(old).faults


def test_a_page_that_was_overwritten_is_found_by_a_check(tmp_path: Path) -> None:
    path = tmp_path / "records.sqlite"
    Database(path).close()
    data = bytearray(path.read_bytes())
    data[8192:12288] = b"\xa5" * 4096
    path.write_bytes(data)
    assert check(path).faults


def test_a_full_disk_is_told_in_words_and_keeps_what_was_there(tmp_path: Path) -> None:
    db = Database(tmp_path / "records.sqlite")
    with db.write() as connection:
        connection.execute("INSERT INTO destinations (name, targets) VALUES ('kept', '[]')")
        connection.execute(f"PRAGMA max_page_count = {connection.execute('PRAGMA page_count').fetchone()[0]}")

    def fill() -> None:
        with db.write() as connection:
            for n in range(5_000):
                connection.execute("INSERT INTO destinations (name, targets) VALUES (?, ?)", (f"n{n}", "x" * 900))

    with pytest.raises(BadRecords, match="disk .* is full.*Make room"):
        fill()
    assert [row["name"] for row in db.all("SELECT name FROM destinations")] == ["kept"]
    db.close()


@pytest.mark.skipif(os.geteuid() == 0, reason="root may write everywhere")
def test_a_file_that_may_not_be_written_is_refused(old: Path) -> None:
    old.chmod(0o400)
    with pytest.raises(BadRecords, match="may not be written to"):
        Database(old)


def test_a_backup_is_whole_while_somebody_writes_and_writes_over_nothing(tmp_path: Path) -> None:
    db = Database(tmp_path / "records.sqlite")
    with db.write() as connection:
        connection.execute("INSERT INTO destinations (name, targets) VALUES ('kept', '[]')")
    back_up(db.path, tmp_path / "copy.sqlite")
    assert examine(tmp_path / "copy.sqlite") == newest_schema()
    with pytest.raises(BadRecords, match="there already"):
        back_up(db.path, tmp_path / "copy.sqlite")
    db.close()
