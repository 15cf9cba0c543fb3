"""Planes, set-back and concavity of front teeth, cusps and slopes of back teeth, on shapes whose answer is known."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from made import coarse, kept_case
from planned import FRONT_SITES
from scipy.spatial import cKDTree
from solids import Stump, facing

from vane_line.core.arrays import Floats
from vane_line.core.case import Geometry, measure
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.measure.front_form import NARROWLY, Planes, planes_of
from vane_line.core.measure.occlusal_form import occlusal_form
from vane_line.core.options import Options
from vane_line.core.rigid import move
from vane_line.core.rings import degrees_apart
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.vectors import degrees_between
from vane_line.demo.anatomy import polar
from vane_line.demo.burs import AxialCut, FrontCut, constant
from vane_line.demo.cases import MadeCase
from vane_line.demo.recipes import following_papillae, sound_recipe

STEP_MM = 0.05


def face(*planes: tuple[float, float]) -> tuple[Floats, Floats]:
    """Radius and height of planes, each an angle to the path and a height."""
    height = np.arange(0, sum(h for _, h in planes), STEP_MM)
    radius, at, top = np.empty_like(height), 4.0, 0.0
    for angle, length in planes:
        here = (height >= top - 1e-9) & (height < top + length)
        radius[here] = at - (height[here] - top) * np.tan(np.radians(angle))
        at, top = at - length * np.tan(np.radians(angle)), top + length
    return radius, height


@pytest.mark.parametrize("planes", [[(6.0, 6.0)], [(4.0, 3.0), (22.0, 3.0)], [(3.0, 2.0), (14.0, 2.0), (30.0, 2.0)]])
def test_planes_are_counted_with_their_angles(planes: list[tuple[float, float]]) -> None:
    """One, two and three, with 5 µm of noise: as many, within a degree and a half."""
    radius, height = face(*planes)
    noise = 0.005 * np.random.default_rng(4).standard_normal(len(radius))
    assert planes_of(radius + noise, height) == pytest.approx([a for a, _ in planes], abs=1.5)


def test_a_slight_bend_is_no_second_plane() -> None:
    """Two planes four degrees apart are one."""
    assert len(planes_of(*face((6.0, 3.0), (10.0, 3.0)))) == 1


@pytest.mark.parametrize(("bend_deg", "counts"), [(4.0, {1}), (8.5, {1, 2}), (14.0, {2})])
def test_a_plane_that_is_only_just_one_is_in_doubt(bend_deg: float, counts: set[int]) -> None:
    """Two planes 8.5 degrees apart are two, or with little more asked of them one: neither is proven."""
    radius, height = face((6.0, 3.0), (6.0 + bend_deg, 3.0))
    assert {len(planes_of(radius, height, asked=asked)) for asked in (1 / NARROWLY, 1.0, NARROWLY)} == counts
    assert Planes.of(radius, height).in_doubt == len(counts) - 1


def test_a_face_too_short_for_two_planes_has_none() -> None:
    """Two millimetres of it."""
    assert Planes.of(*face((6.0, 1.9))) == Planes()


@pytest.fixture(scope="module")
def incisor(incisor_case: MadeCase) -> Geometry:
    options = Options(ToothNumber("32"), opposing_frame="preop", earlier="copied-crown")
    return measure(Scans(incisor_case.prep, incisor_case.preop, None, incisor_case.opposing), options)


def test_the_demo_s_incisor_is_found_and_judged_as_a_front_tooth(incisor: Geometry, incisor_case: MadeCase) -> None:
    """32, an old crown: no tooth-removed; one plane, so too little off the face's incisal third, and set back; 1.6 off
    the tooth's edge, over which the old crown stood by 0.12; a sound ledge and neck."""
    centre = np.array(incisor_case.stands["centre"]) - incisor.axes.origin
    assert np.linalg.norm(centre - (centre @ incisor.axes.up) * incisor.axes.up) < 1.0
    rows = {(v.criterion, v.zone, v.bound): v for v in judge(
        incisor, choose("zirconia", "full-crown", None, ToothNumber("32"))).verdicts}  # fmt: skip
    edge = rows["incisal-reduction", "incisal-edge", "min"]
    assert edge.value == pytest.approx(1.72, abs=0.05)
    assert edge.status == "meets"
    assert incisor.ring.edge is not None
    assert edge.value <= incisor.ring.edge.mm <= incisor.ring.edge.most_mm
    face = rows["reduction", "facial/incisal", "min"]
    assert face.value == pytest.approx(0.37, abs=0.06)
    assert face.status == "short"
    assert rows["planes", "facial", "min"].value == 1
    assert rows["planes", "facial", "min"].status == "short"
    facial = rows["finish-line-width", "facial", "max"]
    assert facial.limit == 0.5  # capped on a lower incisor
    assert facial.status != "over"
    assert facial.value == pytest.approx(0.47, abs=0.06)  # as the recipe's bur is sunk
    left = rows["remaining-width", "overall", "min"]
    assert left.value is not None
    assert left.value > 2.2
    assert left.status == "meets"
    assert rows["tooth-removed", "overall", "max"].status == "not-measured"
    assert rows["set-back", "facial/incisal", "min"].status in ("short", "within-uncertainty")
    assert "maximum intercuspation only" in rows["clearance", "incisal-edge", "min"].why


