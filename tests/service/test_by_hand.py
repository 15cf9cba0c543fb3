"""Computed first, written then: what was changed meanwhile is never overwritten, and nobody waits for the lock."""

from __future__ import annotations

import threading
from dataclasses import replace
from typing import Any

import pytest
from backends import Fake, Never, surgery_here
from solids import Stump

from vane_line.core.mesh.write import stl_bytes
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption, Conflict, NotFound
from vane_line.service import by_hand, import_scan, measuring
from vane_line.service.overview import start_case
from vane_line.service.requests import request_of
from vane_line.service.surgery import Surgery
from vane_line.store import cases, edits, jobs, results, scans
from vane_line.store.database import Database

STUMP = Stump(grid_mm=0.3)
TILTED = [0.05, 0.0, 1.0]


class Case:
    """A measured stump, all done in this process."""

    def __init__(self) -> None:
        self.db = Database(":memory:")
        self.surgery = surgery_here(self.db)
        view = start_case(self.db, "SM-3", ToothNumber("36"), "full-crown", "zirconia", None)
        first = view.sites[0].readings[0].reading
        self.id, self.attempt, self.reading = view.case.id, first.attempt_id, first.id
        self.site = view.sites[0].site
        import_scan.import_scan(
            self.surgery, self.id, first.attempt_id, "prep.stl", stl_bytes(STUMP.prep()), "prep", "mm"
        )
        edits.append(self.db, self.reading, "axes", {"occlusal": [0, 0, 1], "facial": [0, 1, 0]}, 0)
        job = jobs.add_job(self.db, self.reading)
        jobs.take_job(self.db)
        measuring.measure_reading(self.surgery, self.reading, job_id=job.id)

    def with_hand(self, hand: Any) -> Surgery:
        return replace(self.surgery, hand=hand)

    def meanwhile(self, what: Any) -> Surgery:
        """A surgery whose hand computes as it should, while somebody else does something."""
        return self.with_hand(Fake(lambda task: self.surgery.hand.run(task), what))


@pytest.fixture(scope="module")
def case() -> Case:
    return Case()


def test_an_edit_is_refused_before_anything_is_computed(case: Case) -> None:
    """An old revision is told at once."""
    with pytest.raises(Conflict):
        by_hand.edit(case.with_hand(Never()), case.reading, "path", TILTED, 7)
    with pytest.raises(Conflict):
        by_hand.draw_line(case.with_hand(Never()), case.reading, [[0, 0, 0]], True, False, 7)


def test_an_edit_and_its_judgement_are_kept_together(case: Case) -> None:
    """With who made it; undone it is the first judgement again."""
    first, _ = measuring.result_of(case.db, case.reading)
    surgery = replace(case.surgery, actor="Dr. Reed")
    assert by_hand.edit(surgery, case.reading, "path", TILTED, 0) == 1
    stored, stale = measuring.result_of(case.db, case.reading)
    assert not stale
    assert stored.document["path"]["source"] == "given"
    assert edits.history(case.db, case.reading)[-1]["actor"] == "Dr. Reed"
    by_hand.undo(case.surgery, case.reading, "path", 1)
    assert measuring.result_of(case.db, case.reading)[0].key == first.key


@pytest.mark.parametrize("kind", ["path", "gingiva"])
def test_what_was_edited_meanwhile_is_not_overwritten(case: Case, kind: str) -> None:
    """The same kind, or another that the judgement depends on: refused, and neither edit nor judgement is kept."""
    at, _ = edits.latest(case.db, case.reading, "path")
    theirs, _ = edits.latest(case.db, case.reading, kind)
    value = TILTED if kind == "path" else [[5, 0, 1], [0, 5, 1], [-5, 0, 1], [0, -5, 1]]
    jobs_before = len(case.db.rows("SELECT * FROM jobs"))
    surgery = case.meanwhile(lambda: edits.append(case.db, case.reading, kind, value, theirs))
    with pytest.raises(Conflict, match="elsewhere"):
        by_hand.edit(surgery, case.reading, "path", [0.1, 0, 1], at)
    assert edits.latest(case.db, case.reading, kind) == (theirs + 1, value)
    assert edits.latest(case.db, case.reading, "path")[1] != [0.1, 0, 1]
    assert len(case.db.rows("SELECT * FROM jobs")) == jobs_before
    edits.append(case.db, case.reading, kind, None, theirs + 1)


