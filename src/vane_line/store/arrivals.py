"""Scans that came through the watched folder."""

from __future__ import annotations

from dataclasses import astuple, dataclass

from vane_line.store.database import Database, new_id, now


@dataclass(frozen=True)
class Arrival:
    """One file: the attempt it became and the job that measures it, or why it was not taken."""

    id: str
    name: str
    case_id: str | None
    attempt_id: str | None
    job_id: str | None
    error: str
    created_at: str
    digest: str = ""  # SHA-256 of what was read


def add_arrival(
    db: Database, name: str, case_id: str | None, attempt_id: str | None, job_id: str | None, error: str = "",
    digest: str = "",
) -> Arrival:  # fmt: skip
    """Record what became of a file."""
    made = Arrival(
        id=new_id(),
        name=name,
        case_id=case_id,
        attempt_id=attempt_id,
        job_id=job_id,
        error=error,
        created_at=now(),
        digest=digest,
    )
    db.run("INSERT INTO arrivals VALUES (?, ?, ?, ?, ?, ?, ?, ?)", *astuple(made))
    return made


def taken(db: Database, name: str, digest: str) -> Arrival | None:
    """The arrival of a file with this name and content, where it was taken before."""
    row = db.row(
        "SELECT * FROM arrivals WHERE name = ? AND digest = ? AND attempt_id IS NOT NULL ORDER BY id DESC LIMIT 1",
        name, digest,
    )  # fmt: skip
    return None if row is None else Arrival(**dict(row))


def since(db: Database, after: str) -> list[Arrival]:
    """Those after an id ('' for all), oldest first."""
    return [Arrival(**dict(r)) for r in db.rows("SELECT * FROM arrivals WHERE id > ? ORDER BY id", after)]