@pytest.mark.long
def test_a_textbook_cut_of_a_thin_edge_is_neither_short_nor_over() -> None:
    """11 for zirconia, 1.6 and a little off its edge, 0.8 off its face, 0.65 off its back: the shortest distance at the
    edge is under the 1.2 that must go off it, and is the face's; over the neck the tooth bulges by more than the depth
    allowed. A least and a target for the edge are told downward from it (common practice, no source)."""
    recipe = sound_recipe("11", "zirconia", seed=11, same_frame=True, papilla_mm=1.6, edge_round_mm=0.3)
    depth = {"incisal-edge": 1.6, "facial/incisal": 0.85, "facial/middle": 0.85, "facial/cervical": 0.7,
             "lingual-fossa": 0.65}  # fmt: skip
    axial = AxialCut(following_papillae(1.0, 0.8), constant(0.65), constant(5.0), tip_radius_mm=0.3)
    case = kept_case("textbook_incisor", replace(coarse(recipe), occlusal=FrontCut(depth), axial=axial))
    geometry = measure(Scans(case.prep, case.preop, None, case.opposing), Options(ToothNumber("11")))
    standard = choose("zirconia", "full-crown", None, ToothNumber("11"))
    rows = {(v.criterion, v.zone, v.bound): v for v in judge(geometry, standard).verdicts}
    room = ("incisal-reduction", "reduction", "tooth-removed")
    assert not [key for key, v in rows.items() if key[0] in room and v.status in ("short", "over")]
    taken, least = rows["incisal-reduction", "incisal-edge", "min"], rows["reduction", "incisal-edge", "min"]
    assert taken.status == "meets"
    assert taken.value is not None
    assert taken.limit is not None
    assert 1.55 < taken.value < 2.05  # where face and back meet, a little under the level that the bur was sunk to
    assert least.value is not None
    assert least.value < taken.limit
    assert least.limit == min(standard.reduction["facial-incisal"].min, standard.reduction["lingual-fossa"].min)
    assert ("reduction", "facial/cervical", "max") not in rows
    back, face, side = (rows["wall-height", name, "min"].U or 0.0 for name in ("lingual", "facial", "mesial"))
    assert min(back, face) > side > 0.1  # where a front tooth's walls end is told less surely
    assert rows["tooth-removed", "wall/facial/middle", "max"].status == "meets"


@pytest.mark.long
def test_the_demo_s_premolar_lacks_ferrule_and_palatal_space(premolar_case: MadeCase) -> None:
    """15, worn, with a core: 0.4 of ferrule mesially, 0.9 over the palatal cusp where 1.5 is least."""
    core = np.array(premolar_case.stands["core"])
    scans = Scans(premolar_case.prep, premolar_case.preop, None, premolar_case.opposing)
    geometry = measure(scans, Options(ToothNumber("15"), opposing_frame="preop", core=core))
    standard = choose("lithium-disilicate", "full-crown", "lithium-disilicate-conventional", ToothNumber("15"))
    rows = {(v.criterion, v.zone): v for v in judge(geometry, standard).verdicts if v.bound == "min"}
    assert rows["ferrule", "mesial"].value == pytest.approx(0.4, abs=0.12)
    assert rows["ferrule", "mesial"].status == "short"
    assert rows["reduction", "functional-cusp/lingual"].value == pytest.approx(0.9, abs=0.1)
    assert rows["reduction", "functional-cusp/lingual"].status == "short"


