"""Cavities against solids whose every dimension is known in closed form (`cavities.Cavity`)."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from cavities import BLUNT_MM, CUSPS, Cavity
from long import first
from measured_cavities import NOISY, PLAIN, TOOTH, cut_of, measured, wall
from solids import facing, turned

from vane_line.core.arrays import Floats
from vane_line.core.case import Geometry, measure
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import HandLine, Options
from vane_line.core.outline.by_hand import bounded, redrawn
from vane_line.core.outline.girth import under_earlier
from vane_line.core.outline.line import OutlineLine, OutlineSurvey
from vane_line.core.rigid import move
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.scanner import placed
from vane_line.errors import BadOption, UnfitScans


@pytest.mark.parametrize("cavity", first(1, NOISY, PLAIN), ids=["noisy", "clean"])
class TestMesioOcclusal:
    """A trough with a box through the mesial side, clean and with 9 µm of noise."""

    def test_depth_is_that_of_the_roof_over_the_floor(self, cavity: Cavity) -> None:
        """Low and median within 30 µm."""
        floor, inside = cut_of(measured(cavity)).floor, measured(cavity).inside
        assert floor is not None
        at = inside.vertices[cut_of(measured(cavity)).parts.floor]
        over = cavity.roof(at[:, 0], at[:, 1]) - cavity.floor_mm
        assert floor.depth_median_mm == pytest.approx(float(np.median(over)), abs=0.03)
        assert floor.depth_low_mm == pytest.approx(float(np.quantile(over, 0.012)), abs=0.03)

    def test_walls_lean_as_they_were_cut(self, cavity: Cavity) -> None:
        """Within a degree, every wall on its own side; the sum of facing walls, none where one side is open."""
        cut = cut_of(measured(cavity))
        assert {w.zone for w in cut.walls} == {
            "wall/facial", "wall/lingual", "wall/distal",
            "box/mesial/facial", "box/mesial/lingual", "box/mesial/distal",
        }  # fmt: skip
        for found in cut.walls:
            assert found.divergence_deg == pytest.approx(6.0, abs=1.0), found.zone
        assert cut.sums["faciolingual"] == pytest.approx(12.0, abs=1.0)
        assert cut.sums["mesiodistal"] is None

    def test_isthmus_and_its_share(self, cavity: Cavity) -> None:
        """Width within 0.04; the share over the distance of the tips, 5.6 mm."""
        isthmus = cut_of(measured(cavity)).isthmus
        assert isthmus is not None
        assert isthmus.width_mm == pytest.approx(cavity.isthmus_mm(), abs=0.04)
        assert isthmus.share == pytest.approx(cavity.isthmus_mm() / 5.6, abs=0.03)

    def test_box(self, cavity: Cavity) -> None:
        """Depth, width, level and room to the neighbour within 0.1; its floor is level within 2 degrees."""
        (box,) = cut_of(measured(cavity)).boxes
        assert box.side == "mesial"
        assert box.depth_mm == pytest.approx(cavity.box_depth_mm, abs=0.1)
        assert box.width_mm == pytest.approx(2 * cavity.box_half_mm, abs=0.1)
        assert box.below_floor_mm == pytest.approx(cavity.box_below_mm, abs=0.03)
        assert box.slope_deg is None or box.slope_deg < 2.0
        assert box.contact_clearance_mm == pytest.approx(cavity.gap_mm, abs=0.1)

    def test_standing_cusps(self, cavity: Cavity) -> None:
        """From the wall to the outer surface: at the floor's level, and 1 mm under the tip."""
        reach = np.sqrt((1 / cavity.roof_slope + BLUNT_MM) ** 2 - BLUNT_MM**2)  # where the roof has fallen by 1 mm
        for cusp in cut_of(measured(cavity)).cusps:
            assert not cusp.covered
            side = "lingual" if "lingual" in cusp.cusp else "facial"
            high = float(cavity.wall_at(side, np.array([cavity.top_mm - 1.0]))[0])
            skin = min(cavity.facial_mm, abs(CUSPS[cusp.cusp][1]) + reach)
            assert cusp.under_tip_mm == pytest.approx(skin - high, abs=0.1)
            # The rounded corner comes nearer than the flat side; nothing is nearer than 60 degrees round it.
            assert cusp.base_mm is not None
            assert 3.2 < cusp.base_mm < 3.9 + 0.05

    def test_outline_lies_on_the_edge(self, cavity: Cavity) -> None:
        """Where the hollow meets the tooth's own skin: median within 20 µm, nine in ten within 60."""
        line = cut_of(measured(cavity)).outline
        off = np.hypot(cavity.hollow(line.points), cavity.tooth(line.points))
        assert np.median(off) < 0.02
        assert np.quantile(off, 0.9) < 0.06
        assert line.closed

    def test_corner_radius(self, cavity: Cavity) -> None:
        """Between walls and floors, within 0.1."""
        assert cut_of(measured(cavity)).internal_radius_mm == pytest.approx(cavity.inner_mm, abs=0.1)

    def test_nothing_hangs_over(self, cavity: Cavity) -> None:
        """All walls open: no undercut, and a draft."""
        assert not cut_of(measured(cavity)).undercuts
        assert measured(cavity).path.least_draft_deg > 3.0


