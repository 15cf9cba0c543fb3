"""How far a front tooth's edge is taken down: on roofs whose ridges are known, in any position and order."""

from __future__ import annotations

import numpy as np
import pytest
from solids import plate, turned

from vane_line.core.arrays import Floats
from vane_line.core.measure.lowered import MIDDLE, TOP_MM, edge_lowered
from vane_line.core.mesh.surface import Surface
from vane_line.core.rigid import move
from vane_line.core.trace.section import Axes

STEEP = 3.0  # of both sides of a roof: its crest is as thin as a front tooth's


def roof(ridge: Floats, at_y: float, step_mm: float = 0.1, half_mm: float = 2.5) -> Surface:
    """A roof whose ridge stands at heights `ridge` (slope, height) and at a facial place, rounded down at its ends."""
    flat = plate(-half_mm, half_mm, -1.5, 1.5, 0.0, step_mm)
    x, y, _ = flat.vertices.T
    corner = np.clip(np.abs(x) - 0.7 * half_mm, 0, None) ** 2
    z = np.polyval(ridge, x) - STEEP * np.abs(y - at_y) - corner
    return flat.with_vertices(np.stack([x, y, z], axis=1))


UP, FACIAL, MESIAL = np.eye(3)[2], np.eye(3)[1], np.eye(3)[0]


def axes(turn: Floats | None = None) -> Axes:
    turn = np.eye(4) if turn is None else turn
    rotate = turn[:3, :3]
    return Axes.make(turn[:3, 3], rotate @ UP, rotate @ FACIAL, rotate @ MESIAL)


@pytest.mark.parametrize("taken_mm", [0.4, 1.0, 2.0, 2.6])
@pytest.mark.parametrize("aside_mm", [0.0, 0.4])
def test_an_edge_is_as_much_lower_as_was_taken_off_it(taken_mm: float, aside_mm: float) -> None:
    """To a hundredth, however far beside the old edge the new one stands; the least distance is far less."""
    before, after = roof(np.array([0.0, 9.0]), 0.0), roof(np.array([0.0, 9.0 - taken_mm]), -aside_mm)
    found = edge_lowered(after, before, axes())
    assert found is not None
    assert (found.mm, found.least_mm, found.most_mm) == pytest.approx((taken_mm,) * 3, abs=0.01)
    assert before.closest(np.array([found.at]))[0][0] < 0.75 * taken_mm
    assert found.uneven_mm < 0.005


def test_an_edge_cut_to_a_point_is_not_evenly_lower() -> None:
    """Half of the places along the middle third of a level edge lie off the middle one by a quarter of what its ends
    fell, where the new edge falls evenly to both sides."""
    before = roof(np.array([0.0, 9.0]), 0.0)
    x = before.vertices[:, 0]
    pointed = before.with_vertices(before.vertices - np.abs(x)[:, None] * [0.0, 0.0, 0.8] - [0.0, 0.0, 1.6])
    found = edge_lowered(pointed, before, axes())
    assert found is not None
    third = 0.8 * np.abs(np.quantile(x[before.vertices[:, 2] > 9.0 - TOP_MM], MIDDLE)).mean()
    assert found.uneven_mm == pytest.approx(third / 4, rel=0.25)


def test_an_edge_cut_askew_tells_its_least_and_its_most() -> None:
    """0.2 lower for each mm to mesial: least at the distal end of the middle third, most at the mesial one."""
    before, after = roof(np.array([0.0, 9.0]), 0.0), roof(np.array([-0.2, 7.0]), 0.0)
    found = edge_lowered(after, before, axes())
    assert found is not None
    assert found.mm == pytest.approx(2.0 + 0.2 * found.at[0], abs=0.03)
    assert found.least_mm == pytest.approx(2.0 + 0.2 * found.least_at[0], abs=0.03)
    assert found.most_mm == pytest.approx(2.0 + 0.2 * found.most_at[0], abs=0.03)
    assert found.least_at[0] < found.at[0] < found.most_at[0]
    assert found.most_mm - found.least_mm > 0.12


def test_position_order_noise_and_fineness_change_nothing() -> None:
    before, after = roof(np.array([0.0, 9.0]), 0.0), roof(np.array([-0.1, 7.2]), -0.3)
    told = edge_lowered(after, before, axes())
    assert told is not None
    rng = np.random.default_rng(23)
    turn = turned((0.3, -1.0, 0.6), 130.0, (40.0, -7.0, 3.0))
    moved = [s.with_vertices(move(turn, s.vertices)) for s in (after, before)]
    order = rng.permutation(after.n_vertices)
    back = np.empty_like(order)
    back[order] = np.arange(len(order))
    shuffled = Surface(after.vertices[order], back[after.faces][rng.permutation(after.n_faces)])
    noisy = after.with_vertices(after.vertices + 1e-5 * rng.standard_normal(after.vertices.shape))
    for found in (
        edge_lowered(moved[0], moved[1], axes(turn)), edge_lowered(shuffled, before, axes()),
        edge_lowered(noisy, before, axes()),
    ):  # fmt: skip
        assert found is not None
        assert (found.mm, found.least_mm, found.most_mm) == pytest.approx(
            (told.mm, told.least_mm, told.most_mm), abs=0.002
        )
    finer = edge_lowered(roof(np.array([-0.1, 7.2]), -0.3, 0.05), roof(np.array([0.0, 9.0]), 0.0, 0.05), axes())
    assert finer is not None
    assert finer.mm == pytest.approx(told.mm, abs=0.02)


def test_a_scan_that_does_not_show_the_old_edge_tells_nothing() -> None:
    """Of the earlier tooth only a corner is there."""
    before, after = roof(np.array([0.0, 9.0]), 0.0), roof(np.array([0.0, 7.0]), 0.0)
    corner, _ = before.keep_vertices(before.vertices[:, 0] > 2.0)
    assert edge_lowered(after, corner, axes()) is None
