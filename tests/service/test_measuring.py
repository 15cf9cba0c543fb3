"""Measuring in a worker process: once for equal inputs, judged again to the last digit, taken up after a restart."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import pytest
from castings import Pinned
from solids import Stump
from waiting import until

from vane_line.core.mesh.write import stl_bytes
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import Conflict, InputError, NotFound
from vane_line.report.package import opened
from vane_line.service import looking, measuring, recording
from vane_line.service.import_scan import import_scan
from vane_line.service.overview import start_case
from vane_line.service.requests import request_of
from vane_line.service.runner import Runner
from vane_line.service.surgery import Surgery
from vane_line.store import blobs, cases, edits, jobs, results
from vane_line.store.database import Database
from vane_line.work.container import pack
from vane_line.work.records import FORMAT

STUMP = Stump(grid_mm=0.24)
PINNED = Pinned(noise_um=6, out_mm=3.5)
AXES = {"occlusal": [0, 0, 1], "facial": [0, 1, 0], "near": None}


@pytest.mark.long
def test_guide_pins_are_taken_off_in_the_worker_too(tmp_path: Path) -> None:
    """Said of the tooth after it was measured without: measured again, the pins are told as such."""
    db = Database(tmp_path / "v.sqlite")
    surgery = Surgery.open(db, tmp_path / "v.sqlite")
    view = start_case(db, "SM-12", ToothNumber("11"), "pin-casting", "full-metal", None)
    site, reading = view.sites[0].site, view.sites[0].readings[0].reading
    for role, surface in (("prep", PINNED.prep()), ("preop", PINNED.preop())):
        import_scan(surgery, view.case.id, reading.attempt_id, f"{role}.stl", stl_bytes(surface), role, "mm")
    edits.append(db, reading.id, "axes", AXES, 0)
    told = []
    for facts in ({}, {"guide_pins": True}):
        cases.set_facts(db, site.id, facts)
        key = measuring.measure_reading(surgery, reading.id)
        stored = results.get_judgement(db, key)
        assert stored is not None
        told.append([c["kind"] for c in stored.document["channels"]])
    assert "guide-pin" not in told[0]
    assert told[1] == ["guide-pin", "guide-pin"]
    surgery.close()
    db.close()


class Bench:
    """A case with its scans in a database on disk, and what measures it."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / "v.sqlite"
        self.db = Database(self.path)
        self.surgery = Surgery.open(self.db, self.path)
        view = start_case(self.db, "SM-9", ToothNumber("36"), "full-crown", "zirconia", None)
        self.site, self.reading = view.sites[0].site, view.sites[0].readings[0].reading.id
        attempt = view.sites[0].readings[0].reading.attempt_id
        for role, surface in (("prep", STUMP.prep()), ("preop", STUMP.preop())):
            import_scan(self.surgery, view.case.id, attempt, f"{role}.stl", stl_bytes(surface), role, "mm")
        edits.append(self.db, self.reading, "axes", AXES, 0)

    def measure(self) -> str:
        return measuring.measure_reading(self.surgery, self.reading)

    def turn(self, x: float) -> None:
        """Confirm other axes: something to measure."""
        revision, _ = edits.latest(self.db, self.reading, "axes")
        edits.append(self.db, self.reading, "axes", {**AXES, "facial": [x, 1, 0]}, revision)

    def wait(self, job_id: str, states: set[str]) -> jobs.Job:
        return until(lambda: jobs.get_job(self.db, job_id), lambda job: job.state in states)


@pytest.fixture(scope="module")
def bench(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Bench]:
    bench = Bench(tmp_path_factory.mktemp("bench"))
    yield bench
    bench.surgery.close()