def test_edges_of_known_angle() -> None:
    """The box's sides meet the flat proximal side square; over the marginal ridge the roof slopes by 26 degrees."""
    cut = cut_of(measured(NOISY))
    (box,) = cut.boxes
    angles = cut.outline.cavosurface_deg[list(box.edge)]
    assert np.nanmedian(angles) == pytest.approx(90.0, abs=4.0)


@pytest.mark.long
@pytest.mark.parametrize("lean", first(1, 10.0, 2.0))
def test_one_wall_that_leans_otherwise(lean: float) -> None:
    """Along a given path its own lean is told, and the others keep theirs; the best path shares it between the two."""
    cavity = replace(NOISY, divergence_deg={"facial": lean})
    given = measure(cavity.scans(), facing(TOOTH, restoration="onlay", path=np.array([0.0, 0, 1])))
    assert wall(given, "wall/facial") == pytest.approx(lean, abs=1.0)
    assert wall(given, "wall/lingual") == pytest.approx(6.0, abs=1.0)
    best = measured(cavity)
    assert best.path.least_draft_deg >= given.path.least_draft_deg - 0.1
    assert cut_of(best).sums["faciolingual"] == pytest.approx(lean + 6.0, abs=1.0)


@pytest.mark.long
def test_an_overhanging_wall_is_an_undercut_of_known_depth() -> None:
    """Leaning back by 3 degrees over 2.1 to 2.4 mm: some 0.12 sideways, on its own side, with the base to fill it."""
    cavity = replace(NOISY, divergence_deg={"lingual": -3.0}, inner_mm=0.3)
    along = np.array([0.0, 0, 1])  # the best path would lean, and give both walls a little draft
    geometry = measure(cavity.scans(), facing(TOOTH, restoration="onlay", path=along))
    found = cut_of(geometry).undercuts
    assert [r.sector for r in found] == ["lingual"]
    x = np.linspace(-2.5, 3.0, 40)
    _, top = cavity.outline("lingual", x)
    deepest = float(((top - cavity.floor_mm - cavity.inner_mm) * np.tan(np.radians(3.0))).max())
    assert found[0].max_depth_mm == pytest.approx(deepest, abs=0.03)
    assert found[0].blockout_mm3 > 0.3
    assert wall(geometry, "wall/lingual") == pytest.approx(-3.0, abs=1.0)
    # Along the best path both walls draw by one to two degrees: no more is left than noise at a corner.
    assert all(r.max_depth_mm < 0.03 and r.area_mm2 < 0.2 for r in cut_of(measured(cavity)).undercuts)


@pytest.mark.long
def test_a_cavity_without_a_box() -> None:
    """Walls on all four sides, both sums, no box."""
    cut = cut_of(measured(replace(NOISY, box_depth_mm=0.0, distal_wall_mm=2.6), "inlay"))
    assert not cut.boxes
    assert cut.sums["mesiodistal"] == pytest.approx(12.0, abs=1.5)


