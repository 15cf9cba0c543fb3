"""A tooth prepared for a prefabricated crown against its closed form: bulge, slices, ledge, taper, sizes, verdicts."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from calibration_children import TOOTH, drawn, errors_of, side_true
from children import CONTOUR_MM, NECK_MM, MilkTooth
from long import first
from made import kept_case
from proven import of
from solids import facing, turned
from trimesh import Trimesh

from vane_line.core.arrays import Floats
from vane_line.core.case import Geometry, measure
from vane_line.core.child.fit import Body, height_unsure, lay_over, of_width, smallest
from vane_line.core.child.shell import crown_body
from vane_line.core.child.sizes import CrownSet, Size, sets
from vane_line.core.judge.document import document
from vane_line.core.judge.findings import report
from vane_line.core.judge.judgement import Judgement, judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.kinds.child import child_check
from vane_line.core.kinds.seen import Inside
from vane_line.core.options import Options
from vane_line.core.rings import degrees_apart
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.trace.section import Axes
from vane_line.demo.cases import MadeCase
from vane_line.demo.recipes import child_s_central, child_s_second_molar
from vane_line.demo.scanner import placed
from vane_line.errors import BadOption, UnfitScans
from vane_line.work.records import geometry_bytes, read_geometry

METAL = MilkTooth(noise_um=8.0, facial_mm=4.0, mesial_mm=4.75, shelf_mm=0.45)
SLICED = replace(METAL, shelf_mm=0.0, slice_mm=1.05)
ROUND = MilkTooth(noise_um=8.0, facial_mm=4.0, mesial_mm=4.75, round_mm=1.25, slice_mm=1.35, slice_deg=2.0,
                  taper_deg=2.0, occlusal_mm=1.6, bulge_mm=0.2)  # fmt: skip


@cache
def measured(tooth: MilkTooth) -> Geometry:
    return measure(tooth.scans(clearance_mm=1.7), facing(TOOTH, restoration="child-crown"))


@cache
def judged(tooth: MilkTooth, material: str = "preformed-metal") -> Judgement:
    return judge(measured(tooth), choose(material, "child-crown", None, TOOTH))


def bulge_of(tooth: MilkTooth) -> float:
    """Contour less the neck, down to the gingiva of the second scan."""
    return tooth.bulge_mm * ((CONTOUR_MM - tooth.gingiva_mm + 0.1) / (CONTOUR_MM - NECK_MM)) ** 2


def test_bulge_slices_and_ledge_in_closed_form() -> None:
    """Within 0.02, in the contract's keys."""
    child = document(measured(METAL), judged(METAL))["child"]
    assert child["cervical_undercut_mm"] == pytest.approx(bulge_of(METAL), abs=0.02)
    assert child["ledge_mm"] == pytest.approx(METAL.ledge_mm, abs=0.05)
    depth = {s["side"]: s["depth_mm"] for s in child["sides"]}
    assert depth["mesial"] == pytest.approx(side_true(METAL), abs=0.02)
    assert depth["distal"] == pytest.approx(side_true(METAL), abs=0.02)
    assert abs(depth["facial"]) < 0.03
    assert document(measured(SLICED), judged(SLICED))["child"]["ledge_mm"] == 0.0


@pytest.mark.long
def test_a_bulge_is_the_tooth_s_however_far_it_overhangs() -> None:
    """1.2 mm, leaning back by 50 degrees: read down to where it goes under, and the walls under it belong to the tooth,
    of which nothing was taken."""
    overhung = replace(SLICED, bulge_mm=1.2)
    neck, found = measured(overhung).child.neck, judged(overhung)
    assert list(neck.undercut_mm.values()) == pytest.approx([bulge_of(overhung)] * 2, abs=0.03)
    inside, line = measured(overhung).inside, measured(overhung).line
    wall = np.abs(inside.vertices[:, 0]) < 1.0  # facial and lingual
    under = inside.vertices[wall, 2] < (line.points[:, 2].mean() + CONTOUR_MM) / 2
    assert inside.vertex_areas[wall][under].sum() > 2.0
    faces = [v for v in of(found, "tooth-removed") if v.zone in ("wall/facial", "wall/lingual")]
    assert [v.status for v in faces] == ["meets", "meets"]


