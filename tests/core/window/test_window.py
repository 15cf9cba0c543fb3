"""Veneer preparations against solids whose every dimension is known in closed form (`windows.Window`)."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from calibration_windows import told
from cavities import Cavity
from long import first
from solids import Stump, facing, turned
from windows import CuspWindow, Window

from vane_line.core.case import Geometry, complete, measure, prepare
from vane_line.core.judge.judgement import hold, judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.kinds.window import WindowCut
from vane_line.core.options import HandLine, Options
from vane_line.core.outline.by_hand import bounded, redrawn
from vane_line.core.outline.line import OutlineLine, OutlineSurvey
from vane_line.core.placed import locate_centre, place
from vane_line.core.predict import Stroke, cut_by
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.window.forms import END_MM, fallen
from vane_line.core.window.ledge import form_of
from vane_line.core.window.survey import FACE
from vane_line.demo.scanner import placed
from vane_line.errors import BadOption, UnfitScans

TOOTH = ToothNumber("11")
BUTT = Window(noise_um=8.0)
WRAP = Window(noise_um=8.0, wrap_mm=1.0, planes_deg=12.0, mesial_end_mm=-0.8)
ON_FACE = Window(noise_um=8.0, incisal_mm=0.0, below_edge_mm=2.0)
SPOON = Window(noise_um=8.0, distal_side_mm=1.1, facet_deg=105.0, mocked=True, thicker_mm=0.3, longer_mm=1.2)


@cache
def measured(window: Window) -> Geometry:
    return measure(window.scans(), facing(TOOTH, restoration="veneer"))


def cut_of(geometry: Geometry) -> WindowCut:
    assert isinstance(geometry.cut, WindowCut)
    return geometry.cut


def zone(geometry: Geometry, name: str) -> float:
    held, _ = hold(geometry, choose("lithium-disilicate", "veneer", None, TOOTH))
    assert held.space is not None
    value = next(z.median_mm for z in held.space.zones if z.zone == name)
    assert value is not None
    return value


@pytest.mark.parametrize("third", ["cervical", "middle", "incisal"])
def test_depth_of_the_face_is_what_was_cut(third: str) -> None:
    """Median of each third within 10 µm; through a mock-up space and tooth removed differ by its thickness."""
    assert zone(measured(BUTT), f"facial/{third}") == pytest.approx(0.5, abs=0.01)
    through = measured(SPOON)
    assert through.reference == "mockup"
    assert zone(through, f"facial/{third}") == pytest.approx(0.8, abs=0.015)
    assert through.tooth_removed is not None
    assert np.median(through.tooth_removed.value) == pytest.approx(0.5, abs=0.02)


@pytest.mark.long
def test_zones_are_those_of_a_veneer() -> None:
    """Thirds of the face, the edge, the sides; what wraps over the edge only where it does."""
    plain, wrapped = (hold(measured(w), choose("lithium-disilicate", "veneer", None, TOOTH))[0].zones.names
                      for w in (BUTT, WRAP))  # fmt: skip
    faces = {f"facial/{t}" for t in ("cervical", "middle", "incisal")}
    assert set(plain) == faces | {"incisal-edge", "proximal/mesial", "proximal/distal", "finish-line-band"}
    assert set(wrapped) == set(plain) | {"wrap"}


@pytest.mark.parametrize(
    ("window", "facial", "mesial", "distal"), [(BUTT, 0.5, 0.4, 0.4), (WRAP, 0.5, 0.4, 0.4), (SPOON, 0.5, 0.4, 1.1)]
)
def test_the_ledge_is_as_deep_as_the_cut_at_the_line(
    window: Window, facial: float, mesial: float, distal: float
) -> None:
    """Median of each stretch within 20 µm; a butt has no ledge along the edge."""
    cut = cut_of(measured(window))
    for here, true in ((cut.where.neck, facial), (cut.where.mesial, mesial), (cut.where.distal, distal)):
        assert float(np.nanmedian(cut.widths[here])) == pytest.approx(true, abs=0.02)
    assert np.isnan(cut.widths[cut.where.edge]).all()
    assert cut.where.edge.any() == (window.wrap_mm == 0)


@pytest.mark.parametrize("strip_mm", [0.45, pytest.param(0.6, marks=pytest.mark.long)])
def test_a_narrow_strip_left_at_the_neck_is_not_cut_on_a_coarse_scan(strip_mm: float) -> None:
    """Two rows of vertices between the ledge and gingiva that was pressed down: the line stays on the ledge, which is
    nowhere told narrower than it is; down on the gingiva there is none."""
    coarse = Window(noise_um=8.0, grid_mm=0.28, depth_mm=0.36, side_mm=0.36, neck_mm=1.0, gingiva_mm=1.0 - strip_mm,
                    inner_mm=0.25, seed=1)  # fmt: skip
    cut = cut_of(measured(coarse))
    assert float(np.nanquantile(cut.widths[cut.where.neck], 0.02)) == pytest.approx(0.36, abs=0.05)


def test_a_slope_is_told_from_few_rows_as_surely_as_they_tell_it() -> None:
    """Of a facet that falls to the side as well: within twice its standard uncertainty in 19 of 20, of two rows as of
    five; from one row there is hardly any."""
    random, misses = np.random.default_rng(33), 0
    for k in range(200):
        rows = 0.19 * np.arange(2 + k % 4)
        x, y = (v.ravel() for v in np.meshgrid(rows, np.arange(-0.8, 0.81, 0.1)))
        slope, across = random.uniform(-0.4, 0.4), random.uniform(-0.2, 0.2)
        uneven = 0.004 * random.standard_normal(len(rows))  # of a row as a whole, as smoothing leaves it
        z = slope * x + across * y + np.tile(uneven, 17) + 0.003 * random.standard_normal(len(x))
        _, found, u_deg = fallen(x - x.mean(), y, z, random.uniform(0.3, 1.0, len(x)))
        misses += abs(np.degrees(np.arctan(found) - np.arctan(slope))) > 2 * u_deg
    assert misses <= 10
    one_row = 0.01 * random.standard_normal(17)
    assert fallen(one_row, np.linspace(-0.8, 0.8, 17), 0.1 * np.linspace(-0.8, 0.8, 17), np.ones(17))[2] > 15.0


def test_incisal_ends_are_told_apart_and_measured() -> None:
    """Butt, its angle within a degree; wrap, length and depth within 0.1; window; the edge's loss within 30 µm."""
    butt, tilted, wrap, face = (cut_of(measured(w)).incisal for w in (BUTT, SPOON, WRAP, ON_FACE))
    assert butt is not None and tilted is not None and wrap is not None and face is not None  # noqa: PT018
    assert (butt.form, tilted.form, wrap.form, face.form) == ("butt", "butt", "wrap", "window")
    assert butt.angle_deg == pytest.approx(90.0, abs=1.0)
    assert tilted.angle_deg == pytest.approx(105.0, abs=1.0)
    assert butt.reduction_mm == pytest.approx(1.5, abs=0.03)
    assert tilted.longer_mm == pytest.approx(1.2, abs=0.02)
    assert wrap.wrap_length_mm == pytest.approx(1.0, abs=0.1)
    assert wrap.wrap_depth_mm == pytest.approx(0.5, abs=0.05)
    assert face.reduction_mm is None


