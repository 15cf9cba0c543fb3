"""Path of insertion on cones whose axis is known."""

from __future__ import annotations

from itertools import cycle

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from long import first
from solids import Stump, facing

from vane_line.core import survey
from vane_line.core.case import UNSETTLED_PATH, Geometry, measure
from vane_line.core.measure.path import Path, best_path, draft_deg, least_draft
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.vectors import unit

UP, SIDE = np.array([0.0, 0, 1]), np.array([1.0, 0, 0])


def cone_normals(taper_deg: float, axis: np.ndarray, count: int = 720) -> np.ndarray:
    """Normals of a cone that tapers by `taper_deg` about `axis`."""
    side = unit(np.cross(axis, [1.0, 0.2, 0]))
    other = np.cross(axis, side)
    a = np.linspace(0, 2 * np.pi, count, endpoint=False)[:, None]
    t = np.radians(taper_deg)
    return np.cos(t) * (np.cos(a) * side + np.sin(a) * other) + np.sin(t) * axis


@given(taper=st.floats(2, 25), tilt=st.floats(0, 18), turn=st.floats(0, 360))
@settings(max_examples=25)
def test_the_axis_of_a_cone_is_its_best_path(taper: float, tilt: float, turn: float) -> None:
    """Found within 0.3 degrees however the tooth's own axis leans, and its draft is the taper."""
    t, a = np.radians(tilt), np.radians(turn)
    axis = np.array([np.sin(t) * np.cos(a), np.sin(t) * np.sin(a), np.cos(t)])
    normals = cone_normals(taper, axis)
    path = best_path(normals, np.ones(len(normals)), UP, SIDE)
    assert np.degrees(np.arccos(np.clip(path.direction @ axis, -1, 1))) < 0.3
    assert path.least_draft_deg == pytest.approx(taper, abs=0.2)


@pytest.mark.parametrize("lean_deg", [-2.6, -1.0, 0.0, 1.4, 2.9])
def test_where_two_walls_leave_the_path_free_it_keeps_to_the_middle(lean_deg: float) -> None:
    """Mesial and distal lean by 3 degrees, face and back by 9: any tilt to the face up to 6 degrees is as good. The
    middle is told, wherever the search begins, and how free the path is: evenly from -6 to 6, 6 / sqrt(3) degrees."""
    a = np.linspace(0, 2 * np.pi, 400, endpoint=False)
    side = np.where(np.abs(np.cos(a)) > np.sqrt(0.5), 0, 1)  # mesial and distal along x
    t = np.radians(np.where(side == 0, 3.0, 9.0))
    out = np.where((side == 0)[:, None], np.sign(np.cos(a))[:, None] * SIDE, np.sign(np.sin(a))[:, None] * [0.0, 1, 0])
    normals = np.cos(t)[:, None] * out + np.sin(t)[:, None] * UP
    lean = np.radians(lean_deg)
    path = best_path(normals, np.ones(len(a)), np.array([0.0, np.sin(lean), np.cos(lean)]), SIDE)
    assert np.degrees(np.arccos(path.direction @ UP)) < 0.3
    assert path.loose_deg(np.array([0.0, 1, 0])) == pytest.approx(6 / np.sqrt(3), abs=0.3)
    assert path.loose_deg(SIDE) < 0.3


@pytest.mark.parametrize("tilt_deg", [27.0, 45.0, 60.0])
def test_a_tooth_that_leans_beyond_the_reach_has_a_path_at_its_end(tilt_deg: float) -> None:
    """A direction all the same, towards the tooth's, as far as is looked; its draft says how little it serves."""
    tilt = np.radians(tilt_deg)
    normals = cone_normals(6.0, np.array([np.sin(tilt), 0.0, np.cos(tilt)]))
    path = best_path(normals, np.ones(len(normals)), UP, SIDE)
    leans = np.degrees(np.arctan2(path.direction @ SIDE, path.direction @ UP))
    assert 24.0 < leans < 32.0
    assert path.least_draft_deg == pytest.approx(6.0 - (tilt_deg - leans), abs=0.5)