@pytest.mark.long
def test_a_groove_over_the_edge_is_the_top_s() -> None:
    """Cut along a groove that runs out over the lingual edge, at 45 degrees: nothing was taken off the wall below."""

    def groove(p: Floats) -> Floats:
        inward = p[:, 1] + SLICED.facial_mm
        return np.asarray(np.maximum((inward + CONTOUR_MM - p[:, 2]) / np.sqrt(2), np.abs(p[:, 0]) - 1.3))

    grooved = measured(replace(SLICED, extra=groove))
    removed = judge(grooved, choose("preformed-metal", "child-crown", None, TOOTH))
    (lingual,) = of(removed, "tooth-removed", "wall/lingual")
    assert lingual.value == pytest.approx(0.0, abs=lingual.U)


@pytest.mark.long
def test_a_ledge_over_a_bend_is_less_sure() -> None:
    """Its outer edge is told from the tooth below it, prolonged."""
    straight, bent = (measured(replace(METAL, bulge_mm=b, shelf_mm=0.4)).child.neck for b in (0.1, 1.0))
    assert straight.ledge_bent_mm < 0.015 < 0.02 < bent.ledge_bent_mm
    (row,) = of(judged(replace(METAL, bulge_mm=1.0, shelf_mm=0.4)), "ledge")
    assert 2 * bent.ledge_bent_mm < row.U


@pytest.mark.long
def test_a_cone_s_taper_and_depth_round_about() -> None:
    """Both walls lean by 2 degrees; 1.25 was taken off all round."""
    found = judged(ROUND, "preformed-zirconia")
    taper = {v.zone: v for v in of(found, "cervical-taper") if v.bound == "max"}
    assert set(taper) == {"faciolingual", "mesiodistal"}
    for v in taper.values():
        assert v.value == pytest.approx(4.0, abs=v.U)
        assert v.U < 0.8
    assert all(v.status == "meets" for v in of(found, "cervical-taper"))
    sides = {v.zone: v for v in of(found, "reduction") if v.zone.startswith("wall/") and v.bound == "min"}
    assert set(sides) == {"wall/facial", "wall/mesial", "wall/lingual", "wall/distal"}
    assert all(v.status == "meets" for v in sides.values())
    assert of(found, "cervical-undercut") == []


@pytest.mark.long
def test_a_waisted_wall_has_no_sure_taper() -> None:
    """A wall that narrows and widens again leans by what one takes for its straight run; a cone's does not hang on
    it."""

    def waist(p: Floats) -> Floats:
        r, whole = ROUND.outline(p)
        return np.asarray(whole - ROUND.round_mm - 0.10 + 0.12 * ((p[:, 2] - 1.0) / 0.8) ** 2 - r)

    waisted, cone = (measured(tooth).child.neck for tooth in (replace(ROUND, extra=waist), ROUND))
    assert min(waisted.bent_deg.values()) > 1.0
    assert max(cone.bent_deg.values()) < 0.1