def test_equal_inputs_are_measured_once_and_judged_once(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    """The second time no task is sent; another standard only judges; going back sends nothing."""
    sent: list[str] = []
    run = bench.surgery.batch.run
    monkeypatch.setattr(bench.surgery.batch, "run", lambda task, *a: (sent.append(task.kind), run(task, *a))[1])
    first = bench.measure()
    assert sent == ["measure"]
    assert bench.measure() == first
    assert sent == ["measure"]
    cases.set_standard(bench.db, bench.site.id, "metal-ceramic", "metal-ceramic-moderate")
    other = bench.measure()
    assert other != first
    assert sent == ["measure", "judge"]
    cases.set_standard(bench.db, bench.site.id, "zirconia", "zirconia-usual")
    assert bench.measure() == first
    assert sent == ["measure", "judge"]


def test_a_stored_measurement_is_judged_as_the_fresh_one(bench: Bench) -> None:
    """To the last digit: nothing is lost on the way into the store and back."""
    key = bench.measure()
    fresh = results.get_judgement(bench.db, key)
    assert fresh is not None
    bench.db.run("UPDATE jobs SET judgement_key = NULL")
    bench.db.run("DELETE FROM judgements WHERE key = ?", key)
    assert bench.measure() == key
    again = results.get_judgement(bench.db, key)
    assert again is not None
    assert {**again.document, "timing_s": None} == {**fresh.document, "timing_s": None}
    assert again.fields == fresh.fields


def test_what_can_no_longer_be_read_is_measured_again(bench: Bench) -> None:
    """Another standard over a damaged measurement: no dead end, and what is kept then is whole."""
    key = bench.measure()
    stored = results.get_judgement(bench.db, key)
    assert stored is not None
    damaged = blobs.put(bench.db, pack({"format": FORMAT, "geometry": {"record": "Geometry", "fields": {}}}))
    bench.db.run("UPDATE geometries SET blob_hash = ? WHERE key = ?", damaged, stored.geometry_key)
    cases.set_standard(bench.db, bench.site.id, "metal-ceramic", "metal-ceramic-textbook")
    other = results.get_judgement(bench.db, bench.measure())
    assert other is not None
    assert other.document["standard"]["id"] == "metal-ceramic-textbook"
    assert results.geometry_blob(bench.db, stored.geometry_key) != damaged
    cases.set_standard(bench.db, bench.site.id, "zirconia", "zirconia-usual")
    assert bench.measure() == key


def test_a_result_survives_a_restart_and_knows_when_it_is_stale(bench: Bench) -> None:
    """Read back through a new connection; changed axes make it stale, not gone."""
    job = jobs.add_job(bench.db, bench.reading)
    jobs.take_job(bench.db)
    measuring.measure_reading(bench.surgery, bench.reading, job_id=job.id)
    assert jobs.get_job(bench.db, job.id).state == "done"
    again = Database(bench.path)
    stored, stale = measuring.result_of(again, bench.reading)
    assert stored.document["tooth"] == "36"
    assert not stale
    revision = edits.append(bench.db, bench.reading, "axes", {**AXES, "facial": [0.1, 1, 0]}, 1)
    assert measuring.result_of(again, bench.reading)[1]
    edits.undo(bench.db, bench.reading, "axes", revision)
    assert not measuring.result_of(again, bench.reading)[1]


def test_fields_name_the_meshes_they_belong_to(bench: Bench) -> None:
    """The stored display meshes, which are part of the judgement's key."""
    stored, _ = measuring.result_of(bench.db, bench.reading)
    scan = request_of(bench.db, bench.reading)["scans"]["prep"]
    assert stored.meshes == {"rest": scan["rest_hash"], "light": scan["light_hash"]}
    of_meshes = [name.split("/")[0] for name in stored.fields if "/" in name]
    assert set(of_meshes) == set(stored.meshes)
    assert set(stored.summary) == {"state", "text", "counts"}


def test_record_and_package_are_made_of_what_is_stored(bench: Bench) -> None:
    """Both by the worker, twice the same; refused once something has changed; nothing is written."""
    bench.measure()
    job = jobs.add_job(bench.db, bench.reading)
    jobs.take_job(bench.db)
    measuring.measure_reading(bench.surgery, bench.reading, job_id=job.id)
    page = recording.record(bench.surgery, bench.reading, "html").decode()
    assert "SM-9, attempt 1" in page
    assert "axes confirmed" in page
    assert recording.record(bench.surgery, bench.reading, "pdf").startswith(b"%PDF")
    files = opened(recording.package(bench.surgery, bench.reading, wishes="translucent edge"))
    assert recording.record(bench.surgery, bench.reading, "pdf") == files["record.pdf"]
    assert {"scans/prep.stl", "scans/preop.stl"} <= set(files)
    assert json.loads(files["prescription.json"])["wishes"] == "translucent edge"
    stored, _ = measuring.result_of(bench.db, bench.reading)
    assert json.loads(files["measurement.json"]) == stored.document
    revision, _ = edits.latest(bench.db, bench.reading, "axes")
    changed = edits.append(bench.db, bench.reading, "axes", {**AXES, "facial": [0.2, 1, 0]}, revision)
    with pytest.raises(Conflict, match="measure again"):
        recording.record(bench.surgery, bench.reading, "pdf")
    edits.undo(bench.db, bench.reading, "axes", changed)


def test_a_section_gives_both_outlines(bench: Bench) -> None:
    """Through the middle, facial to lingual: preparation and earlier tooth, the earlier one higher."""
    out = looking.section(bench.surgery, bench.reading, looking.Plane([0, 0, 3], [1, 0, 0], [0, 0, 1]), 9.0)
    top = {role: max(p[1] for line in lines for p in line) for role, lines in out["lines"].items()}
    assert top["preop"] - top["prep"] == pytest.approx(1.5, abs=0.03)
    with pytest.raises(InputError, match="normal"):
        looking.section(bench.surgery, bench.reading, looking.Plane([0, 0, 3], [0, 0, 0], [0, 0, 1]), 9.0)


def test_a_job_left_running_is_taken_up_and_a_cancelled_one_is_not(bench: Bench) -> None:
    """A job found running at start is done by the new process; cancel ends one, and the next is done."""
    bench.turn(0.2)
    runner = Runner(bench.surgery)
    left = jobs.add_job(bench.db, bench.reading)
    jobs.take_job(bench.db)
    jobs.cancel(bench.db, left.id)
    running = jobs.add_job(bench.db, bench.reading)
    assert jobs.take_job(bench.db) is not None  # as if the process had ended here
    runner.start()
    done = bench.wait(running.id, {"done", "failed"})
    assert done.state == "done", done.error
    bench.turn(0.3)
    third = runner.submit(bench.reading)
    bench.wait(third.id, {"running"})
    runner.cancel(third.id)
    fourth = runner.submit(bench.reading)
    assert bench.wait(fourth.id, {"done", "failed"}).state == "done"
    assert jobs.get_job(bench.db, third.id).state == "cancelled"
    runner.stop()


def test_an_attempt_without_scans_or_results(bench: Bench) -> None:
    """What is missing is said."""
    attempt = cases.add_attempt(bench.db, bench.site.case_id)
    reading = cases.readings_in(bench.db, attempt.id)[0]
    with pytest.raises(InputError, match="no scan of the preparation"):
        request_of(bench.db, reading.id)
    with pytest.raises(NotFound, match="not been measured"):
        measuring.result_of(bench.db, reading.id)
