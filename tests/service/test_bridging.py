"""The teeth of a case as one bridge, through the service: made once, kept, stale when something changes."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pytest
from spans import BACK, FRONT, Span

from vane_line.core.bridge.whole import missing_between
from vane_line.core.contract.bridge import BridgeDocument
from vane_line.core.contract.bridge_plan import BridgePlanDocument
from vane_line.core.mesh.read import read_soup
from vane_line.core.mesh.weld import weld
from vane_line.core.mesh.write import stl_bytes
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import Conflict, InputError, NotFound
from vane_line.service import bridging
from vane_line.service.import_scan import import_scan
from vane_line.service.overview import add_tooth, start_case
from vane_line.service.planning import DEFAULTS
from vane_line.service.surgery import Surgery
from vane_line.store import cases, edits, jobs
from vane_line.store.database import Database

SPAN = Span(tip_deg=8.0)
AXES = {"occlusal": [0, 0, 1], "facial": [0, 1, 0]}


@pytest.fixture(scope="module")
def bench(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Surgery, str, str]]:
    """A surgery with the scans of a span, the front abutment's reading and the case."""
    path = tmp_path_factory.mktemp("span") / "v.sqlite"
    db = Database(path)
    surgery = Surgery.open(db, path)
    view = start_case(db, "SM-35", FRONT, "full-crown", "zirconia", None)
    reading = view.sites[0].readings[0].reading
    for role, surface in (("prep", SPAN.scan(True)), ("preop", SPAN.scan(False))):
        import_scan(surgery, view.case.id, reading.attempt_id, f"{role}.stl", stl_bytes(surface), role, "mm")
    yield surgery, reading.id, view.case.id
    surgery.close()
    db.close()


def test_one_tooth_is_no_bridge_nor_are_two_beside_each_other(bench: tuple[Surgery, str, str]) -> None:
    surgery, reading, case = bench
    with pytest.raises(InputError, match="two teeth"):
        bridging.bridge_request(surgery.db, reading)
    add_tooth(surgery.db, case, BACK, "full-crown", "zirconia")
    assert bridging.bridge_request(surgery.db, reading)["pontics"] == ["36"]
    with pytest.raises(NotFound, match="together"):
        bridging.bridge_of(surgery.db, reading)


def test_a_bridge_is_offered_where_a_tooth_is_missing(bench: tuple[Surgery, str, str]) -> None:
    """Not for one tooth, nor for two beside each other."""
    db = bench[0].db
    one = start_case(db, "SM-11", ToothNumber("11"), "veneer", "lithium-disilicate", None)
    assert one.missing == []
    assert add_tooth(db, one.case.id, ToothNumber("21"), "veneer", "lithium-disilicate").missing == []
    assert add_tooth(db, one.case.id, ToothNumber("23"), "full-crown", "zirconia").missing == ["22"]


def test_the_teeth_are_held_together_once(bench: tuple[Surgery, str, str]) -> None:
    """From either tooth's reading the same; kept by what it was made from; another axis makes it stale."""
    surgery, reading, case = bench
    front, back = cases.sites_of(surgery.db, case)
    for site, x in ((front, SPAN.half_mm), (back, -SPAN.half_mm)):
        own = cases.readings_of(surgery.db, site.id)[0]
        edits.append(surgery.db, own.id, "axes", AXES | {"near": [x, 0.0, 5.0]}, 0)
    job = jobs.add_job(surgery.db, reading, "bridge")
    jobs.take_job(surgery.db)
    key = bridging.bridge_reading(surgery, reading, job_id=job.id)
    stored, stale = bridging.bridge_of(surgery.db, reading)
    assert not stale
    found = BridgeDocument.model_validate(stored.document)
    assert [a.tooth for a in found.abutments] == ["35", "37"]
    assert found.path.least_draft_deg == pytest.approx(6.0 - 8.0 / 2, abs=0.5)  # half the angle between the axes
    assert [p.tooth for p in found.pontics] == ["36"]
    other = cases.readings_of(surgery.db, back.id)[0]
    said: list[str] = []
    assert bridging.bridge_reading(surgery, other.id, lambda text, _share: said.append(text)) == key
    assert said == []  # nothing was measured again
    edits.append(surgery.db, other.id, "axes", AXES | {"near": [-SPAN.half_mm, 0.4, 5.0]}, 1)
    assert bridging.bridge_of(surgery.db, reading)[1]


