"""The document is the contract: keys, null where nothing was measured, a reason for every null."""

from __future__ import annotations

import json

import numpy as np
import pytest
from solids import Stump, facing, turned

from vane_line.core.case import Geometry, measure
from vane_line.core.files import Measurement
from vane_line.core.judge.document import document
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.tooth.notation import ToothNumber

KEYS = {
    "schema", "tooth", "restoration", "material", "standard", "frame", "alignment", "path", "finish_line", "reduction",
    "tooth_removed", "convergence", "undercut", "clearance", "edges", "resistance", "neighbours", "uncertainty",
    "verdicts", "corrections", "warnings", "timing_s",
}  # fmt: skip
CRITERIA_OF_CONTRACT = (
    "reduction tooth-removed remaining-width clearance convergence wall-height resistance ferrule undercut draft "
    "path-blocked finish-line-width finish-line-form finish-line-step finish-line-lip finish-line-gap "
    "finish-line-roughness margin-height neighbour-gap neighbour-nick edge-radius milled-fit cusp-shift planes "
    "set-back alignment bite functional-cusp-bevel"
)
CRITERIA = set(CRITERIA_OF_CONTRACT.split())
VERDICT_KEYS = {
    "criterion", "zone", "bound", "value", "unit", "U", "limit", "target", "status", "missing", "to_target", "why",
}  # fmt: skip


def test_all_keys_of_the_contract_are_there(demo_measured: Measurement) -> None:
    """Top level and below, as docs/contract.md lists them."""
    d = demo_measured.document
    assert set(d) >= KEYS
    assert d["schema"] == "vane-line/measurement/1"
    assert set(d["alignment"]) == {"preop", "opposing", "mockup"}
    assert set(d["alignment"]["preop"]) >= {"matrix", "rms_mm", "p95_mm", "stable_area_mm2", "u_align_um", "trusted"}
    assert set(d["path"]) >= {"direction", "least_draft_deg", "source", "blocked_by"}
    assert set(d["finish_line"]) >= {"closed", "length_mm", "points", "samples", "width_mm", "roughness_um", "steps"}
    zone = d["reduction"]["zones"][0]
    assert set(zone) >= {
        "zone", "low_mm", "median_mm", "high_mm", "area_mm2", "area_short_mm2", "area_unseen_mm2", "worst"
    }  # fmt: skip
    assert set(d["timing_s"]) >= {"load", "align", "measure", "total"}
    for v in d["verdicts"]:
        assert set(v) >= VERDICT_KEYS
        assert v["criterion"] in CRITERIA
        assert v["status"] in {"meets", "within-uncertainty", "short", "over", "not-measured"}


def test_every_criterion_has_a_verdict_or_a_reason(demo_measured: Measurement) -> None:
    """Nothing is silently left out: what is null has a not-measured verdict that says why."""
    d = demo_measured.document
    assert {v["criterion"] for v in d["verdicts"]} == CRITERIA
    assert all(v["why"] for v in d["verdicts"] if v["status"] == "not-measured")


def test_json_has_no_nan_and_survives_a_round_trip(demo_measured: Measurement) -> None:
    """Strict JSON, and reading it back gives the same."""
    text = json.dumps(demo_measured.document, allow_nan=False)
    assert json.loads(text) == demo_measured.document


@pytest.mark.long
def test_without_an_earlier_scan_reduction_is_null_with_a_reason() -> None:
    """A preparation alone: path and finish line stand, reduction and clearance are null, and why is said."""
    from solids import Stump, facing

    from vane_line.core.case import measure
    from vane_line.core.tooth.notation import ToothNumber

    geometry = measure(Stump(grid_mm=0.2).scans(reference=False), facing(ToothNumber("36")))
    d = document(geometry, judge(geometry, choose("zirconia", "full-crown")))
    assert d["reduction"] is None
    assert d["clearance"] is None
    assert d["alignment"] == {"preop": None, "opposing": None, "mockup": None}
    assert d["finish_line"]["closed"]
    why = {v["criterion"]: v["why"] for v in d["verdicts"] if v["status"] == "not-measured"}
    assert "preop" in why["reduction"]
    assert "opposing" in why["clearance"]


def test_another_standard_judges_the_same_numbers(stump_geometry: Geometry) -> None:
    """Judging again changes verdicts, never what was measured."""
    thin, metal = (
        document(stump_geometry, judge(stump_geometry, choose(m, "full-crown")))
        for m in ("zirconia-thin", "metal-ceramic")
    )
    low = lambda d: {z["zone"]: z["low_mm"] for z in d["reduction"]["zones"] if "cusp/" in z["zone"]}  # noqa: E731
    short = lambda d: [v["zone"] for v in d["verdicts"] if v["status"] == "short" and v["criterion"] == "reduction"]  # noqa: E731
    assert low(thin) == pytest.approx(low(metal), abs=0.02)
    assert short(thin) == []
    assert "functional-cusp/mesiofacial" in short(metal)


def test_the_demo_s_first_finding(demo_measured: Measurement) -> None:
    """Distolingual cusp: 0.4 mm short of minimum, with its correction first in the list. The facial groove is under
    its minimum too, proven or not on so coarse a scan."""
    first = demo_measured.document["verdicts"][0]
    assert first["where"] == "distolingual cusp"
    assert first["status"] == "short"
    assert first["missing"] == pytest.approx(0.4, abs=0.06)
    correction = demo_measured.document["corrections"][0]
    assert correction["where"] == "distolingual cusp"
    assert "remove 0.4 mm" in correction["do"]
    verdicts = {(v["criterion"], v["zone"], v["bound"]): v for v in demo_measured.document["verdicts"]}
    groove = verdicts["reduction", "facial-groove", "min"]
    assert groove["value"] < groove["limit"] - 0.1
    assert groove["status"] in ("short", "within-uncertainty")


def test_matrices_and_directions_keep_their_precision(stump: Stump) -> None:
    """Rounded to four digits a matrix is not rigid any more: rounding is for eyes."""
    matrix = turned((1, 2, 3), 33.0, (1, 2, 3))
    geometry = measure(stump.scans(matrix=matrix), facing(ToothNumber("36")))
    d = json.loads(json.dumps(document(geometry, judge(geometry, choose("zirconia", "full-crown")))))
    found = np.array(d["alignment"]["preop"]["matrix"])
    np.testing.assert_allclose(found[:3, :3] @ found[:3, :3].T, np.eye(3), atol=1e-9)
    for direction in (d["path"]["direction"], *(d["frame"][k] for k in ("occlusal", "facial", "mesial"))):
        assert np.linalg.norm(direction) == pytest.approx(1, abs=1e-12)


def test_the_material_asked_for_stands_in_the_document(stump_geometry: Geometry) -> None:
    """A front tooth's standard serves several materials; what was asked is what is written."""
    standard = choose("lithium-disilicate", "full-crown", "front-all-ceramic-textbook", ToothNumber("32"))
    assert standard.material != "lithium-disilicate"
    judged = judge(stump_geometry, choose("zirconia", "full-crown"))
    assert document(stump_geometry, judged, 0.0, "zirconia-thin")["material"] == "zirconia-thin"
    assert document(stump_geometry, judged)["material"] == "zirconia"
