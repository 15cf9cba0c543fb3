"""Where a groove's lips stand, and which of what lies beside it is the wall."""

from __future__ import annotations

import numpy as np
import pytest

from vane_line.core.arrays import Floats
from vane_line.core.channels.lips import sides_of, walls_of

DEEP_MM, HALF_MM = 0.8, 0.5


def outline(corner_mm: float, flare: float, reach_mm: float) -> tuple[Floats, Floats]:
    """Of a wall with a round groove, from 2.5 on one side of it to where, behind a corner of the wall, it flares out by
    so much for each mm, as far as `reach_mm`."""
    x = np.arange(-2.5, reach_mm, 0.05)
    bore = np.where(np.abs(x) < HALF_MM, -DEEP_MM * np.sqrt(np.clip(1 - (x / HALF_MM) ** 2, 0, 1)), 0.0)
    return x, 3.0 + bore + flare * np.maximum(x - HALF_MM - corner_mm, 0)


@pytest.mark.parametrize("mirrored", [False, True])
@pytest.mark.parametrize("seen", [True, False])
def test_beside_a_flare_the_lip_is_the_groove_s_own(mirrored: bool, seen: bool) -> None:
    """Whether the standing face that it goes out to is in reach or hidden: the lip lay at the bottom, no groove."""
    x, out = outline(0.4, 3.0, 1.6)
    x = -x if mirrored else x
    standing = (np.abs(x) > 1.4) & (out > 3.5) if seen else np.zeros(len(x), dtype=bool)
    both = sides_of(x, out, standing, 0.0)
    assert [side.lip for side in both] == pytest.approx([HALF_MM] * 2, abs=0.11)
    (wall,) = walls_of(both)
    assert wall.sign == (1.0 if mirrored else -1.0)
    assert wall.rise == pytest.approx(0.0, abs=0.02)


@pytest.mark.parametrize("rise", [-0.4, 0.0, 0.4])
def test_in_a_plain_wall_both_sides_are_the_wall(rise: float) -> None:
    """However it stands to the way out."""
    x, out = outline(9.0, 0.0, 2.5)
    both = sides_of(x, out + rise * x, np.zeros(len(x), dtype=bool), 0.0)
    assert walls_of(both) == both
    assert [side.lip for side in both] == pytest.approx([HALF_MM] * 2, abs=0.06)
    assert [side.sign * side.rise for side in both] == pytest.approx([rise] * 2, abs=0.02)
