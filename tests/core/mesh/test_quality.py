"""Noise, holes and pieces of a scan as plain facts."""

from __future__ import annotations

import numpy as np
import pytest
from solids import plate, sphere

from vane_line.core.mesh.light import lightened, mesh_blob
from vane_line.core.mesh.quality import assess, edge_near, noise_um
from vane_line.core.mesh.surface import merge


@pytest.mark.parametrize("noise", [4.0, 10.0, 20.0])
def test_noise_is_told_within_a_fifth(noise: float) -> None:
    """White noise of known size on a plate."""
    flat = plate(0, 12, 0, 12, 0.0, step=0.15)
    shift = noise / 1000 * np.random.default_rng(5).standard_normal(flat.n_vertices)
    assert noise_um(flat.with_vertices(flat.vertices + shift[:, None] * [0, 0, 1])) == pytest.approx(noise, rel=0.2)


def test_a_hole_is_found_and_measured() -> None:
    """A plate with a square hole of 4.4 mm: one hole, its border as long as it is."""
    flat = plate(0, 12, 0, 12, 0.0, step=0.2)
    kept, _ = flat.keep_vertices(np.abs(flat.vertices[:, :2] - 6).max(axis=1) > 2.1)
    facts = assess(kept)
    assert facts.holes == 1
    assert facts.longest_hole_mm == pytest.approx(4 * 4.4, rel=0.02)  # two corners are cut by diagonals
    assert facts.pieces == 1
    assert any("hole" in remark for remark in facts.remarks)


def test_a_coarse_scan_is_said() -> None:
    """Edges of 0.4 mm cannot show a finish line."""
    assert any("Coarse" in remark for remark in assess(plate(0, 12, 0, 12, 0.0, step=0.4)).remarks)


def test_the_light_mesh_is_light_and_near() -> None:
    """The display mesh has no more triangles than asked and lies within 60 µm of the scan."""
    ball = sphere(5.0, grid=0.2)
    light = lightened(ball, 2000)
    assert light.n_faces <= 2000
    assert ball.closest(light.vertices)[0].max() < 0.06
    assert len(mesh_blob(light)) == 8 + 24 * light.n_vertices + 12 * light.n_faces


def test_the_edges_near_a_line_are_those_that_count() -> None:
    """A plate fine on one side and coarse on the other: each line is told its own side's median."""
    both = merge([plate(0, 6, 0, 6, 0.0, step=0.1), plate(8, 14, 0, 6, 0.0, step=0.4)])
    along = np.stack([np.full(50, 3.0), np.linspace(1, 5, 50), np.zeros(50)], axis=1)
    assert edge_near(both, along) == pytest.approx(0.1, rel=0.01)
    assert edge_near(both, along + [8.0, 0, 0]) == pytest.approx(0.4, rel=0.01)
    everywhere = float(np.median(both.edge_lengths))
    assert edge_near(both, along + [0, 0, 50.0]) == everywhere
