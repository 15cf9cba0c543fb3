"""Jobs: measuring work that shows progress, can be cancelled and survives a restart."""

from __future__ import annotations

from dataclasses import asdict, dataclass

from vane_line.errors import NotFound
from vane_line.store.database import Database, new_id, now

WAITING, RUNNING, DONE, FAILED, CANCELLED = "waiting", "running", "done", "failed", "cancelled"


@dataclass(frozen=True)
class Job:
    """One request to measure an attempt."""

    id: str
    reading_id: str
    state: str
    text: str
    share: float
    error: str
    judgement_key: str | None
    created_at: str
    updated_at: str
    kind: str = "measure"  # or plan, decide, bridge, bridge-plan
    plan_key: str | None = None
    actor: str = ""


def add_job(db: Database, reading_id: str, kind: str = "measure", actor: str = "") -> Job:
    """A waiting job; the attempt's waiting one of its kind, if there is one, instead of a second.

    One that runs already may have begun before what is asked for now was known: it is not waited for.
    """
    with db.atomic():
        row = db.row("SELECT * FROM jobs WHERE reading_id = ? AND kind = ? AND state = 'waiting'", reading_id, kind)
        if row is not None:
            return Job(**dict(row))
        at = now()
        return _put(
            db,
            Job(
                id=new_id(),
                reading_id=reading_id,
                state=WAITING,
                text="waiting",
                share=0.0,
                error="",
                judgement_key=None,
                created_at=at,
                updated_at=at,
                kind=kind,
                plan_key=None,
                actor=actor,
            ),
        )


def add_done(db: Database, reading_id: str, judgement_key: str, actor: str = "") -> Job:
    """A job that was done at once, while the person waited."""
    at = now()
    done = Job(
        id=new_id(),
        reading_id=reading_id,
        state=DONE,
        text="done",
        share=1.0,
        error="",
        judgement_key=judgement_key,
        created_at=at,
        updated_at=at,
        actor=actor,
    )
    return _put(db, done)


def _put(db: Database, job: Job) -> Job:
    row = asdict(job)
    db.run(f"INSERT INTO jobs ({', '.join(row)}) VALUES ({', '.join('?' * len(row))})", *row.values())
    return job


def unfinished(db: Database, reading_id: str) -> list[Job]:
    """What waits or runs for an attempt."""
    rows = db.rows("SELECT * FROM jobs WHERE reading_id = ? AND state IN ('waiting', 'running')", reading_id)
    return [Job(**dict(r)) for r in rows]


def release(db: Database, job_id: str) -> None:
    """What ran, and was ended without being cancelled, waits again."""
    db.run("UPDATE jobs SET state = 'waiting', text = 'waiting again' WHERE id = ? AND state = 'running'", job_id)


def get_job(db: Database, job_id: str) -> Job:
    """Raises NotFound."""
    row = db.row("SELECT * FROM jobs WHERE id = ?", job_id)
    if row is None:
        raise NotFound("There is no such job.")
    return Job(**dict(row))


def newest_job(db: Database, reading_id: str, kind: str = "measure") -> Job | None:
    """The attempt's newest job of a kind, or None."""
    row = db.row("SELECT * FROM jobs WHERE reading_id = ? AND kind = ? ORDER BY rowid DESC LIMIT 1", reading_id, kind)
    return None if row is None else Job(**dict(row))


def newest_done(db: Database, reading_id: str, kind: str = "measure") -> Job | None:
    """The attempt's newest finished job of a kind, or None."""
    row = db.row(
        "SELECT * FROM jobs WHERE reading_id = ? AND kind = ? AND state = 'done' ORDER BY rowid DESC LIMIT 1",
        reading_id, kind,
    )  # fmt: skip
    return None if row is None else Job(**dict(row))


def take_job(db: Database) -> Job | None:
    """Mark the oldest waiting job as running and return it."""
    with db.atomic():
        row = db.row("SELECT * FROM jobs WHERE state = 'waiting' ORDER BY rowid LIMIT 1")
        if row is None:
            return None
        db.run("UPDATE jobs SET state = 'running', updated_at = ? WHERE id = ?", now(), row["id"])
        return get_job(db, row["id"])


def set_progress(db: Database, job_id: str, text: str, share: float) -> None:
    """While it runs."""
    db.run(
        "UPDATE jobs SET text = ?, share = ?, updated_at = ? WHERE id = ? AND state = 'running'",
        text, share, now(), job_id,
    )  # fmt: skip


def finish(db: Database, job_id: str, judgement_key: str | None, plan_key: str | None = None) -> None:
    """It is done; a cancelled job stays cancelled."""
    db.run(
        "UPDATE jobs SET state = 'done', text = 'done', share = 1, judgement_key = ?, plan_key = ?, updated_at = ? "
        "WHERE id = ? AND state = 'running'",
        judgement_key, plan_key, now(), job_id,
    )  # fmt: skip


def fail(db: Database, job_id: str, error: str) -> None:
    """It could not be done, and why."""
    db.run(
        "UPDATE jobs SET state = 'failed', error = ?, updated_at = ? WHERE id = ? AND state = 'running'",
        error, now(), job_id,
    )  # fmt: skip


def cancel(db: Database, job_id: str) -> Job:
    """Stop a job that has not finished."""
    db.run(
        "UPDATE jobs SET state = 'cancelled', text = 'cancelled', updated_at = ? "
        "WHERE id = ? AND state IN ('waiting', 'running')",
        now(), job_id,
    )  # fmt: skip
    return get_job(db, job_id)


def release_all(db: Database) -> int:
    """After a restart: what ran when the process ended waits again."""
    return db.run("UPDATE jobs SET state = 'waiting', text = 'waiting again' WHERE state = 'running'")