def test_what_a_metal_crown_wants_is_judged() -> None:
    """Ledge over, bulge kept, slices and top meet; nothing that is asked of a made crown is asked here."""
    found, sound = judged(METAL), judged(SLICED)
    (ledge,) = of(found, "ledge")
    assert ledge.status == "over"
    (none,) = of(sound, "ledge")
    assert none.status != "over"
    assert {v.status for v in of(found, "cervical-undercut")} == {"meets"}
    assert {v.status for v in of(sound, "reduction", "wall/mesial")} == {"meets"}
    faces = [v for v in of(sound, "tooth-removed") if v.zone in ("wall/facial", "wall/lingual")]
    assert [v.status for v in faces] == ["meets", "meets"]
    tops = [v for v in of(sound, "reduction") if not v.zone.startswith("wall/")]
    assert tops and not {v.status for v in tops} & {"short", "over"}  # noqa: PT018
    asked = {v.criterion for v in sound.verdicts}
    assert not asked & {"undercut", "finish-line-width", "convergence", "wall-height", "resistance", "milled-fit"}
    across = document(measured(SLICED), sound)["convergence"]  # a bulge has no taper from top to foot
    assert (across["faciolingual_deg"], across["mesiodistal_deg"]) == (None, None)
    assert across["by_azimuth"]
    away = next(c for c in found.corrections if c.key.startswith("ledge"))
    assert "take the ledge away" in away.do
    assert away.at is not None and away.at[0] < -3  # noqa: PT018


@pytest.mark.long
def test_the_bulge_cut_away_is_short_and_cannot_be_put_back() -> None:
    """All round with straight walls: a metal crown holds by cement alone."""
    found = judged(ROUND)
    rows = of(found, "cervical-undercut")
    assert [v.status for v in rows] == ["short", "short"]
    assert not any(c.key.startswith("cervical-undercut") for c in found.corrections)
    over = [v for v in of(found, "tooth-removed") if v.zone in ("wall/facial", "wall/lingual")]
    assert [v.status for v in over] == ["over", "over"]


def test_covered_by_the_gingiva_its_depth_is_not_told() -> None:
    """What cannot be seen is not judged, and says what to do."""
    rows = of(judged(SLICED), "cervical-depth")
    assert rows and {v.status for v in rows} == {"not-measured"}  # noqa: PT018
    assert all("probe" in v.why for v in rows)


@pytest.mark.long
@pytest.mark.parametrize("seed", first(1, 700, 701, 702, *range(703, 724)))
def test_u_covers_the_truth_on_fresh_seeds(seed: int) -> None:
    """Seeds that nothing was fitted on; the largest error allowed is U."""
    _, errors = errors_of(drawn(seed))
    assert errors
    assert {name: e for name, e in errors.items() if abs(e[0]) > e[1]} == {}


@pytest.mark.long
def test_in_any_position_and_on_the_other_side_of_the_mouth() -> None:
    """The same scans turned, and mirrored for a right tooth: every figure within 10 µm."""
    plain, scans = measured(SLICED).child, SLICED.scans()
    assert scans.preop is not None
    matrix, other = turned((1.0, 2.0, -0.5), 130.0, (40.0, -25.0, 12.0)), np.diag([-1.0, 1, 1, 1])
    axes = {"occlusal": matrix[:3, 2], "facial": matrix[:3, 1]}
    there = Scans(placed(scans.prep, matrix), placed(scans.preop, matrix), None, None)
    flipped = Scans(placed(scans.prep, other), placed(scans.preop, other), None, None)
    for found in (
        measure(there, Options(TOOTH, restoration="child-crown", **axes)),  # type: ignore[arg-type]
        measure(flipped, facing(ToothNumber("85"), restoration="child-crown")),
    ):
        for side, value in found.child.neck.undercut_mm.items():
            assert value == pytest.approx(plain.neck.undercut_mm[side], abs=0.01), side
        for material, fits in found.child.fits.items():
            for mine, theirs in zip(fits.all, plain.fits[material].all, strict=True):
                assert mine.binds_mm == pytest.approx(theirs.binds_mm, abs=0.02), material


# --- the sizes -----------------------------------------------------------------------------------------------------

PLAIN = CrownSet("round", "Round crowns", "test", wall_mm=0.0, top_mm=0.5, drawn_in_mm=0.0, gives_mm=0.0,
                 contour_share=0.0, shoulder_mm=0.0, roundness=2.0, fuller_mm=0.0, steps_mm=(0.0,))  # fmt: skip


