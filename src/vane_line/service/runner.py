"""Takes waiting jobs one by one in a background thread, and tells listeners how they go."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable

from vane_line.errors import VaneLineError, WorkerDied
from vane_line.service.bridging import bridge_plan_reading, bridge_reading
from vane_line.service.measuring import measure_reading
from vane_line.service.planning import decide_reading, plan_reading
from vane_line.service.surgery import Surgery
from vane_line.service.worker import Cancelled, Ticket
from vane_line.store import jobs

log = logging.getLogger(__name__)
POLL_S = 1.0
OURS = "Measuring failed for a reason of ours; the case is unchanged, measure again."


class Runner:
    """The queue's one consumer. What it was doing when the process ended is taken up again at the next start."""

    def __init__(self, surgery: Surgery) -> None:
        self._surgery = surgery
        self._wake, self._stop = threading.Event(), threading.Event()
        self._lock = threading.Lock()
        self._tickets: dict[str, Ticket] = {}
        self._again: set[str] = set()  # jobs whose process was ended under them once
        self._thread = threading.Thread(target=self._loop, name="jobs", daemon=True)

    def start(self) -> None:
        """Begin, with what an earlier process left."""
        jobs.release_all(self._surgery.db)
        self._thread.start()

    def stop(self) -> None:
        """End; the running job waits for the next start."""
        self._stop.set()
        self._wake.set()
        with self._lock:
            for ticket in self._tickets.values():
                ticket.cancel()
        self._thread.join(timeout=10)

    def submit(self, reading_id: str, kind: str = "measure", actor: str | None = None) -> jobs.Job:
        """Queue an attempt for one of the kinds of `_work`; actor: who asks for it."""
        job = jobs.add_job(self._surgery.db, reading_id, kind, actor or self._surgery.actor)
        self.wake()
        return job

    def wake(self) -> None:
        """A job was added by somebody else."""
        self._wake.set()

    def cancel(self, job_id: str) -> jobs.Job:
        """Cancel a job; where it runs, its own task is ended and no other."""
        job = jobs.cancel(self._surgery.db, job_id)
        with self._lock:
            ticket = self._tickets.get(job_id)
        if ticket is not None:
            ticket.cancel()
        return job

    def _loop(self) -> None:
        while not self._stop.is_set():
            try:
                job = jobs.take_job(self._surgery.db)
            except Exception:  # a full disk, a locked file: it may pass, and no job is lost meanwhile
                log.exception("the next job could not be taken")
                self._stop.wait(POLL_S)
                continue
            if job is None:
                self._wake.wait(POLL_S)
                self._wake.clear()
                continue
            self._do(job)

    def _do(self, job: jobs.Job) -> None:
        db, ticket = self._surgery.db, Ticket()
        with self._lock:
            self._tickets[job.id] = ticket

        def progress(text: str, share: float) -> None:
            jobs.set_progress(db, job.id, text, share)

        try:
            if jobs.get_job(db, job.id).state == jobs.CANCELLED:
                return
            self._work(job.kind)(self._surgery, job.reading_id, progress, ticket, job.id)
        except Cancelled:
            if jobs.get_job(db, job.id).state == jobs.RUNNING:
                jobs.release(db, job.id)  # ended with the program, not by a person
            log.info("job %s was ended", job.id)
        except WorkerDied as error:
            self._once_more(job.id, str(error))
        except VaneLineError as error:
            self._fail(job.id, str(error))
        except Exception:
            log.exception("job %s failed", job.id)
            self._once_more(job.id, OURS)
        finally:
            with self._lock:
                self._tickets.pop(job.id, None)

    def _work(self, kind: str) -> Callable[..., str]:
        """What does a kind of job."""
        kinds: dict[str, Callable[..., str]] = {
            "measure": measure_reading,
            "plan": plan_reading,
            "decide": decide_reading,
            "bridge": bridge_reading,
            "bridge-plan": bridge_plan_reading,
        }
        return kinds[kind]

    def _once_more(self, job_id: str, why: str) -> None:
        """Whoever ended the process did not mean the job: it runs again, and only then is it the job's own doing."""
        if job_id in self._again or self._stop.is_set():
            self._fail(job_id, why)
            return
        self._again.add(job_id)
        try:
            jobs.release(self._surgery.db, job_id)
        except Exception:
            log.exception("job %s could not be put back", job_id)

    def _fail(self, job_id: str, why: str) -> None:
        if self._stop.is_set():
            return  # it runs again at the next start
        try:
            jobs.fail(self._surgery.db, job_id, why)
        except Exception:
            log.exception("job %s could not be marked as failed", job_id)
