"""What users make themselves: standards and sequences (versions are only added), and settings of the surgery."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from vane_line.errors import Conflict, NotFound
from vane_line.store.database import Database, now


@dataclass(frozen=True)
class Own:
    """One version of a user's own standard or sequence."""

    kind: str
    id: str
    version: int
    data: dict[str, Any]


def _own(row: Any) -> Own:
    return Own(row["kind"], row["id"], int(row["version"]), json.loads(row["data"]))


def newest(db: Database, kind: str) -> list[Own]:
    """The newest version of each, in order of id."""
    rows = db.rows(
        "SELECT * FROM own AS o WHERE kind = ? AND version = (SELECT MAX(version) FROM own WHERE kind = o.kind AND "
        "id = o.id) ORDER BY id", kind,
    )  # fmt: skip
    return [_own(r) for r in rows]


def get(db: Database, kind: str, own_id: str, version: int | None = None) -> Own:
    """One version, the newest when none is named. Raises NotFound."""
    row = db.row(
        "SELECT * FROM own WHERE kind = ? AND id = ? AND (? IS NULL OR version = ?) ORDER BY version DESC LIMIT 1",
        kind, own_id, version, version,
    )  # fmt: skip
    if row is None:
        raise NotFound(f"There is no {kind} {own_id}" + (f", version {version}." if version else "."))
    return _own(row)


def add(db: Database, kind: str, own_id: str, data: dict[str, Any], expected_version: int) -> Own:
    """The next version on top of the one that was edited (0: a new one). Raises Conflict."""
    with db.atomic():
        row = db.row("SELECT COALESCE(MAX(version), 0) AS last FROM own WHERE kind = ? AND id = ?", kind, own_id)
        last = int(row["last"]) if row is not None else 0
        if last != expected_version:
            raise Conflict("This was edited elsewhere meanwhile; load it again, nothing was overwritten.")
        made = Own(kind, own_id, last + 1, {**data, "version": last + 1})
        db.run("INSERT INTO own VALUES (?, ?, ?, ?, ?)", kind, own_id, made.version, json.dumps(made.data), now())
    return made


def setting(db: Database, key: str) -> tuple[int, Any]:
    """Revision (0: never set) and value."""
    row = db.row("SELECT value, revision FROM settings WHERE key = ?", key)
    return (0, None) if row is None else (int(row["revision"]), json.loads(row["value"]))


def set_setting(db: Database, key: str, value: Any, expected_revision: int) -> int:
    """Raises Conflict where somebody else set it meanwhile."""
    with db.atomic():
        revision, _ = setting(db, key)
        if revision != expected_revision:
            raise Conflict("This was changed elsewhere meanwhile; load it again, nothing was overwritten.")
        db.run(
            "INSERT INTO settings VALUES (?, ?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value, "
            "revision = excluded.revision", key, json.dumps(value), revision + 1,
        )  # fmt: skip
    return revision + 1
