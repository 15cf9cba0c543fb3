"""How deep the cut is round about: at the greatest contour of each side, in its middle."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.measure.convergence import robust_at
from vane_line.core.measure.retention import SIDES
from vane_line.core.mesh.surface import Surface
from vane_line.core.rings import degrees_past
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import xyz

EVERY_DEG, NEAR_DEG = 3, 15.0
EDGE_DEG = 10  # over which the height of the top's edge is told
TOP_MM = 0.8  # below the preparation's highest place, of all of it and there: higher up the depth is the top's
CONTOUR_SHARE = 0.62  # of the preparation's height: a primary tooth is widest no higher
UNSEEN_SHARE = 0.2  # of a side's middle at the greatest depth and over it, from which on it is not told
ABOUT_MM = 0.3  # below the place of the greatest depth, which the unseen may reach up to: the gingiva's seam
OUTER_SHARE = 0.65  # of the greatest radius, from which on a surface is a wall's
STEEP = 0.8  # least sine of the surface's slope to level: flatter is the top


@dataclass(frozen=True)
class SideDepth:
    """Of one side's middle: the greatest depth along the path's half-planes, mm, and where it is."""

    side: str
    depth_mm: float
    at: tuple[float, float, float]


def side_depths(inside: Surface, smooth: Floats, unseen: Bools, axes: Axes) -> dict[str, SideDepth]:
    """smooth: (N,) depth under the earlier surface free of noise. Sides that it never saw enough of are left out."""
    azimuth, radius, height = axes.cylinder(inside.vertices)
    steep = np.abs(inside.vertex_normals @ axes.up) < np.sqrt(1 - STEEP**2)
    low, high = np.quantile(height, [0.005, 0.995])
    top = np.minimum(high, _edge(azimuth, radius, height))
    wall = steep & (height < np.minimum(top - TOP_MM, low + CONTOUR_SHARE * (high - low)))
    found = {}
    for side, middle in SIDES.items():
        off = degrees_past(azimuth, middle)
        here = wall & (np.abs(off) <= NEAR_DEG + EVERY_DEG)
        seen = np.flatnonzero(here & ~unseen)
        if len(seen) == 0 or _hidden(inside.vertex_areas, height, here, unseen, smooth):
            continue
        # On a slender tooth a few degrees hold no triangle.
        reach = max(EVERY_DEG / 2, np.degrees(inside.usual_edge_mm / float(np.median(radius[seen]))))
        turns = np.arange(-NEAR_DEG, NEAR_DEG + 1e-9, EVERY_DEG)
        deepest, at = np.full(len(turns), np.nan), np.full(len(turns), -1)
        for k, turn in enumerate(turns):
            bin_ = seen[np.abs(off[seen] - turn) <= reach]
            if len(bin_):
                at[k] = bin_[int(np.argmax(smooth[bin_]))]
                deepest[k] = smooth[at[k]]
        value = robust_at(middle + turns, deepest, middle)
        if not np.isfinite(value):
            continue
        place = int(at[int(np.nanargmin(np.abs(deepest - value)))])
        found[side] = SideDepth(side, float(value), xyz(inside.vertices[place]))
    return found


def _edge(azimuth: Floats, radius: Floats, height: Floats) -> Floats:
    """(N,) height of the top's edge at each place's azimuth: where a groove runs out over it, it lies further down. Of
    a place that stands further in than the walls, below all walls."""
    row = (azimuth // EDGE_DEG).astype(int)
    widest, edge = (np.full(int(360 / EDGE_DEG) + 1, -np.inf) for _ in range(2))
    np.maximum.at(widest, row, radius)
    outer = radius > OUTER_SHARE * widest[row]
    np.maximum.at(edge, row[outer], height[outer])
    return np.where(outer, edge[row], -np.inf)


def _hidden(area: Floats, height: Floats, here: Bools, unseen: Bools, smooth: Floats) -> bool:
    """Whether a greater depth than what is seen may lie where the earlier scan saw nothing, as in a closed contact."""
    deepest = height[here & ~unseen][int(np.argmax(smooth[here & ~unseen]))]
    about = here & (height > deepest - ABOUT_MM)
    return bool(area[about & unseen].sum() > UNSEEN_SHARE * area[about].sum())