@pytest.mark.long
@pytest.mark.parametrize("mirrored", [True, False])
def test_a_cut_that_ends_on_a_cusp_s_inner_slope_wraps_over_it(mirrored: bool) -> None:
    """It is no butt, though it goes level over the cusp: what the ridge loses within 30 µm, how far the veneer reaches
    down behind it within 0.1, how deep the cut ends within 0.05; at the sides no ledge is told up the ridge."""
    solid, tooth = CuspWindow(noise_um=8.0, incisal_mm=1.7), ToothNumber("14" if mirrored else "24")
    matrix = turned((0.2, -0.5, 0.7), 140.0, (3.0, -8.0, 2.0))
    if mirrored:
        matrix = matrix @ np.diag([-1.0, 1.0, 1.0, 1.0])
    options = Options(tooth, restoration="veneer", occlusal=matrix[:3, 2], facial=matrix[:3, 1])
    scans = solid.scans()
    assert scans.preop is not None
    there = Scans(placed(scans.prep, matrix), placed(scans.preop, matrix), None, None)
    geometry = measure(there, options)
    incisal = cut_of(geometry).incisal
    assert incisal is not None
    assert incisal.form == "wrap"
    assert incisal.reduction_mm == pytest.approx(1.7, abs=0.03)
    assert incisal.wrap_length_mm == pytest.approx(solid.wrap_length_mm, abs=0.1)
    assert incisal.wrap_depth_mm == pytest.approx(solid.end_depth_mm(END_MM), abs=0.05)
    told = judge(geometry, choose("lithium-disilicate", "veneer", None, tooth)).verdicts
    assert not any(v.criterion == "wrap" and v.bound == "max" for v in told)
    assert {s.side for s in cut_of(geometry).scoops} <= {"mesial", "distal"}
    assert all(s.width_mm == pytest.approx(0.4, abs=0.1) for s in cut_of(geometry).scoops)


