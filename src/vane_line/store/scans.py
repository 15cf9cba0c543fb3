"""Scans of a case: where their bytes are, and what is known of them."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from vane_line.errors import NotFound
from vane_line.store.database import Database, new_id, now

SHARED_ROLES = (
    "preop",
    "mockup",
    "opposing",
    "opposing_before",
)  # belong to the case; a preparation belongs to its attempt


@dataclass(frozen=True)
class Scan:
    """A scan file. `facts` are the plain facts shown to the person."""

    id: str
    case_id: str
    attempt_id: str | None
    role: str
    name: str
    unit: str
    unit_sure: bool
    raw_hash: str
    rest_hash: str
    light_hash: str
    facts: dict[str, Any]
    created_at: str


def add_scan(
    db: Database, case_id: str, attempt_id: str | None, role: str, name: str, unit: str, unit_sure: bool,
    hashes: tuple[str, str, str], facts: dict[str, Any],
) -> Scan:  # fmt: skip
    """Record a scan; one of the same role, of the case or of the attempt, is replaced."""
    scan = Scan(new_id(), case_id, attempt_id, role, name, unit, unit_sure, *hashes, facts, now())
    with db.atomic():
        db.run("DELETE FROM scans WHERE case_id = ? AND role = ? AND attempt_id IS ?", case_id, role, attempt_id)
        db.run(
            "INSERT INTO scans VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            scan.id, scan.case_id, scan.attempt_id, scan.role, scan.name, scan.unit, int(scan.unit_sure),
            *hashes, json.dumps(facts), scan.created_at,
        )  # fmt: skip
    return scan


def _scan(row: object) -> Scan:
    values = dict(row)  # type: ignore[call-overload]
    return Scan(**{**values, "facts": json.loads(values["facts"]), "unit_sure": bool(values["unit_sure"])})


def scans_of(db: Database, case_id: str, attempt_id: str | None) -> list[Scan]:
    """The case's shared scans and those of one attempt."""
    rows = db.rows(
        "SELECT * FROM scans WHERE case_id = ? AND (attempt_id IS NULL OR attempt_id = ?) ORDER BY created_at",
        case_id, attempt_id,
    )  # fmt: skip
    return [_scan(r) for r in rows]


def get_scan(db: Database, scan_id: str) -> Scan:
    """Raises NotFound."""
    row = db.row("SELECT * FROM scans WHERE id = ?", scan_id)
    if row is None:
        raise NotFound("There is no such scan.")
    return _scan(row)


def delete_scan(db: Database, scan_id: str) -> None:
    """Raises NotFound."""
    if db.run("DELETE FROM scans WHERE id = ?", scan_id) == 0:
        raise NotFound("There is no such scan.")


def confirm_unit(db: Database, scan_id: str) -> None:
    """The person has confirmed the unit."""
    db.run("UPDATE scans SET unit_sure = 1 WHERE id = ?", scan_id)


def add_transform(
    db: Database, scan_id: str, matrix: list[list[float]], u_align_um: float | None, made_by: str
) -> None:
    """The next version of a scan's transform to the preparation scan."""
    with db.atomic():
        row = db.row("SELECT COALESCE(MAX(version), 0) AS last FROM transforms WHERE scan_id = ?", scan_id)
        assert row is not None
        db.run(
            "INSERT INTO transforms VALUES (?, ?, ?, ?, ?, ?, ?)",
            new_id(), scan_id, int(row["last"]) + 1, json.dumps(matrix), u_align_um, made_by, now(),
        )  # fmt: skip