@pytest.mark.long
def test_a_mock_up_s_place_does_not_matter() -> None:
    """The same scans anywhere, turned and shifted, axes not given: the same depth, isthmus and cusps."""
    matrix = turned((0.3, -0.7, 0.6), 100.0, (31.0, -12.0, 8.0))
    scans = NOISY.scans()
    assert scans.preop is not None
    away = Scans(placed(scans.prep, matrix), placed(scans.preop, turned((1, 0.2, 0), 40.0, (3, 2, 1)) @ matrix))
    axes = {"occlusal": matrix[:3, 2], "facial": matrix[:3, 1]}
    geometry = measure(away, Options(TOOTH, restoration="onlay", **axes))  # type: ignore[arg-type]
    here, there = cut_of(measured(NOISY)), cut_of(geometry)
    assert here.floor is not None
    assert there.floor is not None
    assert there.floor.depth_median_mm == pytest.approx(here.floor.depth_median_mm, abs=0.02)
    assert here.isthmus is not None
    assert there.isthmus is not None
    assert there.isthmus.width_mm == pytest.approx(here.isthmus.width_mm, abs=0.05)
    assert [c.cusp for c in there.cusps] == [c.cusp for c in here.cusps]


@pytest.mark.long
@pytest.mark.parametrize("tooth", first(1, "17", "27", "47"))
def test_both_jaws_and_sides(tooth: str) -> None:
    """Mirrored for the right side, upside down for the upper jaw: the same figures under the same names."""
    flip = np.eye(4)
    if tooth[0] in "24":
        flip[0, 0] = -1.0
    scans = NOISY.scans()
    assert scans.preop is not None
    given = Scans(placed(scans.prep, flip), placed(scans.preop, flip))
    cut = cut_of(measure(given, facing(ToothNumber(tooth), restoration="onlay")))
    here = cut_of(measured(NOISY))
    assert [b.side for b in cut.boxes] == ["mesial"]
    assert {w.zone: round(w.divergence_deg) for w in cut.walls} == {w.zone: round(w.divergence_deg) for w in here.walls}


def test_without_the_scan_before_what_needs_it_is_left_out() -> None:
    """Told by the crease alone from a point in it: walls and box are as they were, the depth is not measured."""
    scans = Scans(NOISY.scans().prep)
    with pytest.raises(UnfitScans, match="give a point in it"):
        measure(scans, facing(TOOTH, restoration="onlay"))
    geometry = measure(scans, facing(TOOTH, restoration="onlay", near=np.array([0.0, 0.0, NOISY.floor_mm])))
    cut = cut_of(geometry)
    assert wall(geometry, "wall/facial") == pytest.approx(6.0, abs=1.0)
    assert cut.floor is not None
    assert cut.floor.depth_median_mm is None
    assert np.isnan(cut.contacts.away).all()


def test_the_outline_follows_a_hand() -> None:
    """A stroke that takes in 0.6 mm of the lingual slope widens the cut by it; the rest of the outline stays."""
    survey = survey_of(NOISY)
    line = survey.found
    x = np.linspace(-1.5, 1.0, 30)
    y, z = NOISY.outline("lingual", x)
    y = y - 0.6 * np.sin(np.linspace(0, np.pi, 30))
    z = NOISY.roof(x, y)
    drawn = redrawn(survey, line, np.stack([x, y, z], axis=1), snap=False, closed=False)
    assert drawn.drawn.sum() > 15
    areas, before = survey.eased.vertex_areas, bounded(survey, line.points, line.drawn)
    more = areas[drawn.mask].sum() - areas[before.mask].sum()
    assert 0.5 < more < 2.0
    again = bounded(survey, drawn.points, drawn.drawn)
    assert np.abs(survey.eased.vertex_areas[again.mask].sum() - survey.eased.vertex_areas[drawn.mask].sum()) < 0.5
    with pytest.raises(BadOption, match="too short"):
        redrawn(survey, line, np.array([[0.0, -1.4, 5.6], [0.1, -1.4, 5.6]]), snap=False, closed=False)
    with pytest.raises(BadOption, match="leaves the tooth"):
        bounded(survey, drawn.points + [0, 0, 9.0], drawn.drawn)


