"""Cavities held against their standards, and what the hand is asked for; every guard with a twin where it is silent."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from cavities import Cavity
from long import first
from proven import of, proven
from solids import facing

from vane_line.core.case import Geometry, measure
from vane_line.core.cavity.cusps import CuspForm
from vane_line.core.fields import inside_fields
from vane_line.core.judge import criteria
from vane_line.core.judge.criteria.cavity import _cusp_bounds
from vane_line.core.judge.document import document
from vane_line.core.judge.findings import report
from vane_line.core.judge.judgement import Judgement, hold, judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.judge.work import Correction
from vane_line.core.kinds.cavity import CavityCut
from vane_line.core.tooth.notation import ToothNumber

TOOTH = ToothNumber("37")
GOOD = Cavity(
    noise_um=8.0, grid_mm=0.21, floor_mm=3.6, facial_wall_mm=1.2, lingual_wall_mm=1.2, box_depth_mm=1.4, gap_mm=0.75,
    inner_mm=0.5,
)  # fmt: skip
# Faults that do not touch each other stand on one cavity.
SHALLOW = replace(GOOD, floor_mm=4.2, divergence_deg={"facial": 0.5})
DEEP = replace(GOOD, floor_mm=2.7, box_below_mm=0.8, divergence_deg={"lingual": 14.0})
NARROW = replace(GOOD, facial_wall_mm=0.6, lingual_wall_mm=0.6, inner_mm=0.05)
THIN_BOX = replace(GOOD, box_depth_mm=0.75, inner_mm=0.25)
NEAR = replace(GOOD, gap_mm=0.3)
WIDE = replace(GOOD, facial_wall_mm=2.0, lingual_wall_mm=2.0, divergence_deg={"lingual": -3.0})
THIN_CUSP = replace(GOOD, facial_mm=3.9, lingual_wall_mm=2.3)
ALONG = np.array([0.0, 0, 1])


@cache
def measured(cavity: Cavity) -> Geometry:
    return measure(cavity.scans(), facing(TOOTH, restoration="onlay", path=ALONG))


@cache
def judged(cavity: Cavity, material: str = "lithium-disilicate", root_filled: bool = False) -> Judgement:
    geometry = measured(cavity)
    said = replace(geometry, options=replace(geometry.options, root_filled=root_filled))
    return judge(said, choose(material, "onlay", None, TOOTH))


def strokes(found: Judgement, criterion: str) -> list[Correction]:
    return [c for c in found.corrections if c.key.startswith(f"{criterion}|")]


def test_a_good_cavity_has_no_proven_fault_of_its_own() -> None:
    """Depth, isthmus, walls, box, cusps: all meet or are within the uncertainty; its sharp outer edges are told."""
    mine = {c.name for c in criteria.of_kind("onlay")} - {c.name for c in criteria.of_kind("full-crown")}
    faults = [v for v in judged(GOOD).verdicts if v.criterion in mine and v.status in ("short", "over")]
    assert faults == []
    assert {v.criterion for v in judged(GOOD).verdicts} >= {"cavity-depth", "isthmus", "divergence", "cusp-thickness"}


@pytest.mark.parametrize(
    ("cavity", "criterion", "zone", "status"),
    first(
        2,
        (SHALLOW, "cavity-depth", "overall", "short"),
        (SHALLOW, "divergence", "wall/facial", "short"),
        (WIDE, "isthmus-share", "overall", "over"),
        (WIDE, "undercut", "wall/lingual", "over"),
        (NEAR, "contact-clearance", "box/mesial", "short"),
        (THIN_CUSP, "cusp-thickness", "distolingual", "short"),
        (DEEP, "cavity-depth", "overall", "over"),
        (DEEP, "divergence", "wall/lingual", "over"),
        (NARROW, "isthmus", "overall", "short"),
        (NARROW, "internal-radius", "overall", "short"),
        (THIN_BOX, "box-depth", "box/mesial", "short"),
    ),
)
def test_each_fault_is_proven_and_answered(cavity: Cavity, criterion: str, zone: str, status: str) -> None:
    """The fault is found in its place; the good twin has none; it is corrected, or why not is said."""
    found = judged(cavity)
    record, bound = proven(found, judged(GOOD), criterion, zone, status)
    if bound in record.correct:
        assert strokes(found, criterion)
        assert not strokes(judged(GOOD), criterion)
    else:
        assert record.leave[bound]


@pytest.mark.parametrize(("points", "proven_thin"), [(12, False), (40, True)])
def test_a_few_places_that_read_flat_prove_no_thin_edge(points: int, proven_thin: bool) -> None:
    """Where gingiva or a bridged gap lies beside a box's edge, some points of it read nearly flat; over a short stretch
    that is no proof, over most of the edge it is."""
    geometry = measured(GOOD)
    cut = geometry.cut
    assert isinstance(cut, CavityCut)
    (box,) = cut.boxes
    angle = cut.outline.cavosurface_deg.copy()
    middle = len(box.edge) // 2
    angle[list(box.edge[middle - points // 2 : middle + points // 2])] = 150.0
    flat = replace(geometry, cut=replace(cut, outline=replace(cut.outline, cavosurface_deg=angle)))
    found = judge(flat, choose("lithium-disilicate", "onlay", None, TOOTH))
    (told,) = [v for v in of(found, "cavosurface") if v.bound == "max"]
    assert told.value is not None
    assert told.value > 140.0
    assert (told.status == "over") == proven_thin


@pytest.mark.long
def test_gold_asks_for_less_depth_and_straighter_walls() -> None:
    """Shallow for ceramic, deep enough for gold; six degrees are too many for gold."""
    shallow = replace(GOOD, floor_mm=4.2)
    assert any(v.status == "short" for v in of(judged(shallow), "cavity-depth"))
    gold = judged(shallow, "full-metal")
    assert not any(v.status == "short" for v in of(gold, "cavity-depth"))
    assert not of(gold, "cavosurface")  # it is bevelled: shown, not judged
    steep = judged(replace(GOOD, usual_deg=8.0), "full-metal")
    assert any(v.status == "over" for v in of(steep, "divergence"))


def test_a_cusp_beside_a_box_is_less_certain_than_one_that_is_not() -> None:
    """Where the wall runs into the box a round corner leaves open how far it goes."""
    rows = {v.zone: v.U for v in of(judged(GOOD), "cusp-thickness")}
    beside, away = rows["mesiofacial"], rows["distofacial"]
    assert beside is not None
    assert away is not None
    assert beside == pytest.approx(0.30, abs=0.02)
    assert away == pytest.approx(0.16, abs=0.02)


@pytest.mark.long
def test_a_root_filled_tooth_needs_thicker_cusps() -> None:
    """3.0 at the base instead of 2.0 or 2.5."""
    cavity = replace(GOOD, lingual_wall_mm=2.0, facial_wall_mm=1.0)
    limits = {v.limit for v in of(judged(cavity, root_filled=True), "cusp-thickness")}
    assert limits == {3.0}
    assert {v.limit for v in of(judged(cavity), "cusp-thickness")} == {2.0, 2.5}


@pytest.mark.long
def test_widening_the_isthmus_never_costs_a_cusp_its_thickness() -> None:
    """Where neither side can spare it, the stroke is refused and covering named; its twin is asked for."""
    narrow = {"facial_wall_mm": 0.6, "lingual_wall_mm": 0.6, "divergence_deg": {"facial": 4.0, "lingual": 4.0}}
    (plain,) = strokes(judged(replace(GOOD, **narrow)), "isthmus")
    assert plain.refused == ""
    small = replace(GOOD, **narrow, facial_mm=3.15)
    (refused,) = strokes(judged(small), "isthmus")
    assert "cover the cusp" in refused.refused


@pytest.mark.long
def test_a_small_tooth_s_cusp_is_asked_for_no_more_than_it_had() -> None:
    """Where the whole cusp was thinner than the limit, four fifths of it."""
    geometry = measure(GOOD.scans(), facing(TOOTH, restoration="onlay", path=ALONG))
    held, _ = hold(geometry, choose("lithium-disilicate", "onlay", None, TOOTH))
    for whole, limit in ((1.8, 0.8 * 1.8), (3.0, 2.5)):
        bounds, why = _cusp_bounds(held, CuspForm("mesiofacial", False, 1.5, None, whole, 9.0, (0.0, 0.0, 0.0)))
        assert bounds.min == pytest.approx(limit)
        assert ("the tooth is small" in why) == (whole < 2.5)


@pytest.mark.long
def test_an_undercut_is_filled_rather_than_cut() -> None:
    """A base of known volume, no stroke under a hand's tenth."""
    (row,) = strokes(judged(replace(GOOD, divergence_deg={"lingual": -3.0})), "undercut")
    assert "base material" in row.do
    assert "mm³" in row.do


