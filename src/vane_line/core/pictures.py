"""Pictures of heights, as seen along a direction: which stand highest, square by square."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import maximum_filter1d

from vane_line.core.arrays import Floats
from vane_line.core.vectors import within


def highest_in_cells(points: Floats, low: Floats, size_mm: float, shape: tuple[int, int]) -> Floats:
    """(I, J) greatest third coordinate of `points` (N, 3) in each square of plan from the corner `low` (2,) on, -inf
    where there is none; what lies outside does not count."""
    cell = np.floor((points[:, :2] - low) / size_mm).astype(np.int64)
    ok = within(cell, (-1, -1), shape)
    picture = np.full(shape[0] * shape[1], -np.inf)
    np.maximum.at(picture, cell[ok, 0] * shape[1] + cell[ok, 1], points[ok, 2])  # along one axis it is far quicker
    return picture.reshape(shape)


def highest_within(picture: Floats, reach: int) -> Floats:
    """(I, J) the greatest value of a disc of `reach` cells about each: run by run, far quicker than cell by cell."""
    out, columns = np.full(picture.shape, -np.inf), picture.shape[1]
    for aside in range(min(reach, columns - 1) + 1):
        run = maximum_filter1d(picture, 2 * int(np.sqrt(reach**2 - aside**2)) + 1, axis=0)
        for to, run_from in ((out[:, aside:], run[:, : columns - aside]), (out[:, : columns - aside], run[:, aside:])):
            np.maximum(to, run_from, out=to)
    return out
