"""What a cut is by its cusps, its walls and its floor, and what is not told of it; against solids of known form."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from cavities import CUSPS, Cavity
from measured_cavities import NOISY, ONLAY, TOOTH, cut_of, measured, wall
from solids import Stump, facing

from vane_line.core.case import Geometry, measure
from vane_line.core.cavity.boxes import depth_of_box
from vane_line.core.cavity.floor import LEAST_FLOOR_MM2, floor_depth
from vane_line.core.cavity.survey import AXIS_DEG, GIVEN_DEG, won_by_tilt
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.kinds.cavity import INLAY, OVERLAY
from vane_line.core.kinds.cavity import ONLAY as ONLAY_KIND
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import UnfitScans


def over_cover(geometry: Geometry, cavity: Cavity) -> float:
    """Median reduction (mm) over the covered cusps, away from their edge."""
    cut = cut_of(geometry)
    assert geometry.space is not None
    from_edge = np.linalg.norm(geometry.inside.vertices[:, None] - cut.outline.points[None, ::3], axis=2).min(axis=1)
    return float(np.median(geometry.space.value[cut.parts.cover & (from_edge > cavity.cover_mm)]))


@pytest.mark.long
def test_a_crown_preparation_is_told_from_a_cavity() -> None:
    """Its walls look outward: the kind that fits is named."""
    with pytest.raises(UnfitScans, match="looks like a full crown"):
        measure(Stump(noise_um=8).scans(), facing(ToothNumber("36"), restoration="onlay"))


@pytest.mark.long
def test_a_cavity_is_told_from_a_crown_preparation() -> None:
    """Measured as a crown most of what lies inside is as it was: refused, and the kind that fits is named."""
    with pytest.raises(UnfitScans, match="looks like an inlay, an onlay, a veneer or a partial crown"):
        measure(NOISY.scans(), facing(TOOTH))


@pytest.mark.parametrize(
    ("covered", "said"),
    [
        ((), ["", "an inlay, not an onlay: every cusp stands",
              "an inlay, not an overlay: not cut over the mesiofacial, distofacial, mesiolingual"]),
        (("mesiolingual",), ["an onlay, not an inlay: cut over the mesiolingual cusp", "",
                             "an onlay, not an overlay: not cut over the mesiofacial, distofacial and distolingual"]),
        (tuple(CUSPS), ["an overlay, not an inlay: cut over", "", ""]),
    ],
)  # fmt: skip
def test_an_inlay_onlay_or_overlay_that_is_another_is_said(covered: tuple[str, ...], said: list[str]) -> None:
    """By the cusps that are covered: none, one or more, all of them."""
    cut = cut_of(measured(NOISY))
    cut = replace(cut, cusps=[replace(c, covered=c.cusp in covered) for c in cut.cusps])
    for kind, words in zip((INLAY, ONLAY_KIND, OVERLAY), said, strict=True):
        told = kind.unlike(cut)
        assert len(told) == (1 if words else 0)
        assert all(words in t for t in told)


def test_a_cavity_open_to_a_side_draws_along_the_tooth_s_axis() -> None:
    """The facial cusps cut down below the floor: a lingual and a distal wall of 6 degrees stand and nothing faces them.
    Every degree of tilt away from both won draft, up to the end of the reach: 20 degrees of tilt and of divergence."""
    geometry = measured(replace(NOISY, covered=("mesiofacial", "distofacial"), cover_mm=3.2))
    assert geometry.path.direction[2] > np.cos(np.radians(1.5))
    for side in ("wall/lingual", "wall/distal"):
        assert wall(geometry, side) == pytest.approx(6.0, abs=1.0)
    guessed = replace(geometry, options=replace(geometry.options, occlusal=None))  # as judged of a guessed direction
    guessed = replace(guessed, path=replace(guessed.path, open=geometry.path.open * (AXIS_DEG / GIVEN_DEG) ** 2))
    found = judge(guessed, choose("lithium-disilicate", "onlay", None, TOOTH)).verdicts
    told = {v.zone: v for v in found if v.criterion == "divergence" and v.bound == "max"}
    assert told["wall/lingual"].U > 3.0
    assert told["wall/lingual"].status == "within-uncertainty"
    assert [v.status for v in found if v.criterion == "undercut"] == ["meets"]


@pytest.mark.parametrize(
    ("facing_deg", "won"),
    [((0, 90, 180, 270), -(0.5**0.5)), ((0, 90, 180), 0.0), ((0, 90), 0.5**0.5), ((0, 120, 240), -0.5), ((30,), 1.0)],
)  # fmt: skip
def test_what_tilting_wins_of_itself(facing_deg: tuple[float, ...], won: float) -> None:
    """Closed form: the least cosine between a tilt's way and the walls' facings, for the best of all ways."""
    a = np.radians(np.repeat(facing_deg, 40))
    lean = np.radians(6.0)
    normals = np.stack([np.cos(a) * np.cos(lean), np.sin(a) * np.cos(lean), np.full(len(a), np.sin(lean))], axis=1)
    found, way = won_by_tilt(normals, np.ones(len(a)), np.array([0.0, 0, 1]))
    assert found == pytest.approx(won, abs=0.02)
    assert way[2] == pytest.approx(0.0, abs=1e-9)


@pytest.mark.long
def test_a_narrow_floor_of_a_box_is_level_on_a_coarse_scan() -> None:
    """0.9 wide under triangles of 0.22: eased, it fell 3.5 degrees outward from its fillet to its edge."""
    (box,) = cut_of(measured(replace(NOISY, grid_mm=0.22, box_depth_mm=0.9))).boxes
    assert box.slope_deg is not None
    assert box.slope_deg < 2.0
    assert box.depth_mm == pytest.approx(0.9, abs=0.05)


def test_a_box_s_depth_is_not_told_where_its_edge_is_not_clear() -> None:
    """Level with the gingiva, or filled by the scanner, the outline runs on to the neighbour: 2.4 was told for 1.1."""
    y = np.linspace(-1.5, 1.5, 31)
    edge = np.stack([np.full(31, 5.0), y, np.zeros(31)], axis=1)
    axial = np.stack([np.full(5, 3.9), np.linspace(-1, 1, 5)], axis=1)
    low, clear = np.ones(31, dtype=bool), np.ones(31, dtype=bool)
    assert depth_of_box(edge, low, clear, axial, 0.0, 0.6) == pytest.approx(1.1)
    edge[10:15, 0], clear[10:15] = 6.4, False  # a part of its middle runs on: the rest tells it
    assert depth_of_box(edge, low, clear, axial, 0.0, 0.6) == pytest.approx(1.1)
    assert depth_of_box(edge, low, np.zeros(31, dtype=bool), axial, 0.0, 0.6) is None


def test_what_is_hardly_a_floor_has_no_depth() -> None:
    """What wide fillets leave of it is another place on each scan: neither enough nor too little depth is proven."""
    geometry = measured(NOISY)
    cut = cut_of(geometry)
    assert cut.floor is not None
    areas, level = geometry.inside.vertex_areas, geometry.inside.vertices[:, 2]
    few = cut.parts.floor & (np.cumsum(np.where(cut.parts.floor, areas, 0)) < 0.9 * LEAST_FLOOR_MM2)
    roof = geometry.inside.with_vertices(geometry.inside.vertices + [0.0, 0, 2])
    small, _ = floor_depth(geometry.inside, few, level, np.array([0.0, 0, 1]), roof, None)
    whole, _ = floor_depth(geometry.inside, cut.parts.floor, level, np.array([0.0, 0, 1]), roof, None)
    assert small is not None
    assert whole is not None
    assert whole.depth_median_mm == pytest.approx(2.0, abs=0.01)
    assert small.depth_low_mm is None
    judged = judge(replace(geometry, cut=replace(cut, floor=small)), choose("lithium-disilicate", "onlay", None, TOOTH))
    (told,) = (v for v in judged.verdicts if v.criterion == "cavity-depth")
    assert told.status == "not-measured"
    assert "hardly any level floor" in told.why


@pytest.mark.long
def test_covered_cusps_are_told_and_measured_apart() -> None:
    """Lingual cusps cut down by 1.6 along z: 1.43 square to the roof; the facial ones stand; no isthmus is left."""
    geometry = measured(ONLAY)
    cut = cut_of(geometry)
    assert {c.cusp for c in cut.cusps if c.covered} == {"mesiolingual", "distolingual"}
    assert cut.isthmus is None
    assert over_cover(geometry, ONLAY) == pytest.approx(ONLAY.cover_mm / np.hypot(1, ONLAY.roof_slope), abs=0.05)


@pytest.mark.long
def test_a_table_top_has_cusps_and_no_floor() -> None:
    """All cusps cut alike and nothing below: every cusp covered, no floor, walls or isthmus, the rest told."""
    cavity = replace(NOISY, trough=False, covered=tuple(CUSPS), cover_mm=1.5)
    geometry = measured(cavity, "overlay")
    cut = cut_of(geometry)
    assert all(c.covered for c in cut.cusps)
    assert cut.floor is None
    assert not cut.walls
    assert cut.isthmus is None
    assert over_cover(geometry, cavity) == pytest.approx(cavity.cover_mm / np.hypot(1, cavity.roof_slope), abs=0.05)