def cylinder(radius: float, aside: tuple[float, float] = (0.0, 0.0), taper_deg: float = 0.0) -> Body:
    """A round post 4 mm high, its walls leaning in from its foot."""
    azimuth, level = np.meshgrid(np.radians(np.arange(0, 360, 5)), np.linspace(0, 4, 21), indexing="ij")
    own = radius - level * np.tan(np.radians(taper_deg))
    plan = np.stack([own * np.sin(azimuth) + aside[0], own * np.cos(azimuth) + aside[1]], axis=-1).reshape(-1, 2)
    points = np.column_stack([plan, level.ravel()])
    axes = Axes(np.zeros(3), *np.eye(3)[[2, 1, 0]])
    return Body(axes, plan, level.ravel(), points, 4.0, 0.0)


@pytest.mark.parametrize("aside", [(0.0, 0.0), (0.35, -0.2)])
def test_a_round_crown_over_a_round_post_binds_by_the_difference_of_their_radii(aside: tuple[float, float]) -> None:
    """Wherever the post stands the crown finds its middle."""
    tight, wide = Size(PLAIN, "1", 5.6, 5.6, 5.0), Size(PLAIN, "2", 6.4, 6.4, 5.0)
    fits = lay_over(cylinder(3.0, aside), [tight, wide], 4.5)
    assert fits[0].binds_mm == pytest.approx(0.2, abs=0.01)
    assert not fits[0].goes_on
    assert fits[1].binds_mm == 0.0
    assert fits[1].goes_on
    assert fits[1].proud_mm == pytest.approx(0.0, abs=0.02)
    assert fits[1].rim_mm == pytest.approx(-0.5, abs=0.01)
    assert smallest(fits) is fits[1]
    assert of_width(fits, 5.7) is fits[0]


def test_a_crown_on_a_cone_stays_proud_where_the_cone_gets_too_wide() -> None:
    """A rim of radius 2.9 on a cone of 3.0 at its foot that leans by 10 degrees stops 0.1/tan(10) above it; two
    hundredths that no hand feels let it lower by as much again."""
    rim = Size(PLAIN, "1", 5.8, 5.8, 5.0)
    (fit,) = lay_over(cylinder(3.0, taper_deg=10.0), [rim], 5.0)
    assert fit.proud_mm == pytest.approx((0.1 - 0.02) / np.tan(np.radians(10)), abs=0.2)  # rings lie 0.2 apart
    assert not fit.goes_on


@pytest.mark.parametrize(("taper", "radius"), [(4.0, 2.93), (4.0, 2.96), (7.0, 2.9), (15.0, 2.75), (15.0, 2.85)])
def test_how_proud_a_crown_stands_is_less_sure_on_steep_walls(taper: float, radius: float) -> None:
    """Two hundredths more or less that it binds are 0.3 of height at 4 degrees; and the rings of the body lie 0.2
    apart. Closed form within two of it."""
    body = cylinder(3.0, taper_deg=taper)
    (fit,) = lay_over(body, [Size(PLAIN, "1", 2 * radius, 2 * radius, 5.0)], 5.0)
    unsure = height_unsure(body, fit)
    steep = np.tan(np.radians(taper))
    assert fit.proud_mm == pytest.approx((3.0 - radius - 0.02) / steep, abs=2 * unsure)
    assert unsure == pytest.approx(np.hypot(0.02 / steep, 0.2 / np.sqrt(12)), rel=0.5)


def test_a_crown_that_is_free_seats_surely() -> None:
    """Nothing hangs on a hundredth."""
    body = cylinder(3.0, taper_deg=4.0)
    (fit,) = lay_over(body, [Size(PLAIN, "1", 6.4, 6.4, 5.0)], 5.0)
    assert fit.goes_on
    assert height_unsure(body, fit) == 0.0


