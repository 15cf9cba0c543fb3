"""The demo's veneer: teeth over the arch's middle, the cut, the mock-up, and what is measured of them."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from made import coarse, kept_case
from scipy.spatial import cKDTree

from vane_line.core.case import Geometry, measure
from vane_line.core.judge.judgement import Judgement, judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.kinds.window import WindowCut
from vane_line.core.options import Options
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.anatomy import Tooth
from vane_line.demo.arch import stand
from vane_line.demo.cases import MadeCase
from vane_line.demo.recipes import mocked_up_central, mocked_up_centrals
from vane_line.demo.window import FaceCut, MockUp

TOOTH = ToothNumber("21")
FINE_MM = 0.13


def made() -> MadeCase:
    recipe = mocked_up_central()
    return kept_case("veneer-21", coarse(recipe))


@cache
def told() -> tuple[Geometry, Judgement]:
    case = made()
    options = Options(TOOTH, restoration="veneer", opposing_frame="preop")
    geometry = measure(Scans(case.prep, case.preop, case.mockup, case.opposing), options)
    return geometry, judge(geometry, choose("lithium-disilicate", "veneer", None, TOOTH))


def test_the_first_tooth_of_the_other_side_is_the_mirror_of_this_one() -> None:
    """Stood over the arch's middle, as far off as asked, its mesial side to the middle as this one's is."""
    teeth = stand(["01", "11", "12"], "11", True, 0.0, midline_mm=0.7)
    mine, other = teeth["11"], teeth["01"]
    assert other.mirrored
    assert not mine.mirrored
    assert other.tooth.number == "11"
    local = np.array([[other.tooth.size[1] / 2, 0.0, 5.0]])  # its own mesial side
    ours = np.array([[mine.tooth.size[1] / 2, 0.0, 5.0]])
    assert np.linalg.norm(other.to_arch(local) - mine.to_arch(ours)) == pytest.approx(0.7, abs=0.35)
    np.testing.assert_allclose(other.to_local(other.to_arch(local)), local, atol=1e-9)


def test_a_face_is_cut_to_its_depths_and_its_edge_by_what_was_asked() -> None:
    """Points under the surface by less are gone, by more are there; the mock-up stands over the edge."""
    tooth = Tooth("11")
    length = tooth.size[0]
    cut = FaceCut((0.6, 0.5, 0.4), 0.3, 0.8, 0.8, 1.2, (0.3, 0.3))(tooth)
    mock = MockUp(1.0, 0.0, 0.0)(tooth)
    y = float(tooth.surface_radius(np.array([0.0]), np.array([length / 2]), np.zeros(2))[0])
    inside = np.array([[0.0, y - 0.4, length / 2], [0.0, y - 0.62, length / 2], [0.0, 0.9, length - 0.5]])
    gone = cut(inside) > 0
    assert gone.tolist() == [True, False, True]
    assert mock(np.array([[0.0, 0.9, length + 0.5]]))[0] < 0
    assert tooth(np.array([[0.0, 0.9, length + 0.5]]))[0] > 0


@pytest.mark.long
def test_the_line_is_found_where_it_was_cut() -> None:
    """Median within 0.15 mm of where cut and tooth meet, on the coarse scan."""
    geometry, _ = told()
    away, _ = cKDTree(np.array(made().truth["outline"])).query(geometry.line.points)
    assert np.median(away) < 0.15
    assert geometry.line.closed


@pytest.mark.long
def test_its_thirds_edge_and_scoop_are_those_of_its_story() -> None:
    """Depths within 0.06 of the burs' (a third is no single depth), room to the mock-up by its fullness more; the edge
    by what it was cut and lengthened; a scoop distally alone; over-cut at the neck; nothing short."""
    geometry, found = told()
    cut, truth = geometry.cut, made().truth
    assert isinstance(cut, WindowCut)
    assert geometry.reference == "mockup"
    assert found.removed is not None
    assert found.space is not None
    for third, made_mm in zip(("cervical", "middle", "incisal"), truth["thirds_mm"], strict=True):
        removed, space = (
            next(z.median_mm for z in field.zones if z.zone == f"facial/{third}")
            for field in (found.removed, found.space)
        )
        assert removed == pytest.approx(made_mm, abs=0.06)
        assert space is not None
        assert space - removed > 0.2
    assert cut.incisal is not None
    assert cut.incisal.form == "butt"
    assert cut.incisal.reduction_mm == pytest.approx(truth["incisal_mm"] + cut.incisal.longer_mm, abs=0.15)
    proven = {(v.criterion, v.zone, v.status) for v in found.verdicts if v.status in ("short", "over")}
    assert ("scoop", "proximal/distal", "over") in proven
    assert ("tooth-removed", "facial/cervical", "over") in proven
    assert not any(criterion == "scoop" and zone == "proximal/mesial" for criterion, zone, _ in proven)
    assert not any(c in ("reduction", "incisal-reduction", "clearance", "bite") for c, _, _ in proven)


@pytest.mark.long
def test_upper_front_teeth_close_in_front_of_the_lower_ones() -> None:
    """Their edges meet nothing, the lower ones meet their backs: the bite is right, the tooth not short of it."""
    geometry, _ = told()
    assert geometry.bite is not None
    assert geometry.bite.ok
    assert not any("short of the bite" in w for w in geometry.warnings)


@pytest.mark.long
def test_two_veneers_beside_each_other_are_told_apart() -> None:
    """21 and 11 through one mock-up, cut in one go: each number finds its own tooth, without a point on it, and the
    other's cut is no nick."""
    recipe = mocked_up_centrals()
    case = kept_case("veneers-21-11", coarse(recipe))
    places = {"21": case.stands["centre"], "11": case.stands["also"]["11"]["centre"]}
    for tooth, other in (("21", "11"), ("11", "21")):
        options = Options(ToothNumber(tooth), restoration="veneer", others=(ToothNumber(other),))
        found = measure(Scans(case.prep, case.preop), options)
        middle = found.line.points.mean(axis=0)
        assert np.linalg.norm(middle - places[tooth]) < 4.0
        assert np.linalg.norm(middle - places[tooth]) < np.linalg.norm(middle - places[other])
        beside = next(n for n in found.neighbours if n.side == "mesial")
        assert beside.nick_depth_mm is None
        assert "prepared too" in beside.why


@pytest.mark.long
def test_a_papilla_pressed_down_beside_a_veneer_is_no_cut() -> None:
    """On a fine scan of two veneers the valleys between teeth are shallow: the line of the 11 stays on the 11, and no
    undercut is told that nobody made."""
    recipe = mocked_up_centrals()
    case = kept_case("veneers-21-11-fine", replace(recipe, scan=replace(recipe.scan, grid_mm=FINE_MM)))
    options = Options(ToothNumber("11"), restoration="veneer", others=(ToothNumber("21"),))
    found = measure(Scans(case.prep, case.preop, case.mockup), options)
    away, _ = cKDTree(np.array(case.truth["also"]["11"]["outline"])).query(found.line.points)
    assert np.median(away) < 0.1
    assert away.max() < 0.5
    assert isinstance(found.cut, WindowCut)
    assert max((r.max_depth_mm for r in found.cut.regions), default=0.0) < 0.05
