"""Transactions that nest, migrations that fail whole, bytes that come back."""

from __future__ import annotations

import sqlite3
from dataclasses import replace
from pathlib import Path

import pytest

from vane_line.errors import Conflict, NotFound, StoreError
from vane_line.store import blobs, cases, edits, jobs, results
from vane_line.store.database import MIGRATIONS, Database, migrate, statements


@pytest.fixture
def db() -> Database:
    return Database(":memory:")


def names(db: Database) -> set[str]:
    return {row["code"] for row in db.rows("SELECT code FROM cases")}


def add_and_fail(db: Database, code: str, error: Exception) -> None:
    with db.atomic():
        cases.add_case(db, code)
        with db.atomic():
            cases.add_case(db, f"{code}, deeper")
        raise error


def test_an_inner_failure_undoes_the_inner_part_only(db: Database) -> None:
    """Nested blocks are savepoints."""
    with db.atomic():
        cases.add_case(db, "outer")
        with pytest.raises(ZeroDivisionError):
            add_and_fail(db, "inner", ZeroDivisionError())
        cases.add_case(db, "after")
    assert names(db) == {"outer", "after"}


def test_an_outer_failure_undoes_everything_and_is_the_error_seen(db: Database) -> None:
    """The first error comes through, and the database works on."""
    with pytest.raises(KeyError, match="first"):
        add_and_fail(db, "outer", KeyError("first"))
    assert names(db) == set()
    cases.add_case(db, "later")
    assert names(db) == {"later"}


def test_a_failing_migration_leaves_nothing_behind(tmp_path: Path, db: Database) -> None:
    """Half a migration is none: neither its tables nor its record."""
    (tmp_path / "0001_first.sql").write_text((MIGRATIONS / "0001_first.sql").read_text())
    (tmp_path / "0099_bad.sql").write_text("CREATE TABLE fine (a);\nCREATE TABLE cases (again);")
    with pytest.raises(StoreError, match=r"0099_bad\.sql failed and was undone"):
        migrate(db, tmp_path)
    tables = {r["name"] for r in db.rows("SELECT name FROM sqlite_master")}
    assert "fine" not in tables
    shipped = sorted(int(path.name[:4]) for path in MIGRATIONS.glob("*.sql"))
    assert [r["number"] for r in db.rows("SELECT number FROM migrations")] == shipped


def test_migrations_run_once(tmp_path: Path) -> None:
    """Opening a database again changes nothing in it."""
    path = tmp_path / "a.sqlite"
    first = Database(path)
    cases.add_case(first, "kept")
    first.close()
    assert names(Database(path)) == {"kept"}


def test_comments_are_no_statements() -> None:
    """Only what SQLite should run is run."""
    assert statements("-- a; b\nCREATE TABLE x (a);\n\n;") == ["CREATE TABLE x (a)"]


def test_a_database_that_cannot_be_opened_is_said(tmp_path: Path) -> None:
    """Our failure, in words."""
    (tmp_path / "file").write_text("x")
    with pytest.raises(StoreError, match="cannot be opened"):
        Database(tmp_path / "file" / "db.sqlite")