@pytest.mark.long
def test_a_face_cut_to_the_edge_and_no_further_is_a_feather() -> None:
    """The tooth keeps its length; nothing behind the edge is cut."""
    incisal = cut_of(measured(Window(noise_um=8.0, incisal_mm=0.02, facet_deg=90.0))).incisal
    assert incisal is not None
    assert incisal.form == "feather"
    assert incisal.angle_deg is None


def test_planes_of_the_face() -> None:
    """A plane face has one, a face bent by 12 degrees two, each angle within 1.5 degrees."""
    assert cut_of(measured(BUTT)).planes.angles_deg == pytest.approx([0.0], abs=1.5)
    assert cut_of(measured(WRAP)).planes.angles_deg == pytest.approx([0.0, 12.0], abs=1.5)


def test_scoops_beside_the_contacts() -> None:
    """A hollow 1.1 wide is a scoop of 1.1; its plain neighbour is as wide as its ledge."""
    found = {s.side: s.width_mm for s in cut_of(measured(SPOON)).scoops}
    assert found["distal"] == pytest.approx(1.1, abs=0.05)
    assert found["mesial"] == pytest.approx(0.4, abs=0.1)
    assert set(found) == {"mesial", "distal"}
    assert {s.side for s in cut_of(measured(WRAP)).scoops} == {"mesial", "distal", "lingual"}


def test_where_the_line_ends_beside_the_contact() -> None:
    """The neighbours' nearest place is 0.35 behind the middle: short of it by 1.35, or past it by 0.45."""
    short, past = cut_of(measured(BUTT)).endings, cut_of(measured(WRAP)).endings
    assert [e.side for e in short] == ["mesial", "distal"]
    assert short[0].past_contact_mm == pytest.approx(-1.35, abs=0.25)
    assert past[0].past_contact_mm == pytest.approx(0.45, abs=0.25)


@pytest.mark.long
def test_beside_a_wide_gap_no_contact_is_told() -> None:
    """Said why; the rest is measured."""
    alone = cut_of(measured(Window(noise_um=8.0, gap_mm=3.0)))
    assert [e.past_contact_mm for e in alone.endings] == [None, None]
    assert all(e.why for e in alone.endings)
    assert alone.incisal is not None


@pytest.mark.long
def test_the_path_is_free_where_one_is() -> None:
    """A window that ends on the face draws straight forward, a wrapped one along the tooth; neither has an undercut.
    Along the other's path the ledge that faces away is one, as deep as it is wide."""
    forward, along = measured(ON_FACE), measured(WRAP)
    assert forward.path.direction @ [0, 1, 0] > np.cos(np.radians(8))
    assert along.path.direction @ [0, 0, 1] > np.cos(np.radians(25))
    assert max((r.max_depth_mm for r in forward.cut.undercuts), default=0.0) < 0.05
    assert max((r.max_depth_mm for r in along.cut.undercuts), default=0.0) < 0.05
    window = replace(ON_FACE, seed=ON_FACE.seed)
    upward = measure(window.scans(), facing(TOOTH, restoration="veneer", path=np.array([0.0, 0, 1])))
    assert max(r.max_depth_mm for r in upward.cut.undercuts) == pytest.approx(0.5, abs=0.1)
    assert upward.path.source == "given"
    judged = judge(upward, choose("lithium-disilicate", "veneer", None, TOOTH))
    assert any(c.stage == "undercut" and "overhang" in c.do for c in judged.corrections)  # a wall of no crown


def test_the_neck_s_line_stands_over_the_gingiva_by_what_it_was_cut() -> None:
    """2.0 above the block's foot, the gingiva at 0.3."""
    cut = cut_of(measured(BUTT))
    assert cut.gingiva_source == "earlier scan"
    assert float(np.nanmedian(cut.above_gingiva_mm)) == pytest.approx(1.7, abs=0.1)


