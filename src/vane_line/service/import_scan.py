"""Bring a scan file into a case: read, judge its quality, make the display meshes, store all or nothing."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from vane_line.core.mesh.light import MOVING_TRIANGLES, REST_TRIANGLES, lightened, mesh_blob
from vane_line.core.mesh.quality import assess
from vane_line.core.mesh.read import read_soup
from vane_line.core.mesh.units import MM_PER_UNIT, extent_and_edge, guess_unit
from vane_line.core.mesh.weld import weld
from vane_line.core.scans import ROLES, remarks
from vane_line.errors import BadOption
from vane_line.store import blobs, cases, scans
from vane_line.store.database import Database

# Words in a file's name that tell its role; the first that fits counts, so 'preop' stands before 'prep'.
ROLE_WORDS = (
    ("preop", ("preop", "pre-op", "pre_op", "before", "initial", "original")),
    ("mockup", ("mock", "wax")),
    ("opposing", ("oppos", "antag", "counter")),
    ("prep", ("prep", "after", "stump", "cut")),
)
COMMONEST_ORDER = ("prep", "preop", "opposing", "mockup")


def guess_role(name: str, taken: set[str]) -> tuple[str, bool]:
    """Role told from a file name, and whether a word in it said so; else the first role still free."""
    lower = name.lower()
    for role, words in ROLE_WORDS:
        if any(word in lower for word in words):
            return role, True
    for role in COMMONEST_ORDER:
        if role not in taken:
            return role, False
    return "prep", False


def import_scan(
    db: Database, case_id: str, attempt_id: str, name: str, data: bytes, role: str, unit: str, limits: tuple[int, int]
) -> scans.Scan:
    """Read and store a scan. `role` and `unit` may be 'auto'; `limits` are bytes and triangles.

    Raises UnreadableScan, ScanTooLarge, BadOption, NotFound; the case is then as it was.
    """
    cases.get_case(db, case_id)
    cases.get_attempt(db, attempt_id)
    if role != "auto" and role not in ROLES:
        raise BadOption(f"role {role}: use one of {', '.join(ROLES)}.")
    if unit != "auto" and unit not in MM_PER_UNIT:
        raise BadOption(f"unit {unit}: use mm, cm, m, in or auto.")
    soup = read_soup(data, name, *limits)
    guess = guess_unit([extent_and_edge(soup.corners, soup.faces)])
    chosen = guess.unit if unit == "auto" else unit
    welded = weld(soup, chosen, name)
    taken = {s.role for s in scans.scans_of(db, case_id, attempt_id)}
    guessed, role_sure = guess_role(name, taken)
    role = guessed if role == "auto" else role
    facts: dict[str, Any] = asdict(assess(welded.surface))
    facts["format"] = soup.format
    facts["said"] = [text.split(": ", 1)[1] for text in remarks(role, welded)]
    facts["role_sure"] = role_sure
    facts["colour"] = soup.colours is not None
    rest = lightened(welded.surface, REST_TRIANGLES)
    light = lightened(rest, MOVING_TRIANGLES)
    with db.atomic():
        hashes = (blobs.put(db, data), blobs.put(db, mesh_blob(rest)), blobs.put(db, mesh_blob(light)))
        owner = attempt_id if role == "prep" else None
        return scans.add_scan(db, case_id, owner, role, name, chosen, unit != "auto" or guess.sure, hashes, facts)


def change_scan(
    db: Database, scan_id: str, attempt_id: str, role: str, unit: str, limits: tuple[int, int]
) -> scans.Scan:
    """Import a stored scan again under another role or unit."""
    scan = scans.get_scan(db, scan_id)
    if unit == scan.unit and role == scan.role:
        scans.confirm_unit(db, scan_id)
        return scans.get_scan(db, scan_id)
    data = blobs.get(db, scan.raw_hash)
    with db.atomic():
        scans.delete_scan(db, scan_id)
        return import_scan(db, scan.case_id, attempt_id, scan.name, data, role, unit, limits)
