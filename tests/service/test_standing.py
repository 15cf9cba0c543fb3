"""How a case stands, in a word and a line, from its first minute to the record."""

from __future__ import annotations

import pytest

from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption, Conflict
from vane_line.service.overview import add_tooth, start_case, view
from vane_line.service.standing import standing
from vane_line.store import blobs, cases, jobs, plans, results, scans
from vane_line.store.database import Database


@pytest.fixture
def db() -> Database:
    return Database(":memory:")


def scanned(db: Database, case_id: str, attempt_id: str, role: str) -> None:
    hashes = tuple(blobs.put(db, f"{role} {part}".encode()) for part in ("raw", "rest", "light"))
    owner = attempt_id if role == "prep" else None
    scans.add_scan(db, case_id, owner, role, f"{role}.stl", "mm", True, hashes, {})  # type: ignore[arg-type]


def judged(db: Database, reading_id: str, key: str, summary: dict[str, str] | None) -> None:
    results.add_geometry(db, f"g {key}", 1, blobs.put(db, f"geometry {key}".encode()))
    picture = {"picture": blobs.put(db, b"\x89PNG small")}
    results.add_judgement(db, key, f"g {key}", "h", {}, picture, {}, summary)
    jobs.add_done(db, reading_id, key)


def test_a_case_from_its_first_minute_to_met(db: Database) -> None:
    """Waiting, planned, scanned, measuring, failed, not yet, and with the next attempt stop."""
    case = start_case(db, "SM-1", ToothNumber("36"), "full-crown", "zirconia", None)
    first = case.sites[0].readings[0].reading

    def now() -> tuple[str, str]:
        stands = standing(db, view(db, case.case.id))
        return stands.state, stands.text

    assert now() == ("waiting", "waiting for its scans")
    scanned(db, case.case.id, first.attempt_id, "preop")
    assert now() == ("waiting", "waiting for the scan of the preparation")
    plans.add_plan(db, "p", {}, None, None)
    job = jobs.add_job(db, first.id, "plan")
    jobs.take_job(db)
    jobs.finish(db, job.id, None, "p")
    assert now() == ("planned", "planned, waiting for the scanner")
    scanned(db, case.case.id, first.attempt_id, "prep")
    assert now() == ("unmeasured", "scanned, not measured yet")
    job = jobs.add_job(db, first.id)
    assert now()[0] == "measuring"
    jobs.take_job(db)
    jobs.fail(db, job.id, "prep: no preparation is found there.")
    assert now() == ("failed", "prep: no preparation is found there.")
    judged(db, first.id, "one", {"state": "not-yet", "text": "Not yet: 0.4 mm at the distal cusp", "counts": ""})
    assert now() == ("not-yet", "Not yet: 0.4 mm at the distal cusp")
    assert standing(db, view(db, case.case.id)).picture == blobs.put(db, b"\x89PNG small")
    second = cases.add_attempt(db, case.case.id)
    assert now()[0] == "planned"
    scanned(db, case.case.id, second.id, "prep")
    judged(
        db, cases.readings_in(db, second.id)[0].id, "two", {"state": "stop", "text": "Stop: it meets.", "counts": ""}
    )
    assert now() == ("stop", "Stop: it meets.")


def test_what_an_earlier_version_judged_is_said(db: Database) -> None:
    """Without a summary the list does not guess."""
    case = start_case(db, "SM-1", ToothNumber("36"), "full-crown", "zirconia", None)
    judged(db, case.sites[0].readings[0].reading.id, "old", None)
    assert standing(db, view(db, case.case.id)).state == "nothing"


def test_of_several_teeth_the_one_furthest_from_done_is_said(db: Database) -> None:
    """One meets, one does not: the case does not."""
    case = start_case(db, "SM-1", ToothNumber("35"), "full-crown", "zirconia", None)
    both = add_tooth(db, case.case.id, ToothNumber("37"), "full-crown", "zirconia")
    ids = [site.readings[0].reading.id for site in both.sites]
    judged(db, ids[0], "a", {"state": "stop", "text": "Stop: it meets.", "counts": ""})
    judged(db, ids[1], "b", {"state": "not-yet", "text": "Not yet: undercut 0.20 mm, mesial wall", "counts": ""})
    assert standing(db, view(db, case.case.id)).text == "Not yet: undercut 0.20 mm, mesial wall"
    with pytest.raises(Conflict, match="37 is one of this case already"):
        add_tooth(db, case.case.id, ToothNumber("37"), "full-crown", "zirconia")
    with pytest.raises(BadOption, match="stand in one jaw"):
        add_tooth(db, case.case.id, ToothNumber("17"), "full-crown", "zirconia")


def test_the_last_change_is_the_newest_of_all_that_was_done(db: Database) -> None:
    """A job, an edit or a scan moves it on; another case's does not."""
    one = start_case(db, "SM-1", ToothNumber("36"), "full-crown", "zirconia", None).case.id
    other = start_case(db, "SM-2", ToothNumber("46"), "full-crown", "zirconia", None)
    before = cases.last_changes(db)
    db.run("UPDATE cases SET created_at = '2020-01-01'")
    assert set(cases.last_changes(db).values()) == {"2020-01-01"}
    job = jobs.add_job(db, other.sites[0].readings[0].reading.id)
    after = cases.last_changes(db)
    assert after[other.case.id] == job.updated_at
    assert after[one] == "2020-01-01"
    assert set(before) == set(after)
