"""The veneers of a case seen together, from what each was measured to."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from windows import Window

from vane_line.core.mesh.write import stl_bytes
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import NotFound
from vane_line.service.import_scan import import_scan
from vane_line.service.measuring import measure_reading
from vane_line.service.overview import add_tooth, start_case
from vane_line.service.surgery import Surgery
from vane_line.service.veneers import veneers_of
from vane_line.store import cases, edits, jobs
from vane_line.store.database import Database

WINDOW = Window(grid_mm=0.25, noise_um=6.0, depth_mm=0.6, neck_mm=1.0, planes_deg=9.0)
AXES = {"occlusal": [0, 0, 1], "facial": [0, 1, 0]}


@pytest.fixture(scope="module")
def surgery(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Surgery]:
    path = tmp_path_factory.mktemp("veneers") / "v.sqlite"
    db = Database(path)
    made = Surgery.open(db, path)
    yield made
    made.close()
    db.close()


def measured(surgery: Surgery, reading: str) -> None:
    edits.append(surgery.db, reading, "axes", AXES, edits.latest(surgery.db, reading, "axes")[0])
    job = jobs.add_job(surgery.db, reading)
    jobs.take_job(surgery.db)
    measure_reading(surgery, reading, job_id=job.id)


@pytest.mark.long
def test_a_row_is_told_once_two_of_its_veneers_are_measured(surgery: Surgery) -> None:
    """Alone there is none; one that is not measured yet is named; of the same surface nothing is proven unlike."""
    db = surgery.db
    case = start_case(db, "SM-11", ToothNumber("11"), "veneer", "lithium-disilicate", None).case.id
    for number in ("21", "22"):
        add_tooth(db, case, ToothNumber(number), "veneer", "lithium-disilicate")
    readings = {s.tooth: cases.readings_of(db, s.id)[0] for s in cases.sites_of(db, case)}
    for role, surface in (("prep", WINDOW.prep()), ("preop", WINDOW.preop())):
        import_scan(surgery, case, readings["11"].attempt_id, f"{role}.stl", stl_bytes(surface), role, "mm")
    measured(surgery, readings["11"].id)
    with pytest.raises(NotFound, match="two veneers"):
        veneers_of(db, readings["11"].id)
    measured(surgery, readings["21"].id)
    row = veneers_of(db, readings["21"].id)
    assert [t.tooth for t in row.teeth] == ["11", "21"]
    assert row.missing == ["22"]
    assert row.to == "preop"
    assert row.unlike
    assert not any(u.proven for u in row.unlike)
    assert veneers_of(db, readings["11"].id) == row
