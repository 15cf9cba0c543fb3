"""Plane sections and profiles of solids with known outlines."""

from __future__ import annotations

import numpy as np
import pytest
from solids import Stump, course, sphere

from vane_line.core.mesh.surface import Surface
from vane_line.core.trace.section import STEP_MM, Axes, plane_section, profiles, tangent_angle
from vane_line.core.trace.wall import below_hollow, find_walls

UP, FACIAL, MESIAL = np.eye(3)[2], np.eye(3)[1], np.eye(3)[0]


@pytest.mark.parametrize("height", [0.0, 1.7, -3.0])
def test_a_plane_cuts_a_ball_in_one_closed_circle(height: float) -> None:
    """Its length is 2 pi sqrt(r² - h²), within what chords take off."""
    ball = sphere(5.0, grid=0.2)
    chains = plane_section(ball, np.array([0.0, 0, height + 1e-4]), UP)
    assert len(chains) == 1
    chain = chains[0]
    np.testing.assert_allclose(chain[0], chain[-1])
    length = np.linalg.norm(np.diff(chain, axis=0), axis=1).sum()
    assert length == pytest.approx(2 * np.pi * np.sqrt(25 - height**2), rel=2e-3)
    assert np.abs(chain[:, 2] - height).max() < 1e-3


def test_a_plane_beside_the_surface_cuts_nothing() -> None:
    """No crossing, no chain."""
    assert plane_section(sphere(2.0), np.array([0.0, 0, 9]), UP) == []


def test_profiles_of_a_ball_are_its_meridian() -> None:
    """Every profile lies on the circle, steps by STEP_MM of arc, and the top is the pole."""
    rings = profiles(sphere(5.0, grid=0.15), Axes.make(np.zeros(3), UP, FACIAL, MESIAL), 36)
    known = np.isfinite(rings.radius)
    off = np.hypot(rings.radius[known], rings.height[known]) - 5.0
    assert np.abs(off).max() < 0.004
    np.testing.assert_allclose(rings.height[:, 0], 5.0, atol=0.004)
    assert np.isfinite(rings.radius).sum(axis=1).min() * STEP_MM == pytest.approx(np.pi * 5, abs=0.15)


@pytest.mark.parametrize("sway", [0.02, 0.2])
def test_a_crest_that_sways_past_the_axis_hides_no_wall(sway: float) -> None:
    """A steep rough face at the axis, crossed three times: both halves run on to where the surface ends."""
    across = np.array([-4.0, -sway, sway, -sway, 0.3, 4.0])
    level = np.array([0.0, 4.0, 4.05, 4.1, 4.2, 0.0])
    ridge = np.array([[x, y, z] for y in (-9.0, 9.0) for x, z in zip(across, level, strict=True)])
    n = len(across)
    faces = np.array([f for k in range(n - 1) for f in ((k, k + 1, n + k), (k + 1, n + k + 1, n + k))])
    rings = profiles(Surface(ridge, faces), Axes.make(np.zeros(3), UP, np.array([1.0, 0, 0]), FACIAL), 12)
    for row in (0, 6):
        known = np.isfinite(rings.radius[row])
        assert rings.radius[row][known].max() == pytest.approx(4.0, abs=2 * STEP_MM)
        assert rings.height[row][known].min() == pytest.approx(0.0, abs=2 * STEP_MM)


def test_a_speck_over_the_axis_hides_no_section() -> None:
    """A plane along a crest shaves off a closed piece of it: the profile is the section below."""
    axes = Axes.make(np.zeros(3), UP, FACIAL, MESIAL)
    tooth, speck = sphere(5.0, grid=0.3), sphere(0.4, grid=0.1)
    vertices = np.vstack([tooth.vertices, speck.vertices + 6 * UP])
    both = Surface(vertices, np.vstack([tooth.faces, speck.faces + tooth.n_vertices]))
    alone, beside = profiles(tooth, axes, 36, 0.2), profiles(both, axes, 36, 0.2)
    np.testing.assert_allclose(beside.height, alone.height, atol=1e-9)
    np.testing.assert_allclose(beside.end, alone.end, atol=1e-9)


def test_azimuth_runs_from_facial_over_mesial() -> None:
    """0 facial, 90 mesial, whichever hand the axes have."""
    for mesial in (MESIAL, -MESIAL):
        axes = Axes.make(np.zeros(3), UP, FACIAL, mesial)
        azimuth, radius, height = axes.cylinder(np.array([FACIAL * 2, mesial * 3 + UP, -FACIAL, -mesial]))
        np.testing.assert_allclose(azimuth, [0, 90, 180, 270])
        np.testing.assert_allclose(radius, [2, 3, 1, 1])
        np.testing.assert_allclose(height, [0, 1, 0, 0])
        np.testing.assert_allclose(axes.places(azimuth, radius, height)[1], mesial * 3 + UP, atol=1e-12)


@pytest.mark.parametrize("taper", [2.0, 6.0, 14.0, 30.0])
def test_walls_are_found_where_they_are(taper: float) -> None:
    """Foot at the ledge's inner corner, top at the occlusal edge, tangent leaning by the taper."""
    stump = Stump(taper_deg=taper, grid_mm=0.15, neighbours=False)
    axes = Axes.make(np.array([0.0, 0, 3.0]), UP, FACIAL, MESIAL)
    rings = profiles(stump.prep(), axes, 60)
    walls = find_walls(rings)
    assert walls.found.all()
    foot, top = rings.places(walls.foot), rings.places(walls.top)
    np.testing.assert_allclose(np.hypot(*foot[:, :2].T), 4.0, atol=0.25)
    np.testing.assert_allclose(foot[:, 2], 1.6, atol=0.25)
    np.testing.assert_allclose(top[:, 2], 5.5, atol=0.25)
    middle = ((walls.foot + walls.top) / 2).astype(int)
    lean = tangent_angle(rings, 0.6)[np.arange(60), middle]
    np.testing.assert_allclose(lean, taper - 90, atol=1.0)


@pytest.mark.parametrize(("hollow_mm", "expected"), [(0.6, 0.0), (-0.05, 2.4)])
def test_below_a_hollow_the_wall_goes_on_and_beyond_gingiva_it_does_not(hollow_mm: float, expected: float) -> None:
    """Behind a front tooth the surface falls on to the neck's wall; a crest of gingiva rises before it falls."""
    level = 2.4 - hollow_mm
    rings = course((0.2, 4.6), (0.6, 2.4), (1.6, level), (1.9, 0.0), (2.6, 0.0))
    runs = find_walls(rings)
    assert rings.height[0, runs.foot[0]] == pytest.approx(2.4, abs=0.35)
    below = below_hollow(rings, runs, np.array([True]))
    assert rings.height[0, below.foot[0]] == pytest.approx(expected, abs=0.35)
    assert below_hollow(rings, runs, np.array([False])).foot[0] == runs.foot[0]
