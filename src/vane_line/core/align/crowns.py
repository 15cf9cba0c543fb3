"""Which points of a scan are tooth rather than gingiva, by how high they stand."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.pictures import highest_in_cells, highest_within
from vane_line.core.vectors import within

CROWN_BELOW_TOP_MM = 4.5  # from the highest point within reach: hard tissue on any erupted tooth (common practice)
MILK_BELOW_TOP_MM = 3.0  # of a child's row: primary crowns are short
CROWN_REACH_MM = 6.0
CELL_MM = 0.8


@dataclass(frozen=True, eq=False)
class Crowns:
    """Height of the highest surface within CROWN_REACH_MM, as a picture seen along `up` (3,)."""

    up: Floats
    side: Floats
    other: Floats
    low: Floats  # (2,) plan place of the picture's corner
    top: Floats  # (I, J) mm
    below_mm: float = CROWN_BELOW_TOP_MM  # the highest point within reach: all down to there is hard tissue

    @classmethod
    def of(cls, surface: Surface, up: Floats) -> Crowns:
        """From a surface and its occlusal direction."""
        side = surface.across(up)
        other = np.cross(up, side)
        seen = np.stack([surface.vertices @ d for d in (side, other, up)], axis=1)
        low, high = seen[:, :2].min(axis=0), seen[:, :2].max(axis=0)
        rows, columns = (int(n) for n in np.floor((high - low) / CELL_MM) + 1)
        picture = highest_in_cells(seen, low, CELL_MM, (rows, columns))
        return cls(up, side, other, low, highest_within(picture, int(CROWN_REACH_MM / CELL_MM)))

    def hold(self, points: Floats) -> Bools:
        """(N,) whether each of `points` (N, 3) belongs to a crown."""
        plan = np.stack([points @ self.side, points @ self.other], axis=1)
        cell = np.floor((plan - self.low) / CELL_MM).astype(np.int64)
        known = within(cell, (-1, -1), self.top.shape)
        cell = np.clip(cell, 0, np.array(self.top.shape) - 1)
        top = self.top[cell[:, 0], cell[:, 1]]
        return np.asarray(known & (points @ self.up > top - self.below_mm))