def test_a_standard_changed_meanwhile_is_not_judged_by_the_old_one(case: Case) -> None:
    """The edit is refused; the case keeps the new standard."""
    at, _ = edits.latest(case.db, case.reading, "path")
    change = lambda: cases.set_standard(case.db, case.site.id, "full-metal", "full-metal")  # noqa: E731
    with pytest.raises(Conflict):
        by_hand.edit(case.meanwhile(change), case.reading, "path", [0.08, 0, 1], at)
    assert cases.get_site(case.db, case.site.id).material == "full-metal"
    cases.set_standard(case.db, case.site.id, "zirconia", "zirconia-usual")


def test_nobody_waits_for_the_lock_while_something_is_computed(case: Case) -> None:
    """Another thread reads and writes in the middle of an edit and of an import: event streams go on."""
    done: list[str] = []

    def others() -> None:
        thread = threading.Thread(target=lambda: (cases.list_cases(case.db), cases.add_case(case.db, "meanwhile"),
                                                  done.append("free")))  # fmt: skip
        thread.start()
        thread.join(30)

    at, _ = edits.latest(case.db, case.reading, "path")
    by_hand.edit(case.meanwhile(others), case.reading, "path", [0.02, 0, 1], at)
    reader: Any = Fake(lambda task: case.surgery.reader.run(task), others)
    surgery = replace(case.surgery, reader=reader)
    scan = import_scan.import_scan(surgery, case.id, case.attempt, "o.stl", stl_bytes(STUMP.preop()), "preop", "mm")
    import_scan.change_scan(surgery, scan.id, case.attempt, "mockup", "mm")
    assert done == ["free"] * 3


def test_a_case_deleted_while_its_scan_is_read_stays_deleted(case: Case) -> None:
    """Nothing is kept for it."""
    view = start_case(case.db, "SM-4", ToothNumber("36"), "full-crown", "zirconia", None)
    attempt = view.sites[0].readings[0].reading.attempt_id
    reader: Any = Fake(lambda task: case.surgery.reader.run(task), lambda: cases.delete_case(case.db, view.case.id))
    surgery = replace(case.surgery, reader=reader)
    before = len(case.db.rows("SELECT * FROM blobs"))
    with pytest.raises(NotFound):
        import_scan.import_scan(surgery, view.case.id, attempt, "prep.stl", stl_bytes(STUMP.prep()), "prep", "mm")
    assert len(case.db.rows("SELECT * FROM blobs")) == before


def test_an_attempt_of_another_case_takes_no_scan(case: Case) -> None:
    """Addresses that do not belong together are refused."""
    other = start_case(case.db, "SM-5", ToothNumber("46"), "full-crown", "zirconia", None)
    with pytest.raises(NotFound, match="another case"):
        import_scan.import_scan(case.surgery, other.case.id, case.attempt, "p.stl", stl_bytes(STUMP.prep()), "prep")


def test_places_pointed_at_count_only_for_the_scans_they_lie_on(case: Case) -> None:
    """Another earlier scan: they are forgotten in what is measured."""
    import_scan.import_scan(case.surgery, case.id, case.attempt, "o.stl", stl_bytes(STUMP.preop()), "preop", "mm")
    three = [[0.0, 0, 0], [4.0, 0, 0], [0, 4.0, 0]]
    at, _ = edits.latest(case.db, case.reading, "pairs")
    by_hand.point_out(case.surgery, case.reading, "preop", three, three, at)
    assert request_of(case.db, case.reading)["options"]["pairs"]["preop"]["ours"] == three
    with pytest.raises(BadOption, match="no earlier scan"):
        by_hand.point_out(case.surgery, case.reading, "opposing", three, three, at + 1)
    other = stl_bytes(Stump(grid_mm=0.3, seed=5, noise_um=3).preop())
    import_scan.import_scan(case.surgery, case.id, case.attempt, "o.stl", other, "preop", "mm")
    assert "pairs" not in request_of(case.db, case.reading)["options"]
    for scan in scans.scans_of(case.db, case.id, case.attempt):
        if scan.role == "preop":
            import_scan.take_out(case.db, scan.id)


@pytest.mark.long
def test_a_measurement_deleted_before_it_is_kept_is_said(case: Case) -> None:
    """Found as done before, and swept meanwhile: measure again, and no job that points at nothing."""
    stored, _ = measuring.result_of(case.db, case.reading)
    measuring.measure_reading(case.surgery, case.reading)
    judged = measuring.compute(case.db, Never(), request_of(case.db, case.reading))  # type: ignore[arg-type]
    assert judged.answer is None
    gone = measuring.Judged("gone", stored.geometry_key, None)
    with pytest.raises(NotFound, match="measure again"):
        measuring.keep(case.db, case.reading, gone)
    assert results.get_judgement(case.db, "gone") is None
