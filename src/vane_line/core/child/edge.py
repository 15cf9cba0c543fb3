"""How far a front tooth's edge was taken down: along the path.

A primary incisor is thin. Square to its surface the edge of the preparation lies nearer to face and back than to the
old edge, however much was taken off that, so the least distance tells what was cut there, not off the edge.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import xyz

TOP_MM = 0.6  # below the preparation's highest place: what of it is edge
MIDDLE = (0.25, 0.75)  # of the edge from side to side: its corners are rounded
STEP_MM, LEAST = 0.25, 3  # along the edge, within which its height is told; and so many heights


@dataclass(frozen=True)
class Lowered:
    """mm along the path, of the middle of the edge; at: the place on the preparation."""

    mm: float
    at: tuple[float, float, float]


def edge_lowered(inside: Surface, earlier: Surface, axes: Axes) -> Lowered | None:
    """None where the earlier tooth (or what the crown shall reach to) is not seen over the edge."""
    now, before = axes.local(inside.vertices), axes.local(earlier.vertices)
    top = now[now[:, 2] > np.quantile(now[:, 2], 0.999) - TOP_MM]
    low, high = np.quantile(top[:, 0], MIDDLE)
    places, fell = [], []
    for at in np.arange(low, high + 1e-9, STEP_MM):
        heights = _crest(now, at), _crest(before, at)
        if heights[0] is not None and heights[1] is not None:
            places.append([at, *heights[0]])
            fell.append(heights[1][1] - heights[0][1])
    if len(fell) < LEAST:
        return None
    value = float(np.median(fell))
    nearest = places[int(np.argmin(np.abs(np.array(fell) - value)))]
    return Lowered(value, xyz(axes.world(np.array([nearest]))[0]))


def _crest(local: Floats, x: float) -> Floats | None:
    """(2,) facial coordinate and height of the highest place about x."""
    near = local[np.abs(local[:, 0] - x) < STEP_MM / 2]
    return None if len(near) == 0 else np.asarray(near[np.argmax(near[:, 2]), 1:])