@pytest.mark.long
def test_what_is_only_doubtful_asks_for_no_stroke() -> None:
    """Every correction stands on a proven verdict."""
    found = judged(replace(GOOD, gap_mm=0.3, floor_mm=4.2))
    proven = {f"{v.criterion}|{v.zone}" for v in found.verdicts if v.status in ("short", "over")}
    assert {c.key for c in found.corrections} <= proven


@pytest.mark.long
def test_covered_cusps_are_judged_by_name() -> None:
    """By the row of their part in the bite, with the material's figures; nothing of a crown's zones is left."""
    cavity = replace(GOOD, covered=("mesiolingual", "distolingual"), cover_mm=0.7)
    found = judged(cavity)
    assert {v.zone for v in of(found, "reduction")} == {"mesiolingual", "distolingual"}
    assert all(v.status == "short" for v in of(found, "reduction") if v.bound == "min")
    assert {c.where for c in strokes(found, "reduction")} == {"mesiolingual cusp", "distolingual cusp"}


def test_only_a_zone_of_the_surface_is_called_a_cusp() -> None:
    """Where a name is a cusp's and a side's, the criterion tells."""
    assert criteria.where("reduction", "mesiolingual", "palatal") == "mesiopalatal cusp"
    assert criteria.where("reduction", "facial") == "facial cusp"
    assert criteria.where("planes", "facial") == "facial"
    assert criteria.where("finish-line-width", "facial") == "facial finish line"
    assert criteria.where("divergence", "box/mesial/facial") == "facial wall of the mesial box"
    assert criteria.where("divergence", "wall/lingual", "palatal") == "palatal wall"


