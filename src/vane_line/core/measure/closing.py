"""Whether the bite was recorded where the teeth close deepest: cusps in their fossae hold the jaw there.

Both rows are taken as reliefs seen along the occlusal direction. Over every small shift across it the opposing row is
let down until a patch of it touches; in maximum intercuspation it comes down furthest where it was recorded. Worn flat
teeth hold nowhere: then nothing is said.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.pictures import highest_in_cells

CELL_MM = 0.2
REACH_MM = 0.8  # further a bite is not recorded off by a slip: then the note on gaps says it
TOUCH_MM2 = 0.2
LEAST_CELLS = 400  # of both rows over each other: 16 mm²
DEEPER_MM, SHIFT_MM = 0.20, 0.30  # by so much deeper, and so far aside, before a shift is told
TOLD_MM = 0.1


@dataclass(frozen=True, eq=False)
class Closing:
    """Where the teeth close deepest: the shift (3,) mm of the opposing teeth from where they were recorded, and by how
    much deeper they come there."""

    shift: Floats
    deeper_mm: float

    @property
    def shifted(self) -> bool:
        """Whether the record is told to be off."""
        return self.deeper_mm > DEEPER_MM and float(np.linalg.norm(self.shift)) > SHIFT_MM

    def said(self, mesial: Floats, facial: Floats) -> str:
        """In words, by the tooth's directions (3,)."""
        ways = []
        for direction, onward, back in ((mesial, "mesially", "distally"), (facial, "facially", "lingually")):
            mm = float(self.shift @ direction)
            if abs(mm) >= TOLD_MM:
                ways.append(f"{abs(mm):.1f} mm {onward if mm > 0 else back}")
        return (
            f"With the opposing teeth {' and '.join(ways)} of where they were recorded, the other teeth would close "
            f"{self.deeper_mm:.2f} mm deeper: the bite may be recorded shifted."
        )


def deepest_closing(teeth: Surface, mask: Bools, opposing: Surface, up: Floats) -> Closing | None:
    """Of what of `teeth` is in `mask` (V,) and `opposing`; up: (3,) occlusal. None where too little meets."""
    side = teeth.across(up)
    other = np.cross(up, side)
    own = np.stack([teeth.vertices[mask] @ v for v in (side, other, up)], axis=1)
    theirs = np.stack([opposing.vertices @ v for v in (side, other, up)], axis=1)
    facing = opposing.vertex_normals @ up < 0
    theirs = theirs[facing]
    if len(own) == 0 or len(theirs) == 0:
        return None
    low = np.maximum(own[:, :2].min(axis=0), theirs[:, :2].min(axis=0)) - REACH_MM
    high = np.minimum(own[:, :2].max(axis=0), theirs[:, :2].max(axis=0)) + REACH_MM
    rows, columns = (int(n) for n in np.ceil((high - low) / CELL_MM))
    steps = round(REACH_MM / CELL_MM)
    if min(rows, columns) <= 2 * steps:
        return None
    tops = highest_in_cells(own, low, CELL_MM, (rows, columns))
    bottoms = -highest_in_cells(theirs * [1, 1, -1], low, CELL_MM, (rows, columns))
    number = round(TOUCH_MM2 / CELL_MM**2)
    room = np.full((2 * steps + 1, 2 * steps + 1), np.nan)
    inner = tops[steps:-steps, steps:-steps]
    for i in range(-steps, steps + 1):
        for j in range(-steps, steps + 1):
            # The opposing row shifted by (i, j) cells stands over the inner part of ours.
            part = bottoms[steps - i : bottoms.shape[0] - steps - i, steps - j : bottoms.shape[1] - steps - j]
            gap = (part - inner)[np.isfinite(part) & np.isfinite(inner)]
            if len(gap) >= LEAST_CELLS:
                room[i + steps, j + steps] = np.partition(gap, number)[number]
    here = room[steps, steps]
    if not np.isfinite(here):
        return None
    offs = CELL_MM * np.arange(-steps, steps + 1)
    away = np.hypot(*np.meshgrid(offs, offs, indexing="ij"))
    allowed = np.isfinite(room) & (away <= REACH_MM + 1e-9)
    # The deepest of all, and of what is nearly as deep the nearest to the record.
    deepest = float(room[allowed].max())
    near = allowed & (room >= deepest - 0.02)
    k = int(np.argmin(np.where(near, away, np.inf)))
    i, j = divmod(k, room.shape[1])
    return Closing(offs[i] * side + offs[j] * other, deepest - float(here))
