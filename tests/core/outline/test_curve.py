"""The outline of a cut: where straight surfaces meet, and that it moves evenly with them."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial import cKDTree
from solids import plate

from vane_line.core.arrays import Floats
from vane_line.core.outline.curve import _corner, border_loop, trace_outline
from vane_line.core.outline.region import CutRegion


def section(angle_deg: float, shift_mm: float, slip_mm: float = 0.0, seed: int = 2) -> Floats:
    """(N, 2) points across an edge that lies at `shift_mm`: the cut goes down to minus; slip_mm: of the triangles."""
    random = np.random.default_rng(seed)
    x = np.arange(-0.8, 0.8, 0.02) + random.uniform(-0.01, 0.01, 80) + slip_mm
    fall = np.tan(np.radians(180 - angle_deg))
    y = np.where(x < shift_mm, fall * (x - shift_mm), 0.0) + 0.004 * random.standard_normal(80)
    return np.stack([x, y], axis=1)


def corner(points: Floats) -> tuple[Floats, float]:
    found = _corner(points, np.ones(len(points)), 0.42)
    assert found is not None
    return found


@pytest.mark.parametrize("angle", [105.0, 125.0, 145.0])
@pytest.mark.parametrize("shift", [-0.12, 0.0, 0.1])
def test_two_planes_meet_where_they_do(angle: float, shift: float) -> None:
    """Within 0.015 of the edge and three degrees of its angle, off the course or on it."""
    place, told = corner(section(angle, shift))
    assert np.hypot(place[0] - shift, place[1]) < 0.015
    assert told == pytest.approx(angle, abs=3.0)


def test_the_place_does_not_jump_from_one_split_to_the_next() -> None:
    """The edge, or all, moves by 2 µm a step, over more than the way between two splits."""
    for slipped in (0.0, 1.0):
        places = [corner(section(120.0, s, slipped * s))[0][0] - s for s in np.arange(-0.08, 0.08, 0.002)]
        assert np.abs(np.diff(places)).max() < 0.005


def test_a_level_surface_has_no_edge() -> None:
    assert _corner(section(180.0, 0.0), np.ones(80), 0.42) is None


def test_a_pit_has_its_rim_for_an_outline() -> None:
    """A cone of 45 degrees into a level plate, its rim at 2.5 mm; what is told as cut ends a tenth past it."""
    flat = plate(-5, 5, -5, 5, 0.0, 0.14)
    away = np.linalg.norm(flat.vertices[:, :2], axis=1)
    surface = flat.with_vertices(flat.vertices - np.clip(2.5 - away, 0, 1.2)[:, None] * [0.0, 0, 1])
    outline = trace_outline(surface, CutRegion(away < 2.6, 2.6 - away))
    assert outline is not None
    assert np.quantile(np.abs(np.linalg.norm(outline.points[:, :2], axis=1) - 2.5), 0.9) < 0.02
    assert outline.clear.all()
    assert np.nanmedian(outline.cavosurface_deg) == pytest.approx(135.0, abs=2.0)


def test_a_border_moves_evenly_with_its_level() -> None:
    """A circle that grows by 2 µm a step over triangles of 0.14: by whole vertices its length went up by leaps."""
    flat = plate(-5, 5, -5, 5, 0.0, 0.14)
    away = np.linalg.norm(flat.vertices[:, :2], axis=1)
    areas = []
    for radius in np.arange(2.5, 2.6, 0.002):
        loop = border_loop(flat, CutRegion(away < radius, radius - away))
        assert loop is not None
        x, y, _ = loop.T
        areas.append(0.5 * abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))))
        assert np.abs(np.hypot(x, y) - radius).max() < 0.004
    grown = np.diff(areas)
    assert grown.min() > 0.5 * 2 * np.pi * 2.5 * 0.002
    assert grown.max() < 1.5 * 2 * np.pi * 2.6 * 0.002


def test_a_border_goes_on_along_the_scan_s_own_rim() -> None:
    """Half a disc, whose other half was not scanned: closed by the rim."""
    flat = plate(-5, 5, 0, 5, 0.0, 0.14)
    away = np.linalg.norm(flat.vertices[:, :2], axis=1)
    loop = border_loop(flat, CutRegion(away < 2.5, 2.5 - away))
    assert loop is not None
    x, y, _ = loop.T
    assert 0.5 * abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) == pytest.approx(np.pi * 2.5**2 / 2, rel=0.01)
    assert np.linalg.norm(np.diff(loop, axis=0, append=loop[:1]), axis=1).max() < 0.3


def test_ten_nanometres_move_no_outline() -> None:
    """Of an oval pit as deep as a light chamfer, scanned at 0.16 with noise: by a border of whole vertices and windows
    that take or leave them, points moved by up to 0.006, on a tooth by 0.1."""
    random = np.random.default_rng(3)
    flat = plate(-5, 5, -5, 5, 0.0, 0.16)
    away = np.hypot(flat.vertices[:, 0] / 1.4, flat.vertices[:, 1])
    depth = np.clip(2.5 - away, 0, 0.4) + 0.006 * random.standard_normal(flat.n_vertices)
    surface = flat.with_vertices(flat.vertices - depth[:, None] * [0.0, 0, 1])
    courses = []
    for _ in range(3):
        level = 2.53 - np.hypot(surface.vertices[:, 0] / 1.4, surface.vertices[:, 1])
        outline = trace_outline(surface, CutRegion(level > 0, level), inside_mm=0.28)
        assert outline is not None
        courses.append(outline.points)
        surface = surface.with_vertices(surface.vertices + 1e-5 * random.standard_normal((surface.n_vertices, 3)))
    for other in courses[1:]:
        assert cKDTree(courses[0]).query(other)[0].max() < 0.0015
