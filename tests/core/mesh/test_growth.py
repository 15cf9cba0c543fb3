"""Parts that grow from seeds meet at the bottom of the valley between them, wherever the triangles lie."""

from __future__ import annotations

import numpy as np
import pytest
from solids import plate

from vane_line.core.arrays import Floats
from vane_line.core.mesh.growth import CURVATURE_FLOOR, Grown, concavity, grow
from vane_line.core.mesh.surface import Surface


def sulcus(step: float, turn_deg: float = 17.0, noise: float = 0.0) -> Surface:
    """A wall, two in one, that meets level ground in a sharp corner along y; the triangles lie at an angle to it."""
    flat = plate(-6, 6, -6, 6, 0.0, step)
    a = np.radians(turn_deg)
    x = flat.vertices[:, 0] * np.cos(a) - flat.vertices[:, 1] * np.sin(a)
    y = flat.vertices[:, 0] * np.sin(a) + flat.vertices[:, 1] * np.cos(a)
    rise = np.where(x < 0, -2.0 * x, 0.0)
    bumps = noise * np.random.default_rng(4).standard_normal(rise.shape)
    near = (np.abs(x) < 3) & (np.abs(y) < 3)
    return flat.with_vertices(np.stack([x, y, rise + bumps], axis=1)).keep_vertices(near)[0]


def met(surface: Surface, from_mm: float = -2.0, to_mm: float = 1.5) -> Grown:
    x = surface.vertices[:, 0]
    return grow(surface, concavity(surface), [x < from_mm, np.zeros(len(x), dtype=bool), x > to_mm])


def inner(places: Floats) -> Floats:
    """Without what lies at the scan's own border."""
    return places[np.abs(places[:, 1]) < 2.3]


@pytest.mark.parametrize("step", [0.12, 0.2, 0.3])
def test_they_meet_in_the_corner(step: float) -> None:
    """Within a fifth of a triangle of it, where whole vertices lie up to one off; not high between its sides."""
    places = inner(met(sulcus(step)).valley(0, 2))
    assert len(places) > 4 / step
    assert abs(float(np.median(places[:, 0]))) < 0.2 * step
    assert np.abs(places[:, 0]).max() < 0.35 * step
    assert np.abs(places[:, 2]).max() < 0.5 * step


def test_how_far_the_seeds_reach_does_not_move_it() -> None:
    """Seeds that stand a millimetre further off on one side, and a little noise."""
    surface = sulcus(0.2, noise=0.004)
    near, far = (inner(met(surface, to_mm=to).valley(0, 2)) for to in (0.8, 1.8))
    for k in (0, 2):
        assert float(np.median(near[:, k])) == pytest.approx(float(np.median(far[:, k])), abs=0.008)


def test_a_fine_scan_is_not_all_hollows() -> None:
    """Curvature goes with the square of the triangles' size: with the noise that scanners have, level ground was
    hollow from triangle to triangle, and a valley no dearer than the way round it."""
    surface = sulcus(0.07, noise=0.006)
    hollow = concavity(surface)
    x, y = surface.vertices[:, :2].T
    level = (np.abs(x) > 0.6) & (np.abs(x) < 2.7) & (np.abs(y) < 2.7)
    assert np.median(hollow[level]) < CURVATURE_FLOOR
    assert np.median(hollow[(np.abs(x) < 0.05) & (np.abs(y) < 2.7)]) > 4 * CURVATURE_FLOOR
    assert np.abs(inner(met(surface, from_mm=-2.5, to_mm=0.8).valley(0, 2))[:, 0]).max() < 0.1


def test_a_vertex_goes_over_without_a_jump() -> None:
    """One step of the way after another made dearer by little: the valley moves by little each time."""
    surface = sulcus(0.2)
    grown = met(surface)
    usual, greatest = None, 0.0
    for extra in np.arange(0.0, 0.3, 0.01):
        lifted = surface.with_vertices(surface.vertices + np.array([0.0, 0.0, 1.0]) * extra * np.exp(
            -(((surface.vertices - [-0.2, 0, 0.4]) ** 2).sum(axis=1) / 0.1))[:, None])  # fmt: skip
        again = grow(lifted, grown.concave, [surface.vertices[:, 0] < -2, np.zeros(surface.n_vertices, dtype=bool),
                                             surface.vertices[:, 0] > 1.5])  # fmt: skip
        told = float(np.median(inner(again.valley(0, 2))[:, 0]))
        greatest = max(greatest, 0.0 if usual is None else abs(told - usual))
        usual = told
    assert greatest < 0.01


def test_kinds_that_do_not_meet_have_no_valley() -> None:
    assert met(sulcus(0.3)).valley(0, 1).shape == (0, 3)