def test_cusps_that_stand_where_they_were_have_not_wandered(demo_measured) -> None:  # type: ignore[no-untyped-def]
    """The demo's first molar follows its anatomy: tips within a millimetre and a half, slopes correlated."""
    found = demo_measured.geometry.ring.occlusal
    assert found is not None
    shifts = [c.shift_mm for c in found.cusps if c.shift_mm is not None]
    assert len(shifts) >= 3
    assert max(shifts) < 1.5
    assert found.form == "follows"
    assert found.slope_correlation > 0.55


@pytest.mark.long
def test_a_flat_top_is_planar_and_tells_no_cusps() -> None:
    """The plain solid has no cusps of its own: nothing is compared."""
    geometry = measure(Stump(seed=97).scans(), facing(ToothNumber("36")))
    assert geometry.ring.occlusal is None
    assert occlusal_form(geometry.inside, None, geometry.anatomy, geometry.axes) is None


@pytest.mark.long
def test_behind_a_thin_canine_the_wall_is_the_one_at_the_neck() -> None:
    """43, 6 degrees all round, its back hollow: under the thin edge it drops as steeply as at the neck.

    Path, lean and height are those of the lower wall; the other teeth, whose crowns end high over the line, are seen
    beside it all the same, as near as their solids stand.
    """
    recipe = sound_recipe("43", "zirconia", seed=43, same_frame=True, papilla_mm=1.6)
    depth = dict(zip(FRONT_SITES, (1.5, 0.65, 1.0, 0.8, 0.55), strict=True))
    axial = AxialCut(following_papillae(1.0, 0.8), constant(0.7), constant(6.0), tip_radius_mm=0.3)
    recipe = coarse(replace(recipe, occlusal=FrontCut(depth), axial=axial))
    case = kept_case("canine_with_a_hollow_back", recipe)
    geometry = measure(Scans(case.prep, case.preop, None, None), Options(ToothNumber("43")))
    walls = geometry.ring.shape.walls
    assert degrees_between(geometry.path.direction, geometry.frame.occlusal) < 4.0
    assert geometry.path.settled
    assert [walls.taper_at(a) for a in (90, 180, 270)] == pytest.approx([6.0] * 3, abs=0.7)
    assert np.nanmax(walls.foot - geometry.line.height) < 1.0
    found = judge(geometry, choose("zirconia", "full-crown", None, ToothNumber("43"))).verdicts
    for side, beside in (("mesial", "2"), ("distal", "4")):
        (verdict,) = (v for v in found if v.criterion == "neighbour-gap" and v.zone == side)
        assert verdict.value == pytest.approx(_room_to(beside, case, geometry, side), abs=verdict.U)


def _room_to(beside: str, case: MadeCase, geometry: Geometry, side: str) -> float:
    """From the true line to the solid of the tooth beside, across the path, 1.2 to 2.0 over the line."""
    scene, axes = case.scene, geometry.axes
    other, line = scene.teeth[scene.key[0] + beside], np.array(case.truth["finish_line"])
    azimuth, height = (x.ravel() for x in np.meshgrid(np.radians(np.arange(0, 360, 3.0)), np.arange(0, 7, 0.1)))
    radius = other.tooth.surface_radius(azimuth, height, np.zeros(2))
    points = move(scene.to_prep, other.to_arch(polar(azimuth, radius, height, np.zeros(2))))
    around, _, level = axes.cylinder(line)
    order = np.argsort(around)
    theirs, _, high = axes.cylinder(points)
    over = high - np.interp(theirs, around[order], level[order], period=360)
    facing = line[degrees_apart(around, 90.0 if side == "mesial" else 270.0) <= 45]
    across = np.stack([axes.zero, axes.quarter], axis=1)
    near = points[(over >= 1.2) & (over <= 2.0)]
    return float(cKDTree(near @ across).query(facing @ across)[0].min())
