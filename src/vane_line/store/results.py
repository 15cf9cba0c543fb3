"""Two caches: what was measured (geometry), and what a standard says of it (judgement). Rows are never rewritten."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from vane_line.store.database import Database, now


@dataclass(frozen=True)
class StoredJudgement:
    """A contract document, the hashes of its per-vertex fields by name, and of the meshes they belong to."""

    key: str
    geometry_key: str
    standard_hash: str
    document: dict[str, Any]
    fields: dict[str, str]
    created_at: str
    meshes: dict[str, str]
    summary: dict[str, str]  # the answer in one line; empty where an older version judged


def add_geometry(db: Database, key: str, algorithm_version: int, blob_hash: str) -> None:
    """Keep a measurement; the first one stands."""
    db.run("INSERT OR IGNORE INTO geometries VALUES (?, ?, ?, ?)", key, algorithm_version, blob_hash, now())


def mend_geometry(db: Database, key: str, blob_hash: str) -> None:
    """Put a measurement in the place of one that cannot be read any more."""
    db.run("UPDATE geometries SET blob_hash = ? WHERE key = ?", blob_hash, key)


def geometry_blob(db: Database, key: str) -> str | None:
    """Hash of the stored measurement, or None."""
    row = db.row("SELECT blob_hash FROM geometries WHERE key = ?", key)
    return None if row is None else str(row["blob_hash"])


def add_judgement(
    db: Database, key: str, geometry_key: str, standard_hash: str, document: dict[str, Any], fields: dict[str, str],
    meshes: dict[str, str], summary: dict[str, str] | None = None,
) -> None:  # fmt: skip
    """Keep a judgement; the first one stands."""
    db.run(
        "INSERT OR IGNORE INTO judgements "
        "(key, geometry_key, standard_hash, document, fields, meshes, summary, created_at) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        key, geometry_key, standard_hash, json.dumps(document), json.dumps(fields), json.dumps(meshes),
        json.dumps(summary or {}), now(),
    )  # fmt: skip


def get_judgement(db: Database, key: str) -> StoredJudgement | None:
    """A judgement, or None."""
    row = db.row("SELECT * FROM judgements WHERE key = ?", key)
    if row is None:
        return None
    values = dict(row)
    read = {k: json.loads(values[k]) for k in ("document", "fields", "meshes")}
    return StoredJudgement(**{**values, **read, "summary": _summary(values["summary"])})


def verdicts_of(db: Database, key: str) -> list[dict[str, Any]] | None:
    """The verdicts of a judgement alone: a class is marked by them, without reading a whole document for each."""
    row = db.row("SELECT json_extract(document, '$.verdicts') AS verdicts FROM judgements WHERE key = ?", key)
    return None if row is None else list(json.loads(row["verdicts"]))


def summary_of(db: Database, key: str) -> tuple[dict[str, str], str | None]:
    """The answer in one line, and the small picture's hash: all that a list of cases reads of a judgement."""
    row = db.row("SELECT summary, json_extract(fields, '$.\"picture\"') AS picture FROM judgements WHERE key = ?", key)
    return ({}, None) if row is None else (_summary(row["summary"]), row["picture"])


def _summary(text: str) -> dict[str, str]:
    return dict(json.loads(text)) if text else {}
