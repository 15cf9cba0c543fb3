"""The simulated burs and scanner do what instruments of those dimensions would."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from solids import plate

from vane_line.demo import scanner
from vane_line.demo.anatomy import Tooth, polar
from vane_line.demo.burs import AxialCut, ball_stroke, bump, constant, step
from vane_line.demo.cases import MadeCase
from vane_line.demo.scanner import ScanSettings, random_frame, surface_of, with_noise


def test_a_ball_cuts_its_own_radius() -> None:
    """Points within the radius of the stroke are cut, others not."""
    cut = ball_stroke(np.zeros(3), np.array([0, 0, 3.0]), 0.5)
    np.testing.assert_allclose(cut(np.array([[0.2, 0, 1], [0.7, 0, 1], [0, 0, 3.6]])), [-0.3, 0.2, 0.1], atol=1e-12)


@pytest.mark.parametrize("depth", [0.6, 1.0])
def test_the_axial_bur_leaves_a_ledge_of_its_depth_and_a_wall_of_its_taper(depth: float) -> None:
    """Just above the ledge the tooth is gone to `depth`; higher up the wall leans in by the taper."""
    tooth = Tooth("36")
    cut = AxialCut(constant(1.5), constant(depth), constant(6.0), tip_radius_mm=0.2)(tooth)
    azimuth = np.radians([0.0, 90, 180, 270])
    outer = tooth.surface_radius(azimuth, np.full(4, 1.5), np.zeros(2))
    for height in (1.0, 3.0):
        inward = depth + height * np.tan(np.radians(6))
        for off, cut_away in ((0.06, True), (-0.06, False)):
            points = polar(azimuth, outer - inward + off, np.full(4, 1.5 + height), np.zeros(2))
            assert ((cut(points) > 0) == cut_away).all()


def test_profiles_of_a_stroke() -> None:
    """A bump fades in and out; a step is abrupt at its start and fades at its end."""
    azimuth = np.array([0.0, 45.0, 60.0, 200.0, 219.0, 227.0, 240.0, 262.0])
    bumped = bump(constant(6.0), 45, 24, -9.0)(azimuth)
    np.testing.assert_allclose(bumped[[0, 1, 3]], [6, -3, 6])
    stepped = step(constant(1.0), 222, 260, 0.35)(azimuth)
    np.testing.assert_allclose(stepped[[0, 4, 7]], 1.0)
    assert stepped[5] == pytest.approx(1.33, abs=0.02)


def test_the_scanner_s_noise_is_as_stated() -> None:
    """White noise of 10 µm along the normal, nothing across."""
    flat = plate(0, 10, 0, 10, 0.0)
    noisy = with_noise(flat, ScanSettings(noise_um=10, wave_um=0), np.random.default_rng(1))
    off = noisy.vertices - flat.vertices
    assert off[:, 2].std() * 1000 == pytest.approx(10, rel=0.05)
    assert np.abs(off[:, :2]).max() < 1e-12


def test_a_frame_is_rigid_and_mirrors_only_when_told() -> None:
    """Determinant one, or minus one for the right side of the mouth."""
    for mirror, sign in ((False, 1), (True, -1)):
        matrix = random_frame(np.random.default_rng(3), mirror)
        assert np.linalg.det(matrix[:3, :3]) == pytest.approx(sign)


def test_marching_puts_vertices_on_the_surface() -> None:
    """A ball's vertices lie on it within a micrometre, outward."""
    ball = surface_of(lambda p: np.linalg.norm(p, axis=1) - 3, np.full(3, -3.5), np.full(3, 3.5), 0.3)
    assert np.abs(np.linalg.norm(ball.vertices, axis=1) - 3).max() < 0.001
    assert ((ball.face_centres * ball.face_normals).sum(axis=1) > 0).all()


def _steep_ball(p: np.ndarray) -> np.ndarray:
    """Four times as steep as a distance: near it a block's middle says little of its corners."""
    return 4.0 * (np.linalg.norm(p - [0.1, 0.0, 0.2], axis=1) - 2.0)


@pytest.mark.parametrize("shape", [_steep_ball, Tooth("32"), Tooth("36")], ids=["steep", "32", "36"])
def test_a_surface_is_followed_whole_though_few_places_are_asked(
    shape: Callable[[np.ndarray], np.ndarray], monkeypatch: pytest.MonkeyPatch
) -> None:
    """The same vertices and faces as when every place of the grid is asked, a third and more of which is spared."""
    asked: list[int] = []

    def counted(p: np.ndarray) -> np.ndarray:
        asked.append(len(p))
        return shape(p)

    low, high = np.array([-6.07, -6.45, -1.0]), np.array([6.0, 6.5, 10.5])
    few = surface_of(counted, low, high, 0.25)
    followed = sum(asked)
    asked.clear()
    monkeypatch.setattr(scanner, "USUALLY_STEEP", 1e6)
    whole = surface_of(counted, low, high, 0.25)
    np.testing.assert_array_equal(few.faces, whole.faces)
    np.testing.assert_array_equal(few.vertices, whole.vertices)
    assert followed < 0.7 * sum(asked)


def test_the_demo_looks_like_a_scan(demo_case: MadeCase) -> None:
    """Open below, a stray piece beside it, another coordinate system for the earlier scan, contacts bridged."""
    assert demo_case.preop is not None
    assert demo_case.opposing is not None
    assert demo_case.prep.on_border.sum() > 100
    assert demo_case.prep.pieces.max() >= 1
    assert not np.allclose(demo_case.stands["preop_to_prep"], np.eye(4))
    assert 40_000 < demo_case.prep.n_faces < 400_000
