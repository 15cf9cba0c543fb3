"""The outline of a cut: where straight surfaces meet, and that it moves evenly with them."""

from __future__ import annotations

import numpy as np
import pytest
from solids import plate

from vane_line.core.arrays import Floats
from vane_line.core.outline.curve import _corner, trace_outline


def section(angle_deg: float, shift_mm: float, slip_mm: float = 0.0, seed: int = 2) -> Floats:
    """(N, 2) points across an edge that lies at `shift_mm`: the cut goes down to minus; slip_mm: of the triangles."""
    random = np.random.default_rng(seed)
    x = np.arange(-0.8, 0.8, 0.02) + random.uniform(-0.01, 0.01, 80) + slip_mm
    fall = np.tan(np.radians(180 - angle_deg))
    y = np.where(x < shift_mm, fall * (x - shift_mm), 0.0) + 0.004 * random.standard_normal(80)
    return np.stack([x, y], axis=1)


def corner(points: Floats) -> tuple[Floats, float]:
    found = _corner(points, 0.42)
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
    assert _corner(section(180.0, 0.0), 0.42) is None


def test_a_pit_has_its_rim_for_an_outline() -> None:
    """A cone of 45 degrees into a level plate, its rim at 2.5 mm; what is told as cut ends a tenth past it."""
    flat = plate(-5, 5, -5, 5, 0.0, 0.14)
    away = np.linalg.norm(flat.vertices[:, :2], axis=1)
    surface = flat.with_vertices(flat.vertices - np.clip(2.5 - away, 0, 1.2)[:, None] * [0.0, 0, 1])
    outline = trace_outline(surface, away < 2.6)
    assert outline is not None
    assert np.quantile(np.abs(np.linalg.norm(outline.points[:, :2], axis=1) - 2.5), 0.9) < 0.02
    assert outline.clear.all()
    assert np.nanmedian(outline.cavosurface_deg) == pytest.approx(135.0, abs=2.0)
