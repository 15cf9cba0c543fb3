"""What is made from a case's scans by a job and kept by what it was made from: plans, tables of materials, bridges."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from vane_line.errors import InputError, NotFound
from vane_line.store import blobs, jobs, plans
from vane_line.store.database import Database


@dataclass(frozen=True)
class Made:
    """A document, and the bytes that belong to it: a target as STL, and as the mesh that is shown."""

    document: dict[str, Any]
    target: bytes | None = None
    light: bytes | None = None


def keep(db: Database, key: str, make: Callable[[], Made], job_id: str | None) -> str:
    """Make it, unless it was made before; the job that asked is done with it or not at all. Computed first, written
    then."""
    made = make() if plans.get_plan(db, key) is None else None
    with db.atomic():
        if made is not None:
            hashes = [None if b is None else blobs.put(db, b) for b in (made.target, made.light)]
            plans.add_plan(db, key, made.document, *hashes)
        elif plans.get_plan(db, key) is None:
            raise NotFound("It was deleted meanwhile; make it again.")
        if job_id is not None:
            jobs.finish(db, job_id, None, key)
    return key


def newest(
    db: Database, reading_id: str, kind: str, key_now: Callable[[], str], none: str
) -> tuple[plans.StoredPlan, bool]:
    """The newest of a kind, and whether anything has changed since. Raises NotFound, with the sentence `none`."""
    job = jobs.newest_done(db, reading_id, kind)
    stored = plans.get_plan(db, job.plan_key) if job and job.plan_key else None
    if stored is None:
        raise NotFound(none)
    try:
        stale = key_now() != stored.key
    except InputError:
        stale = True
    return stored, stale