@pytest.mark.long
def test_in_any_position_and_on_the_other_side_of_the_mouth() -> None:
    """The same scans turned, and mirrored for a left tooth: every figure within 10 µm, a contact's within its U."""
    plain, scans = cut_of(measured(BUTT)), BUTT.scans()
    matrix = turned((1.0, 2.0, -0.5), 130.0, (40.0, -25.0, 12.0))
    axes = {"occlusal": matrix[:3, 2], "facial": matrix[:3, 1]}
    assert scans.preop is not None
    there = Scans(placed(scans.prep, matrix), placed(scans.preop, matrix), None, None)
    other = np.diag([-1.0, 1, 1, 1])
    flipped = Scans(placed(scans.prep, other), placed(scans.preop, other), None, None)
    for found in (
        measure(there, Options(TOOTH, restoration="veneer", **axes)),  # type: ignore[arg-type]
        measure(flipped, facing(ToothNumber("21"), restoration="veneer")),
    ):
        cut = cut_of(found)
        assert cut.incisal is not None and plain.incisal is not None  # noqa: PT018
        assert cut.incisal.reduction_mm == pytest.approx(plain.incisal.reduction_mm, abs=0.01)
        assert cut.incisal.angle_deg == pytest.approx(plain.incisal.angle_deg, abs=0.1)
        for name in ("neck", "mesial", "distal"):
            mine, theirs = (float(np.nanmedian(c.widths[getattr(c.where, name)])) for c in (cut, plain))
            assert mine == pytest.approx(theirs, abs=0.01), name
        assert zone(found, "facial/middle") == pytest.approx(0.5, abs=0.01)


def test_a_line_drawn_by_hand_stays_where_it_was_put() -> None:
    """The whole line as found drawn again holds the same cut; a stretch is put where the stroke goes."""
    options = facing(TOOTH, restoration="veneer")
    here = place(BUTT.scans(), options, lambda _text, _share: None, FACE.centre)
    found = FACE.survey(here, options)
    assert isinstance(found, OutlineSurvey)
    line = found.found
    assert isinstance(line, OutlineLine)
    again = bounded(found, line.points, np.ones(len(line.points), dtype=bool))
    area = here.eased.vertex_areas
    assert area[again.mask].sum() == pytest.approx(area[line.mask].sum(), rel=0.03)
    x = np.linspace(-1.5, 1.5, 16)
    stroke = np.stack([x, np.full(16, 3.2), np.full(16, 1.6)], axis=1)
    lower = redrawn(found, line, stroke, snap=False, closed=False)
    assert lower.drawn.sum() > 20
    assert float(np.median(lower.points[lower.drawn][:, 2])) == pytest.approx(1.6, abs=0.05)


def test_a_veneer_is_no_crown() -> None:
    """The line followed all round its cut runs along the incisal edge, where no wall stands over it: refused, with how
    much of it."""
    with pytest.raises(UnfitScans, match=r"looks like an inlay, an onlay, a veneer .* over [34]\d % of its length"):
        measure(BUTT.scans(), facing(TOOTH, restoration="full-crown"))


@pytest.mark.long
def test_a_veneer_drawn_as_a_crown_s_line_is_said_to_be_none() -> None:
    options = facing(TOOTH, restoration="full-crown")
    prepared = prepare(place(BUTT.scans(), options, lambda _text, _share: None, locate_centre), options)
    around = prepared.survey.found.points
    drawn = HandLine(around, np.ones(len(around), dtype=bool))
    found = complete(prepared, replace(options, line=drawn))
    assert any("no wall above it" in w for w in found.warnings)


@pytest.mark.long
def test_the_wrong_kind_is_told_and_what_is_missing_is_asked_for() -> None:
    """A crown's stump is no veneer, nor is an onlay; without the scan before, a point on the face is asked for."""
    with pytest.raises(UnfitScans, match="looks like a full crown"):
        measure(Stump(noise_um=8.0).scans(), facing(TOOTH, restoration="veneer"))
    with pytest.raises(UnfitScans, match="looks like a full crown, an inlay or an onlay"):
        measure(Cavity(noise_um=9.0, grid_mm=0.18).scans(), facing(ToothNumber("37"), restoration="veneer"))
    bare = Scans(BUTT.prep(), None, None, None)
    with pytest.raises(UnfitScans, match="point on its face"):
        measure(bare, facing(TOOTH, restoration="veneer"))
    with pytest.raises(BadOption, match="15 mm"):
        measure(bare, facing(TOOTH, restoration="veneer", near=np.array([0.0, 40, 4])))