def test_the_document_of_a_cavity_keeps_the_contract() -> None:
    """Its own keys are there, what it does not have is null, and the findings read as sentences."""
    cavity = replace(GOOD, facial_mm=3.9, lingual_wall_mm=2.3)
    options = facing(TOOTH, restoration="onlay", path=ALONG)
    geometry = measure(cavity.scans(), options)
    made = document(geometry, judge(geometry, choose("lithium-disilicate", "onlay", None, TOOTH)))
    assert made["restoration"] == "onlay"
    assert set(made["cavity"]) == {
        "outline", "floor", "walls", "divergence", "isthmus", "boxes", "cusps", "internal_radius_mm",
    }  # fmt: skip
    assert made["convergence"] is None
    assert made["resistance"] is None
    assert made["finish_line"]["axis"] == pytest.approx([0, 0, 1], abs=1e-9)
    told = report(made)
    assert "cusp" in told.answer.text
    assert any("distolingual cusp" in p.where for p in told.places)


@pytest.mark.long
def test_fields_show_the_floor_by_its_depth_and_the_walls_by_the_cusp_behind() -> None:
    """Nan on walls under the depth lens; under the cusps' lens only beside standing cusps, with the limit there."""
    geometry = measure(GOOD.scans(), facing(TOOTH, restoration="onlay", path=ALONG))
    standard = choose("lithium-disilicate", "onlay", None, TOOTH)
    fields = inside_fields(geometry, judge(geometry, standard))
    parts = geometry.cut.parts  # type: ignore[union-attr]
    assert np.isfinite(fields["depth"][parts.floor]).all()
    assert np.isnan(fields["depth"][parts.wall]).all()
    assert set(np.unique(fields["depth_min"][parts.floor])) == {1.5}
    shown = np.isfinite(fields["cusps"])
    assert shown[parts.wall].mean() > 0.3
    assert not shown[parts.floor].any()
    assert set(np.unique(fields["cusps_min"][shown])) == {2.0, 2.5}
