"""Measuring in a worker process: once for equal inputs, cancelled by ending it, taken up again after a restart."""

from __future__ import annotations

import os
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from solids import Stump

from vane_line.core.mesh.write import stl_bytes
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import InputError, InternalError, NotFound
from vane_line.service import measuring
from vane_line.service.import_scan import import_scan
from vane_line.service.overview import start_case
from vane_line.service.runner import Runner
from vane_line.service.worker import Task, Worker
from vane_line.store import cases, edits, jobs
from vane_line.store.database import Database

LIMITS = (50_000_000, 1_000_000)
STUMP = Stump(grid_mm=0.24)
AXES = {"occlusal": [0, 0, 1], "facial": [0, 1, 0], "near": None}


class Bench:
    """A case with its scans in a database on disk, and what measures it."""

    def __init__(self, folder: Path) -> None:
        self.path = str(folder / "v.sqlite")
        self.db = Database(Path(self.path))
        view = start_case(self.db, "SM-9", ToothNumber("36"), "full-crown", "zirconia", None)
        self.site, self.attempt = view.sites[0].site, view.sites[0].attempts[0].attempt.id
        for role, surface in (("prep", STUMP.prep()), ("preop", STUMP.preop())):
            import_scan(self.db, view.case.id, self.attempt, f"{role}.stl", stl_bytes(surface), role, "mm", LIMITS)
        edits.append(self.db, self.attempt, "axes", AXES, 0)
        self.worker = Worker("test")

    def measure(self) -> str:
        return measuring.measure_attempt(self.db, self.path, self.worker, self.attempt)

    def wait(self, job_id: str, states: set[str], seconds: float = 90) -> jobs.Job:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            job = jobs.get_job(self.db, job_id)
            if job.state in states:
                return job
            time.sleep(0.05)
        raise AssertionError(f"still {job.state}: {job.text}")


@pytest.fixture(scope="module")
def bench(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Bench]:
    bench = Bench(tmp_path_factory.mktemp("bench"))
    yield bench
    bench.worker.close()


def test_equal_inputs_are_measured_once_and_judged_once(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    """The second time no task is sent; another standard only judges; going back sends nothing."""
    sent: list[str] = []
    run = bench.worker.run
    monkeypatch.setattr(bench.worker, "run", lambda task, *a: (sent.append(task.kind), run(task, *a))[1])
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


def test_a_result_survives_a_restart_and_knows_when_it_is_stale(bench: Bench) -> None:
    """Read back through a new connection; changed axes make it stale, not gone."""
    bench.worker.run(Task("axes", measuring.request_of(bench.db, bench.path, bench.attempt)))
    job = jobs.add_job(bench.db, bench.attempt)
    jobs.take_job(bench.db)
    jobs.finish(bench.db, job.id, bench.measure())
    again = Database(Path(bench.path))
    stored, stale = measuring.result_of(again, bench.path, bench.attempt)
    assert stored.document["tooth"] == "36"
    assert not stale
    revision = edits.append(bench.db, bench.attempt, "axes", {**AXES, "facial": [0.1, 1, 0]}, 1)
    assert measuring.result_of(again, bench.path, bench.attempt)[1]
    edits.undo(bench.db, bench.attempt, "axes", revision)
    assert not measuring.result_of(again, bench.path, bench.attempt)[1]


def test_a_section_gives_both_outlines(bench: Bench) -> None:
    """Through the middle, facial to lingual: preparation and earlier tooth, the earlier one higher."""
    out = measuring.section(bench.db, bench.path, bench.worker, bench.attempt, [0, 0, 3], [1, 0, 0], [0, 0, 1], 9.0)
    top = {role: max(p[1] for line in lines for p in line) for role, lines in out["lines"].items()}
    assert top["preop"] - top["prep"] == pytest.approx(1.5, abs=0.03)
    with pytest.raises(InputError, match="normal"):
        measuring.section(bench.db, bench.path, bench.worker, bench.attempt, [0, 0, 3], [0, 0, 0], [0, 0, 1], 9.0)


def test_a_worker_that_dies_is_said_and_replaced(bench: Bench) -> None:
    """The process ends in the middle: our failure, in words; the next task finds a new process."""
    request = measuring.request_of(bench.db, bench.path, bench.attempt)
    with pytest.raises(InternalError, match="ended unexpectedly"):
        bench.worker.run(Task("measure", request), lambda _text, _share: os.kill(bench.worker._process.pid, 9))
    assert bench.worker.run(Task("axes", request))["sure"] in (True, False)


def test_a_worker_passes_the_person_s_mistakes_on(bench: Bench) -> None:
    """What the core refuses arrives as the same kind of error with its sentence."""
    request = measuring.request_of(bench.db, bench.path, bench.attempt)
    request["scans"]["preop"] = request["scans"]["prep"]
    with pytest.raises(InputError, match="same surface"):
        bench.worker.run(Task("measure", request))


def test_a_job_is_cancelled_and_one_left_running_is_taken_up(bench: Bench) -> None:
    """Cancel ends the work within seconds; a job found running at start is done by the new process."""
    edits.append(bench.db, bench.attempt, "axes", {**AXES, "facial": [0.2, 1, 0]}, 3)
    runner = Runner(bench.db, bench.path, bench.worker)
    left = jobs.add_job(bench.db, bench.attempt)
    jobs.take_job(bench.db)
    jobs.cancel(bench.db, left.id)
    running = jobs.add_job(bench.db, bench.attempt)
    assert jobs.take_job(bench.db) is not None  # as if the process had ended here
    runner.start()
    done = bench.wait(running.id, {"done", "failed"})
    assert done.state == "done", done.error
    edits.append(bench.db, bench.attempt, "axes", {**AXES, "facial": [0.3, 1, 0]}, 4)
    third = runner.submit(bench.attempt)
    bench.wait(third.id, {"running"})
    began = time.monotonic()
    runner.cancel(third.id)
    assert bench.wait(third.id, {"cancelled"}).state == "cancelled"
    fourth = runner.submit(bench.attempt)
    assert bench.wait(fourth.id, {"done", "failed"}).state == "done"
    assert time.monotonic() - began < 60
    runner.stop()


def test_an_attempt_without_scans_or_results(bench: Bench) -> None:
    """What is missing is said."""
    attempt = cases.add_attempt(bench.db, bench.site.id)
    with pytest.raises(InputError, match="no scan of the preparation"):
        measuring.request_of(bench.db, bench.path, attempt.id)
    with pytest.raises(NotFound, match="not been measured"):
        measuring.result_of(bench.db, bench.path, attempt.id)
