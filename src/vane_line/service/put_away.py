"""Put a case, an attempt or a scan away and take it back; what was put away long ago is deleted for good."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from vane_line.errors import Conflict
from vane_line.service.runner import Runner
from vane_line.service.surgery import Surgery
from vane_line.store import cases, jobs
from vane_line.store.database import text_of
from vane_line.store.sweep import sweep

KEPT_DAYS = 30


def put_case_away(surgery: Surgery, runner: Runner, case_id: str) -> None:
    """Out of the list, its jobs cancelled; nothing is deleted. Raises NotFound."""
    with surgery.db.atomic():
        cases.put_case(surgery.db, case_id, True)
        waiting = [
            job for site in cases.sites_of(surgery.db, case_id)
            for reading in cases.readings_of(surgery.db, site.id)
            for job in jobs.unfinished(surgery.db, reading.id)
        ]  # fmt: skip
    for job in waiting:
        runner.cancel(job.id)


def delete_case(surgery: Surgery, case_id: str) -> None:
    """For good: a case that was put away, with all scans and results. Raises NotFound, Conflict."""
    with surgery.db.atomic():
        if cases.get_case(surgery.db, case_id).put_away_at is None:
            raise Conflict("A case is put away first; only then it can be deleted for good.")
        cases.delete_case(surgery.db, case_id)
        sweep(surgery.db)


def put_attempt_away(surgery: Surgery, runner: Runner, attempt_id: str) -> None:
    """Out of the case, its jobs cancelled. Raises NotFound, Conflict where it is the only one."""
    with surgery.db.atomic():
        attempt = cases.get_attempt(surgery.db, attempt_id)
        if len(cases.attempts_of(surgery.db, attempt.case_id)) == 1 and attempt.put_away_at is None:
            raise Conflict("This is the only attempt; put the whole case away, or take its scans out.")
        cases.put_attempt(surgery.db, attempt_id, True)
        readings = cases.readings_in(surgery.db, attempt_id)
        waiting = [job for reading in readings for job in jobs.unfinished(surgery.db, reading.id)]
    for job in waiting:
        runner.cancel(job.id)


def clear_old(surgery: Surgery, now: datetime | None = None) -> int:
    """Delete for good what was put away over KEPT_DAYS ago; returns how many cases and attempts went."""
    before = (now or datetime.now(UTC)) - timedelta(days=KEPT_DAYS)
    with surgery.db.atomic():
        gone = cases.delete_put_away(surgery.db, text_of(before))
        if gone:
            sweep(surgery.db)
    return gone
