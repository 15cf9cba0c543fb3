"""Hand edits as revisions that are only added; undo adds the earlier value again."""

from __future__ import annotations

import json
from typing import Any

from vane_line.errors import Conflict
from vane_line.store.database import Database, new_id, now


def latest(db: Database, attempt_id: str, kind: str) -> tuple[int, Any]:
    """Revision (0 when there is none) and value of the newest edit of a kind."""
    row = db.row(
        "SELECT revision, value FROM edits WHERE attempt_id = ? AND kind = ? ORDER BY revision DESC LIMIT 1",
        attempt_id, kind,
    )  # fmt: skip
    return (0, None) if row is None else (int(row["revision"]), json.loads(row["value"]))


def append(db: Database, attempt_id: str, kind: str, value: Any, expected_revision: int) -> int:
    """Add an edit on top of the revision the editor saw. Raises Conflict when there is a newer one."""
    with db.atomic():
        revision, _ = latest(db, attempt_id, kind)
        if revision != expected_revision:
            raise Conflict("This was edited elsewhere meanwhile; load it again, nothing was overwritten.")
        db.run(
            "INSERT INTO edits VALUES (?, ?, ?, ?, ?, ?)",
            new_id(), attempt_id, kind, revision + 1, json.dumps(value), now(),
        )  # fmt: skip
    return revision + 1


def undo(db: Database, attempt_id: str, kind: str, expected_revision: int) -> int:
    """Append the value before the newest one."""
    row = db.row(
        "SELECT value FROM edits WHERE attempt_id = ? AND kind = ? AND revision = ?",
        attempt_id, kind, expected_revision - 1,
    )  # fmt: skip
    value = None if row is None else json.loads(row["value"])
    return append(db, attempt_id, kind, value, expected_revision)
