"""A store that was filled by an earlier version opens with everything in it."""

from __future__ import annotations

import shutil
import sqlite3
import threading
from pathlib import Path

import pytest

from vane_line.errors import StoreError
from vane_line.store import arrivals, blobs, cases, edits, jobs, plans, results, scans
from vane_line.store.database import MIGRATIONS, Database, migrate

FIRST_FOUR = sorted(MIGRATIONS.glob("000[1-4]_*.sql"))

ROWS = """
INSERT INTO cases VALUES ('c', 'SM-1', 'notes', 'natural', 'preop', 1, 3, '2026-01-01', '0.5@molar');
INSERT INTO sites VALUES ('s','c','36','crown-abutment','full-crown','zirconia','zirconia-usual','2026',1,NULL);
INSERT INTO attempts VALUES ('a1', 's', 1, '2026');
INSERT INTO attempts VALUES ('a2', 's', 2, '2026');
INSERT INTO edits VALUES ('e', 'a1', 'axes', 1, '{"occlusal": [0, 0, 1]}', '2026', NULL);
INSERT INTO jobs VALUES ('j', 'a1', 'done', 'done', 1, '', 'judged', '2026', '2026', 'measure', NULL);
INSERT INTO jobs VALUES ('p', 'a2', 'done', 'done', 1, '', NULL, '2026', '2026', 'plan', 'plan');
INSERT INTO arrivals VALUES ('r', 'SM-1_prep.stl', 'c', 'a1', 'j', '', '2026');
"""


@pytest.fixture
def old(tmp_path: Path) -> Database:
    """A store made by the first four migrations, with a case that has everything."""
    folder = tmp_path / "migrations"
    folder.mkdir()
    for path in FIRST_FOUR:
        shutil.copy(path, folder)
    db = Database.__new__(Database)
    db.connection = sqlite3.connect(tmp_path / "old.sqlite", isolation_level=None)
    db.connection.row_factory = sqlite3.Row
    db._lock, db._depth = threading.RLock(), 0
    migrate(db, folder)
    hashes = [blobs.put(db, part) for part in (b"raw", b"rest", b"light", b"geometry", b"field", b"target", b"shown")]
    db.connection.execute("PRAGMA foreign_keys = OFF")
    for line in ROWS.strip().splitlines():
        db.connection.execute(line)
    db.connection.execute(
        "INSERT INTO scans VALUES ('x', 'c', 'a1', 'prep', 'p.stl', 'mm', 1, ?, ?, ?, '{}', '2026')", hashes[:3]
    )
    db.connection.execute("INSERT INTO geometries VALUES ('g', 5, ?, '2026')", hashes[3:4])
    db.connection.execute(
        "INSERT INTO judgements VALUES ('judged', 'g', 'h', '{\"tooth\": \"36\"}', ?, '2026')",
        [f'{{"rest/depth": "{hashes[4]}"}}'],
    )
    db.connection.execute("INSERT INTO plans VALUES ('plan', 'a1', '{\"plan\": 1}', ?, ?, '2026')", hashes[5:])
    db.close()
    return Database(tmp_path / "old.sqlite")


def test_everything_of_an_older_store_is_there(old: Database) -> None:
    """Case, scans, edits, results, plans, arrivals; a plan that two attempts share no longer goes with the first."""
    case = cases.list_cases(old)[0]
    assert (case.code, case.opening, case.revision, case.put_away_at) == ("SM-1", "0.5@molar", 3, None)
    assert [a.number for a in cases.readings_of(old, "s")] == [1, 2]
    assert [(r.id, r.attempt_id, r.case_id) for r in cases.readings_of(old, "s")] == [
        ("a1", "a1", "c"),
        ("a2", "a2", "c"),
    ]
    assert edits.latest(old, "a1", "axes") == (1, {"occlusal": [0, 0, 1]})
    assert blobs.get(old, scans.scans_of(old, "c", "a1")[0].raw_hash) == b"raw"
    job = jobs.newest_done(old, "a1")
    assert job is not None
    stored = results.get_judgement(old, job.judgement_key or "")
    assert stored is not None
    assert (stored.document, stored.meshes, stored.summary) == ({"tooth": "36"}, {}, {})
    assert arrivals.since(old, "")[0].digest == ""
    job = jobs.newest_done(old, "a2", "plan")
    assert job is not None
    assert (job.plan_key, job.reading_id) == ("plan", "a2")
    cases.put_attempt(old, "a1", away=True)
    cases.delete_put_away(old, "9999")
    plan = plans.get_plan(old, "plan")
    assert plan is not None
    assert blobs.get(old, plan.target_hash or "") == b"target"


def test_a_reader_opens_what_is_there_and_makes_nothing(tmp_path: Path, old: Database) -> None:
    """Worker processes read: no migration, no new file, no write."""
    reading = Database(tmp_path / "old.sqlite", read_only=True)
    assert cases.list_cases(reading)[0].code == "SM-1"
    with pytest.raises(Exception, match="readonly"):
        cases.add_case(reading, "no")
    with pytest.raises(StoreError):
        Database(tmp_path / "none.sqlite", read_only=True)
    assert not (tmp_path / "none.sqlite").exists()


def test_a_migration_that_leaves_rows_pointing_at_nothing_is_undone(tmp_path: Path) -> None:
    """Tables are made anew with foreign keys off: what then hangs in the air is found, and nothing of it stays."""
    db = Database(tmp_path / "v.sqlite")
    case = cases.add_case(db, "SM-1")
    cases.add_site(db, case.id, "36", "full-crown", "zirconia", "zirconia-usual")
    folder = tmp_path / "more"
    folder.mkdir()
    (folder / "0099_bad.sql").write_text("DELETE FROM cases", encoding="utf-8")
    with pytest.raises(StoreError, match="1 rows point at nothing"):
        migrate(db, folder)
    assert cases.list_cases(db)[0].code == "SM-1"
    assert db.row("PRAGMA foreign_keys")[0] == 1  # type: ignore[index]
    (folder / "0099_bad.sql").write_text("UPDATE cases SET notes = 'mended'", encoding="utf-8")
    migrate(db, folder)
    assert cases.list_cases(db)[0].notes == "mended"
