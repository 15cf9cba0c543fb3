"""The queue: one job after another, each ended alone; a failure of ours ends a job, never the queue."""

from __future__ import annotations

import sqlite3
import threading
import time
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from waiting import HANGS_S, until

from vane_line.errors import UnfitScans, WorkerDied
from vane_line.service import runner as running
from vane_line.service.runner import OURS, Runner
from vane_line.service.surgery import Surgery
from vane_line.service.worker import Cancelled, Ticket
from vane_line.store import cases, jobs
from vane_line.store.database import Database


class Bench:
    """A queue whose work is a function of the test's: it is given the attempt and the ticket."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch) -> None:
        self.db = Database(":memory:")
        case = cases.add_case(self.db, "SM-1")
        cases.add_site(self.db, case.id, "36", "full-crown", "zirconia", "zirconia-usual")
        attempts = [cases.add_attempt(self.db, case.id) for _ in range(4)]
        self.readings = [cases.readings_in(self.db, a.id)[0].id for a in attempts]
        nobody: Any = None
        self.runner = Runner(Surgery(self.db, nobody, nobody, nobody, nobody))
        self.work: Callable[[str, Ticket], None] = lambda _a, _t: None
        self.done: list[str] = []

        def do(_s: Surgery, attempt: str, progress: Any, ticket: Ticket, job_id: str) -> str:
            progress("working", 0.5)
            self.work(attempt, ticket)
            jobs.finish(self.db, job_id, None)
            self.done.append(attempt)
            return ""

        monkeypatch.setattr(running, "measure_reading", do)
        monkeypatch.setattr(running, "plan_reading", do)
        monkeypatch.setattr(running, "POLL_S", 0.02)

    def wait(self, job: jobs.Job, *states: str) -> jobs.Job:
        return until(lambda: jobs.get_job(self.db, job.id), lambda now: now.state in states)


@pytest.fixture
def bench(monkeypatch: pytest.MonkeyPatch) -> Iterator[Bench]:
    made = Bench(monkeypatch)
    yield made
    made.runner.stop()


def test_jobs_are_done_in_their_order(bench: Bench) -> None:
    """Measuring and planning alike."""
    waiting = [bench.runner.submit(a, kind) for a, kind in zip(bench.readings, ("measure", "plan") * 2, strict=True)]
    bench.runner.start()
    assert all(bench.wait(job, "done") for job in waiting)
    assert bench.done == bench.readings


def test_cancelling_at_a_job_s_end_leaves_the_next_alone(bench: Bench) -> None:
    """Cancelled once it was done, and again while the next runs: the next is done, and its attempt is not blocked."""
    held, seen = threading.Event(), threading.Event()
    tickets: list[Ticket] = []

    def work(attempt: str, ticket: Ticket) -> None:
        tickets.append(ticket)
        if attempt == bench.readings[1]:
            seen.set()
            held.wait(HANGS_S)
            if ticket.cancelled:
                raise Cancelled

    bench.work = work
    first, second = bench.runner.submit(bench.readings[0]), bench.runner.submit(bench.readings[1])
    bench.runner.start()
    assert seen.wait(HANGS_S)
    assert bench.runner.cancel(first.id).state == "done"
    held.set()
    assert bench.wait(second, "done", "cancelled").state == "done"
    again = bench.runner.submit(bench.readings[1])
    assert bench.wait(again, "done").id != second.id
    assert not any(t.cancelled for t in tickets)


def test_a_cancelled_job_ends_alone(bench: Bench) -> None:
    """It is cancelled, and what waits after it is done."""
    seen = threading.Event()

    def work(attempt: str, ticket: Ticket) -> None:
        if attempt == bench.readings[0]:
            seen.set()
            while not ticket.cancelled:
                time.sleep(0.01)
            raise Cancelled

    bench.work = work
    first, second = bench.runner.submit(bench.readings[0]), bench.runner.submit(bench.readings[1])
    bench.runner.start()
    assert seen.wait(HANGS_S)
    bench.runner.cancel(first.id)
    assert bench.wait(second, "done")
    assert jobs.get_job(bench.db, first.id).state == "cancelled"


def test_what_was_asked_for_during_a_run_is_done_after_it(bench: Bench) -> None:
    """A standard changed while its attempt is measured: it is judged again."""
    held, seen = threading.Event(), threading.Event()

    def work(_attempt: str, _ticket: Ticket) -> None:
        seen.set()
        held.wait(HANGS_S)

    bench.work = work
    first = bench.runner.submit(bench.readings[0])
    bench.runner.start()
    assert seen.wait(HANGS_S)
    second = bench.runner.submit(bench.readings[0])
    held.set()
    assert bench.wait(first, "done")
    assert bench.wait(second, "done")
    assert bench.done == [bench.readings[0]] * 2


@pytest.mark.parametrize(
    ("error", "says"),
    [
        (UnfitScans("The two scans show the same surface."), "same surface"),
        (ZeroDivisionError(), OURS),
        (sqlite3.OperationalError("disk I/O error"), OURS),
    ],
)
def test_a_failure_ends_its_job_with_a_word_and_not_the_queue(bench: Bench, error: Exception, says: str) -> None:
    """The person's mistakes in their words, ours as ours."""

    def work(attempt: str, _ticket: Ticket) -> None:
        if attempt == bench.readings[0]:
            raise error

    bench.work = work
    bad, good = bench.runner.submit(bench.readings[0]), bench.runner.submit(bench.readings[1])
    bench.runner.start()
    assert bench.wait(good, "done")
    assert says in bench.wait(bad, "failed").error


def test_a_store_that_fails_for_a_while_stops_nothing(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    """The next job cannot be taken twice: the queue goes on, nothing is lost."""
    take, failures = jobs.take_job, iter([sqlite3.OperationalError("locked"), OSError("full")])

    def sometimes(db: Database) -> jobs.Job | None:
        for error in failures:
            raise error
        return take(db)

    monkeypatch.setattr(running.jobs, "take_job", sometimes)
    job = bench.runner.submit(bench.readings[0])
    bench.runner.start()
    assert bench.wait(job, "done")


def test_a_job_ended_with_the_program_waits_for_the_next_start(bench: Bench) -> None:
    """Neither failed nor cancelled."""
    seen = threading.Event()

    def work(_attempt: str, ticket: Ticket) -> None:
        seen.set()
        while not ticket.cancelled:
            time.sleep(0.01)
        raise Cancelled

    bench.work = work
    job = bench.runner.submit(bench.readings[0])
    bench.runner.start()
    assert seen.wait(HANGS_S)
    bench.runner.stop()
    assert jobs.get_job(bench.db, job.id).state == "waiting"


def test_a_job_whose_process_was_ended_runs_once_more(bench: Bench) -> None:
    """Ended from outside it was not the job's doing: done the second time; ended again, it fails and says so."""
    ended: dict[str, int] = {}

    def work(reading: str, _ticket: Ticket) -> None:
        ended[reading] = ended.get(reading, 0) + 1
        if ended[reading] <= (1 if reading == bench.readings[0] else 2):
            raise WorkerDied("The measuring process ended unexpectedly.")

    bench.work = work
    bench.runner.start()
    once, twice = bench.runner.submit(bench.readings[0]), bench.runner.submit(bench.readings[1])
    assert bench.wait(once, "done", "failed").state == "done"
    failed = bench.wait(twice, "done", "failed")
    assert (failed.state, failed.error) == ("failed", "The measuring process ended unexpectedly.")
    assert ended == {bench.readings[0]: 2, bench.readings[1]: 2}
