"""Which steep run is the wall: courses of feet round a tooth, whose answer is known."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from vane_line.core.arrays import Floats
from vane_line.core.trace.course import one_course

ROWS = 60
BEHIND = range(24, 40)


def ring(behind: list[float]) -> list[Floats]:
    """A line near nought that rises by 1.6 over two papillae, root under its ledge; `behind`: the feet there."""
    azimuth = np.arange(ROWS) * 360 / ROWS
    level = 0.8 - 0.8 * np.cos(2 * np.radians(azimuth))
    feet = [np.array([h, h - 1.3]) if k % 3 else np.array([h]) for k, h in enumerate(level)]
    return [np.array(behind) if k in BEHIND else f for k, f in enumerate(feet)]


@given(st.integers(0, ROWS - 1), st.booleans())
def test_behind_a_hollow_the_lower_run_is_the_wall(turn: int, mirrored: bool) -> None:
    """Wherever the first profile is and whichever way round it goes: an upper run ends 5.5 over the line behind."""
    feet = ring([5.5, 0.3, -1.4])
    told = np.array([int(k in BEHIND) for k in range(ROWS)])
    order = (np.arange(ROWS) + turn) % ROWS
    order = order[::-1] if mirrored else order
    np.testing.assert_array_equal(one_course([feet[k] for k in order]), told[order])


def test_where_the_lower_wall_is_too_low_to_be_a_run_there_is_none() -> None:
    told = one_course(ring([5.5]))
    assert (told[list(BEHIND)] == -1).all()
    assert (np.delete(told, list(BEHIND)) == 0).all()


@pytest.mark.parametrize("rise", [-1.2, 0.6, 1.2, 1.9])
def test_a_step_in_the_line_over_steep_root_is_no_hollow(rise: float) -> None:
    """A ledge that stands so much higher, or lower, over a third of the way: its root below is not taken for a wall."""
    assert (one_course(ring([rise + 0.4, -0.9])) == 0).all()


@pytest.mark.parametrize("feet", [[], [np.zeros(0)] * 12, [np.array([0.3])], [np.array([0.3]), np.zeros(0)] * 6])
def test_rows_without_a_run_have_no_wall_and_lone_runs_are_the_wall(feet: list[Floats]) -> None:
    np.testing.assert_array_equal(one_course(feet), [0 if len(f) else -1 for f in feet])
