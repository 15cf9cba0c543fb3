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


def add_arrival(
    db: Database, name: str, case_id: str | None, attempt_id: str | None, job_id: str | None, error: str = ""
) -> Arrival:
    """Record what became of a file."""
    made = Arrival(new_id(), name, case_id, attempt_id, job_id, error, now())
    db.run("INSERT INTO arrivals VALUES (?, ?, ?, ?, ?, ?, ?)", *astuple(made))
    return made


def since(db: Database, after: str) -> list[Arrival]:
    """Those after an id ('' for all), oldest first."""
    return [Arrival(**dict(r)) for r in db.rows("SELECT * FROM arrivals WHERE id > ? ORDER BY id", after)]