@pytest.mark.parametrize("size", [0, 10, 1 << 20, (5 << 20) // 2])
def test_bytes_come_back_whole(db: Database, size: int) -> None:
    """Under, at and over a chunk; the same bytes are stored once."""
    data = bytes(range(256)) * (size // 256) + b"x" * (size % 256)
    digest = blobs.put(db, data)
    assert blobs.put(db, data) == digest
    assert blobs.get(db, digest) == data
    assert len(db.rows("SELECT * FROM blobs")) == 1


def site(db: Database) -> cases.Site:
    case = cases.add_case(db, "SM-1")
    return cases.add_site(db, case.id, "36", "full-crown", "zirconia", "zirconia-usual")


def first_reading(db: Database) -> cases.Reading:
    attempt = cases.add_attempt(db, site(db).case_id)
    return cases.readings_in(db, attempt.id)[0]


def test_attempts_are_numbered_and_go_with_their_case(db: Database) -> None:
    """1, 2, 3; deleting the case deletes its sites, attempts and jobs."""
    s = site(db)
    attempts = [cases.add_attempt(db, s.case_id) for _ in range(3)]
    assert [a.number for a in attempts] == [1, 2, 3]
    jobs.add_job(db, cases.readings_in(db, attempts[0].id)[0].id)
    cases.delete_case(db, s.case_id)
    assert db.rows("SELECT * FROM attempts") == db.rows("SELECT * FROM readings") == []
    assert db.rows("SELECT * FROM jobs") == []
    with pytest.raises(NotFound):
        cases.get_case(db, s.case_id)


def test_a_change_on_an_old_revision_is_refused(db: Database) -> None:
    """Whoever saves second is told, and nothing is overwritten."""
    case = cases.add_case(db, "SM-2")
    cases.change_case(db, replace(case, notes="mine"), 1)
    with pytest.raises(Conflict):
        cases.change_case(db, replace(case, notes="theirs"), 1)
    assert cases.get_case(db, case.id).notes == "mine"


def test_edits_only_grow_and_undo_adds(db: Database) -> None:
    """Undo brings the earlier value back as a new revision; a stale edit is refused."""
    reading = first_reading(db)
    assert edits.latest(db, reading.id, "axes") == (0, None)
    edits.append(db, reading.id, "axes", {"a": 1}, 0)
    edits.append(db, reading.id, "axes", {"a": 2}, 1)
    with pytest.raises(Conflict):
        edits.append(db, reading.id, "axes", {"a": 3}, 1)
    assert edits.undo(db, reading.id, "axes", 2) == 3
    assert edits.latest(db, reading.id, "axes") == (3, {"a": 1})
    assert len(db.rows("SELECT * FROM edits")) == 3


def test_undoing_again_goes_one_further_back(db: Database) -> None:
    """1, 2, 3, undo, undo, then 4, undo: back to 1; a third undo leaves nothing; a fourth says so."""
    reading = first_reading(db)
    for value in (1, 2, 3):
        edits.append(db, reading.id, "line", value, value - 1)
    edits.undo(db, reading.id, "line", 3)
    edits.undo(db, reading.id, "line", 4)
    assert edits.latest(db, reading.id, "line") == (5, 1)
    edits.append(db, reading.id, "line", 4, 5)
    edits.undo(db, reading.id, "line", 6)
    assert edits.latest(db, reading.id, "line") == (7, 1)
    edits.undo(db, reading.id, "line", 7)
    assert edits.latest(db, reading.id, "line") == (8, None)
    with pytest.raises(Conflict, match="nothing to undo"):
        edits.undo(db, reading.id, "line", 8)
    assert [row["returns_to"] for row in edits.history(db, reading.id)] == [None, None, None, 2, 1, None, 1, 0]


def test_jobs_wait_run_end_and_wait_again_after_a_crash(db: Database) -> None:
    """One unfinished job an attempt; what ran when the process ended waits again; cancelled stays cancelled."""
    reading = first_reading(db)
    job = jobs.add_job(db, reading.id)
    assert jobs.add_job(db, reading.id).id == job.id
    taken = jobs.take_job(db)
    assert taken is not None
    assert jobs.take_job(db) is None
    assert jobs.release_all(db) == 1
    assert jobs.get_job(db, job.id).state == "waiting"
    jobs.take_job(db)
    assert jobs.cancel(db, job.id).state == "cancelled"
    jobs.fail(db, job.id, "too late")
    jobs.set_progress(db, job.id, "too late", 0.5)
    assert jobs.get_job(db, job.id).state == "cancelled"
    assert jobs.newest_done(db, reading.id) is None


def test_what_is_asked_while_a_job_runs_is_another_job(db: Database) -> None:
    """The running one began before; whoever asks twice while one waits shares it."""
    reading = first_reading(db)
    first = jobs.add_job(db, reading.id)
    jobs.take_job(db)
    second = jobs.add_job(db, reading.id)
    assert second.id != first.id
    assert jobs.add_job(db, reading.id).id == second.id
    assert {j.id for j in jobs.unfinished(db, reading.id)} == {first.id, second.id}
    newest = jobs.newest_job(db, reading.id)
    assert newest is not None
    assert newest.id == second.id


def test_results_are_never_rewritten(db: Database) -> None:
    """The first geometry and judgement of a key stand."""
    results.add_geometry(db, "k", 1, blobs.put(db, b"one"))
    results.add_geometry(db, "k", 1, blobs.put(db, b"two"))
    assert blobs.get(db, results.geometry_blob(db, "k") or "") == b"one"
    results.add_judgement(db, "j", "k", "h", {"a": 1}, {}, {})
    results.add_judgement(db, "j", "k", "h", {"a": 2}, {}, {})
    stored = results.get_judgement(db, "j")
    assert stored is not None
    assert stored.document == {"a": 1}
    with pytest.raises(sqlite3.IntegrityError):
        results.add_judgement(db, "other", "no such geometry", "h", {}, {}, {})
