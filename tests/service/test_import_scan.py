"""Importing a scan: role and unit guessed, facts in plain words, nothing half done."""

from __future__ import annotations

from dataclasses import replace

import pytest
from backends import surgery_here
from solids import sphere

from vane_line.core.mesh.write import stl_bytes
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import InputError, NotFound, ScanTooLarge
from vane_line.service import import_scan as importing
from vane_line.service.overview import start_case
from vane_line.service.surgery import Surgery
from vane_line.store import blobs, scans
from vane_line.store.database import Database

BALL = stl_bytes(sphere(8.0, grid=0.4))


@pytest.fixture
def case() -> tuple[Surgery, str, str]:
    db = Database(":memory:")
    view = start_case(db, "SM-1", ToothNumber("36"), "full-crown", "zirconia", None)
    return surgery_here(db), view.case.id, view.sites[0].readings[0].reading.attempt_id


def rows(db: Database, table: str) -> int:
    return len(db.rows(f"SELECT * FROM {table}"))


@pytest.mark.parametrize(
    ("name", "role", "sure"),
    [
        ("SM-0147_prep_1.stl", "prep", True),
        ("36 preop lower.ply", "preop", True),
        ("before.obj", "preop", True),
        ("Antagonist.stl", "opposing", True),
        ("waxup.stl", "mockup", True),
        ("scan (3).stl", "prep", False),
    ],
)
def test_the_role_is_told_from_the_name(name: str, role: str, sure: bool) -> None:
    """A word decides; without one, the first role still free, unsure."""
    assert importing.guess_role(name, set()) == (role, sure)


def test_an_unnamed_second_scan_takes_the_next_free_role() -> None:
    """After the preparation comes the scan before cutting."""
    assert importing.guess_role("scan2.stl", {"prep"}) == ("preop", False)


def test_a_scan_is_kept_with_its_facts(case: tuple[Surgery, str, str]) -> None:
    """Size, triangles and format are there; its bytes come back as they were."""
    surgery, case_id, attempt_id = case
    scan = importing.import_scan(surgery, case_id, attempt_id, "prep.stl", BALL, "auto", "auto")
    assert scan.role == "prep"
    assert scan.unit == "mm"
    assert scan.facts["format"] == "STL (binary)"
    assert scan.facts["size_mm"] == pytest.approx([16, 16, 16], abs=0.1)
    assert blobs.get(surgery.db, scan.raw_hash) == BALL


def test_a_scan_of_the_same_role_replaces_the_earlier_one(case: tuple[Surgery, str, str]) -> None:
    """One preparation an attempt."""
    surgery, case_id, attempt_id = case
    other = stl_bytes(sphere(7.0, grid=0.4))
    importing.import_scan(surgery, case_id, attempt_id, "prep.stl", BALL, "auto", "auto")
    importing.import_scan(surgery, case_id, attempt_id, "prep2.stl", other, "prep", "auto")
    assert [s.name for s in scans.scans_of(surgery.db, case_id, attempt_id)] == ["prep2.stl"]


def test_a_failed_import_leaves_nothing(case: tuple[Surgery, str, str], monkeypatch: pytest.MonkeyPatch) -> None:
    """A bad file, a large file, and a failure in the very last step: no blob, no chunk, no scan."""
    surgery, case_id, attempt_id = case
    with pytest.raises(InputError):
        importing.import_scan(surgery, case_id, attempt_id, "prep.stl", BALL[:900], "auto", "auto")
    with pytest.raises(ScanTooLarge):
        importing.import_scan(replace(surgery, limits=(1000, 1000)), case_id, attempt_id, "prep.stl", BALL)
    with pytest.raises(InputError, match="role"):
        importing.import_scan(surgery, case_id, attempt_id, "prep.stl", BALL, "upper", "auto")

    def fails(*_: object, **__: object) -> None:
        raise RuntimeError("power cut")

    monkeypatch.setattr(importing.scans, "add_scan", fails)
    with pytest.raises(RuntimeError):
        importing.import_scan(surgery, case_id, attempt_id, "prep.stl", BALL, "auto", "auto")
    assert (rows(surgery.db, "blobs"), rows(surgery.db, "chunks"), rows(surgery.db, "scans")) == (0, 0, 0)


def test_changing_the_unit_reads_the_file_again(case: tuple[Surgery, str, str]) -> None:
    """Said to be in centimetres, the scan is ten times as large; a unit that makes no sense leaves it as it was."""
    surgery, case_id, attempt_id = case
    small = stl_bytes(sphere(1.6, grid=0.1))
    scan = importing.import_scan(surgery, case_id, attempt_id, "prep.stl", small, "prep", "mm")
    changed = importing.change_scan(surgery, scan.id, attempt_id, "prep", "cm")
    assert changed.facts["size_mm"][0] == pytest.approx(32, abs=0.5)
    assert changed.unit_sure
    with pytest.raises(NotFound):
        importing.change_scan(surgery, scan.id, attempt_id, "prep", "mm")


def test_a_case_or_attempt_that_is_not_there(case: tuple[Surgery, str, str]) -> None:
    """Nothing is kept for a case that does not exist."""
    surgery, case_id, _ = case
    with pytest.raises(NotFound):
        importing.import_scan(surgery, case_id, "none", "prep.stl", BALL, "auto", "auto")
    assert rows(surgery.db, "blobs") == 0