@pytest.mark.long
def test_the_teeth_are_planned_together_before_cutting(bench: tuple[Surgery, str, str]) -> None:
    """Each has to be pressed on in its own plan first; made once, kept with the target of both, stale when a choice
    changes."""
    surgery, reading, case = bench
    with pytest.raises(InputError, match="35"):
        bridging.bridge_plan_request(surgery.db, reading)
    for site, x in zip(cases.sites_of(surgery.db, case), (SPAN.half_mm, -SPAN.half_mm), strict=True):
        own = cases.readings_of(surgery.db, site.id)[0]
        edits.append(surgery.db, own.id, "plan", DEFAULTS | {"near": [x, 0.0, 5.0], "facial": [0, 1, 0]}, 0)
    job = jobs.add_job(surgery.db, reading, "bridge-plan")
    jobs.take_job(surgery.db)
    bridging.bridge_plan_reading(surgery, reading, job_id=job.id)
    stored, stale = bridging.bridge_plan_of(surgery.db, reading)
    assert not stale
    found = BridgePlanDocument.model_validate(stored.document)
    assert [a.tooth for a in found.abutments] == ["35", "37"]
    assert found.pontics == ["36"]
    target = weld(read_soup(bridging.bridge_target_stl(surgery.db, reading), "t.stl"), "mm", "t.stl").surface
    assert np.ptp(target.vertices[:, 0]) > 2 * SPAN.half_mm
    edits.append(surgery.db, reading, "plan", DEFAULTS | {"near": [SPAN.half_mm, 0.0, 5.0], "taper_deg": 7.0}, 1)
    assert bridging.bridge_plan_of(surgery.db, reading)[1]


def test_one_path_is_chosen_for_all_abutments(bench: tuple[Surgery, str, str]) -> None:
    """Every abutment's plan follows it and keeps its own choices; on an old revision nothing is changed; none goes back
    to the least."""
    surgery, reading, case = bench
    own = [cases.readings_of(surgery.db, site.id)[0].id for site in cases.sites_of(surgery.db, case)]
    for k, one in enumerate(own):
        seen, _ = edits.latest(surgery.db, one, "plan")
        edits.append(surgery.db, one, "plan", DEFAULTS | {"near": [1.0 + k, 0.0, 5.0]}, seen)
    seen, _ = edits.latest(surgery.db, reading, "plan")
    path = [0.1, 0.0, 0.99]
    before = bridging.bridge_plan_key(bridging.bridge_plan_request(surgery.db, reading))
    revision = bridging.choose_path(surgery.db, reading, path, seen, "")
    assert revision == seen + 1
    asked = bridging.bridge_plan_request(surgery.db, reading)
    assert [one["options"]["path"] for one in asked["abutments"]] == [path, path]
    assert [one["options"]["near"][0] for one in asked["abutments"]] == [1.0, 2.0]
    assert bridging.bridge_plan_key(asked) != before
    with pytest.raises(Conflict):
        bridging.choose_path(surgery.db, reading, None, seen, "")
    assert bridging.bridge_plan_request(surgery.db, reading) == asked
    bridging.choose_path(surgery.db, reading, None, revision, "")
    assert bridging.bridge_plan_key(bridging.bridge_plan_request(surgery.db, reading)) == before


@pytest.mark.parametrize(
    ("teeth", "missing"),
    [("35 37", "36"), ("37 34", "36 35"), ("11 22", "21"), ("13 23", "12 11 21 22"), ("44 45", ""), ("42 32", "41 31")],
)
def test_the_teeth_between_are_the_pontics(teeth: str, missing: str) -> None:
    """In the order of the arch, over its middle too."""
    found = missing_between([ToothNumber(t) for t in teeth.split()])
    assert sorted(t.fdi for t in found) == sorted(missing.split())