@pytest.mark.long
def test_a_line_drawn_just_as_found_changes_nothing() -> None:
    """Given back by hand, the outline gives the same depth and isthmus."""
    line = measured(NOISY).line
    assert isinstance(line, OutlineLine)
    hand = HandLine(line.points, np.zeros(len(line.points), dtype=bool))
    again = cut_of(measure(NOISY.scans(), facing(TOOTH, restoration="onlay", line=hand)))
    here = cut_of(measured(NOISY))
    assert again.floor is not None
    assert here.floor is not None
    assert again.floor.depth_median_mm == pytest.approx(here.floor.depth_median_mm, abs=0.02)
    assert again.isthmus is not None
    assert here.isthmus is not None
    assert again.isthmus.width_mm == pytest.approx(here.isthmus.width_mm, abs=0.06)


def test_the_order_of_triangles_does_not_matter() -> None:
    """The same surface shuffled gives the same figures."""
    random = np.random.default_rng(3)
    scans = NOISY.scans()

    def shuffled(surface: Surface) -> Surface:
        order = random.permutation(surface.n_vertices)
        place = np.argsort(order)
        return Surface(surface.vertices[order], place[random.permutation(surface.faces)])

    assert scans.preop is not None
    again = cut_of(measure(Scans(shuffled(scans.prep), shuffled(scans.preop)), facing(TOOTH, restoration="onlay")))
    here = cut_of(measured(NOISY))
    assert again.floor is not None
    assert here.floor is not None
    assert again.floor.depth_low_mm == pytest.approx(here.floor.depth_low_mm, abs=0.005)
    for a, b in zip(again.walls, here.walls, strict=True):
        assert a.divergence_deg == pytest.approx(b.divergence_deg, abs=0.05), a.zone
    assert again.isthmus is not None
    assert here.isthmus is not None
    assert again.isthmus.width_mm == pytest.approx(here.isthmus.width_mm, abs=0.005)
    for c, d in zip(again.cusps, here.cusps, strict=True):
        assert c.base_mm == pytest.approx(d.base_mm, abs=0.005), c.cusp


@pytest.mark.long
def test_a_simulated_stroke_deepens_the_floor() -> None:
    """0.4 mm over the whole floor: it reads 0.4 deeper, and the tooth is measured as it would be."""
    from vane_line.core import kinds
    from vane_line.core.case import complete, prepare
    from vane_line.core.placed import place
    from vane_line.core.predict import Stroke, cut_by

    shallow = replace(NOISY, floor_mm=4.2)
    options = facing(TOOTH, restoration="onlay")
    found = place(shallow.scans(), options, lambda _t, _s: None, kinds.of("onlay").reader.find)
    x = np.linspace(-2.5, 3.0, 40)
    strokes = [
        Stroke(np.stack([x, np.full(40, y), np.full(40, shallow.floor_mm)], axis=1), 0.4, 1.2)
        for y in (-0.7, -0.2, 0.3, 0.8)
    ]
    cut = cut_by(found, strokes, TOOTH)
    before = cut_of(complete(prepare(found, options), options)).floor
    after = cut_of(complete(prepare(cut.placed, options), options)).floor
    assert before is not None
    assert after is not None
    assert before.depth_low_mm is not None
    assert after.depth_low_mm is not None
    assert after.depth_low_mm - before.depth_low_mm == pytest.approx(0.4, abs=0.05)
    assert 4.0 < cut.removed_mm3 < 9.0


def survey_of(cavity: Cavity) -> OutlineSurvey:
    """The survey that an edit by hand begins from."""
    from vane_line.core import kinds
    from vane_line.core.case import prepare
    from vane_line.core.placed import place

    options = facing(TOOTH, restoration="onlay")
    found = prepare(place(cavity.scans(), options, lambda _t, _s: None, kinds.of("onlay").reader.find), options).survey
    assert isinstance(found, OutlineSurvey)
    return found


def test_moving_keeps_places_on_the_scan() -> None:
    """Places that are told lie on the preparation's scan."""
    geometry = measured(NOISY)
    prep = NOISY.prep()
    cut = cut_of(geometry)
    places = [b.at for b in cut.boxes] + [cut.floor.at if cut.floor else (0.0, 0.0, 0.0)]
    assert prep.closest(move(np.eye(4), np.array(places)))[0].max() < 0.1