def test_a_local_undercut_does_not_tilt_the_path() -> None:
    """4 % of the wall leaning back by 8 degrees moves the path by less than half a degree."""
    normals = cone_normals(6, UP)
    normals[:28] = cone_normals(-8, UP)[:28]
    path = best_path(normals, np.ones(len(normals)), UP, SIDE)
    assert np.degrees(np.arccos(path.direction @ UP)) < 0.5


def test_draft_is_negative_where_the_wall_leans_back() -> None:
    """An overhang has negative draft; the quantile goes by area."""
    normals = np.array([[1.0, 0, 0.0], [np.cos(0.1), 0, np.sin(0.1)], [np.cos(0.1), 0, -np.sin(0.1)]])
    np.testing.assert_allclose(draft_deg(normals, UP), np.degrees([0, 0.1, -0.1]), atol=1e-9)
    assert least_draft(normals, np.array([50.0, 50.0, 1.0]), UP) == pytest.approx(0.0, abs=1e-9)


def test_no_wall_no_path() -> None:
    """Nothing to go by: the axis, and no draft claimed."""
    path = best_path(np.zeros((0, 3)), np.zeros(0), UP, SIDE)
    assert np.isnan(path.least_draft_deg)
    np.testing.assert_array_equal(path.direction, UP)


def test_the_stump_s_path_is_its_axis(stump_geometry: Geometry) -> None:
    """On a noisy scan of a straight frustum: within 0.5 degrees."""
    assert np.degrees(np.arccos(stump_geometry.path.direction @ UP)) < 0.5
    assert stump_geometry.path.source == "best"


@pytest.mark.parametrize("seed", first(1, 1, 2, 3))
@pytest.mark.long
def test_the_path_s_draft_is_that_of_the_walls(seed: int) -> None:
    """Every wall tapers by 6 on a scan with 8 µm of noise: the least draft reads 6, not less."""
    geometry = measure(Stump(noise_um=8, seed=seed).scans(), facing(ToothNumber("36")))
    assert geometry.path.least_draft_deg == pytest.approx(6.0, abs=0.3)
    assert geometry.path.least_draft_deg == pytest.approx(min(geometry.ring.shape.draft_deg.values()), abs=0.3)


@given(shift=st.floats(-1e-4, 1e-4), seed=st.integers(0, 20))
@settings(max_examples=15)
def test_a_hair_s_breadth_moves_the_path_by_no_more(shift: float, seed: int) -> None:
    """Walls with peaks that are nearly equal: normals turned by up to 0.006 degrees move the path by less than 0.02."""
    random = np.random.default_rng(seed)
    normals = cone_normals(6, UP, 360)
    normals = unit(normals + np.outer(0.02 * np.sin(np.linspace(0, 8 * np.pi, 360)), UP))
    here = best_path(normals, np.ones(360), UP, SIDE)
    there = best_path(unit(normals + shift * random.standard_normal((360, 3))), np.ones(360), UP, SIDE)
    assert np.degrees(np.arccos(np.clip(here.direction @ there.direction, -1, 1))) < 0.02


def test_where_walls_and_path_never_agree_the_tooth_s_axis_is_taken_and_said(
    monkeypatch: pytest.MonkeyPatch, stump: Stump
) -> None:
    """Each path shows walls that ask for another, 12 degrees off: none of the two is given out as the tooth's."""
    ways = cycle([unit(np.array([0.2, 0.0, 1.0])), UP])
    monkeypatch.setattr(survey, "best_path", lambda *_: Path(next(ways), 5.0, "best"))
    prep = stump.scans(reference=False)
    geometry = measure(prep, facing(ToothNumber("36"), near=np.array([0.5, 0.3, 5.0])))
    assert not geometry.path.settled
    np.testing.assert_allclose(geometry.path.direction, geometry.frame.occlusal)
    assert UNSETTLED_PATH in geometry.warnings
