"""Plans that were made, by what they were made from. Rows are never rewritten."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from vane_line.store.database import Database, now


@dataclass(frozen=True)
class StoredPlan:
    """A plan's document and the blobs of its target: STL for download, a mesh to show; None without a target."""

    key: str
    document: dict[str, Any]
    target_hash: str | None
    light_hash: str | None
    created_at: str


def add_plan(db: Database, key: str, document: dict[str, Any], target: str | None, light: str | None) -> None:
    """Keep a plan; the first one stands."""
    db.run(
        "INSERT OR IGNORE INTO plans VALUES (?, ?, ?, ?, ?)",
        key, json.dumps(document), target, light, now(),
    )  # fmt: skip


def get_plan(db: Database, key: str) -> StoredPlan | None:
    """A plan, or None."""
    row = db.row("SELECT * FROM plans WHERE key = ?", key)
    return None if row is None else StoredPlan(**{**dict(row), "document": json.loads(row["document"])})