@pytest.mark.long
def test_boxes_on_both_sides_leave_no_end_walls() -> None:
    """Through mesial and distal: two boxes alike, facing walls facially and lingually only."""
    cavity = replace(NOISY, also_distal=True, distal_wall_mm=5.5)
    cut = cut_of(measured(cavity))
    assert {b.side for b in cut.boxes} == {"mesial", "distal"}
    for box in cut.boxes:
        assert box.depth_mm == pytest.approx(cavity.box_depth_mm, abs=0.1)
    assert cut.sums["mesiodistal"] is None
    assert cut.sums["faciolingual"] == pytest.approx(12.0, abs=1.0)


def sheet(x: Floats, y: Floats, z: Floats) -> Surface:
    """A height field over a grid, each (I, K)."""
    index = np.arange(x.size).reshape(x.shape)
    a, b, c, d = (part.ravel() for part in (index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]))
    corners = np.stack([x.ravel(), y.ravel(), z.ravel()], axis=1)
    return Surface(corners, np.concatenate([np.stack([a, b, c], axis=1), np.stack([a, c, d], axis=1)]))


class TestWhatWasCut:
    """A small inlay is no more than the gingiva that a retraction cord pressed aside."""

    def test_the_part_about_the_middle_is_the_cavity(self) -> None:
        """Of two hollows under the earlier scan the nearer one, though the other is larger; dust beside it is none."""
        x, y = np.meshgrid(np.arange(-6, 10, 0.2), np.arange(-6, 6, 0.2), indexing="ij")
        hollows = [((0.0, 0.0), 1.5, -1.0), ((6.0, 0.0), 2.5, -1.0), ((-2.5, 0.0), 0.35, -0.6)]
        z = np.zeros_like(x)
        for (cx, cy), radius, deep in hollows:
            z[np.hypot(x - cx, y - cy) < radius] = deep
        flat, dented = (sheet(x, y, level) for level in (np.zeros_like(x), z))
        for middle, (place, _, _) in (((-0.9, 0, -1.0), hollows[0]), ((5.0, 0, -1.0), hollows[1])):
            told = dented.vertices[under_earlier(dented, flat, np.array(middle, dtype=float), 0.35)]
            assert len(told) > 50
            assert np.allclose(told.mean(axis=0)[:2], place, atol=0.1)


class TestOutlineNotSeen:
    """Where the outline is a guess, what lies inside of it is none of the judgement's business."""

    def test_nothing_inside_is_judged(self) -> None:
        """Over 30 % without an edge: every measure of the cavity says why; under it they stand."""
        geometry = measured(NOISY)
        standard = choose("lithium-disilicate", "onlay", None, TOOTH)
        names = {"cusp-thickness", "cavity-depth", "isthmus", "divergence", "box-depth", "contact-clearance"}

        def said(geometry: Geometry) -> set[str]:
            return {v.criterion for v in judge(geometry, standard).verdicts if v.status != "not-measured"} & names

        line = geometry.line
        for share, expected in ((0.2, names), (0.4, set())):
            clear = np.arange(len(line.points)) >= share * len(line.points)
            assert said(replace(geometry, line=replace(line, clear=clear))) == expected


@pytest.mark.long
def test_a_low_wall_has_no_lean() -> None:
    """Of a box whose axial wall is 1.05 mm high nobody says how it leans, however finely it was scanned; at 2 mm it
    leans by its 6 degrees (fillets are no part of it)."""
    standard = choose("lithium-disilicate", "onlay", None, TOOTH)
    for below, grid, told in ((1.05, 0.12, False), (1.05, 0.24, False), (2.0, 0.12, True)):
        box = replace(
            PLAIN,
            box_below_mm=below,
            inner_mm=0.45,
            box_half_mm=1.4,
            facial_wall_mm=1.8,
            lingual_wall_mm=1.6,
            grid_mm=grid,
        )
        rows = [v for v in judge(measured(box), standard).verdicts
                if v.criterion == "divergence" and v.zone == "box/mesial/distal"]  # fmt: skip
        assert rows
        assert all((v.status != "not-measured") == told for v in rows)
        if told:
            assert rows[0].value == pytest.approx(box.divergence_deg.get("axial", box.usual_deg), abs=1.0)
