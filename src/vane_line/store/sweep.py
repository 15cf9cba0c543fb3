"""Take out what nothing refers to any more: results and plans that no job points at, bytes that no row names."""

from __future__ import annotations

from vane_line.store.database import Database

LOOSE = (
    "DELETE FROM judgements WHERE key NOT IN (SELECT judgement_key FROM jobs WHERE judgement_key IS NOT NULL)",
    "DELETE FROM geometries WHERE key NOT IN (SELECT geometry_key FROM judgements)",
    "DELETE FROM plans WHERE key NOT IN (SELECT plan_key FROM jobs WHERE plan_key IS NOT NULL)",
    """DELETE FROM blobs WHERE hash NOT IN (
         SELECT raw_hash FROM scans UNION SELECT rest_hash FROM scans UNION SELECT light_hash FROM scans
         UNION SELECT blob_hash FROM geometries
         UNION SELECT target_hash FROM plans WHERE target_hash IS NOT NULL
         UNION SELECT light_hash FROM plans WHERE light_hash IS NOT NULL
         UNION SELECT value FROM judgements, json_each(judgements.fields)
         UNION SELECT value FROM judgements, json_each(judgements.meshes))""",
)


def sweep(db: Database) -> int:
    """Delete it all, or nothing; returns how many rows went."""
    with db.atomic():
        return sum(db.run(statement) for statement in LOOSE)
