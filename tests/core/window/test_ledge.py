"""The width of a window's ledge from depths inward of its line, on rows whose answer is known."""

from __future__ import annotations

import numpy as np
import pytest

from vane_line.core.window.ledge import REACH_MM, STEP_MM, _foot, _level

AT = (np.arange(round(REACH_MM / STEP_MM)) + 0.5) * STEP_MM


@pytest.mark.parametrize("width", [0.2, 0.35, 0.6])
def test_the_ledge_ends_where_the_depth_stops_rising(width: float) -> None:
    """A chamfer that rises at 45 degrees to a face that runs along the old one, or leans from it by 5 degrees."""
    assert _foot(np.minimum(AT, width)) == pytest.approx(width, abs=0.02)
    leaning = np.minimum(AT, width) + np.tan(np.radians(5)) * np.clip(AT - width, 0, None)
    assert _foot(leaning) == pytest.approx(width, abs=0.04)


def test_a_pause_near_the_line_is_no_ledge() -> None:
    """The line lies a little off the cut, where a scan's rounding shows some depth already; then it rises on and on, as
    over a butt: no ledge ends there."""
    rises = 0.06 + np.clip(AT - 0.25, 0, None) * 0.7
    rises[0] = 0.09
    assert np.isnan(_foot(rises))


def test_a_ledge_behind_a_pause_is_as_wide_as_it_is() -> None:
    row = np.clip(AT - 0.2, 0.0, 0.45) + 0.03
    row[0] = 0.06
    assert _foot(row) == pytest.approx(0.48, abs=0.03)


@pytest.mark.parametrize("count", [12, 40, 400])
def test_few_vertices_in_a_step_tell_the_depth_there_and_not_beside_it(count: int) -> None:
    """On a slope the depth between unevenly spread vertices is the slope's; a mean leans to where most of them lie."""
    random = np.random.default_rng(count)
    across = np.sort(random.uniform(0, 1.2, count))
    wide = 0.25 if count < 100 else 0.1
    depth, say = _level(across - AT[:10, None], 0.02 + 0.8 * across, np.ones(count), wide)
    told = (say > 0.3) & (AT[:10] > across[0]) & (AT[:10] < across[-1])
    assert told.sum() >= 5
    np.testing.assert_allclose(depth[told], 0.02 + 0.8 * AT[:10][told], atol=0.025)


def test_vertices_in_one_place_tell_their_depth() -> None:
    """No slope is made out of what lies side by side."""
    depth, say = _level(np.full((1, 3), 0.04), np.array([0.30, 0.31, 0.32]), np.ones(3), 0.1)
    assert depth[0] == pytest.approx(0.31, abs=1e-9)
    assert say[0] == pytest.approx(3 * 0.6)
    assert np.isnan(_level(np.full((1, 3), 0.5), np.ones(3), np.ones(3), 0.1)[0][0])
