"""Bring a scan file into a case: read, judge its quality, make the display meshes, store all or nothing."""

from __future__ import annotations

from collections.abc import Set
from dataclasses import dataclass
from typing import Any

from vane_line.core.loading import ROLES
from vane_line.core.mesh.units import MM_PER_UNIT
from vane_line.errors import BadOption, NotFound
from vane_line.service.surgery import Surgery
from vane_line.store import blobs, cases, scans
from vane_line.store.database import Database
from vane_line.store.sweep import sweep
from vane_line.work.task import Task

# Words in a file's name that tell its role; the first that fits counts, so 'preop' stands before 'prep'.
ROLE_WORDS = (
    ("opposing_before", ("opposing_before", "opposing-before", "antagonist_before", "bite_before")),
    ("preop", ("preop", "pre-op", "pre_op", "before", "initial", "original")),
    ("mockup", ("mock", "wax")),
    ("opposing", ("oppos", "antag", "counter")),
    ("prep", ("prep", "after", "stump", "cut")),
)
COMMONEST_ORDER = ("prep", "preop", "opposing", "mockup")


def guess_role(name: str, taken: Set[str]) -> tuple[str, bool]:
    """Role told from a file name, and whether a word in it said so; else the first role still free."""
    lower = name.lower()
    for role, words in ROLE_WORDS:
        if any(word in lower for word in words):
            return role, True
    for role in COMMONEST_ORDER:
        if role not in taken:
            return role, False
    return "prep", False


@dataclass(frozen=True)
class ReadScan:
    """A file as it was read, fit to be kept."""

    name: str
    data: bytes
    role: str
    role_sure: bool
    answer: dict[str, Any]


def read(surgery: Surgery, name: str, data: bytes, role: str, unit: str, taken: Set[str] = frozenset()) -> ReadScan:
    """Read a scan in a process of its own. `role` and `unit` may be 'auto'; `taken`: roles that the case has already.

    Raises UnreadableScan, ScanTooLarge, BadOption, InternalError where it takes too long. Nothing is written.
    """
    if role != "auto" and role not in ROLES:
        raise BadOption(f"role {role}: use one of {', '.join(ROLES)}.")
    if unit != "auto" and unit not in MM_PER_UNIT:
        raise BadOption(f"unit {unit}: use mm, cm, m, in or auto.")
    guessed, sure = guess_role(name, taken)
    chosen = guessed if role == "auto" else role
    payload = {"name": name, "data": data, "role": chosen, "unit": unit, "limits": surgery.limits}
    return ReadScan(name, data, chosen, sure, surgery.reader.run(Task("read", payload)))


def keep(db: Database, case_id: str, attempt_id: str, found: ReadScan) -> scans.Scan:
    """Store a scan that was read, all or nothing."""
    answer = found.answer
    with db.atomic():
        hashes = (blobs.put(db, found.data), blobs.put(db, answer["rest"]), blobs.put(db, answer["light"]))
        owner = attempt_id if found.role == "prep" else None
        facts = answer["facts"] | {"role_sure": found.role_sure}
        return scans.add_scan(
            db=db,
            case_id=case_id,
            attempt_id=owner,
            role=found.role,
            name=found.name,
            unit=answer["unit"],
            unit_sure=answer["unit_sure"],
            hashes=hashes,
            facts=facts,
        )


def import_scan(
    surgery: Surgery, case_id: str, attempt_id: str, name: str, data: bytes, role: str = "auto", unit: str = "auto"
) -> scans.Scan:
    """Read and store a scan. Raises UnreadableScan, ScanTooLarge, BadOption, NotFound; the case is then as it was."""
    belongs(surgery.db, case_id, attempt_id)
    taken = {s.role for s in scans.scans_of(surgery.db, case_id, attempt_id)}
    found = read(surgery, name, data, role, unit, taken)
    with surgery.db.atomic():
        belongs(surgery.db, case_id, attempt_id)  # it may have been deleted while the file was read
        return keep(surgery.db, case_id, attempt_id, found)


def belongs(db: Database, case_id: str, attempt_id: str) -> None:
    """Raises NotFound where case or attempt are not there, or not each other's."""
    cases.get_case(db, case_id)
    if cases.get_attempt(db, attempt_id).case_id != case_id:
        raise NotFound("This attempt belongs to another case.")


def change_scan(surgery: Surgery, scan_id: str, attempt_id: str, role: str, unit: str) -> scans.Scan:
    """Import a stored scan again under another role or unit."""
    db = surgery.db
    scan = scans.get_scan(db, scan_id)
    belongs(db, scan.case_id, attempt_id)
    if unit == scan.unit and role == scan.role:
        scans.confirm_unit(db, scan_id)
        return scans.get_scan(db, scan_id)
    found = read(surgery, scan.name, blobs.get(db, scan.raw_hash), role, unit)
    with db.atomic():
        scans.delete_scan(db, scan_id)
        made = keep(db, scan.case_id, attempt_id, found)
        sweep(db)
        return made


def take_out(db: Database, scan_id: str) -> None:
    """Take a scan out of its case. Raises NotFound."""
    with db.atomic():
        scans.delete_scan(db, scan_id)
        sweep(db)
