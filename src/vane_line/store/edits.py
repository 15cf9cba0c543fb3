"""Hand edits as revisions that are only added; undo adds the earlier value again."""

from __future__ import annotations

import json
from typing import Any

from vane_line.errors import Conflict
from vane_line.store.database import Database, new_id, now


def latest(db: Database, reading_id: str, kind: str) -> tuple[int, Any]:
    """Revision (0 when there is none) and value of the newest edit of a kind."""
    row = db.row(
        "SELECT revision, value FROM edits WHERE reading_id = ? AND kind = ? ORDER BY revision DESC LIMIT 1",
        reading_id, kind,
    )  # fmt: skip
    return (0, None) if row is None else (int(row["revision"]), json.loads(row["value"]))


def check(db: Database, reading_id: str, kind: str, expected_revision: int) -> int:
    """The newest revision, which must be the one the editor saw. Raises Conflict when there is a newer one."""
    revision, _ = latest(db, reading_id, kind)
    if revision != expected_revision:
        raise Conflict("This was edited elsewhere meanwhile; load it again, nothing was overwritten.")
    return revision


def append(
    db: Database, reading_id: str, kind: str, value: Any, expected_revision: int, returns_to: int | None = None,
    actor: str = "",
) -> int:  # fmt: skip
    """Add an edit on top of the revision the editor saw. Raises Conflict when there is a newer one."""
    with db.atomic():
        revision = check(db, reading_id, kind, expected_revision)
        db.run(
            "INSERT INTO edits (id, reading_id, kind, revision, value, created_at, returns_to, actor) "
            "VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
            new_id(), reading_id, kind, revision + 1, json.dumps(value), now(), returns_to, actor,
        )  # fmt: skip
    return revision + 1


def before(db: Database, reading_id: str, kind: str) -> tuple[int, Any]:
    """The revision (0: none) and value that an undo goes back to. Raises Conflict when there is nothing to undo."""
    stack: list[int] = []
    values: dict[int, Any] = {0: None}
    for row in db.rows(
        "SELECT revision, value, returns_to FROM edits WHERE reading_id = ? AND kind = ? ORDER BY revision",
        reading_id, kind,
    ):  # fmt: skip
        values[row["revision"]] = json.loads(row["value"])
        if row["returns_to"] is None:
            stack.append(row["revision"])
        else:
            stack = [r for r in stack if r <= row["returns_to"]]
    if not stack:
        raise Conflict("There is nothing to undo.")
    revision = stack[-2] if len(stack) > 1 else 0
    return revision, values[revision]


def undo(db: Database, reading_id: str, kind: str, expected_revision: int) -> int:
    """Append the value before the one in force; undoing again goes one further back."""
    with db.atomic():
        revision, value = before(db, reading_id, kind)
        return append(db, reading_id, kind, value, expected_revision, revision)


def history(db: Database, reading_id: str) -> list[dict[str, Any]]:
    """All edits of an attempt, oldest first: kind, revision, value, when, and the revision an undo went back to."""
    return [
        {**dict(row), "value": json.loads(row["value"])}
        for row in db.rows(
            "SELECT kind, revision, value, created_at, returns_to, actor FROM edits WHERE reading_id = ? "
            "ORDER BY created_at, revision",
            reading_id,
        )
    ]
