"""Takes waiting jobs one by one in a background thread, and tells listeners how they go."""

from __future__ import annotations

import logging
import threading

from vane_line.errors import VaneLineError
from vane_line.service.measuring import measure_attempt
from vane_line.service.planning import plan_attempt
from vane_line.service.worker import Cancelled, Worker
from vane_line.store import jobs
from vane_line.store.database import Database

log = logging.getLogger(__name__)
POLL_S = 1.0


class Runner:
    """The queue's one consumer. What it was doing when the process ended is taken up again at the next start."""

    def __init__(self, db: Database, db_path: str, worker: Worker) -> None:
        self._db, self._path, self._worker = db, db_path, worker
        self._wake, self._stop = threading.Event(), threading.Event()
        self._current: str | None = None
        self._thread = threading.Thread(target=self._loop, name="jobs", daemon=True)

    def start(self) -> None:
        """Begin, with what an earlier process left."""
        jobs.release_all(self._db)
        self._thread.start()

    def stop(self) -> None:
        """End; the running job waits for the next start."""
        self._stop.set()
        self._wake.set()
        self._worker.close()
        self._thread.join(timeout=10)

    def submit(self, attempt_id: str, kind: str = "measure") -> jobs.Job:
        """Queue an attempt for measuring, or for planning."""
        job = jobs.add_job(self._db, attempt_id, kind)
        self._wake.set()
        return job

    def cancel(self, job_id: str) -> jobs.Job:
        """Cancel a job; a running one by ending its worker."""
        job = jobs.cancel(self._db, job_id)
        if self._current == job_id:
            self._worker.cancel()
        return job

    def _loop(self) -> None:
        while not self._stop.is_set():
            job = jobs.take_job(self._db)
            if job is None:
                self._wake.wait(POLL_S)
                self._wake.clear()
                continue
            self._current = job.id
            self._do(job)
            self._current = None

    def _do(self, job: jobs.Job) -> None:
        def progress(text: str, share: float) -> None:
            jobs.set_progress(self._db, job.id, text, share)

        try:
            if job.kind == "plan":
                made = plan_attempt(self._db, self._path, self._worker, job.attempt_id, progress)
                jobs.finish(self._db, job.id, None, made)
                return
            key = measure_attempt(self._db, self._path, self._worker, job.attempt_id, progress)
            jobs.finish(self._db, job.id, key)
        except Cancelled:
            log.info("job %s was cancelled", job.id)
        except VaneLineError as error:
            if not self._stop.is_set():
                jobs.fail(self._db, job.id, str(error))
        except Exception:
            log.exception("job %s failed", job.id)
            jobs.fail(self._db, job.id, "Measuring failed for a reason of ours; the case is unchanged.")