def test_the_top_stops_a_crown_that_is_too_low() -> None:
    """Inner height 4.5 less than the post by 0.5: so much it stays proud of the tooth's height before."""
    low = Size(PLAIN, "1", 6.4, 6.4, 4.0)
    (fit,) = lay_over(cylinder(3.0), [low], 4.0)
    assert fit.proud_mm == pytest.approx(0.5, abs=0.01)
    assert not fit.goes_on


def test_sets_run_in_steps_of_0_4() -> None:
    """Both materials, on every primary tooth; each size wider and higher than the one before."""
    assert set(sets()) == {"preformed-metal", "preformed-zirconia"}
    for crowns in sets().values():
        for tooth in (t for t in ToothNumber.every() if t.primary):
            sizes = crowns.sizes(tooth)
            assert np.diff([s.mesiodistal_mm for s in sizes]) == pytest.approx(0.4)
            assert (np.diff([s.height_mm for s in sizes]) > 0).all()
            assert all(s.inner_height_mm > 2 for s in sizes)


def test_a_metal_crown_springs_over_its_contour() -> None:
    """Drawn in by 0.2 at its rim: over a straight post that fills it the rim is 0.2 too narrow."""
    (metal,) = (s for s in sets()["preformed-metal"].sizes(TOOTH) if s.name == "3")
    half = metal.mesiodistal_mm / 2 - metal.set.wall_mm
    level = np.array([0.0, metal.set.contour_share * metal.inner_height_mm])
    at = np.array([[half, 0.0], [half, 0.0]])
    assert metal.overlap(at, level) == pytest.approx([0.2, 0.0], abs=0.01)


# --- what cannot be -------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("mirrored", [False, True])
def test_a_crown_stands_where_it_was_laid(mirrored: bool) -> None:
    """Over the post's middle, its rim as low as it goes; its seat is no mirror, though mesial lie on the other hand."""
    post = cylinder(3.0, (0.35, -0.2))
    if mirrored:
        post = replace(post, axes=replace(post.axes, quarter=-post.axes.quarter))
    (fit,) = lay_over(post, [Size(PLAIN, "1", 6.4, 6.4, 5.0)], 4.5)
    assert fit.seat[:3, :3] @ fit.seat[:3, :3].T == pytest.approx(np.eye(3))
    assert np.linalg.det(fit.seat) == pytest.approx(1.0)
    assert fit.seat[:3, 3] == pytest.approx([-0.35 if mirrored else 0.35, -0.2, -0.5], abs=0.02)


def test_a_crown_that_binds_stands_where_it_stays_proud() -> None:
    """Its rim as high over the tooth's foot as its top over the tooth before."""
    (fit,) = lay_over(cylinder(3.0, taper_deg=10.0), [Size(PLAIN, "1", 5.8, 5.8, 5.0)], 5.0)
    assert fit.proud_mm is not None
    assert fit.seat[2, 3] == pytest.approx(fit.proud_mm)


@pytest.mark.parametrize("material", ["preformed-metal", "preformed-zirconia"])
def test_a_crown_s_body_is_what_the_sizes_are_judged_by(material: str) -> None:
    """Closed, as wide and as high as its size says; its inside is where a point just touches."""
    size = sets()[material].sizes(TOOTH)[2]
    body = crown_body(size)
    solid = Trimesh(body.vertices, body.faces, process=False)
    assert solid.is_watertight
    assert solid.is_winding_consistent
    assert solid.volume > 0
    width, depth, height = solid.extents
    assert (width, depth, height) == pytest.approx(
        (size.mesiodistal_mm, size.faciolingual_mm, size.height_mm), abs=1e-4
    )
    within = body.vertices[-2 - 24 * 120 : -2]  # the inner wall's rings
    assert np.abs(size.overlap(within[:, :2], within[:, 2])).max() < 1e-9


