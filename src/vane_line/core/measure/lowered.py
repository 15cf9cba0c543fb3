"""How far a front tooth's edge was taken down: along the path.

A front tooth is thin at its edge. Square to its surface the edge of a preparation lies nearer to face and back than to
the old edge, however much was taken off that, so the least distance tells what was cut there, not off the edge. Depth
cuts, by which the trade takes an edge down, are measured from the edge downward (common practice, no source).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.spread import middling
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import xyz

TOP_MM = 0.6  # below the earlier tooth's highest place: what of it is edge
MIDDLE = (1 / 3, 2 / 3)  # of the edge from side to side: corners are rounded, and the new edge is the narrower one
STEP_MM, LEAST = 0.25, 3  # along the edge, within which its height is told; and so many heights
STRETCH = 3  # steps of the edge that are told together where least and most are asked for


@dataclass(frozen=True)
class Lowered:
    """mm along the path, of the middle of the edge; at: the place on the preparation; uneven_mm: by how much half of
    its places lie off that: a new edge cut to a point is hardly anywhere as high as its tip. least_mm, most_mm: of any
    stretch of it, with their places."""

    mm: float
    uneven_mm: float
    at: tuple[float, float, float]
    least_mm: float
    least_at: tuple[float, float, float]
    most_mm: float
    most_at: tuple[float, float, float]


def edge_lowered(inside: Surface, earlier: Surface, axes: Axes) -> Lowered | None:
    """None where the earlier tooth (or what the crown shall reach to) is not seen over the edge."""
    now, before = axes.local(inside.vertices), axes.local(earlier.vertices)
    top = before[before[:, 2] > np.quantile(before[:, 2], 0.999) - TOP_MM]  # the new one may be cut askew
    low, high = np.quantile(top[:, 0], MIDDLE)
    places, fell = [], []
    for at in np.arange(low, high + 1e-9, STEP_MM):
        heights = _crest(now, at), _crest(before, at)
        if heights[0] is not None and heights[1] is not None:
            places.append([at, *heights[0]])
            fell.append(heights[1][1] - heights[0][1])
    if len(fell) < LEAST:
        return None
    found = axes.world(np.array(places))
    mm = np.array(fell)
    value = middling(mm)
    stretches = np.convolve(mm, np.full(STRETCH, 1 / STRETCH), "valid")
    least, most = int(np.argmin(stretches)), int(np.argmax(stretches))
    uneven = float(np.subtract(*np.quantile(mm, [0.75, 0.25]))) / 2
    return Lowered(
        value, uneven, xyz(found[int(np.argmin(np.abs(mm - value)))]),
        float(stretches[least]), xyz(found[least + STRETCH // 2]),
        float(stretches[most]), xyz(found[most + STRETCH // 2]),
    )  # fmt: skip


def _crest(local: Floats, x: float) -> Floats | None:
    """(2,) facial coordinate and height of the highest place about x."""
    near = local[np.abs(local[:, 0] - x) < STEP_MM / 2]
    return None if len(near) == 0 else np.asarray(near[np.argmax(near[:, 2]), 1:])
