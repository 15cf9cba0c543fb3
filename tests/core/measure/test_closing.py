"""Where teeth close deepest: cones in pits of the same slope, recorded beside where they fit."""

from __future__ import annotations

import numpy as np
import pytest
from solids import plate, turned

from vane_line.core.arrays import Floats
from vane_line.core.measure.closing import CELL_MM, deepest_closing
from vane_line.core.mesh.surface import Surface

UP = np.array([0.0, 0, 1])
SLOPE_DEG, CONE_MM = 35.0, 2.0
TIPS = np.array([[-6.0, 1.0], [-2.0, -1.0], [2.0, 1.5], [6.0, -1.0]])


def cones(at: Floats) -> Floats:
    """(N,) heights of four cones over flat ground at places (N, 2)."""
    away = np.linalg.norm(at[:, None] - TIPS[None], axis=2).min(axis=1)
    return np.asarray(np.tan(np.radians(SLOPE_DEG)) * np.maximum(CONE_MM - away, 0.0))


def rows(shift: tuple[float, float], open_mm: float = 0.0, flat: bool = False) -> tuple[Surface, Surface]:
    """A row of cones, and its own cast over it as the opposing row, recorded `shift` off and `open_mm` too high."""
    ours = plate(-10, 10, -5, 5, 0.0, 0.1)
    if not flat:
        ours = ours.with_vertices(ours.vertices + cones(ours.vertices[:, :2])[:, None] * UP)
    theirs = ours.with_vertices(ours.vertices + [*shift, open_mm])
    return ours, Surface(theirs.vertices, theirs.faces[:, ::-1].copy())


@pytest.mark.parametrize("shift", [(0.4, 0.0), (-0.4, 0.4), (0.0, -0.6)])
@pytest.mark.parametrize("open_mm", [0.0, 0.3])
def test_a_shifted_record(shift: tuple[float, float], open_mm: float) -> None:
    """Beside its pit a cone holds the jaw up by the shift times the tangent of its slope."""
    ours, theirs = rows(shift, open_mm)
    found = deepest_closing(ours, np.ones(ours.n_vertices, dtype=bool), theirs, UP)
    assert found is not None
    assert np.linalg.norm(found.shift[:2] + shift) < 1.5 * CELL_MM
    up = np.hypot(*shift) * np.tan(np.radians(SLOPE_DEG))
    assert found.deeper_mm == pytest.approx(up, abs=0.75 * CELL_MM * np.tan(np.radians(SLOPE_DEG)))
    assert found.shifted


@pytest.mark.parametrize("open_mm", [-0.05, 0.0, 0.4])
def test_a_record_in_place_is_none_however_open(open_mm: float) -> None:
    ours, theirs = rows((0.0, 0.0), open_mm)
    found = deepest_closing(ours, np.ones(ours.n_vertices, dtype=bool), theirs, UP)
    assert found is not None
    assert found.deeper_mm < 0.06
    assert not found.shifted


def test_worn_flat_teeth_hold_nowhere() -> None:
    ours, theirs = rows((0.5, 0.0), flat=True)
    found = deepest_closing(ours, np.ones(ours.n_vertices, dtype=bool), theirs, UP)
    assert found is not None
    assert not found.shifted


def test_in_any_position() -> None:
    ours, theirs = rows((0.4, -0.4))
    there = turned((1, 0.3, -0.2), 75, (10.0, 5, -30))
    found = deepest_closing(ours.moved(there), np.ones(ours.n_vertices, dtype=bool), theirs.moved(there), there[:3, 2])
    assert found is not None
    back = found.shift @ there[:3, :3]
    assert np.linalg.norm(back[:2] + [0.4, -0.4]) < 1.5 * CELL_MM


def test_too_little_to_tell() -> None:
    ours, theirs = rows((0.0, 0.0))
    few = np.abs(ours.vertices[:, 0]) < 0.5
    assert deepest_closing(ours, few, theirs, UP) is None
    assert deepest_closing(ours, np.zeros(ours.n_vertices, dtype=bool), theirs, UP) is None