def test_an_ellipse_s_crown_holds_what_the_formula_says() -> None:
    """Straight walls and no thickness but the top's: a disc of top_mm, its edge rounded by as much. Volume in closed
    form (Pappus) for a circle of radius R: the disc of R - r, and a quarter of a torus's tube beside it."""
    big, r = 3.2, 0.5
    solid = crown_body(Size(PLAIN, "1", 2 * big, 2 * big, 5.0))
    core = big - r
    wanted = np.pi * core**2 * r + 2 * np.pi * (np.pi * r**2 / 4) * (core + 4 * r / (3 * np.pi))
    assert Trimesh(solid.vertices, solid.faces, process=False).volume == pytest.approx(wanted, rel=0.01)


def test_permanent_teeth_and_other_materials_are_refused() -> None:
    """A sentence that says what to do."""
    with pytest.raises(BadOption, match="for primary teeth"):
        choose("preformed-metal", "child-crown", None, ToothNumber("36"))
    with pytest.raises(BadOption, match="preformed-metal, preformed-zirconia"):
        choose("zirconia", "child-crown", None, TOOTH)
    with pytest.raises(BadOption, match="only a child-crown"):
        choose("zirconia", "full-crown", None, TOOTH)
    with pytest.raises(BadOption, match="child-crown alone"):
        choose("preformed-metal", "full-crown", None, ToothNumber("36"))


def test_a_tooth_that_was_hardly_cut_is_refused() -> None:
    """Four fifths within 0.08 of the tooth before; where a third was cut nothing is said."""
    inside = Inside(measured(SLICED).line, np.ones(3, dtype=bool), np.arange(3), *[measured(SLICED).inside] * 2, 0.1)
    height = inside.surface.vertices[:, 2]
    with pytest.raises(UnfitScans, match="hardly anything was cut"):
        child_check(measured(SLICED).axes, inside, np.where(height > np.quantile(height, 0.95), 1.0, 0.0))
    assert child_check(measured(SLICED).axes, inside, np.where(height > np.quantile(height, 0.5), 1.0, 0.0)) == []


@pytest.mark.long
def test_without_the_tooth_before_its_size_is_not_known() -> None:
    """Ledge and bulge are read all the same; the depth of the sides and the first crown to try are not."""
    bare = Scans(SLICED.prep(), None, None, None)
    found = measure(bare, facing(TOOTH, restoration="child-crown", near=np.array([0.0, 0, 4.0])))
    verdicts = judge(found, choose("preformed-metal", "child-crown", None, TOOTH))
    assert found.child.neck.least_undercut_mm == pytest.approx(bulge_of(SLICED), abs=0.02)
    assert {v.status for v in of(verdicts, "crown-seat")} == {"not-measured"}
    assert {v.status for v in of(verdicts, "reduction", "wall/mesial")} == {"not-measured"}


def test_a_tooth_that_is_seen_from_above_alone_is_refused() -> None:
    """Cut off at its greatest contour, as by a tip that was never tilted."""
    scans = SLICED.scans()
    seen, _ = scans.prep.keep_vertices(scans.prep.vertices[:, 2] > CONTOUR_MM)
    with pytest.raises(UnfitScans):
        measure(Scans(seen, scans.preop, None, None), facing(TOOTH, restoration="child-crown"))


def test_it_is_kept_and_judged_again_to_the_last_digit() -> None:
    """Through the open container, without a pickle."""
    again = judge(
        read_geometry(geometry_bytes(measured(SLICED))), choose("preformed-metal", "child-crown", None, TOOTH)
    )
    assert again.verdicts == judged(SLICED).verdicts


# --- a lifelike tooth ------------------------------------------------------------------------------------------------


@cache
def lifelike() -> tuple[Geometry, Judgement, dict[str, float]]:
    """The demo's 55, coarse: curved, in a row, with gingiva whose crest looks like a ledge."""
    recipe = child_s_second_molar()
    made = MadeCase(replace(recipe, scan=replace(recipe.scan, grid_mm=0.13)))
    scans = Scans(made.prep, made.preop, None, made.opposing)
    geometry = measure(scans, Options(ToothNumber("55"), restoration="child-crown", opposing_frame="preop"))
    return geometry, judge(geometry, choose("preformed-metal", "child-crown", None, ToothNumber("55"))), made.truth


