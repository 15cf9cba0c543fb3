"""Measure an attempt, judge it, keep the answer. Computed first, written then, in one transaction."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from vane_line.core.case import ALGORITHM_VERSION
from vane_line.errors import InputError, NotFound, StoreError
from vane_line.service.requests import geometry_key, judgement_key, request_of
from vane_line.service.surgery import Surgery
from vane_line.service.worker import Ticket, Worker
from vane_line.store import blobs, cases, jobs, results, scans
from vane_line.store.database import Database
from vane_line.work.task import Progress, Task


@dataclass(frozen=True)
class Judged:
    """A judgement by its key, and the worker's answer where it is not kept yet; mends: a measurement that was kept and
    cannot be read any more."""

    key: str
    geometry_key: str
    answer: dict[str, Any] | None
    mends: bool = False


def compute(
    db: Database, worker: Worker, request: dict[str, Any], progress: Progress = lambda _t, _s: None,
    ticket: Ticket | None = None,
) -> Judged:  # fmt: skip
    """Measure and judge what a request asks for, or find that it was done before. Writes nothing."""
    key, judged = geometry_key(request), judgement_key(request)
    if results.get_judgement(db, judged) is not None:
        return Judged(judged, key, None)
    stored = results.geometry_blob(db, key)
    if stored is not None:
        try:
            return Judged(judged, key, worker.run(Task("judge", request | {"geometry_hash": stored}), progress, ticket))
        except StoreError:  # what is kept can no longer be read: the scans can
            pass
    return Judged(judged, key, worker.run(Task("measure", request), progress, ticket), mends=stored is not None)


def keep(db: Database, reading_id: str, judged: Judged) -> str:
    """Write what was computed, within the caller's transaction; returns the judgement's key."""
    answer = judged.answer
    with db.atomic():
        if answer is None:
            if results.get_judgement(db, judged.key) is None:
                raise NotFound("The measurement was deleted meanwhile; measure again.")
            return judged.key
        if "geometry" in answer:
            stored = blobs.put(db, answer["geometry"])
            results.add_geometry(db, judged.geometry_key, answer["algorithm_version"], stored)
            if judged.mends:
                results.mend_geometry(db, judged.geometry_key, stored)
            reading = cases.get_reading(db, reading_id)
            for scan in scans.scans_of(db, reading.case_id, reading.attempt_id):
                if scan.role in answer["matrices"]:
                    matrix, u = answer["matrices"][scan.role]
                    scans.add_transform(db, scan.id, matrix, u, f"algorithm {ALGORITHM_VERSION}")
        elif results.geometry_blob(db, judged.geometry_key) is None:
            raise NotFound("The measurement was deleted meanwhile; measure again.")
        fields = {name: blobs.put(db, data) for name, data in answer["fields"].items()}
        results.add_judgement(
            db=db, key=judged.key, geometry_key=judged.geometry_key, standard_hash=answer["standard_hash"],
            document=answer["document"], fields=fields, meshes=answer["meshes"], summary=answer["summary"],
        )  # fmt: skip
    return judged.key


def measure_reading(
    surgery: Surgery, reading_id: str, progress: Progress = lambda _t, _s: None, ticket: Ticket | None = None,
    job_id: str | None = None,
) -> str:  # fmt: skip
    """Measure and judge an attempt; the job that asked for it, where there is one, is done with it or not at all."""
    judged = compute(surgery.db, surgery.batch, request_of(surgery.db, reading_id), progress, ticket)
    with surgery.db.atomic():
        key = keep(surgery.db, reading_id, judged)
        if job_id is not None:
            jobs.finish(surgery.db, job_id, key)
    return key


def result_of(db: Database, reading_id: str) -> tuple[results.StoredJudgement, bool]:
    """The newest judgement of an attempt, and whether scans, axes or standard have changed since."""
    job = jobs.newest_done(db, reading_id)
    stored = results.get_judgement(db, job.judgement_key) if job and job.judgement_key else None
    if stored is None:
        raise NotFound("This attempt has not been measured yet; press measure.")
    try:
        stale = judgement_key(request_of(db, reading_id)) != stored.key
    except InputError:
        stale = True
    return stored, stale
