"""A prefabricated crown as a body: its outside, its rim and its inside, in closed form from the set's data.

Own coordinates: the middle of the rim; mesiodistal width along x, faciolingual along y, height along z.
"""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.child.sizes import Size
from vane_line.core.mesh.surface import Surface

AROUND, LEVELS, ROUNDED = 120, 24, 6  # places round the outline, levels of a wall, and over the edge of the top


def crown_body(size: Size) -> Surface:
    """The closed body of one size: walls of the set's thickness, a flat top as thick as the set's, a rounded edge."""
    walls = np.linspace(0.0, size.inner_height_mm, LEVELS)
    drawn = size.drawn_in(walls)
    over = np.linspace(0.0, np.pi / 2, ROUNDED)[1:]
    top = size.set.top_mm
    # (P, 2): by how much each ring is narrower than the greatest contour on each side, and its height; from the
    # middle of the top outside down to the rim, and up again inside.
    cap = np.stack([drawn[-1] + top * (1 - np.cos(over)), walls[-1] + top * np.sin(over)], axis=1)[::-1]
    outside = np.stack([drawn, walls], axis=1)[::-1]
    inside = np.stack([drawn + size.set.wall_mm, walls], axis=1)
    profile = np.concatenate([cap, outside, inside])
    half = np.array([size.mesiodistal_mm, size.faciolingual_mm]) / 2
    rings = np.maximum(half - profile[:, :1], 0.1)[:, None, :] * _outline(size.set.roundness)[None]
    height = np.broadcast_to(profile[:, 1, None, None], (*rings.shape[:2], 1))
    points = np.concatenate([rings, height], axis=2).reshape(-1, 3)
    ends = np.array([[0.0, 0.0, size.height_mm], [0.0, 0.0, size.inner_height_mm]])
    return Surface(np.concatenate([points, ends]), _faces(len(profile)))


def _outline(roundness: float) -> Floats:
    """(AROUND, 2) of a superellipse whose half widths are one, against the clock as seen from above."""
    turn = np.arange(AROUND) / AROUND * 2 * np.pi
    both = np.stack([np.cos(turn), np.sin(turn)], axis=1)
    return np.asarray(np.sign(both) * np.abs(both) ** (2 / roundness))


def _faces(rings: int) -> np.ndarray:
    """(F, 3) strips between following rings, and a fan at each end, all looking outward."""
    k = np.arange(AROUND)
    after = (k + 1) % AROUND
    first = (np.arange(rings - 1) * AROUND)[:, None]
    high, high_next, low, low_next = first + k, first + after, first + AROUND + k, first + AROUND + after
    strips = np.concatenate([np.stack(f, axis=-1) for f in ((high, low, low_next), (high, low_next, high_next))])
    outer, inner, last = rings * AROUND, rings * AROUND + 1, (rings - 1) * AROUND
    fans = [np.stack([np.full(AROUND, outer), k, after], axis=1),
            np.stack([np.full(AROUND, inner), last + after, last + k], axis=1)]  # fmt: skip
    return np.concatenate([strips.reshape(-1, 3), *fans]).astype(np.int64)