@pytest.mark.long
def test_on_a_lifelike_tooth_only_what_was_done_is_found() -> None:
    """The ledge, at least as wide as seen and no wider than it is; uncut faces; no nick in teeth that no bur touched;
    the size of the tooth's own width goes on."""
    geometry, found, truth = lifelike()
    (ledge,) = of(found, "ledge")
    assert ledge.status == "over"
    assert ledge.value is not None
    assert 0.2 < ledge.value < truth["ledge_mm"] + 0.05
    assert {v.status for v in of(found, "neighbour-nick")} <= {"meets", "not-measured"}
    faces = [v for v in of(found, "tooth-removed") if v.zone.startswith("wall/")]
    assert {v.status for v in faces} == {"meets"}
    assert {v.status for v in of(found, "cervical-undercut")} == {"meets"}
    assert {v.status for v in of(found, "crown-seat")} == {"meets"}
    told = document(geometry, found)
    answer = report(told | {"verdicts": [v for v in told["verdicts"] if v["criterion"] == "ledge"]}).answer.text
    assert answer == f"Not yet: ledge, {ledge.value:.2f} mm, 0.1 mm allowed"
    for middle in (0.0, 180.0):  # it does not jump up an uncut wall
        here = degrees_apart(geometry.line.azimuth_deg, middle) < 40
        assert np.ptp(geometry.line.height[here]) < 1.2


def front_made() -> MadeCase:
    """As fine as to show the face's wall."""
    recipe = child_s_central()
    return kept_case("front-51", replace(recipe, scan=replace(recipe.scan, grid_mm=0.15)))


@cache
def lifelike_front() -> tuple[Geometry, Judgement]:
    """The demo's 51: hollow behind, in a row whose narrow necks look like stumps."""
    made = front_made()
    scans = Scans(made.prep, made.preop, None, made.opposing)
    geometry = measure(scans, Options(ToothNumber("51"), restoration="child-crown", opposing_frame="preop"))
    return geometry, judge(geometry, choose("preformed-zirconia", "child-crown", None, ToothNumber("51")))


@pytest.mark.long
def test_a_lifelike_front_tooth_is_found_among_its_neighbours() -> None:
    """By what was taken off its crown: gingiva pressed aside is more, and uncut necks look like stumps."""
    geometry, _ = lifelike_front()
    middle = geometry.line.points.mean(axis=0)
    away = middle - np.array(front_made().stands["centre"])
    up = geometry.axes.up
    assert np.linalg.norm(away - (away @ up) * up) < 1.0


@pytest.mark.long
def test_the_hollow_behind_a_front_tooth_is_no_ledge_and_the_wall_is_told_below_it() -> None:
    """Cut to run out at the neck all round, the face left too full: that, and nothing else of the form."""
    geometry, found = lifelike_front()
    assert geometry.child.neck.ledge_mm == 0.0
    assert {v.status for v in of(found, "cervical-taper", "mesiodistal")} == {"meets"}
    # Face and back narrow to the neck and widen again.
    assert {v.status for v in of(found, "cervical-taper", "faciolingual")} == {"within-uncertainty"}
    (face,) = (v for v in of(found, "reduction") if v.zone == "wall/facial" and v.bound == "min")
    assert face.status == "short"
    assert face.value == pytest.approx(0.75, abs=0.05)  # as the face was cut
    assert {v.status for v in of(found, "crown-seat")} == {"meets"}


@pytest.mark.long
def test_a_crown_that_bulges_over_its_neck_lends_no_contact_to_its_neighbours() -> None:
    """What the tooth itself lost in the bite is no change on the others."""
    geometry, _ = lifelike_front()
    assert geometry.meeting.contacts is not None
    assert geometry.meeting.contacts.changed() == {}