def test_without_the_scan_before_the_ledge_is_not_told() -> None:
    """The line is found by its edge; depth, ledge and contact are said to be unknown, the form of the edge is not."""
    bare = Scans(BUTT.prep(), None, None, None)
    found = measure(bare, facing(TOOTH, restoration="veneer", near=np.array([0.0, 2.7, 5.0])))
    cut = cut_of(found)
    assert np.isnan(cut.widths).all()
    assert "scan before" in cut.why_no_widths
    assert found.space is None
    assert all(e.past_contact_mm is None for e in cut.endings)
    away = np.abs(found.line.points[:, 2] - 2.0)[np.abs(found.line.points[:, 0]) < 2]
    assert away.min() < 0.15


@pytest.mark.parametrize(
    ("width", "angle", "form"),
    [(0.05, 100.0, "feather"), (0.4, 155.0, "feather"), (0.4, 145.0, "bevelled"), (0.4, 100.0, "chamfer"),
     (0.9, 100.0, "heavy-chamfer"), (0.4, float("nan"), "chamfer"), (float("nan"), 90.0, "")],
)  # fmt: skip
def test_names_of_forms(width: float, angle: float, form: str) -> None:
    assert form_of(width, angle) == form


@pytest.mark.long
def test_the_same_surface_in_another_order_gives_the_same_figures() -> None:
    """Vertices and triangles shuffled: within 5 µm and 0.05 degree."""
    scans, random = BUTT.scans(), np.random.default_rng(3)
    assert scans.preop is not None

    def shuffled(surface):  # type: ignore[no-untyped-def]
        order = random.permutation(surface.n_vertices)
        where = np.empty_like(order)
        where[order] = np.arange(len(order))
        return type(surface)(surface.vertices[order], where[surface.faces][random.permutation(surface.n_faces)])

    found = measure(Scans(shuffled(scans.prep), shuffled(scans.preop), None, None), facing(TOOTH, restoration="veneer"))
    mine, theirs = cut_of(found), cut_of(measured(BUTT))
    assert mine.incisal is not None and theirs.incisal is not None  # noqa: PT018
    assert mine.incisal.reduction_mm == pytest.approx(theirs.incisal.reduction_mm, abs=0.005)
    assert mine.incisal.angle_deg == pytest.approx(theirs.incisal.angle_deg, abs=0.05)
    assert mine.planes.angles_deg == pytest.approx(theirs.planes.angles_deg, abs=0.05)
    for a, b in zip(mine.endings, theirs.endings, strict=True):
        assert a.past_contact_mm == pytest.approx(b.past_contact_mm, abs=0.005)
    for a, b in zip(mine.scoops, theirs.scoops, strict=True):
        assert a.width_mm == pytest.approx(b.width_mm, abs=0.005)


@pytest.mark.long
@pytest.mark.parametrize("seed", first(1, 900, 901, 902, 903))
def test_u_covers_windows_of_random_form(seed: int) -> None:
    """On seeds that nothing was fitted on (docs/uncertainty.md has sixty)."""
    for name, (error, u) in told(seed).errors.items():
        assert abs(error) <= u, (name, error, u)


@pytest.mark.long
def test_a_simulated_stroke_deepens_the_face() -> None:
    """0.3 mm over the face's middle: it reads so much deeper there, and the tooth is measured as it would be."""
    options = facing(TOOTH, restoration="veneer")
    found = place(BUTT.scans(), options, lambda _text, _share: None, FACE.centre)
    z = np.linspace(4.2, 7.4, 30)
    strokes = [
        Stroke(np.stack([np.full(30, x), np.full(30, BUTT.facial_mm - BUTT.depth_mm), z], axis=1), 0.3, 1.2)
        for x in np.arange(-2.8, 2.81, 0.4)
    ]
    cut = cut_by(found, strokes, TOOTH)
    after = complete(prepare(cut.placed, options), options)
    assert 3.0 < cut.removed_mm3 < 10.0
    assert zone(after, "facial/middle") - zone(measured(BUTT), "facial/middle") == pytest.approx(0.3, abs=0.06)
