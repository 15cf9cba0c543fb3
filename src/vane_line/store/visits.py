"""The chair log of a case: steps and timers as they were started and stopped, and what was written down beside them."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from vane_line.errors import Conflict, NotFound
from vane_line.store.database import Database, new_id, now


@dataclass(frozen=True)
class Entry:
    """kind: step or timer; stopped_at None while it runs. Times as `database.now` writes them."""

    id: str
    case_id: str
    kind: str
    name: str
    started_at: str
    stopped_at: str | None


def add_entry(db: Database, case_id: str, kind: str, name: str, started_at: str) -> Entry:
    """Start one."""
    entry = Entry(new_id(), case_id, kind, name, started_at, None)
    db.run(
        "INSERT INTO visit_entries (id, case_id, kind, name, started_at) VALUES (?, ?, ?, ?, ?)",
        entry.id, case_id, kind, name, started_at,
    )  # fmt: skip
    return entry


def stop_entry(db: Database, case_id: str, entry_id: str, stopped_at: str) -> Entry:
    """Stop one; once stopped it stays as it was. Raises NotFound."""
    db.run(
        "UPDATE visit_entries SET stopped_at = ? WHERE id = ? AND case_id = ? AND stopped_at IS NULL",
        stopped_at, entry_id, case_id,
    )  # fmt: skip
    row = db.row("SELECT * FROM visit_entries WHERE id = ? AND case_id = ?", entry_id, case_id)
    if row is None:
        raise NotFound("There is no such entry in this case's chair log.")
    return Entry(**dict(row))


def entries_of(db: Database, case_id: str) -> list[Entry]:
    """All of a case, oldest first."""
    rows = db.rows("SELECT * FROM visit_entries WHERE case_id = ? ORDER BY started_at, id", case_id)
    return [Entry(**dict(row)) for row in rows]


def ended_steps(db: Database, most: int) -> list[Entry]:
    """The newest ended steps of all cases, newest first; the demo's do not count."""
    rows = db.rows(
        "SELECT e.* FROM visit_entries e JOIN cases c ON c.id = e.case_id WHERE e.kind = 'step' AND c.demo = 0 "
        "AND e.stopped_at IS NOT NULL ORDER BY e.started_at DESC LIMIT ?",
        most,
    )
    return [Entry(**dict(row)) for row in rows]


def running_timers(db: Database) -> set[str]:
    """Names of those that run, in any case."""
    return {
        str(row["name"])
        for row in db.rows("SELECT DISTINCT name FROM visit_entries WHERE kind = 'timer' AND stopped_at IS NULL")
    }


def notes_of(db: Database, case_id: str) -> tuple[int, dict[str, Any]]:
    """Revision (0 when there is none) and what was written down last."""
    row = db.row("SELECT revision, value FROM visit_notes WHERE case_id = ? ORDER BY revision DESC LIMIT 1", case_id)
    return (0, {}) if row is None else (int(row["revision"]), json.loads(row["value"]))


def add_notes(db: Database, case_id: str, value: dict[str, Any], expected_revision: int) -> int:
    """Write down anew, on top of the revision that was seen. Raises Conflict when there is a newer one."""
    with db.atomic():
        revision, _ = notes_of(db, case_id)
        if revision != expected_revision:
            raise Conflict("These notes were changed elsewhere meanwhile; load them again, nothing was overwritten.")
        db.run("INSERT INTO visit_notes VALUES (?, ?, ?, ?)", case_id, revision + 1, json.dumps(value), now())
    return revision + 1
