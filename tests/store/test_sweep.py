"""Deleting and keeping, both ways round: what is left is exactly what is still pointed at."""

from __future__ import annotations

import pytest

from vane_line.store import blobs, cases, edits, jobs, plans, results, scans
from vane_line.store.database import Database
from vane_line.store.sweep import sweep

OWN = {"migrations", "own", "settings"}


@pytest.fixture
def db() -> Database:
    return Database(":memory:")


def counts(db: Database) -> dict[str, int]:
    tables = [r["name"] for r in db.rows("SELECT name FROM sqlite_master WHERE type = 'table'")]
    found = {t: len(db.rows(f"SELECT 1 FROM {t}")) for t in tables if t not in OWN and not t.startswith("sqlite")}
    return {t: n for t, n in found.items() if n}


def whole_case(db: Database, code: str, shared: str = "") -> tuple[str, str]:
    """A case with everything that a case can have; `shared`: a name that makes its results those of another case."""
    name = shared or code
    case = cases.add_case(db, code)
    cases.add_site(db, case.id, "36", "full-crown", "zirconia", "zirconia-usual")
    attempt = cases.add_attempt(db, case.id)
    reading = cases.readings_in(db, attempt.id)[0].id
    hashes = tuple(blobs.put(db, f"{code} {part}".encode()) for part in ("raw", "rest", "light"))
    scan = scans.add_scan(db, case.id, attempt.id, "prep", "prep.stl", "mm", True, hashes, {})  # type: ignore[arg-type]
    scans.add_transform(db, scan.id, [[1.0]], 5.0, "test")
    edits.append(db, reading, "axes", {"a": 1}, 0)
    results.add_geometry(db, f"g {name}", 1, blobs.put(db, f"geometry {name}".encode()))
    fields = {"rest/depth": blobs.put(db, f"depth {name}".encode())}
    results.add_judgement(db, f"j {name}", f"g {name}", "h", {}, fields, {"rest": hashes[1], "light": hashes[2]})
    jobs.add_done(db, reading, f"j {name}")
    target, light = blobs.put(db, f"target {name}".encode()), blobs.put(db, f"shown {name}".encode())
    plans.add_plan(db, f"p {name}", {}, target, light)
    job = jobs.add_job(db, reading, "plan")
    jobs.take_job(db)
    jobs.finish(db, job.id, None, f"p {name}")
    return case.id, attempt.id


def test_deleting_one_case_leaves_the_other_whole(db: Database) -> None:
    """Its plan's target, its measurement, its fields, its meshes: all as before."""
    whole_case(db, "kept")
    before = counts(db)
    gone, _ = whole_case(db, "gone")
    assert counts(db) != before
    cases.delete_case(db, gone)
    sweep(db)
    assert counts(db) == before
    plan = plans.get_plan(db, "p kept")
    assert plan is not None
    assert blobs.get(db, plan.target_hash or "") == b"target kept"
    assert blobs.get(db, plan.light_hash or "") == b"shown kept"
    stored = results.get_judgement(db, "j kept")
    assert stored is not None
    assert blobs.get(db, stored.fields["rest/depth"]) == b"depth kept"
    assert all(blobs.get(db, h) for h in stored.meshes.values())


def test_deleting_the_last_case_leaves_nothing(db: Database) -> None:
    """No scan, no measurement, no plan, no byte."""
    for code in ("a", "b"):
        whole_case(db, code)
    for case in cases.list_cases(db):
        cases.delete_case(db, case.id)
    sweep(db)
    assert counts(db) == {}


def test_results_that_two_cases_share_stay_with_the_second(db: Database) -> None:
    """Equal scans give equal keys: deleting either case must not take the other's plan or measurement."""
    first, _ = whole_case(db, "one", "same")
    whole_case(db, "two", "same")
    cases.delete_case(db, first)
    sweep(db)
    assert plans.get_plan(db, "p same") is not None
    assert results.get_judgement(db, "j same") is not None


def test_taking_a_scan_out_takes_its_bytes_only(db: Database) -> None:
    """The raw bytes go; the meshes stay as long as a judgement paints them; the plan is not touched."""
    case_id, attempt_id = whole_case(db, "a")
    scan = scans.scans_of(db, case_id, attempt_id)[0]
    before = counts(db)
    scans.delete_scan(db, scan.id)
    sweep(db)
    after = counts(db)
    assert before["blobs"] - after["blobs"] == 1
    assert "transforms" not in after
    assert after["plans"] == 1
    assert sweep(db) == 0


def test_what_was_put_away_is_kept_until_its_day(db: Database) -> None:
    """A put away case is whole; only what was put away before the day goes."""
    case_id, _ = whole_case(db, "a")
    before = counts(db)
    cases.put_case(db, case_id, away=True)
    sweep(db)
    assert counts(db) == before
    assert cases.list_cases(db) == []
    assert [c.code for c in cases.list_cases(db, put_away=True)] == ["a"]
    assert cases.delete_put_away(db, "2020-01-01T00:00:00") == 0
    cases.put_case(db, case_id, away=False)
    assert cases.delete_put_away(db, "9999-01-01T00:00:00") == 0
    cases.put_case(db, case_id, away=True)
    assert cases.delete_put_away(db, "9999-01-01T00:00:00") == 1
    sweep(db)
    assert counts(db) == {}
