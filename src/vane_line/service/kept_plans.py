"""What is made from a case's scans by a job and kept by what it was made from: plans, tables of materials, bridges."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from vane_line.errors import InputError, NotFound
from vane_line.service.surgery import Surgery
from vane_line.service.worker import Ticket
from vane_line.store import blobs, jobs, plans
from vane_line.store.database import Database
from vane_line.work.task import Progress, Task


@dataclass(frozen=True)
class Made:
    """A document, and the bytes that belong to it: a target as STL, and as the mesh that is shown."""

    document: dict[str, Any]
    target: bytes | None = None
    light: bytes | None = None


@dataclass(frozen=True)
class Kept:
    """One kind of them. kind: of the job and of the worker's task; request: all that the worker needs to know, by
    reading, raises InputError where something is missing; key: what the request is kept by; none: the sentence where
    there is none yet; made: from the worker's answer."""

    kind: str
    request: Callable[[Database, str], dict[str, Any]]
    key: Callable[[dict[str, Any]], str]
    none: str
    made: Callable[[dict[str, Any]], Made] = Made


def make(
    what: Kept, surgery: Surgery, reading_id: str, progress: Progress = lambda _t, _s: None,
    ticket: Ticket | None = None, job_id: str | None = None,
) -> str:  # fmt: skip
    """Make it, unless it was made before; the job that asked is done with it or not at all. Computed first, written
    then; returns its key."""
    db, request = surgery.db, what.request(surgery.db, reading_id)
    key, made = what.key(request), None
    if plans.get_plan(db, key) is None:
        made = what.made(surgery.batch.run(Task(what.kind, request), progress, ticket))
    with db.atomic():
        if made is not None:
            hashes = [None if b is None else blobs.put(db, b) for b in (made.target, made.light)]
            plans.add_plan(db, key, made.document, *hashes)
        elif plans.get_plan(db, key) is None:
            raise NotFound("It was deleted meanwhile; make it again.")
        if job_id is not None:
            jobs.finish(db, job_id, None, key)
    return key


def newest(what: Kept, db: Database, reading_id: str) -> tuple[plans.StoredPlan, bool]:
    """The newest of a kind, and whether anything has changed since. Raises NotFound."""
    job = jobs.newest_done(db, reading_id, what.kind)
    stored = plans.get_plan(db, job.plan_key) if job and job.plan_key else None
    if stored is None:
        raise NotFound(what.none)
    try:
        stale = what.key(what.request(db, reading_id)) != stored.key
    except InputError:
        stale = True
    return stored, stale
