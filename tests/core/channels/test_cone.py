"""The round body of a bur or a pin from points on it."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest
from solids import plate

from vane_line.core.channels.cone import Cone, fit_cone, refined
from vane_line.core.mesh.surface import Surface
from vane_line.core.vectors import unit

LEVELS = np.array([-1.2, -0.9, 0.9, 1.2]), np.array([0.0, 1, 1, 0])  # a trough's, and how much each counts


def points_on(
    way: tuple[float, float, float], radius: float, widens: float, around_deg: float, noise: float = 0.0
) -> np.ndarray:
    """Of a cone through (1, 2, 3), three millimetres of its length."""
    random = np.random.default_rng(3)
    up = unit(np.array(way))
    x = unit(np.cross(up, [0.3, 1.0, 0.2]))
    y = np.cross(up, x)
    turn, height = np.radians(random.uniform(0, around_deg, 400)), random.uniform(-1.5, 1.5, 400)
    r = (radius + widens * height + random.normal(0, noise, 400) if noise else radius + widens * height)[:, None]
    return np.asarray([1.0, 2, 3] + height[:, None] * up + r * (np.cos(turn)[:, None] * x + np.sin(turn)[:, None] * y))


@pytest.mark.parametrize("around_deg", [360.0, 150.0])
@pytest.mark.parametrize("widens", [0.0, 0.05])
def test_axis_radius_and_taper_are_found(around_deg: float, widens: float) -> None:
    way = (0.1, -0.05, 1.0)
    cone = fit_cone(points_on(way, 0.5, widens, around_deg), np.array([0.0, 0, 1]))
    assert cone is not None
    off = np.degrees(np.arccos(min(float(cone.direction @ unit(np.array(way))), 1.0)))
    assert off < 0.05
    at_middle = 0.5 + widens * float((cone.middle - [1, 2, 3]) @ unit(np.array(way)))
    assert cone.radius_mm == pytest.approx(at_middle, abs=2e-3)
    assert cone.widens == pytest.approx(widens, abs=2e-3)
    assert cone.seen_deg == pytest.approx(around_deg, abs=31)


def test_noise_tilts_it_little() -> None:
    cone = fit_cone(points_on((0.0, 0.0, 1.0), 0.32, 0.0, 360.0, noise=0.01), np.array([0.1, 0.0, 1]))
    assert cone is not None
    assert np.degrees(np.arccos(min(float(cone.direction[2]), 1.0))) < 0.15
    assert cone.rms_mm == pytest.approx(0.01, abs=0.003)


def test_it_stands_the_same_way_round_in_any_position() -> None:
    from scipy.spatial.transform import Rotation

    turn = Rotation.from_euler("xyz", [40, -70, 130], degrees=True).as_matrix()
    points = points_on((0.05, 0.1, 1.0), 0.4, 0.02, 200.0)
    one = fit_cone(points, np.array([0.0, 0, 1]))
    other = fit_cone(points @ turn.T, turn @ np.array([0.0, 0, 1]))
    assert one is not None
    assert other is not None
    assert turn @ one.direction == pytest.approx(other.direction, abs=1e-5)
    assert one.radius_mm == pytest.approx(other.radius_mm, abs=1e-5)


def test_too_few_points_tell_none() -> None:
    assert fit_cone(np.zeros((5, 3)), np.array([0.0, 0, 1])) is None


@cache
def trough() -> Surface:
    """A groove of 1 mm along the third axis, open to the first: a half round whose walls go on straight for 0.4."""
    flat = plate(-0.89, 0.9, -1.49, 1.5, 0.0, 0.07)  # along its outline, and along it
    across, along, _ = flat.vertices.T
    turn = np.clip(across / 0.5, -np.pi / 2, np.pi / 2)
    straight = np.maximum(np.abs(across) - np.pi / 4, 0.0)
    return flat.with_vertices(np.stack([straight - 0.5 * np.cos(turn), 0.5 * np.sin(turn), along], axis=1))


def start(tilt_deg: float, off_mm: float) -> Cone:
    a = np.radians(tilt_deg)
    return Cone(np.array([off_mm, -off_mm, 0.2]), np.array([np.sin(a), 0.0, np.cos(a)]), 0.53, 0.02, 0.01, 180.0)


@pytest.mark.parametrize(("tilt_deg", "off_mm"), [(0.0, 0.0), (2.0, 0.02), (-2.0, -0.02)])
def test_a_groove_s_round_bottom_is_told_from_where_it_was_looked_for(tilt_deg: float, off_mm: float) -> None:
    """Its straight walls beside the round say nothing of its width; where the search began does not matter."""
    cone = refined(start(tilt_deg, off_mm), trough(), np.array([0.0, 0, 1]), *LEVELS)
    assert np.degrees(np.arccos(min(float(cone.direction[2]), 1.0))) < 0.05
    assert cone.radius_mm == pytest.approx(0.5, abs=0.004)
    assert cone.widens == pytest.approx(0.0, abs=1e-3)
    assert cone.middle[:2] == pytest.approx([0.0, 0.0], abs=0.004)


def test_ten_nanometres_turn_it_by_no_more_than_that() -> None:
    ways = []
    for seed in range(5):
        random = np.random.default_rng(seed)
        moved = trough().with_vertices(trough().vertices + 1e-5 * random.standard_normal(trough().vertices.shape))
        ways.append(refined(start(1.0, 0.01), moved, np.array([0.0, 0, 1]), *LEVELS).direction)
    assert np.degrees(np.abs(np.diff(ways, axis=0))).max() < 0.002


def test_a_surface_that_is_not_there_leaves_it_as_it_was() -> None:
    first = start(0.0, 0.0)
    assert refined(first, trough(), np.array([0.0, 0, 1]), LEVELS[0] + 5.0, LEVELS[1]) is first
